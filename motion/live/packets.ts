import { MotionError } from '../errors';
import { NORMAL_SPACE, type SkeletonRig } from '../rig/rig';

/** A performer whom a capture stage streams: joints in parent-first order, metres, Y up. */
export interface StagePerformer {
  readonly id: string;
  readonly name: string;
  readonly rig: SkeletonRig;
}

/** What a stage says first, and again whenever it starts anew. */
export interface StageHello {
  readonly type: 'hello';
  readonly session: string;
  readonly fps: number;
  readonly performers: readonly StagePerformer[];
}

/** One frame of one performer. */
export interface StageFrame {
  readonly type: 'frame';
  readonly session: string;
  readonly performer: string;
  /** Counted from 0 in every session. */
  readonly number: number;
  /** World place of the root, metres; undefined where it was lost. */
  readonly place: readonly [number, number, number] | undefined;
  /** 4 J numbers, each joint's turn in its parent's frame; NaN for joints that were lost. */
  readonly turns: Float32Array;
}

export type StageMessage = StageHello | StageFrame;

const MAX_JOINTS = 512;
const MAX_PERFORMERS = 32;
const bad = (what: string): MotionError => new MotionError('bad-structure', `The stage sent ${what}.`);
const finite = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x);
const triple = (x: unknown): x is [number, number, number] => Array.isArray(x) && x.length === 3 && x.every(finite);
const text = (x: unknown): x is string => typeof x === 'string' && x.length > 0 && x.length <= 200;

/**
 * Reads a message of a capture stage; see docs/formats. What comes from outside is trusted in nothing.
 * @param joints by performer: how many joints its frames have
 * @throws MotionError 'bad-structure' for anything that is no such message
 */
export function readStageMessage(json: unknown, joints: ReadonlyMap<string, number>): StageMessage {
  const m = (json ?? {}) as Record<string, unknown>;
  if (m.type === 'hello') {
    if (!text(m.session) || !finite(m.fps) || m.fps < 1 || m.fps > 1000)
      throw bad('a greeting without session or rate');
    if (!Array.isArray(m.performers) || m.performers.length > MAX_PERFORMERS) throw bad('no list of performers');
    return { type: 'hello', session: m.session, fps: m.fps, performers: m.performers.map(readPerformer) };
  }
  if (m.type !== 'frame' || !text(m.session) || !text(m.performer)) throw bad('a message of no known kind');
  if (!Number.isInteger(m.number) || (m.number as number) < 0) throw bad('a frame without a number');
  const count = joints.get(m.performer);
  if (count === undefined) throw bad('a frame of a performer whom it never named');
  if (!Array.isArray(m.turns) || m.turns.length !== count) throw bad('a frame with the wrong number of joints');
  const turns = new Float32Array(4 * count).fill(Number.NaN);
  m.turns.forEach((q: unknown, j) => {
    if (q === null) return;
    if (!Array.isArray(q) || q.length !== 4 || !q.every(finite)) throw bad('a joint whose turn is no four numbers');
    const long = Math.hypot(...(q as number[]));
    if (long < 1e-6) throw bad('a joint whose turn is none');
    turns.set(
      (q as number[]).map((x) => x / long),
      4 * j,
    );
  });
  if (m.place !== null && !triple(m.place)) throw bad('a frame without a place');
  return {
    type: 'frame',
    session: m.session,
    performer: m.performer,
    number: m.number as number,
    place: m.place === null ? undefined : m.place,
    turns,
  };
}

function readPerformer(json: unknown): StagePerformer {
  const { id, name, joints } = (json ?? {}) as Record<string, unknown>;
  if (!text(id) || !text(name) || !Array.isArray(joints) || joints.length < 2 || joints.length > MAX_JOINTS)
    throw bad('a performer without name or joints');
  const n = joints.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const parents = new Int16Array(n);
  const names = joints.map((joint: unknown, j): string => {
    const { name: own, parent, offset, rest } = (joint ?? {}) as Record<string, unknown>;
    if (
      !text(own) ||
      !Number.isInteger(parent) ||
      (parent as number) < -1 ||
      (parent as number) >= j ||
      !triple(offset)
    )
      throw bad('a joint without name, parent or offset');
    parents[j] = parent as number;
    restT.set(offset, 3 * j);
    if (Array.isArray(rest) && rest.length === 4 && rest.every(finite) && Math.hypot(...rest) > 1e-6) {
      const long = Math.hypot(...rest);
      restR.set(
        rest.map((x) => x / long),
        4 * j,
      );
    } else restR[4 * j + 3] = 1;
    return own;
  });
  const rig: SkeletonRig = {
    kind: 'skeleton',
    names,
    parents,
    restT,
    restR,
    tips: new Float32Array(3 * n).fill(Number.NaN),
    found: NORMAL_SPACE,
  };
  return { id, name, rig };
}
