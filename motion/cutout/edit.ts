import { MotionError } from '../errors';
import type { Facing } from '../rig/flat';
import { assertRig, type CutoutPart, type CutoutRig, type Hinge, restPose } from '../rig/rig';
import type { CutoutArt } from './figure';

/** What is set on a cut-out by hand. What is left out stays. */
export interface CutoutChange {
  /** By joint name: where it lies in the picture. */
  readonly pivots?: Readonly<Record<string, readonly [x: number, y: number]>> | undefined;
  /** Names of all parts, the hindmost first. */
  readonly order?: readonly string[] | undefined;
  /** By joint name. */
  readonly hinges?: Readonly<Record<string, Hinge>> | undefined;
  /** By part name: the joint that it hangs on. */
  readonly hang?: Readonly<Record<string, string>> | undefined;
  readonly facing?: Facing | undefined;
  readonly mirrored?: boolean | undefined;
}

export interface EditedCutout {
  readonly rig: CutoutRig;
  readonly art: CutoutArt;
}

const AXES = { front: '+Z', right: '+X', left: '-X' } as const;

/**
 * The figure with what was set: at rest every drawing stays where it was drawn, only where it turns, hangs and lies among the
 * others changes. Pure.
 * @throws MotionError 'bad-argument' for joints and parts that the figure does not have
 */
export function editCutout(rig: CutoutRig, art: CutoutArt, change: CutoutChange): EditedCutout {
  const joint = (name: string): number => {
    const j = rig.names.indexOf(name);
    if (j < 0) throw new MotionError('bad-argument', `The figure has no joint "${name.slice(0, 60)}".`);
    return j;
  };
  const partAt = (name: string): number => {
    const i = rig.parts.findIndex((p) => p.name === name);
    if (i < 0) throw new MotionError('bad-argument', `The figure has no part "${name.slice(0, 60)}".`);
    return i;
  };
  const { unit, origin } = art;
  // (1) joints in the picture
  const rest = restPose(rig).p;
  const places = rig.names.map((_, j): [number, number] => [
    origin[0] + rest[3 * j]! / unit,
    origin[1] - rest[3 * j + 1]! / unit,
  ]);
  const moved = new Map<number, readonly [number, number]>();
  for (const [name, [x, y]] of Object.entries(change.pivots ?? {})) {
    const j = joint(name);
    moved.set(j, [x - places[j]![0], y - places[j]![1]]);
    places[j] = [x, y];
  }
  const restT = rig.restT.slice();
  rig.parents.forEach((p, j) => {
    const from = p >= 0 ? places[p]! : origin;
    restT[3 * j] = (places[j]![0] - from[0]) * unit;
    restT[3 * j + 1] = (from[1] - places[j]![1]) * unit;
  });
  // (2) parts: pinned where their joint went, with points that stay where they were in the picture
  const joints = rig.parts.map((p) => (change.hang?.[p.name] === undefined ? p.joint : joint(change.hang[p.name]!)));
  for (const name of Object.keys(change.hang ?? {})) partAt(name);
  const pivots = rig.parts.map((part, i): readonly [number, number] => {
    const before = art.pivots[i]!;
    if (joints[i] !== part.joint) return places[joints[i]!]!;
    const by = moved.get(part.joint);
    return by ? [before[0] + by[0], before[1] + by[1]] : before;
  });
  const parts = rig.parts.map((part, i): CutoutPart => {
    const by = [(pivots[i]![0] - art.pivots[i]![0]) * unit, (art.pivots[i]![1] - pivots[i]![1]) * unit] as const;
    return {
      ...part,
      joint: joints[i]!,
      pivot: [part.pivot[0] + by[0], part.pivot[1] + by[1]],
      attachments: part.attachments.map((a) => {
        const child = rig.names.indexOf(a.name);
        const at: readonly [number, number] =
          child >= 0 && rig.parents[child] === part.joint
            ? [(places[child]![0] - pivots[i]![0]) * unit, (pivots[i]![1] - places[child]![1]) * unit]
            : [a.at[0] - by[0], a.at[1] - by[1]];
        return { name: a.name, at };
      }),
    };
  });
  // a bone ends where the next one begins
  const ended = parts.map((part): CutoutPart => {
    const end = part.attachments.find((a) => a.name === 'end');
    const before = rig.parts.find((p) => p.name === part.name)!.attachments;
    const was = before.find((a) => a.name === 'end');
    const next =
      was && before.find((a) => a.name !== 'end' && Math.hypot(a.at[0] - was.at[0], a.at[1] - was.at[1]) < 1e-6);
    const now = next && part.attachments.find((a) => a.name === next.name);
    return end && now
      ? { ...part, attachments: part.attachments.map((a) => (a === end ? { ...a, at: now.at } : a)) }
      : part;
  });
  // (3) the drawing order
  let order = rig.parts.map((_, i) => i);
  if (change.order) {
    order = change.order.map(partAt);
    if (new Set(order).size !== rig.parts.length || order.length !== rig.parts.length)
      throw new MotionError('bad-argument', 'A drawing order names every part once.');
  }
  for (const name of Object.keys(change.hinges ?? {})) joint(name);
  const hinges = { ...rig.hinges, ...change.hinges };
  const next: CutoutRig = {
    ...rig,
    restT,
    parts: order.map((i) => ended[i]!),
    hinges,
    mirrored: change.mirrored ?? rig.mirrored,
    found: change.facing ? { ...rig.found, facing: AXES[change.facing], certainty: 'stated' } : rig.found,
  };
  assertRig(next);
  return { rig: next, art: { ...art, pivots: order.map((i) => pivots[i]!) } };
}
