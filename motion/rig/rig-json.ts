import { MotionError } from '../errors';
import {
  assertRig,
  type CutoutPart,
  type CutoutRig,
  type FoundSpace,
  type Hinge,
  MAX_JOINTS,
  NORMAL_SPACE,
  type Rig,
  type SkeletonRig,
} from './rig';

interface JointJson {
  name: string;
  parent: number;
  place: number[];
  turn: number[];
  tip?: number[];
}

interface PartJson {
  name: string;
  joint: number;
  pivot: number[];
  attachments: { name: string; at: number[] }[];
  drawings: string[];
  view?: string;
}

/** A rig as it is kept and exchanged. Joints in parent-first order; lengths in metres, turns x y z w in the parent's frame. */
export type RigJson =
  | { kind: 'skeleton'; joints: JointJson[]; found: FoundSpace }
  | {
      kind: 'cutout';
      joints: JointJson[];
      parts: PartJson[];
      hinges?: Record<string, Hinge>;
      mirrored?: boolean;
      found: FoundSpace;
    };

const short = (values: Iterable<number>): number[] => Array.from(values, (x) => Number(x.toFixed(7)));

/** A rig as plain JSON, joint by joint and, for a cut-out, part by part. */
export function rigToJson(rig: Rig): RigJson {
  const joints = rig.names.map((name, j) => {
    const joint: JointJson = {
      name,
      parent: rig.parents[j]!,
      place: short(rig.restT.subarray(3 * j, 3 * j + 3)),
      turn: short(rig.restR.subarray(4 * j, 4 * j + 4)),
    };
    if (rig.kind === 'skeleton' && !Number.isNaN(rig.tips[3 * j]!))
      joint.tip = short(rig.tips.subarray(3 * j, 3 * j + 3));
    return joint;
  });
  if (rig.kind === 'skeleton') return { kind: 'skeleton', joints, found: rig.found };
  const parts = rig.parts.map(({ view, ...part }) => ({
    ...part,
    pivot: short(part.pivot),
    attachments: part.attachments.map(({ name, at }) => ({ name, at: short(at) })),
    drawings: [...part.drawings],
    ...(view === undefined ? {} : { view }),
  }));
  return {
    kind: 'cutout',
    joints,
    parts,
    ...(rig.hinges ? { hinges: { ...rig.hinges } } : {}),
    ...(rig.mirrored ? { mirrored: true } : {}),
    found: rig.found,
  };
}

/**
 * Reads rigToJson's form.
 * @throws MotionError for anything that is not a whole rig, with the joint
 */
export function rigFromJson(json: unknown): Rig {
  const source = json as Partial<RigJson> | null;
  const joints = source?.joints;
  if ((source?.kind !== 'skeleton' && source?.kind !== 'cutout') || !Array.isArray(joints))
    throw new MotionError('bad-structure', 'A rig needs kind "skeleton" or "cutout" and a list of joints.');
  if (joints.length > MAX_JOINTS) throw new MotionError('too-large', `More than ${MAX_JOINTS} joints.`);
  const n = joints.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  const take = (dst: Float32Array, o: number, v: unknown, count: number, joint: string): void => {
    if (!isPoint(v, count)) throw new MotionError('bad-number', `${count} finite numbers are needed.`, { joint });
    dst.set(v, o);
  };
  const names = joints.map((joint, j) => {
    if (typeof joint?.name !== 'string' || typeof joint.parent !== 'number')
      throw new MotionError('bad-structure', `Joint ${j} needs a name and a parent.`);
    if (!Number.isInteger(joint.parent) || joint.parent < -1 || joint.parent >= j)
      throw new MotionError(
        'bad-structure',
        `Its parent is ${joint.parent}; an earlier joint's number or −1 is needed.`,
        { joint: joint.name },
      );
    take(restT, 3 * j, joint.place, 3, joint.name);
    take(restR, 4 * j, joint.turn, 4, joint.name);
    if (joint.tip) take(tips, 3 * j, joint.tip, 3, joint.name);
    return joint.name;
  });
  const parents = Int16Array.from(joints, (j) => j.parent);
  const both = { names, parents, restT, restR, found: source.found ?? NORMAL_SPACE };
  const rig: Rig =
    source.kind === 'skeleton'
      ? { kind: 'skeleton', ...both, tips }
      : { kind: 'cutout', ...both, ...cutoutFromJson(source as Record<string, unknown>) };
  assertRig(rig);
  return rig;
}

/**
 * Reads rigToJson's form of a skeleton.
 * @throws MotionError as rigFromJson does, and 'bad-structure' for a cut-out
 */
export function skeletonFromJson(json: unknown): SkeletonRig {
  const rig = rigFromJson(json);
  if (rig.kind !== 'skeleton') throw new MotionError('bad-structure', 'A skeleton is needed here; this is a cut-out.');
  return rig;
}

const isPoint = (v: unknown, count: number): v is number[] =>
  Array.isArray(v) && v.length === count && v.every((x) => typeof x === 'number' && Number.isFinite(x));

function cutoutFromJson(source: Record<string, unknown>): Pick<CutoutRig, 'parts' | 'hinges' | 'mirrored'> {
  const { hinges, mirrored } = source;
  const parts = partsFromJson(source.parts);
  if (hinges !== undefined && (typeof hinges !== 'object' || hinges === null || Array.isArray(hinges)))
    throw new MotionError('bad-structure', 'Hinges are an object with an entry for a joint.');
  const read = Object.entries((hinges ?? {}) as Record<string, unknown>).map(([joint, value]) => {
    const { swing, level } = (value ?? {}) as Hinge;
    if ((swing !== undefined && typeof swing !== 'number') || (level !== undefined && typeof level !== 'boolean'))
      throw new MotionError('bad-structure', 'A hinge has a number "swing" and a yes or no "level".', { joint });
    return [joint, { ...(swing === undefined ? {} : { swing }), ...(level === undefined ? {} : { level }) }] as const;
  });
  return {
    parts,
    ...(read.length > 0 ? { hinges: Object.fromEntries(read) } : {}),
    ...(mirrored === true ? { mirrored } : {}),
  };
}

function partsFromJson(json: unknown): CutoutPart[] {
  if (!Array.isArray(json)) throw new MotionError('bad-structure', 'A cut-out needs a list of parts.');
  return json.map((value: Partial<PartJson> | null, i): CutoutPart => {
    const where = typeof value?.name === 'string' ? `The part "${value.name}"` : `Part ${i + 1}`;
    const { name, joint, pivot, attachments, drawings, view } = value ?? {};
    if (
      typeof name !== 'string' ||
      typeof joint !== 'number' ||
      !isPoint(pivot, 2) ||
      !Array.isArray(attachments) ||
      !attachments.every((a) => typeof a?.name === 'string' && isPoint(a.at, 2)) ||
      !Array.isArray(drawings) ||
      !drawings.every((d) => typeof d === 'string') ||
      (view !== undefined && typeof view !== 'string')
    )
      throw new MotionError(
        'bad-structure',
        `${where} needs a name, a joint, a pivot, attachment points and drawings that have labels.`,
      );
    return {
      name,
      joint,
      pivot: [pivot[0]!, pivot[1]!],
      attachments: attachments.map((a) => ({ name: a.name, at: [a.at[0]!, a.at[1]!] })),
      drawings,
      ...(view === undefined ? {} : { view }),
    };
  });
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
  const joints = rig.names
    .map((name, j) => {
      const place = [...rig.restT.subarray(3 * j, 3 * j + 3)].map((x) => round(x, 1e-4));
      const q = [...rig.restR.subarray(4 * j, 4 * j + 4)];
      const sign = q.find((x) => Math.abs(x) > 1e-3) ?? 1;
      const turn = q.map((x) => round(x * Math.sign(sign), 1e-4));
      return [name, rig.parents[j], ...place, ...turn].join(',');
    })
    .join('\n');
  // joints alone do not tell two paper figures apart
  return rig.kind === 'skeleton' ? joints : `${joints}\n${JSON.stringify(rigToJson(rig))}`;
}
