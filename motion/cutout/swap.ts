import { findContacts, isSole, type Plant, type SoleTracks, sideOfPart } from '../analysis/plants';
import { SIDES } from '../bodymap/slots';
import { keyFrames } from '../motion/key-frames';
import type { Motion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import type { FlatParty } from './drive';
import type { FlatPlant } from './drive-legs';
import { type FlatBody, measureFlat, pointOn } from './flat';
import { type CutoutKey, type CutoutKeys, evaluateKeys, type KeyTrack, type Stand, type StepKeys } from './keys';
import { steadySecondFeet } from './second-feet';
import { pairJoints, type SwapPair, stepsOn, type Unpaired } from './swap-pairs';
import { type OffKey, placeKeys, restDifference, type SaidOfKey } from './swap-places';
import { type Unlike, unlikeIn } from './swap-unlike';

export interface SwapReport {
  readonly pairs: readonly SwapPair[];
  readonly unpaired: Unpaired;
  /** Keys that only closed gaps for the old figure: taken out, since the new one is put together anew. */
  readonly corrections: readonly OffKey[];
  /** Parts that were off their attachment on purpose: kept, in proportion. */
  readonly breaks: readonly OffKey[];
  /** Labels that the new figure's part does not have. */
  readonly missing: readonly { readonly part: string; readonly label: string }[];
  /** Which foot stands when; between them the root leads. */
  readonly plants: readonly FlatPlant[];
  readonly airborne: readonly { readonly start: number; readonly end: number }[];
  /** What the new body does not carry off as the old one did. */
  readonly unlike: readonly Unlike[];
  readonly scale: number;
}

export interface Swapped {
  readonly keys: CutoutKeys;
  readonly motion: Motion;
  readonly report: SwapReport;
}

/** What is said by hand of a swap. */
export interface SwapChoices {
  /** Which foot stands when, instead of what the keys say or what is found in them. */
  readonly stands?: readonly Stand[] | undefined;
  /** Keys that are off their attachment, in frames of the old keys; what is not told of is found out. */
  readonly said?: readonly SaidOfKey[] | undefined;
}

/**
 * Puts finished animation on another cut-out: turns and timing stay, places come from the new figure's attachment points, and
 * in every frame the figure is set down on the part that stands then. The next foot stands where it comes down; in the air
 * the root goes its old way in proportion.
 */
export function swapCutout(
  source: FlatParty,
  keys: CutoutKeys,
  target: FlatParty,
  { stands, said = [] }: SwapChoices = {},
): Swapped {
  const old = measureFlat(source.rig, source.map);
  const flat = measureFlat(target.rig, target.map);
  const scale = old.leg > 0 && flat.leg > 0 ? flat.leg / old.leg : flat.height / (old.height || 1);
  const before = evaluateKeys(source.rig, keys);
  // (1) who takes whose place
  const { pairs, unpaired } = pairJoints(source, target, keys);
  const partner = new Map(pairs.map((p) => [p.from, p.to]));
  // (2) what places mean: corrections go, breaks stay
  const corrections: OffKey[] = [];
  const breaks: OffKey[] = [];
  const tracks: KeyTrack[] = [];
  for (const track of keys.tracks) {
    const to = partner.get(track.joint);
    if (to === undefined) continue;
    const joint = target.rig.names.indexOf(to);
    const from = source.rig.names.indexOf(track.joint);
    if (track.channel === 'turn') {
      const by = restDifference(old, flat, from, joint);
      tracks.push({ joint: to, channel: 'turn', keys: track.keys.map((k) => ({ ...k, value: [k.value[0]! + by] })) });
      continue;
    }
    if (track.channel === 'scale') {
      tracks.push({ ...track, joint: to });
      continue;
    }
    // what was drawn shorter for the old figure's sake says nothing of the new one's bones
    if (from === old.hips || track.channel === 'length') continue;
    const turn = keys.tracks.find((t) => t.joint === track.joint && t.channel === 'turn');
    const kept = placeKeys(old, flat, track, { from, joint, scale, turn, said, corrections, breaks });
    if (kept.length > 0) tracks.push({ joint: to, channel: 'place', keys: kept });
  }
  // (3) labels
  const missing: { part: string; label: string }[] = [];
  const steps = new Map<string, StepKeys>();
  for (const track of keys.steps)
    for (const made of stepsOn(source.rig, target.rig, partner, track, keys.steps, missing))
      if (!steps.has(made.name)) steps.set(made.name, made);
  // (4) set down, frame by frame, on what stands
  const { fps, frameCount } = keys;
  const loose: CutoutKeys = { fps, frameCount, tracks, steps: [...steps.values()] };
  const plan = standsOf(old, before, stands ?? keys.plants);
  const set = setDown(flat, evaluateKeys(target.rig, loose), old, before, plan, scale);
  const rootKeys = set.hips.map((value, frame): CutoutKey => ({ frame, value, ease: 'linear' }));
  const root: KeyTrack = {
    joint: target.rig.names[flat.hips]!,
    channel: 'place',
    keys: thinned(rootKeys, 1e-5 * flat.leg),
  };
  const carried: CutoutKeys = { ...loose, tracks: [root, ...tracks], plants: plan };
  // (5) whatever else stands stays, too
  const swapped = steadySecondFeet(target, flat, carried, plan, set.plants);
  const motion = evaluateKeys(target.rig, swapped);
  const { plants, airborne } = set;
  const unlike = unlikeIn({ flat: old, motion: before }, { flat, motion }, plan);
  return {
    keys: swapped,
    motion,
    report: { pairs, unpaired, corrections, breaks, missing, plants, airborne, unlike, scale },
  };
}

/** Which foot stands when: as told, or found where a foot stays on its spot near the ground. */
function standsOf(old: FlatBody, motion: Motion, told: readonly Stand[] | undefined): Stand[] {
  if (told) return [...told].sort((a, b) => a.start - b.start);
  const reader = new PlaneReader(old.rig, motion);
  const tracks: SoleTracks = {};
  for (const { side, foot } of old.legs) {
    if (foot.joint < 0) continue;
    const heel = new Float64Array(3 * motion.frameCount);
    const ball = new Float64Array(3 * motion.frameCount);
    for (let f = 0; f < motion.frameCount; f++) {
      const frames = reader.read(f / motion.fps);
      heel.set(pointOn(frames, foot.joint, foot.heel), 3 * f);
      ball.set(pointOn(frames, foot.joint, foot.ball), 3 * f);
    }
    tracks[`heel${side}`] = heel;
    tracks[`ball${side}`] = ball;
  }
  return standsIn(findContacts(tracks, motion.fps, old.leg).plants, motion.frameCount);
}

/** Which foot stands when, where points of the soles are said to be held: a foot stands as long as either end of it does. */
export function standsIn(plants: readonly Plant[], frames: number): Stand[] {
  const stands = SIDES.flatMap((side) => {
    const held = new Uint8Array(frames);
    for (const p of plants)
      if (isSole(p.part) && sideOfPart(p.part) === side) held.fill(1, Math.max(0, p.start), p.end + 1);
    const found: Stand[] = [];
    for (let start = held.indexOf(1); start >= 0; start = held.indexOf(1, start)) {
      const after = held.indexOf(0, start);
      const end = (after < 0 ? frames : after) - 1;
      found.push({ side, start, end });
      start = end + 1;
    }
    return found;
  });
  return stands.sort((a, b) => a.start - b.start);
}

/** Places of the hips in every frame, so that what stands stays. */
function setDown(
  flat: FlatBody,
  loose: Motion,
  old: FlatBody,
  before: Motion,
  plan: readonly Stand[],
  scale: number,
): { hips: [number, number][]; plants: FlatPlant[]; airborne: { start: number; end: number }[] } {
  const n = loose.frameCount;
  const reader = new PlaneReader(flat.rig, loose);
  const was = new PlaneReader(old.rig, before);
  const hips: [number, number][] = [];
  const plants: FlatPlant[] = [];
  const airborne: { start: number; end: number }[] = [];
  let now: { stand: Stand; spot: [number, number] } | undefined;
  let air: { start: number; hips: [number, number]; root: [number, number] } | undefined;
  const sole = (frames: ArrayLike<number>, body: FlatBody, side: 'L' | 'R'): [number, number] | undefined => {
    const foot = body.legs.find((l) => l.side === side)?.foot;
    if (!foot || foot.joint < 0) return undefined;
    const [a, b] = [pointOn(frames, foot.joint, foot.heel), pointOn(frames, foot.joint, foot.ball)];
    // whichever end is lower carries it
    return a[1] < b[1] ? [a[0], a[1]] : [b[0], b[1]];
  };
  const middle = (frames: ArrayLike<number>, body: FlatBody, side: 'L' | 'R'): [number, number] | undefined => {
    const foot = body.legs.find((l) => l.side === side)?.foot;
    if (!foot || foot.joint < 0) return undefined;
    const [x, y] = pointOn(frames, foot.joint, foot.ball);
    return [x, y];
  };
  for (let f = 0; f < n; f++) {
    const frames = reader.read(f / loose.fps).slice();
    const root: [number, number] = [frames[6 * flat.hips + 4]!, frames[6 * flat.hips + 5]!];
    const oldFrames = was.read(f / before.fps);
    const oldRoot: [number, number] = [oldFrames[6 * old.hips + 4]!, oldFrames[6 * old.hips + 5]!];
    // the foot that stood goes on standing while it may; else the one that came down last
    let stand = now && f <= now.stand.end ? now.stand : undefined;
    stand ??= plan.findLast((s) => s.start <= f && f <= s.end);
    const point = stand && middle(frames, flat, stand.side);
    if (stand && point) {
      if (now?.stand !== stand) {
        const last = hips.at(-1);
        const low = sole(oldFrames, old, stand.side)?.[1] ?? 0;
        const height = Math.abs(low) < 0.05 * old.leg ? 0 : low * scale;
        // it stands where it comes down, on the ground that the old one stood on
        const x = last ? last[0] + point[0] - root[0] : scale * (middle(oldFrames, old, stand.side)?.[0] ?? 0);
        now = { stand, spot: [x, height] };
        plants.push({ part: `ball${stand.side}`, start: f, end: Math.min(stand.end, n - 1), spot: now.spot });
        air = undefined;
      }
      // the ball stays; where the heel is lower it is that which touches the ground
      const lowest = sole(frames, flat, stand.side)!;
      hips.push([now.spot[0] - (point[0] - root[0]), now.spot[1] - (lowest[1] - root[1])]);
      continue;
    }
    now = undefined;
    if (!air) {
      air = { start: f, hips: hips.at(-1) ?? [scale * oldRoot[0], scale * oldRoot[1]], root: oldRoot };
      airborne.push({ start: f, end: f });
    }
    airborne.at(-1)!.end = f;
    hips.push([air.hips[0] + scale * (oldRoot[0] - air.root[0]), air.hips[1] + scale * (oldRoot[1] - air.root[1])]);
  }
  return { hips, plants, airborne };
}

/** Keys without those that a straight way between their neighbours says as well. */
function thinned(keys: readonly CutoutKey[], tolerance: number): CutoutKey[] {
  const keep = keyFrames(keys.length, tolerance, (a, b, f) => {
    const t = (f - a) / (b - a);
    return Math.hypot(...keys[f]!.value.map((x, k) => x - (1 - t) * keys[a]!.value[k]! - t * keys[b]!.value[k]!));
  });
  return [...keep].map((i) => keys[i]!);
}
