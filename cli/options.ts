import { UsageError } from './usage';

/** Every option that some command takes. */
export interface Options {
  json?: boolean;
  fps?: string;
  to?: string;
  out?: string;
  map?: string;
  report?: string;
  travel?: string;
  'no-plants'?: boolean;
  'no-mesh'?: boolean;
}

/** A frame rate from the command line. */
export function readFps(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const fps = Number(text);
  if (!(fps > 0) || fps > 1000) throw new UsageError('--fps takes a number above 0 and at most 1000');
  return fps;
}
