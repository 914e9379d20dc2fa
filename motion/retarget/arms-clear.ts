import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { invMul64, mul64, mulInv64, norm, normalize64, rotate64, storeNear } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { nearest, type Rod, rodsOf } from './crossing';
import { envelope, runningMean } from './envelope';
import type { Party, Plan } from './plan';

/** As deep as this nobody sees it: cloth gives way. Metres. */
const UNSEEN = 0.008;
/** An arm is on its way aside for so long before it would run into anything, and after, seconds. */
const EASE_S = 0.1;
/** An arm is never turned farther aside, radians. */
const MOST = 0.6;
/** A turned arm meets what it is kept off in another place: looked at again so often. */
const ROUNDS = 3;
/** Share of the shoulder's turn that the forearm follows: the rest is taken back at the elbow, for its direction's sake. */
const FORE = 0.7;

/**
 * Keeps forearms out of the body they hang on, where its skin is known: an arm that runs deeper into trunk, thigh or head
 * than the source's does is turned aside at the shoulder, by the smallest turn that brings the deepest place out. Elbows keep
 * their bend, hands their turn in the world; it eases in and out. What hands have to reach comes after it and goes before it.
 * @param source the motion that was carried over, frame by frame the one that `moved` came from
 */
export function clearArms(plan: Plan, source: Motion, moved: Motion): Motion {
  if (!plan.target.girths || sameBody(plan)) return moved;
  const arms = SIDES.flatMap((side) => armOf(plan, side));
  if (arms.length === 0) return moved;
  const total = arms.map(() => new Float64Array(3 * moved.frameCount));
  let done = moved;
  for (let round = 0; round < ROUNDS; round++) {
    const wanted = aside(plan, source, done, arms);
    if (!wanted) break;
    arms.forEach((_, i) => eased(total[i]!, wanted[i]!, Math.max(2, Math.round(EASE_S * moved.fps))));
    done = turned(plan, moved, arms, total);
  }
  return done;
}

/** The same skeleton with the same measures: what its arms do to its body is what it was made with. */
function sameBody({ equalRigs, source, target }: Plan): boolean {
  return equalRigs && source.rig.restT.every((x, i) => Math.abs(x - target.rig.restT[i]!) < 1e-5);
}

interface Arm {
  readonly side: Side;
  readonly upper: number;
  readonly fore: number;
  readonly hand: number;
  /** What the forearm is kept out of, with the same parts of the source where it has them. */
  readonly pairs: readonly { readonly own: readonly [Rod, Rod]; readonly model: readonly [Rod, Rod] | undefined }[];
}

function armOf(plan: Plan, side: Side): Arm[] {
  const [own, model] = [plan.target, plan.source].map(byName) as [Map<string, Rod>, Map<string, Rod>];
  const { map } = plan.target;
  const [upper, fore, hand] = ['upperArm', 'forearm', 'hand'].map((s) => jointOf(map, s + side)) as [
    number,
    number,
    number,
  ];
  const rod = own.get(`forearm${side}`);
  if (upper < 0 || !rod) return [];
  const theirs = model.get(`forearm${side}`);
  const pairs = ['trunk', `thigh${side}`, 'head'].flatMap((name) => {
    const other = own.get(name);
    const like = model.get(name);
    return other ? [{ own: [rod, other] as const, model: theirs && like && ([theirs, like] as const) }] : [];
  });
  return pairs.length > 0 ? [{ side, upper, fore, hand, pairs }] : [];
}

const byName = (party: Party): Map<string, Rod> =>
  new Map(rodsOf(party, party.pose ?? restPose(party.rig), party.girths ?? {}).map((rod) => [rod.name, rod]));

/** Turns that each arm lacks, per frame: 3 F rotation vectors in the frame of what carries the arm. None where all are clear. */
function aside(plan: Plan, source: Motion, now: Motion, arms: readonly Arm[]): Float64Array[] | undefined {
  const { rig } = plan.target;
  const ends = (which: 'own' | 'model'): number[] =>
    arms.flatMap((a) => a.pairs.flatMap((p) => p[which]?.flatMap((rod) => [rod.from, rod.to]) ?? []));
  const reader = new ChainReader(rig, now, ends('own'));
  const before = new ChainReader(plan.source.rig, source, ends('model'));
  const out = arms.map(() => new Float64Array(3 * now.frameCount));
  const gap = new Float64Array(4);
  const turn = new Float64Array(3);
  const back = new Float64Array(4);
  let any = false;
  for (let f = 0; f < now.frameCount; f++) {
    const { r, p } = reader.at(f);
    for (let i = 0; i < arms.length; i++) {
      const { upper, pairs } = arms[i]!;
      let worst = 0;
      for (const { own, model } of pairs) {
        const [fore, other] = own;
        const depth = fore.radius + other.radius - UNSEEN - between(gap, p, own);
        if (depth <= worst) continue;
        const need = model ? depth - Math.max(0, deep(before.at(f).p, model)) : depth;
        if (need <= worst) continue;
        worst = need;
        // from the shoulder to the place on the forearm that has to come out, and which way it does
        const d = norm(gap[0]!, gap[1]!, gap[2]!);
        const along = gap[3]!;
        const at = (k: number): number =>
          p[3 * fore.from + k]! - p[3 * upper + k]! + FORE * along * (p[3 * fore.to + k]! - p[3 * fore.from + k]!);
        const [x, y, z] = [at(0), at(1), at(2)];
        const share = d > 1e-6 ? need / d / Math.max(1e-6, x * x + y * y + z * z) : 0;
        turn[0] = share * (y * gap[2]! - z * gap[1]!);
        turn[1] = share * (z * gap[0]! - x * gap[2]!);
        turn[2] = share * (x * gap[1]! - y * gap[0]!);
        const above = rig.parents[upper]!;
        if (above >= 0) {
          for (let k = 0; k < 4; k++) back[k] = r[4 * above + k]! * (k < 3 ? -1 : 1);
          rotate64(turn, 0, back, 0, turn, 0);
        }
        out[i]!.set(turn, 3 * f);
        any = true;
      }
    }
  }
  return any ? out : undefined;
}

const spare = new Float64Array(4);
const between = (out: Float64Array, p: Float64Array, [a, b]: readonly [Rod, Rod]): number =>
  nearest(out, p, 3 * a.from, 3 * a.to, 3 * b.from, 3 * b.to);
const deep = (p: Float64Array, [a, b]: readonly [Rod, Rod]): number => a.radius + b.radius - between(spare, p, [a, b]);

/** Adds turns that come and go: nowhere smaller than asked, and about an axis that wanders as slowly. */
function eased(total: Float64Array, wanted: Float64Array, ease: number): void {
  const n = wanted.length / 3;
  const size = Float64Array.from({ length: n }, (_, f) => norm(wanted[3 * f]!, wanted[3 * f + 1]!, wanted[3 * f + 2]!));
  if (!size.some((x) => x > 0)) return;
  const high = envelope(size, ease);
  const axis = [0, 1, 2].map((k) =>
    runningMean(
      runningMean(
        Float64Array.from({ length: n }, (_, f) => wanted[3 * f + k]!),
        ease,
      ),
      ease,
    ),
  );
  for (let f = 0; f < n; f++) {
    const [x, y, z] = axis.map((a) => a[f]!) as [number, number, number];
    const length = norm(x, y, z);
    if (length < 1e-9) continue;
    const by = high[f]! / length;
    for (let k = 0; k < 3; k++) total[3 * f + k]! += by * axis[k]![f]!;
  }
}

/** The motion with arms turned at the shoulder; forearms follow by a share of it, hands keep their turn in the world. */
function turned(plan: Plan, motion: Motion, arms: readonly Arm[], by: readonly Float64Array[]): Motion {
  const { rig } = plan.target;
  const n = rig.names.length;
  const rotations = motion.rotations.slice();
  const reader = new ChainReader(
    rig,
    motion,
    arms.map((a) => (a.hand >= 0 ? a.hand : a.fore)),
  );
  // turns in the world: by how much a joint is turned more than it was, and what carries it
  const more = new Float64Array(4);
  const above = new Float64Array(4);
  const own = new Float64Array(4);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r } = reader.at(f);
    arms.forEach(({ upper, fore, hand }, i) => {
      const o = 3 * f;
      const [x, y, z] = [by[i]![o]!, by[i]![o + 1]!, by[i]![o + 2]!];
      const size = norm(x, y, z);
      const angle = Math.min(MOST, size);
      const shoulder = rig.parents[upper]!;
      // a joint's own turn, where it is turned by a share in the world and what carries it by another
      const write = (joint: number, share: number, carried: number): void => {
        if (size > 1e-9) {
          turnOf(above, r, shoulder, x / size, y / size, z / size, carried * angle);
          turnOf(more, r, shoulder, x / size, y / size, z / size, share * angle);
          const parent = rig.parents[joint]!;
          if (parent >= 0) mul64(above, 0, above, 0, r, 4 * parent);
          mul64(own, 0, more, 0, r, 4 * joint);
          invMul64(own, 0, above, 0, own, 0);
          normalize64(own, 0);
        } else for (let k = 0; k < 4; k++) own[k] = motion.rotations[4 * (f * n + joint) + k]!;
        storeNear(rotations, 4 * (f * n + joint), own, 0, f > 0 ? 4 * ((f - 1) * n + joint) : -1);
      };
      write(upper, 1, 0);
      write(fore, FORE, 1);
      if (hand >= 0) write(hand, 0, FORE);
    });
  }
  return { ...motion, rotations };
}

/** A turn about an axis told in the frame of a joint, as a turn in the world. */
function turnOf(
  out: Float64Array,
  r: Float64Array,
  joint: number,
  x: number,
  y: number,
  z: number,
  angle: number,
): void {
  const s = Math.sin(angle / 2);
  out[0] = s * x;
  out[1] = s * y;
  out[2] = s * z;
  out[3] = Math.cos(angle / 2);
  if (joint < 0) return;
  mul64(out, 0, r, 4 * joint, out, 0);
  mulInv64(out, 0, out, 0, r, 4 * joint);
}
