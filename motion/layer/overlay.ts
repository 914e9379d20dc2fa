import type { Party } from '../body/party';
import { type Region, regionsOf } from '../body/regions';
import { SIDES, type Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import { easeAcross } from '../math/fade-out';
import { invMul64, load4, mul64, normalize64, slerp64, storeNear } from '../math/fast';
import { angleBetweenQuats } from '../math/quat';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import { lengthTrack, mixScale, ORDER_TRACK, restNumber, scalesIn, viewTrack } from '../motion/tracks';
import { trackFeet } from '../retarget/foot-track';
import { ownPlan } from '../retarget/plan';
import { reachFeet } from '../retarget/reach-feet';

/**
 * replace: joints pass from what is beneath to what lies above. add: what lies above departs from a stated pose, and that
 * departure is put on top of what is beneath.
 */
export const OVERLAY_MODES = ['replace', 'add'] as const;
export type OverlayMode = (typeof OVERLAY_MODES)[number];

/** What an added motion departs from: its own first frame, or the rig's rest pose. */
export const REFERENCES = ['first', 'rest'] as const;
export type Reference = (typeof REFERENCES)[number];

export interface OverlayOptions {
  readonly mode: OverlayMode;
  readonly reference: Reference;
  /** Regions that are taken, and single joints by name; with neither, all of them. */
  readonly regions: readonly Region[];
  readonly joints: readonly string[];
  /** Frame of what is beneath on which its first one falls. */
  readonly at: number;
  /** Strength of a frame of what is beneath, any number; 1 is all of it. */
  readonly strength: (frame: number) => number;
  /**
   * What stands beneath, frame by frame, is held where an overlay of hips or legs would move it; left out, it is given up.
   */
  readonly held?: Readonly<Record<Side, Uint8Array>> | undefined;
}

/**
 * Lays a motion over another one on the same rig and of the same rate, which stays as it was. Where it ends, what is beneath
 * comes back. The travel of the body is taken only where the hips are. Pure.
 * @throws MotionError 'bad-argument' for another rate or a joint that is not there
 */
export function layOver(party: Party, beneath: Motion, over: Motion, options: OverlayOptions): Motion {
  const { rig } = party;
  const n = rig.names.length;
  const { at, strength, mode } = options;
  if (Math.abs(beneath.fps - over.fps) > 1e-6)
    throw new MotionError('bad-argument', 'An overlay must have the frame rate of what it lies on: resample it first.');
  const taken = jointsOf(party, options);
  const first = Math.max(0, at);
  const last = Math.min(beneath.frameCount, at + over.frameCount) - 1;
  if (last < first || (taken.length === 0 && !takesFace(options))) return beneath;
  const turns = beneath.turns.slice();
  const weights = Float64Array.from({ length: last - first + 1 }, (_, i) => strength(first + i));
  turnOver(rig.restR, n, taken, turns, over, options, first, last, weights);
  for (const j of taken) signOn(turns, 4 * (last * n + j), 4 * n);
  const places = new Map(beneath.places.map((t) => [t.joint, t.values]));
  for (const track of over.places) {
    if (!taken.includes(track.joint)) continue;
    const own = placesOf(rig, beneath, track.joint);
    for (let f = first; f <= last; f++) {
      const w = weights[f - first]!;
      for (let k = 0; k < 3; k++) {
        const x = track.values[3 * (f - at) + k]!;
        const base = mode === 'replace' ? own[3 * f + k]! : referencePlace(rig.restT, track, options, k);
        own[3 * f + k] = own[3 * f + k]! + w * (x - base);
      }
    }
    places.set(track.joint, own);
  }
  const laid: Motion = {
    ...beneath,
    turns,
    places: [...places].map(([joint, values]) => ({ joint, values })),
    ...tracksOver(party, beneath, over, options, { taken, first, last, weights }),
  };
  return options.held && movesFeet(party, taken) ? keepStanding(party, beneath, laid, options.held, first, last) : laid;
}

/** Whether what no joint carries is taken: shapes of a face, drawings of a cut-out. */
const takesFace = ({ regions, joints }: OverlayOptions): boolean =>
  (regions.length === 0 && joints.length === 0) || regions.includes('face');

/** What an overlay takes, and how much of it from frame `first` to `last` of what is beneath, both included. */
interface Taken {
  readonly taken: readonly number[];
  readonly first: number;
  readonly last: number;
  readonly weights: Float64Array;
}

/**
 * Numbers, sizes and steps with an overlay's over them. What belongs to a joint (how long its parts are drawn, its view) goes
 * with it; shapes and drawings go with the face, the drawing order with the whole body. Labels and sizes of an added motion
 * replace: there is nothing to add them to.
 */
function tracksOver(
  { rig, cutout }: Party,
  beneath: Motion,
  over: Motion,
  options: OverlayOptions,
  { taken, first, last, weights }: Taken,
): Pick<Motion, 'numbers' | 'scales' | 'steps'> {
  const { at, mode, reference } = options;
  const face = takesFace(options);
  const lengths = new Map(rig.names.map((name, j) => [lengthTrack(name), j]));
  const views = new Map(rig.names.map((name, j) => [viewTrack(name), j]));
  const numbers = new Map(beneath.numbers.map((t) => [t.name, t]));
  for (const { name, values: top } of over.numbers) {
    const joint = lengths.get(name);
    if (joint === undefined ? !face : !taken.includes(joint)) continue;
    const rest = restNumber(name);
    const values = numbers.get(name)?.values.slice() ?? new Float32Array(beneath.frameCount).fill(rest);
    for (let f = first; f <= last; f++) {
      const base = mode === 'replace' ? values[f]! : reference === 'first' ? top[0]! : rest;
      values[f] = values[f]! + weights[f - first]! * (top[f - at]! - base);
    }
    numbers.set(name, { ...numbers.get(name), name, values });
  }
  const scales = new Map(beneath.scales.map((t) => [t.joint, t]));
  for (const { joint, values: top } of over.scales) {
    if (!taken.includes(joint)) continue;
    const values = scalesIn(beneath, joint).slice();
    for (let f = first; f <= last; f++)
      for (let k = 3 * f; k < 3 * f + 3; k++) values[k] = mixScale(values[k]!, top[k - 3 * at]!, weights[f - first]!);
    scales.set(joint, { ...scales.get(joint), joint, values });
  }
  const steps = new Map(beneath.steps.map((t) => [t.name, t]));
  for (const { name, labels: theirs, values: top } of over.steps) {
    const joint = views.get(name);
    const whole = taken.length === rig.names.length;
    if (joint !== undefined ? !taken.includes(joint) : name === ORDER_TRACK ? !whole : !face) continue;
    const own = steps.get(name);
    const rest = own ? undefined : (cutout?.parts.find((p) => p.name === name)?.drawings[0] ?? theirs[top[0]!]!);
    const labels = [...new Set([...(own?.labels ?? [rest!]), ...theirs])];
    const values = own?.values.slice() ?? new Uint16Array(beneath.frameCount);
    for (let f = first; f <= last; f++)
      if (weights[f - first]! >= 0.5) values[f] = labels.indexOf(theirs[top[f - at]!]!);
    steps.set(name, { name, labels, values });
  }
  return { numbers: [...numbers.values()], scales: [...scales.values()], steps: [...steps.values()] };
}

/** Turns of the joints in the frames first to last; the sign goes on from frame to frame. */
function turnOver(
  rest: Float32Array,
  n: number,
  joints: readonly number[],
  turns: Float32Array,
  over: Motion,
  { mode, reference, at }: OverlayOptions,
  first: number,
  last: number,
  weights: Float64Array,
): void {
  const own = new Float64Array(4);
  const top = new Float64Array(4);
  const from = new Float64Array(4);
  for (let f = first; f <= last; f++) {
    const w = weights[f - first]!;
    for (const j of joints) {
      const o = 4 * (f * n + j);
      load4(top, 0, over.turns, 4 * ((f - at) * n + j));
      if (w === 1 && mode === 'replace') own.set(top);
      else {
        load4(own, 0, turns, o);
        // beyond 0 and 1 along the arc between both
        if (w !== 0 && mode === 'replace') slerp64(own, 0, own, 0, top, 0, w);
        else if (w !== 0) {
          load4(from, 0, reference === 'rest' ? rest : over.turns, 4 * j);
          invMul64(top, 0, from, 0, top, 0);
          slerp64(top, 0, SAME, 0, top, 0, w);
          mul64(own, 0, own, 0, top, 0);
          normalize64(own, 0);
        }
      }
      storeNear(turns, o, own, 0, f > 0 ? o - 4 * n : -1);
    }
  }
}

/** Carries the sign of a joint's turn at `from` on to all that come behind it. */
function signOn(turns: Float32Array, from: number, frame: number): void {
  const b = from + frame;
  let dot = 0;
  for (let k = 0; k < 4 && b < turns.length; k++) dot += turns[from + k]! * turns[b + k]!;
  if (dot >= 0) return;
  for (let o = b; o < turns.length; o += frame) for (let k = 0; k < 4; k++) turns[o + k] = -turns[o + k]!;
}
const SAME = Float64Array.of(0, 0, 0, 1);

function referencePlace(
  rest: Float32Array,
  { joint, values }: { readonly joint: number; readonly values: Float32Array },
  { reference }: OverlayOptions,
  k: number,
): number {
  return reference === 'rest' ? rest[3 * joint + k]! : values[k]!;
}

/** Joints that an overlay takes, by number. @throws MotionError 'bad-argument' for one that is not there */
export function jointsOf(party: Party, { regions, joints }: Pick<OverlayOptions, 'regions' | 'joints'>): number[] {
  const { rig, map } = party;
  const unknown = joints.find((name) => !rig.names.includes(name));
  if (unknown !== undefined)
    throw new MotionError('bad-argument', `The skeleton has no joint “${unknown}”: take it off the overlay.`);
  const all = regions.length === 0 && joints.length === 0;
  const named = new Set(joints);
  return regionsOf(rig, map).flatMap((r, j) => (all || regions.includes(r) || named.has(rig.names[j]!) ? [j] : []));
}

/** Whether a foot hangs from any of these joints. */
function movesFeet(party: Party, taken: readonly number[]): boolean {
  const moved = new Set(taken);
  return SIDES.some((side) => {
    for (let j = party.map.slots[`foot${side}`]?.joint ?? -1; j >= 0; j = party.rig.parents[j]!)
      if (moved.has(j)) return true;
    return false;
  });
}

/** A foot passes from being held to being free within this, seconds. */
const RELEASE_S = 0.2;

/** Brings feet back to where they stand beneath; what is free goes where the overlay has it. */
function keepStanding(
  party: Party,
  beneath: Motion,
  laid: Motion,
  held: Readonly<Record<Side, Uint8Array>>,
  first: number,
  last: number,
): Motion {
  const plan = ownPlan(party);
  if (plan.target.body.leg === 0) return laid;
  const pad = Math.max(1, Math.round(RELEASE_S * beneath.fps));
  const own = trackFeet(plan, beneath);
  const tracks = trackFeet(plan, laid);
  const frames = beneath.frameCount;
  const plans = tracks.map((track, i) => {
    const bits = held[track.side];
    const goal = track.ankle.slice();
    const near = nearest(bits, first, last, pad);
    for (let f = first; f <= last; f++) {
      const w = easeAcross(near[f - first]!);
      if (w === 0) continue;
      for (let k = 0; k < 3; k++) goal[3 * f + k] = (1 - w) * track.ankle[3 * f + k]! + w * own[i]!.ankle[3 * f + k]!;
      slerp64(track.turn, 4 * f, track.turn, 4 * f, own[i]!.turn, 4 * f, w);
      if (track.toeTurn.length > 0) slerp64(track.toeTurn, 4 * f, track.toeTurn, 4 * f, own[i]!.toeTurn, 4 * f, w);
    }
    const marks = Uint8Array.from(bits, (b) => (b > 0 ? 1 : 0));
    const none = new Float64Array(frames);
    return { goal, held: marks, pivot: new Uint8Array(frames), clear: none, ground: none };
  });
  return reachFeet(plan, laid, tracks, plans).motion;
}

/** 1 in frames that are held, falling to 0 over `pad` frames to either side. */
function nearest(bits: Uint8Array, first: number, last: number, pad: number): Float64Array {
  const out = new Float64Array(last - first + 1);
  let since = Number.POSITIVE_INFINITY;
  for (let f = first; f <= last; f++) {
    since = bits[f] ? 0 : since + 1;
    out[f - first] = Math.max(0, 1 - since / pad);
  }
  since = Number.POSITIVE_INFINITY;
  for (let f = last; f >= first; f--) {
    since = bits[f] ? 0 : since + 1;
    out[f - first] = Math.max(out[f - first]!, 1 - since / pad);
  }
  return out;
}

/** What gives an absolute motion away that is to be added: it departs far from its reference, and always in the same way. */
const FAR_DEG = 20;
const STEADY = 0.5;

/**
 * Whether a motion looks like one that tells poses outright and not departures: its difference to the reference is large and
 * constant, so that added it would be put on twice.
 */
export function looksAbsolute(
  party: Party,
  over: Motion,
  options: Pick<OverlayOptions, 'reference' | 'regions' | 'joints'>,
): boolean {
  if (options.reference === 'first') return false;
  const { rig } = party;
  const n = rig.names.length;
  const step = Math.max(1, Math.floor(over.frameCount / 60));
  for (const j of jointsOf(party, options)) {
    if (rig.parents[j]! < 0) continue;
    let least = Number.POSITIVE_INFINITY;
    let most = 0;
    for (let f = 0; f < over.frameCount; f += step) {
      const d = (angleBetweenQuats(rig.restR, 4 * j, over.turns, 4 * (f * n + j)) * 180) / Math.PI;
      least = Math.min(least, d);
      most = Math.max(most, d);
    }
    if (least > FAR_DEG && least > STEADY * most) return true;
  }
  return false;
}
