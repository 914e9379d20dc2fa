import type { StepTrack } from '../motion/tracks';
import type { CutoutPart, CutoutRig } from '../rig/rig';

/** Which drawing a part shows from a frame on. */
export interface ExposureKey {
  readonly frame: number;
  readonly label: string;
}

/** The drawings that a part shows over time. */
export interface Exposure {
  readonly part: string;
  /** In rising order of frames. */
  readonly keys: readonly ExposureKey[];
}

/** The label that shows in a frame: before the first key what shows at rest. */
export function exposedAt({ keys }: Pick<Exposure, 'keys'>, part: CutoutPart, frame: number): string {
  return keys.findLast((k) => k.frame <= frame)?.label ?? part.drawings[0]!;
}

/** An exposure as a track of steps, exact. Labels that the part does not have show what it shows at rest. */
export function exposureTrack({ part: name, keys }: Exposure, rig: CutoutRig, frames: number): StepTrack | undefined {
  const part = rig.parts.find((p) => p.name === name);
  if (!part || keys.length === 0) return undefined;
  const values = new Uint16Array(frames);
  for (let f = 0; f < frames; f++) values[f] = Math.max(0, part.drawings.indexOf(exposedAt({ keys }, part, f)));
  return { name, labels: part.drawings, values };
}

/** Steps with some of them replaced by exposures; nothing else is touched. */
export function withExposures(
  steps: readonly StepTrack[],
  exposures: readonly Exposure[],
  rig: CutoutRig,
  frames: number,
): StepTrack[] {
  const made = exposures.flatMap((e) => exposureTrack(e, rig, frames) ?? []);
  const names = new Set(made.map((t) => t.name));
  return [...steps.filter((s) => !names.has(s.name)), ...made];
}

/** Keys with one set: the drawing shows from there to the next key. A key that repeats what shows already goes. */
export function withExposure(keys: readonly ExposureKey[], frame: number, label: string): ExposureKey[] {
  const next = [...keys.filter((k) => k.frame !== frame), { frame, label }].sort((a, b) => a.frame - b.frame);
  return next.filter((k, i) => i === 0 || k.label !== next[i - 1]!.label);
}

/** An exposure carried to another part, drawing by drawing with the same label. */
export interface CopiedExposure {
  readonly keys: readonly ExposureKey[];
  /** Labels that the other part does not have: where they would show, what showed before goes on. */
  readonly missing: readonly string[];
}

/** The same exposure on another part, by label: that part shows its own drawings. */
export function copyExposure(keys: readonly ExposureKey[], to: CutoutPart): CopiedExposure {
  const missing = [...new Set(keys.map((k) => k.label))].filter((l) => !to.drawings.includes(l));
  const kept = keys.filter((k) => !missing.includes(k.label));
  return { keys: kept.filter((k, i) => i === 0 || k.label !== kept[i - 1]!.label), missing };
}
