import { MotionError } from '../errors';
import { assertRig, type FoundSpace, MAX_JOINTS, NORMAL_SPACE, type Rig } from './rig';

/** A rig as it is kept and exchanged. Joints in parent-first order; lengths in metres, turns x y z w in the parent's frame. */
export interface RigJson {
  kind: 'skeleton';
  joints: { name: string; parent: number; place: number[]; turn: number[]; tip?: number[] }[];
  found: FoundSpace;
}

const triple = (a: Float32Array, o: number, n: number): number[] =>
  Array.from(a.subarray(o, o + n), (x) => Number(x.toFixed(7)));

/** A rig as plain JSON, joint by joint. */
export function rigToJson(rig: Rig): RigJson {
  return {
    kind: 'skeleton',
    joints: rig.names.map((name, j) => {
      const joint: RigJson['joints'][number] = {
        name,
        parent: rig.parents[j]!,
        place: triple(rig.restT, 3 * j, 3),
        turn: triple(rig.restR, 4 * j, 4),
      };
      if (!Number.isNaN(rig.tips[3 * j]!)) joint.tip = triple(rig.tips, 3 * j, 3);
      return joint;
    }),
    found: rig.found,
  };
}

/** Reads rigToJson's form. Throws MotionError for anything that is not a whole rig. */
export function rigFromJson(json: unknown): Rig {
  const source = json as Partial<RigJson> | null;
  const joints = source?.joints;
  if (source?.kind !== 'skeleton' || !Array.isArray(joints))
    throw new MotionError('bad-structure', 'A rig needs kind "skeleton" and a list of joints.');
  if (joints.length > MAX_JOINTS) throw new MotionError('too-large', `More than ${MAX_JOINTS} joints.`);
  const n = joints.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  const take = (dst: Float32Array, o: number, v: unknown, count: number, joint: string): void => {
    if (!Array.isArray(v) || v.length !== count || v.some((x) => typeof x !== 'number' || !Number.isFinite(x))) {
      throw new MotionError('bad-number', `${count} finite numbers are needed.`, { joint });
    }
    dst.set(v as number[], o);
  };
  const names = joints.map((joint, j) => {
    if (typeof joint?.name !== 'string' || typeof joint.parent !== 'number')
      throw new MotionError('bad-structure', `Joint ${j} needs a name and a parent.`);
    if (!Number.isInteger(joint.parent) || joint.parent < -1 || joint.parent >= j)
      throw new MotionError(
        'bad-structure',
        `Its parent is ${joint.parent}; an earlier joint's number or −1 is needed.`,
        {
          joint: joint.name,
        },
      );
    take(restT, 3 * j, joint.place, 3, joint.name);
    take(restR, 4 * j, joint.turn, 4, joint.name);
    if (joint.tip) take(tips, 3 * j, joint.tip, 3, joint.name);
    return joint.name;
  });
  const rig: Rig = {
    kind: 'skeleton',
    names,
    parents: Int16Array.from(joints, (j) => j.parent),
    restT,
    restR,
    tips,
    found: source.found ?? NORMAL_SPACE,
  };
  assertRig(rig);
  return rig;
}

/**
 * Text that is equal for rigs that look the same: names, tree and rest to a tenth of a millimetre and about a hundredth of
 * a degree. Hash it to recognise a rig.
 */
export function rigIdentity(rig: Rig): string {
  const round = (x: number, unit: number): string => {
    const v = Math.round(x / unit);
    return v === 0 ? '0' : String(v);
  };
  return rig.names
    .map((name, j) => {
      const place = [...rig.restT.subarray(3 * j, 3 * j + 3)].map((x) => round(x, 1e-4));
      const q = [...rig.restR.subarray(4 * j, 4 * j + 4)];
      const sign = q.find((x) => Math.abs(x) > 1e-3) ?? 1;
      const turn = q.map((x) => round(x * Math.sign(sign), 1e-4));
      return [name, rig.parents[j], ...place, ...turn].join(',');
    })
    .join('\n');
}
