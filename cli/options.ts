import { UsageError } from './usage';

/** Every option that some command takes, and whether it is a switch or takes a value. */
export const FLAGS = {
  json: { type: 'boolean' },
  fps: { type: 'string' },
  to: { type: 'string' },
  out: { type: 'string' },
  map: { type: 'string' },
  report: { type: 'string' },
  marks: { type: 'string' },
  tie: { type: 'string' },
  'no-fingers': { type: 'boolean' },
  body: { type: 'string' },
  'keep-body': { type: 'string' },
  port: { type: 'string' },
  performers: { type: 'string' },
  jitter: { type: 'string' },
  loss: { type: 'string' },
  reorder: { type: 'string' },
  dropout: { type: 'string' },
  restart: { type: 'string' },
  seed: { type: 'string' },
  takes: { type: 'string' },
  key: { type: 'string' },
  data: { type: 'string' },
  credits: { type: 'string' },
  faults: { type: 'string' },
  slow: { type: 'string' },
  fitting: { type: 'string' },
  travel: { type: 'string' },
  hands: { type: 'string' },
  'no-clear': { type: 'boolean' },
  limits: { type: 'boolean' },
  rest: { type: 'string' },
  skeleton: { type: 'string' },
  choose: { type: 'string' },
  columns: { type: 'string' },
  'no-plants': { type: 'boolean' },
  'no-mesh': { type: 'boolean' },
  keys: { type: 'string' },
  tolerance: { type: 'string' },
  curves: { type: 'string' },
  // tuning
  energy: { type: 'string' },
  arms: { type: 'string' },
  stance: { type: 'string' },
  stride: { type: 'string' },
  lean: { type: 'string' },
  speed: { type: 'string' },
  trim: { type: 'string' },
  hold: { type: 'string' },
  place: { type: 'string' },
  smooth: { type: 'string' },
  steps: { type: 'string' },
  reverse: { type: 'boolean' },
  despike: { type: 'boolean' },
  'fill-gaps': { type: 'boolean' },
  'in-place': { type: 'boolean' },
  'root-joint': { type: 'boolean' },
  floor: { type: 'boolean' },
  // mirror, cycle, codec
  mode: { type: 'string' },
  plane: { type: 'string' },
  start: { type: 'string' },
  end: { type: 'string' },
  bound: { type: 'string' },
  rig: { type: 'string' },
  // join, layer, reel
  join: { type: 'string' },
  frames: { type: 'string' },
  meet: { type: 'string' },
  'a-to': { type: 'string' },
  'b-from': { type: 'string' },
  find: { type: 'boolean' },
  level: { type: 'boolean' },
  parts: { type: 'string' },
  at: { type: 'string' },
  onset: { type: 'string' },
  member: { type: 'string' },
  // cutout
  view: { type: 'string' },
  foreshorten: { type: 'string' },
  height: { type: 'string' },
  // library
  url: { type: 'string' },
  token: { type: 'string' },
  limit: { type: 'string' },
  format: { type: 'string' },
} as const satisfies Record<string, { type: 'boolean' | 'string' }>;

export type Options = {
  [K in keyof typeof FLAGS]?: (typeof FLAGS)[K]['type'] extends 'boolean' ? boolean : string;
};

/** A number from the command line within bounds. */
export function readNumber(text: string | undefined, name: string, low: number, high: number): number | undefined {
  if (text === undefined) return undefined;
  const x = Number(text);
  if (text.trim() === '' || !(x >= low && x <= high))
    throw new UsageError(`--${name} takes a number from ${low} to ${high}`);
  return x;
}

/** A frame rate from the command line. */
export function readFps(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const fps = Number(text);
  if (!(fps > 0) || fps > 1000) throw new UsageError('--fps takes a number above 0 and at most 1000');
  return fps;
}

export function readWhole(text: string | undefined, name: string): number | undefined {
  if (text === undefined) return undefined;
  if (!/^\d+$/.test(text)) throw new UsageError(`--${name} takes a whole number from 0`);
  return Number(text);
}

/** One of several words. */
export function readWord<T extends string>(
  text: string | undefined,
  name: string,
  words: readonly T[],
  fallback: T,
): T {
  if (text === undefined) return fallback;
  const word = words.find((w) => w === text);
  if (!word) throw new UsageError(`--${name} takes ${words.join(', ')}`);
  return word;
}
