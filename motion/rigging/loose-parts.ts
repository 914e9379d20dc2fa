import { MotionError } from '../errors';
import { Groups } from '../math/groups';
import type { Mesh, Model } from '../rig/figure';
import { CELLS, weld } from './weld';

/** A piece of a model that shares no point with the rest of it: a hat, a belt, a button; also an arm that only runs into a sleeve. */
export interface LoosePart {
  /** What its mesh is called, where it is all of that mesh. */
  readonly name: string;
  readonly triangles: number;
  /** By mesh of the model: its vertices. */
  readonly vertices: readonly Uint32Array[];
}

/** A loose part that moves stiffly with one joint. */
export interface Tie {
  /** Index into the loose parts. */
  readonly part: number;
  /** A joint of the common body. */
  readonly joint: string;
}

/** What is flat counts as so thick, in lengths of that box. */
const THIN = 0.01;
/** Only the largest are told: nobody ties a hundred rivets one by one. */
const MOST = 24;

/**
 * The pieces of a model beside the one that takes up the most room, in that order; at most 24. Points at the same place are one, so that
 * seams of pictures and of materials do not part what belongs together.
 */
export function looseParts({ meshes }: Model<Mesh>): LoosePart[] {
  const { welded, count, cell } = weld(meshes);
  const groups = new Groups(count);
  for (const [m, { indices }] of meshes.entries()) {
    const own = welded[m]!;
    for (let t = 0; t < indices.length; t += 3) {
      groups.join(own[indices[t]!]!, own[indices[t + 1]!]!);
      groups.join(own[indices[t]!]!, own[indices[t + 2]!]!);
    }
  }
  return piecesOf(meshes, (m, v) => groups.nameOf(welded[m]![v]!), THIN * cell * CELLS);
}

function piecesOf(
  meshes: readonly Mesh[],
  pieceOf: (mesh: number, vertex: number) => number,
  thin: number,
): LoosePart[] {
  interface Piece {
    readonly top: number;
    triangles: number;
    readonly low: number[];
    readonly high: number[];
  }
  const pieces = new Map<number, Piece>();
  for (const [m, { positions, indices }] of meshes.entries())
    for (let t = 0; t < indices.length; t += 3) {
      const top = pieceOf(m, indices[t]!);
      let own = pieces.get(top);
      if (!own) {
        own = { top, triangles: 0, low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] };
        pieces.set(top, own);
      }
      own.triangles++;
      for (let i = t; i < t + 3; i++)
        for (let k = 0; k < 3; k++) {
          const x = positions[3 * indices[i]! + k]!;
          if (x < own.low[k]!) own.low[k] = x;
          if (x > own.high[k]!) own.high[k] = x;
        }
    }
  // by the room that it takes up: a staff may be taller than the body
  const size = ({ low, high }: Piece): number => high.reduce((room, x, k) => room * (x - low[k]! + thin), 1);
  const told = [...pieces.values()].sort((x, y) => size(y) - size(x)).slice(1, 1 + MOST);
  // hair and rivets may be thousands: points are gathered of what is told alone
  const gathered = new Map(told.map(({ top }) => [top, meshes.map(() => new Set<number>())]));
  for (const [m, { indices }] of meshes.entries()) for (const v of indices) gathered.get(pieceOf(m, v))?.[m]?.add(v);
  return told.map(({ top, triangles }) => {
    const vertices = gathered.get(top)!;
    const [mesh, ...others] = vertices.flatMap((own, m) => (own.size > 0 ? [m] : []));
    const whole = others.length === 0 && triangles === meshes[mesh!]!.indices.length / 3;
    return {
      name: whole ? meshes[mesh!]!.name : '',
      triangles,
      vertices: vertices.map((own) => Uint32Array.from(own)),
    };
  });
}

/** By mesh and vertex: the joint that it is tied to, −1 for none. @throws MotionError 'bad-argument' for a part or joint that is not there */
export function tiedJoints(
  model: Model<Mesh>,
  ties: readonly Tie[],
  joints: readonly string[],
): readonly Int16Array[] | undefined {
  if (ties.length === 0) return undefined;
  const parts = looseParts(model);
  const out = model.meshes.map(({ positions }) => new Int16Array(positions.length / 3).fill(-1));
  for (const { part, joint } of ties) {
    const own = parts[part];
    if (!own)
      throw new MotionError('bad-argument', `There is no loose part ${part + 1}: the mesh has ${parts.length}.`);
    const j = joints.indexOf(joint);
    if (j < 0)
      throw new MotionError('bad-argument', `"${joint.slice(0, 40)}" is no joint; joints are ${joints.join(', ')}.`);
    for (const [m, vertices] of own.vertices.entries()) for (const v of vertices) out[m]![v] = j;
  }
  return out;
}
