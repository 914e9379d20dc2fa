import { type Motion, PoseReader } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';

export interface CsvOptions {
  /** World places of joints, metres. */
  readonly places?: boolean;
  /** World turns of joints, x y z w. */
  readonly turns?: boolean;
  /** Face shapes and other named numbers. */
  readonly numbers?: boolean;
}

export const CSV_DEFAULTS = { places: true, turns: true, numbers: true } as const satisfies Required<CsvOptions>;

/**
 * A motion as a table: one row a frame, first the frame and its time in seconds, then joint by joint its place (name.x …) and
 * turn (name.qx …) in the world (metres, Y up, facing +Z at rest), then named numbers. RFC 4180, CRLF.
 */
export function writeCsv(rig: SkeletonRig, motion: Motion, options: CsvOptions = {}): string {
  const places = options.places ?? CSV_DEFAULTS.places;
  const turns = options.turns ?? CSV_DEFAULTS.turns;
  const numbers = options.numbers ?? CSV_DEFAULTS.numbers;
  const head = ['frame', 'seconds'];
  for (const name of rig.names) {
    if (places) head.push(...['x', 'y', 'z'].map((k) => `${name}.${k}`));
    if (turns) head.push(...['qx', 'qy', 'qz', 'qw'].map((k) => `${name}.${k}`));
  }
  if (numbers) head.push(...motion.numbers.map((s) => s.name));
  const rows = [head.map(field).join(',')];
  const reader = new PoseReader(rig, motion);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    const row = [String(f), short(f / motion.fps)];
    for (let j = 0; j < rig.names.length; j++) {
      if (places) for (let k = 0; k < 3; k++) row.push(short(p[3 * j + k]!));
      if (turns) for (let k = 0; k < 4; k++) row.push(short(r[4 * j + k]!));
    }
    if (numbers) for (const s of motion.numbers) row.push(short(s.values[f]!));
    rows.push(row.join(','));
  }
  return `${rows.join('\r\n')}\r\n`;
}

const short = (x: number): string => String(Number(x.toFixed(6)));

/** Quoted where a separator, quote or line end asks for it; a leading = + - @ gets an apostrophe, so that no table program runs it. */
function field(text: string): string {
  const safe = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replace(/"/g, '""')}"` : safe;
}
