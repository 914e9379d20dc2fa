import { type KeepOptions, keepRegions, keptJoints, type Region } from '../body/regions';
import type { BodyMap } from '../bodymap/slots';
import { splitEase } from '../motion/curve';
import { trim } from '../motion/timing';
import { flatSkeleton } from '../rig/flat';
import type { CutoutRig } from '../rig/rig';
import {
  type CutoutKey,
  type CutoutKeys,
  evaluateKeys,
  type KeyTrack,
  keyedAt,
  type StepKeys,
  stepKeysOf,
} from './keys';

/** What is taken out of keyed animation. */
export interface KeysKept extends Pick<KeepOptions, 'what'> {
  /** Frames, both ends included; all where left out. */
  readonly span?: { readonly start: number; readonly end: number } | null | undefined;
  readonly regions: readonly Region[];
  readonly joints: readonly string[];
}

/**
 * A part of keyed animation, as keys: a range of frames, regions and single joints (see keepRegions), and what they do or show.
 * Where a range begins or ends within an eased stretch the stretch is split, so that it runs as before.
 * @throws MotionError as evaluateKeys, trim and keepRegions do
 */
export function keepKeys(
  rig: CutoutRig,
  map: BodyMap,
  keys: CutoutKeys,
  { span, regions, joints, what = 'all' }: KeysKept,
): CutoutKeys {
  const { start, end } = span ?? { start: 0, end: keys.frameCount - 1 };
  const flat = flatSkeleton(rig);
  const part = trim(flat, evaluateKeys(rig, keys), start, end);
  const kept = keepRegions(flat, map, part, regions, joints, { cutout: rig, what });
  const keep = keptJoints(flat, map, regions, joints);
  const tracks = keys.tracks
    .filter((t) => what !== 'drawings' && keep[rig.names.indexOf(t.joint)])
    .map((t): KeyTrack => ({ ...t, keys: cut(t, start, end) }));
  const named = new Map(keys.steps.map((s) => [s.name, s]));
  const steps = stepKeysOf(kept).flatMap(({ name }): StepKeys[] => {
    const own = named.get(name);
    return own ? [{ name, keys: cutSteps(own, start, end) }] : [];
  });
  const plants = keys.plants
    ?.map((p) => ({ ...p, start: Math.max(0, p.start - start), end: Math.min(end, p.end) - start }))
    .filter((p) => p.end >= p.start);
  return { fps: keys.fps, frameCount: end - start + 1, tracks, steps, ...(plants ? { plants } : {}) };
}

/** Keys of a range, counted from its beginning, with one at either end wherever an eased stretch goes beyond it. */
function cut(track: KeyTrack, start: number, end: number): CutoutKey[] {
  const out: CutoutKey[] = [];
  const { keys } = track;
  const across = (frame: number): number => keys.findLastIndex((k) => k.frame < frame);
  const put = (frame: number, ease: CutoutKey['ease']): void => {
    out.push({ frame: frame - start, value: keyedAt(track, frame)!, ease });
  };
  if (keys.length === 0) return out;
  if (!keys.some((k) => k.frame === start)) {
    const i = across(start);
    const [from, to] = [keys[i], keys[i + 1]];
    const { after } =
      from && to ? splitEase(from.ease ?? 'smooth', (start - from.frame) / (to.frame - from.frame)) : HELD;
    // before its first key a track has that one's value by itself
    if (from || !keys.some((k) => k.frame <= end)) put(start, after);
  }
  for (const k of keys) if (k.frame >= start && k.frame <= end) out.push({ ...k, frame: k.frame - start });
  const last = across(end + 1e-9);
  const [from, to] = [keys[last], keys[last + 1]];
  if (from && to && from.frame < end && start < end) {
    const begun = Math.max(start, from.frame);
    const tail = out.at(-1)!;
    const ease = tail.ease ?? 'smooth';
    out[out.length - 1] = { ...tail, ease: splitEase(ease, (end - begun) / (to.frame - begun)).before };
    put(end, ease);
  }
  return out;
}

/** Before the first key and after the last one a value holds. */
const HELD = { after: 'step' } as const;

function cutSteps({ keys }: StepKeys, start: number, end: number): StepKeys['keys'] {
  const first = keys.findLast((k) => k.frame <= start) ?? keys[0];
  const inside = keys.filter((k) => k.frame > start && k.frame <= end);
  return [
    ...(first ? [{ frame: 0, label: first.label }] : []),
    ...inside.map((k) => ({ ...k, frame: k.frame - start })),
  ];
}
