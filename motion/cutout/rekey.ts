import { easeAt } from '../motion/curve';
import { keyFrames } from '../motion/key-frames';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import type { CutoutRig } from '../rig/rig';
import { type CutoutKey, type CutoutKeys, type KeyTrack, keyedAt, stepKeysOf } from './keys';

/** What keys may be off by: radians, metres. */
const NEAR = { turn: 1e-3, place: 5e-4 } as const;

/**
 * Keys of a motion that was made of keys and then corrected. What was left alone keeps its keys; where a stretch runs as before
 * from another beginning to another end its easing stays; elsewhere keys are set as close as the motion asks for.
 */
export function rekeyed(rig: CutoutRig, keys: CutoutKeys, motion: Motion): CutoutKeys {
  const tracks = keys.tracks.filter((t) => t.channel === 'scale' || t.channel === 'length');
  for (const joint of rig.names.keys())
    for (const channel of ['turn', 'place'] as const) {
      const own = keys.tracks.find((t) => t.joint === rig.names[joint] && t.channel === channel);
      if (!own && channel === 'place' && !motion.places.some((t) => t.joint === joint)) continue;
      const values = channel === 'turn' ? turnsOf(rig, motion, joint, own) : pointsOf(rig, motion, joint);
      const track = trackOf(own ?? { joint: rig.names[joint]!, channel, keys: [] }, values);
      if (track) tracks.push(track);
    }
  return { ...keys, tracks, steps: stepKeysOf(motion) };
}

function turnsOf(rig: CutoutRig, motion: Motion, joint: number, own: KeyTrack | undefined): number[][] {
  const n = rig.names.length;
  let last = 0;
  return Array.from({ length: motion.frameCount }, (_, f) => {
    const o = 4 * (f * n + joint);
    const turn = 2 * Math.atan2(motion.turns[o + 2]!, motion.turns[o + 3]!);
    const near = f === 0 ? ((own && keyedAt(own, 0)?.[0]) ?? 0) : last;
    last = turn + 2 * Math.PI * Math.round((near - turn) / (2 * Math.PI));
    return [last];
  });
}

function pointsOf(rig: CutoutRig, motion: Motion, joint: number): number[][] {
  const places = placesOf(rig, motion, joint);
  return Array.from({ length: motion.frameCount }, (_, f) => [places[3 * f]!, places[3 * f + 1]!]);
}

/** A track through the values, one for each frame; undefined where it would say nothing. */
function trackOf(own: KeyTrack, values: readonly number[][]): KeyTrack | undefined {
  const near = own.channel === 'turn' ? NEAR.turn : NEAR.place;
  const last = values.length - 1;
  const off = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((x, k) => x - b[k]!));
  const rest = own.channel === 'turn' ? [0] : values[0]!;
  if (values.every((v, f) => off(v, keyedAt(own, f) ?? rest) <= near)) return own.keys.length > 0 ? own : undefined;
  const at = (frame: number): readonly number[] => {
    const a = Math.max(0, Math.min(last, Math.floor(frame)));
    const t = Math.max(0, Math.min(1, frame - a));
    return values[a]!.map((x, k) => x + t * (values[Math.min(last, a + 1)]![k]! - x));
  };
  const inside = own.keys.filter((k) => k.frame >= 0 && k.frame <= last);
  // before the first key and after the last one a value holds
  const [first, end] = [inside[0]?.frame ?? last, inside.at(-1)?.frame ?? 0];
  const holds = (frame: number) => (v: readonly number[]) => off(v, at(frame)) <= near;
  const marks: CutoutKey[] = [
    ...(values.slice(0, Math.ceil(first)).every(holds(first))
      ? []
      : [{ frame: 0, value: [], ease: 'linear' as const }]),
    ...inside,
    ...(values.slice(Math.floor(end) + 1).every(holds(end)) ? [] : [{ frame: last, value: [] }]),
  ];
  const keys: CutoutKey[] = [];
  marks.forEach((mark, i) => {
    const next = marks[i + 1];
    const from = at(mark.frame);
    if (!next) return void keys.push({ ...mark, value: from });
    const to = at(next.frame);
    const ease = mark.ease ?? 'smooth';
    const says = (f: number, a: number, b: number, x: readonly number[], y: readonly number[], by: typeof ease) => {
      const share = easeAt(by, (f - a) / (b - a));
      return off(
        values[f]!,
        x.map((v, k) => v + share * (y[k]! - v)),
      );
    };
    const frames = [...values.keys()].filter((f) => f >= mark.frame && f < next.frame);
    if (frames.every((f) => says(f, mark.frame, next.frame, from, to, ease) <= near))
      return void keys.push({ ...mark, value: from });
    const steps = [mark.frame, ...frames.filter((f) => f > mark.frame), next.frame];
    const kept = keyFrames(steps.length, near, (a, b, f) =>
      says(steps[f]!, steps[a]!, steps[b]!, at(steps[a]!), at(steps[b]!), 'linear'),
    );
    for (const k of kept)
      if (k < steps.length - 1) keys.push({ frame: steps[k]!, value: at(steps[k]!), ease: 'linear' });
  });
  return { ...own, keys };
}
