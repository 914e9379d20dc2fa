/** What can be wrong with an input. Each code is stable: callers may branch on it. */
export type MotionErrorCode =
  | 'empty'
  | 'not-this-format'
  | 'truncated'
  | 'bad-number'
  | 'bad-structure'
  | 'wrong-count'
  | 'too-large'
  | 'no-joints'
  | 'no-mesh'
  | 'no-motion'
  | 'unsupported'
  | 'bad-argument'
  | 'unmappable';

/** Where in the input it went wrong. Lines and frames count from 1 and 0 respectively; bytes from 0. */
export interface MotionErrorPlace {
  file?: string;
  line?: number;
  byte?: number;
  joint?: string;
  frame?: number;
}

/** The only error the core throws on purpose: data first, then a sentence a person can act on. */
export class MotionError extends Error {
  override readonly name = 'MotionError';
  readonly code: MotionErrorCode;
  readonly place: MotionErrorPlace;

  constructor(code: MotionErrorCode, message: string, place: MotionErrorPlace = {}) {
    super(message);
    this.code = code;
    this.place = place;
  }

  /** The sentence with its place in front, on one line. */
  sentence(): string {
    const { file, line, byte, joint, frame } = this.place;
    const at = [
      line === undefined ? '' : `line ${line}`,
      byte === undefined ? '' : `byte ${byte}`,
      joint === undefined ? '' : `joint "${joint}"`,
      frame === undefined ? '' : `frame ${frame}`,
    ].filter(Boolean);
    const head = [file ?? '', at.join(', ')].filter(Boolean).join(', ');
    return (head ? `${head}: ${this.message}` : this.message).replace(/\s+/g, ' ');
  }
}
