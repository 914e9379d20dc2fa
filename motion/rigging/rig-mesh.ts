import { guessBodyMap } from '../bodymap/guess';
import { type BodyMap, SIDES, type Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import type { Figure, Mesh, Model, Skin } from '../rig/figure';
import { childrenOf, type SkeletonRig } from '../rig/rig';
import { type BodyFrame, type BodyTurn, findBodyFrame, intoBody, outOfBody, surfacesInBody } from './body-frame';
import { shareHand } from './finger-weights';
import { type FingeredHand, findFingers } from './fingers';
import { type Tie, tiedJoints } from './loose-parts';
import { MARK_SLOTS, type MarkSlot, type Marks, mirroredSlot } from './marks';
import { readShape, type Shape } from './shape';
import { type Places, placeJoints, RIGGED_JOINTS, skeletonOf } from './skeleton';
import { type SkinBone, skinWeights } from './skin-weights';
import { boundsOf, type Solid, type Surface, solidOf } from './solid';
import { suggestMarks } from './suggest';

type V3 = readonly [number, number, number];

/** Where a mark comes from: given, the other side's in the mirror, read from the shape; or nowhere, and only put somewhere. */
export type MarkSource = 'marked' | 'mirrored' | 'by shape' | 'not found';

/** A mesh with its marks, ready to get a skeleton. */
export interface MarkedMesh {
  readonly frame: BodyFrame;
  readonly shape: Shape;
  /** In the mesh's own space. */
  readonly marks: Readonly<Record<MarkSlot, V3>>;
  readonly sources: Readonly<Record<MarkSlot, MarkSource>>;
}

export interface RiggedMesh extends MarkedMesh {
  /** In the mesh's own space and units: axes of its joints lie along the mesh's. */
  readonly rig: SkeletonRig;
  readonly map: BodyMap;
  readonly figure: Figure;
  /** How many fingers each hand got; none where the shape shows none, or none were wished for. */
  readonly fingers: Readonly<Record<Side, number>>;
  /** By joint, in the space that the rig stands in. */
  readonly places: Places;
  readonly tips: Places;
}

export interface RiggingOptions {
  /** Loose parts that move stiffly with a joint each: they are no flesh, so nothing beside them follows them. */
  readonly ties?: readonly Tie[];
  /** Whether hands get fingers where the shape shows them; they do unless told otherwise. */
  readonly fingers?: boolean;
  /** Which way the body stands, where its marks and its shape tell wrongly; see BodyFrame. */
  readonly turn?: BodyTurn | undefined;
}

/** Cubes to a body's height. */
const CUBES = 144;
/** What is longer than so many heights lies, or is turned wrongly, and is told by as many cubes as a body of that width. */
const WIDEST = 1.6;
const MOST_TRIANGLES = 2_000_000;
/** Least share of a body's cubes that its surface encloses rather than passes. */
const LEAST_ENCLOSED = 0.05;
/** Where joints lie in most bodies, in the body's frame, arms along the trunk. */
const USUAL: Readonly<Record<MarkSlot, V3>> = {
  hips: [0, 0.53, 0],
  head: [0, 0.87, 0],
  forearmL: [0.16, 0.63, 0],
  forearmR: [-0.16, 0.63, 0],
  handL: [0.18, 0.49, 0],
  handR: [-0.18, 0.49, 0],
  shinL: [0.06, 0.285, 0],
  shinR: [-0.06, 0.285, 0],
  footL: [0.06, 0.05, 0],
  footR: [-0.06, 0.05, 0],
};

function enclosesMuch({ cubes }: Solid): boolean {
  let [enclosed, all] = [0, 0];
  for (const c of cubes) {
    if (c === 1) enclosed++;
    if (c !== 0) all++;
  }
  return enclosed > LEAST_ENCLOSED * all;
}

/**
 * Where the marks of a mesh lie: those that are given as they are, those of one side alone mirrored, the rest as its shape
 * suggests. What it does not show is 'not found' and stands where it does in most bodies, to be dragged from there.
 * @param turn which way the body stands, where its shape tells wrongly
 * @throws MotionError 'no-mesh', 'too-large', or 'unmappable' for a surface without marks that encloses nothing
 */
export function markMesh(model: Model<Mesh>, given: Marks = {}, turn?: BodyTurn): MarkedMesh {
  return prepare(model, given, undefined, turn).marked;
}

function prepare(
  model: Model<Mesh>,
  given: Marks,
  tied?: readonly Int16Array[],
  turn?: BodyTurn,
): { marked: MarkedMesh; solid: Solid; body: Record<MarkSlot, V3> } {
  const triangles = model.meshes.reduce((n, m) => n + m.indices.length / 3, 0);
  if (triangles > MOST_TRIANGLES)
    throw new MotionError('too-large', `The mesh has ${triangles} triangles; at most ${MOST_TRIANGLES} are taken.`);
  const frame = findBodyFrame(model.meshes, given, turn);
  const flesh = fleshOnly(surfacesInBody(frame, model.meshes), tied);
  const bounds = boundsOf(flesh);
  const longest = Math.max(...[0, 1, 2].map((k) => bounds[3 + k]! - bounds[k]!));
  const solid = solidOf(flesh, Math.max(1, longest / WIDEST) / CUBES, bounds);
  const own: Partial<Record<MarkSlot, V3>> = {};
  for (const slot of MARK_SLOTS) if (given[slot]) own[slot] = intoBody(frame, given[slot]);
  const elbows = [own.forearmL, own.forearmR].flatMap((e) => (e ? [e[1]] : []));
  const shape = readShape(solid, own.hips?.[1], elbows.length > 0 ? Math.min(...elbows) : undefined);
  if (Object.keys(own).length === 0 && !enclosesMuch(solid))
    throw new MotionError(
      'unmappable',
      'The surface encloses next to nothing: this is no body that a skeleton fits into.',
    );
  const suggested = suggestMarks(solid, shape);
  const body: Partial<Record<MarkSlot, V3>> = {};
  const sources: Partial<Record<MarkSlot, MarkSource>> = {};
  const set = (slot: MarkSlot, at: V3, source: MarkSource): void => {
    body[slot] = at;
    sources[slot] = source;
  };
  const middle = own.hips?.[0] ?? 0;
  for (const slot of MARK_SLOTS) {
    const other = own[mirroredSlot(slot)];
    if (own[slot]) set(slot, own[slot], 'marked');
    else if (other && slot !== mirroredSlot(slot)) set(slot, [2 * middle - other[0], other[1], other[2]], 'mirrored');
    else if (suggested[slot]) set(slot, suggested[slot], 'by shape');
    else if (slot !== 'head') set(slot, USUAL[slot], 'not found');
  }
  const all = body as Record<MarkSlot, V3>;
  if (!all.head) set('head', placeJoints(solid, shape, all).head!, 'by shape');
  const marks = Object.fromEntries(MARK_SLOTS.map((slot) => [slot, outOfBody(frame, all[slot])]));
  return {
    marked: {
      frame,
      shape,
      marks: marks as unknown as Record<MarkSlot, V3>,
      sources: sources as Record<MarkSlot, MarkSource>,
    },
    solid,
    body: all,
  };
}

/**
 * Gives a mesh without a skeleton one: joints of the common body from up to ten marks and the shape, and skin weights with at
 * most four influences. The mesh itself stays as it is, in its own space.
 * @param given by slot, in the mesh's own space; any subset
 * @throws MotionError as markMesh; 'unmappable' where a mark is not found, 'bad-argument' for a tie of nothing or to nothing
 */
export function rigMesh(
  model: Model<Mesh>,
  given: Marks = {},
  { ties = [], fingers = true, turn }: RiggingOptions = {},
): RiggedMesh {
  const tied = tiedJoints(model, ties, RIGGED_JOINTS);
  const { marked, solid, body } = prepare(model, given, tied, turn);
  const { frame, sources } = marked;
  const lacking = MARK_SLOTS.filter((slot) => sources[slot] === 'not found');
  if (lacking.length > 0) {
    const [are, them] = lacking.length === 1 ? ['is', 'it'] : ['are', 'them'];
    throw new MotionError('unmappable', `The shape does not show where ${lacking.join(', ')} ${are}: mark ${them}.`);
  }
  const surfaces = surfacesInBody(frame, model.meshes);
  const hands = fingers ? findHands(fleshOnly(surfaces, tied), body) : {};
  const joints = placeJoints(solid, marked.shape, body);
  const { places, tips } = withFingers(joints, tipsOf(joints), hands);
  const inBody = skeletonOf(places, tips);
  const skins = skinWeights(solid, bonesOf(inBody, places, tips), surfaces);
  for (const side of SIDES)
    if (hands[side])
      shareHand(skins, surfaces, hands[side], body[`hand${side}`], (part) => inBody.names.indexOf(part + side));
  const own = (at: Places): Places => Object.fromEntries(Object.entries(at).map(([k, v]) => [k, outOfBody(frame, v)]));
  const rig = skeletonOf(own(places), own(tips));
  const figure: Figure = {
    ...model,
    meshes: model.meshes.map((mesh, i) => {
      const skin = skins[i]!;
      if (tied) tie(skin, tied[i]!, (j) => rig.names.indexOf(RIGGED_JOINTS[j]!));
      return { ...mesh, ...skin };
    }),
  };
  const count = (side: Side): number => hands[side]?.fingers.length ?? 0;
  return {
    ...marked,
    rig,
    map: guessBodyMap(inBody),
    figure,
    fingers: { L: count('L'), R: count('R') },
    places: own(places),
    tips: own(tips),
  };
}

type Hands = Readonly<Partial<Record<Side, FingeredHand>>>;

const findHands = (surfaces: readonly Surface[], body: Readonly<Record<MarkSlot, V3>>): Hands =>
  Object.fromEntries(
    SIDES.flatMap((side) => {
      const found = findFingers(surfaces, body[`forearm${side}`], body[`hand${side}`]);
      return found ? [[side, found]] : [];
    }),
  );

function withFingers(joints: Places, ends: Places, hands: Hands): { places: Places; tips: Places } {
  const places = { ...joints };
  const tips = { ...ends };
  for (const side of SIDES)
    for (const { name, joints: own, tip } of hands[side]?.fingers ?? []) {
      own.forEach((at, k) => {
        places[`${name}${k + 1}${side}`] = at;
      });
      tips[`${name}3${side}`] = tip;
    }
  return { places, tips };
}

/** Surfaces without the triangles of what is tied. */
function fleshOnly(surfaces: readonly Surface[], tied: readonly Int16Array[] | undefined): readonly Surface[] {
  if (!tied) return surfaces;
  return surfaces.map(({ positions, indices }, m) => {
    const left: number[] = [];
    for (let t = 0; t < indices.length; t += 3)
      if (tied[m]![indices[t]!]! < 0) left.push(indices[t]!, indices[t + 1]!, indices[t + 2]!);
    return { positions, indices: left };
  });
}

/** Gives vertices that are tied wholly to their joint. */
function tie({ joints, weights }: Skin, tied: Int16Array, jointOf: (tied: number) => number): void {
  for (const [v, to] of tied.entries()) {
    if (to < 0) continue;
    joints.fill(jointOf(to), 4 * v, 4 * v + 4);
    weights.fill(0, 4 * v, 4 * v + 4);
    weights[4 * v] = 1;
  }
}

/**
 * The same body standing on y = 0, looking along +Z, in metres: for files whose format tells neither units nor axes. Lengths
 * that no living body has as metres are read as centimetres or millimetres; what fits none of them becomes USUAL_HEIGHT tall.
 */
export function stoodUpright(rigged: RiggedMesh): RiggedMesh {
  const { frame } = rigged;
  const tall = 1 / frame.scale;
  const unit = [1, 0.01, 0.001].find((u) => tall * u >= 0.4 && tall * u <= 4);
  const metres = unit === undefined ? USUAL_HEIGHT : tall * unit;
  const at = (p: V3): V3 => intoBody(frame, p).map((x) => metres * x) as unknown as V3;
  const way = (p: V3): V3 => {
    const m = frame.turn;
    return [0, 1, 2].map((r) => m[3 * r]! * p[0] + m[3 * r + 1]! * p[1] + m[3 * r + 2]! * p[2]) as unknown as V3;
  };
  const all = (values: Float32Array, move: (p: V3) => V3): Float32Array => {
    const out = new Float32Array(values.length);
    for (let i = 0; i < values.length; i += 3) out.set(move([values[i]!, values[i + 1]!, values[i + 2]!]), i);
    return out;
  };
  const places = Object.fromEntries(Object.entries(rigged.places).map(([k, p]) => [k, at(p)]));
  const tips = Object.fromEntries(Object.entries(rigged.tips).map(([k, p]) => [k, at(p)]));
  return {
    ...rigged,
    places,
    tips,
    rig: skeletonOf(places, tips),
    figure: {
      ...rigged.figure,
      meshes: rigged.figure.meshes.map((mesh) => ({
        ...mesh,
        positions: all(mesh.positions, at),
        normals: mesh.normals && all(mesh.normals, way),
        shapes: mesh.shapes.map((s) => ({
          ...s,
          positions: all(s.positions, (p) => way(p).map((x) => x * metres * frame.scale) as unknown as V3),
        })),
      })),
    },
  };
}

const USUAL_HEIGHT = 1.7;

/** Where the last bones end: the top of the head, half a hand beyond the wrist, the tips of the toes. */
function tipsOf(places: Places): Places {
  const out: Record<string, V3> = { head: [places.head![0], 1, places.head![2]] };
  for (const s of ['L', 'R']) {
    const [elbow, wrist, toes, foot] = [`forearm${s}`, `hand${s}`, `toes${s}`, `foot${s}`].map((n) => places[n]!);
    out[`hand${s}`] = [0, 1, 2].map((k) => wrist![k]! + HAND * (wrist![k]! - elbow![k]!)) as unknown as V3;
    out[`toes${s}`] = [toes![0], toes![1], toes![2] + 0.6 * (toes![2] - foot![2])];
  }
  return out;
}

/** How long a hand is, in lengths of the forearm. */
const HAND = 0.6;

/** The lines of flesh: every joint to those that hang on it, so that hips hold the pelvis and the chest holds the back. */
function bonesOf(rig: SkeletonRig, places: Places, tips: Places): SkinBone[] {
  const children = childrenOf(rig);
  const flesh: readonly string[] = RIGGED_JOINTS;
  return rig.names.flatMap((name, joint): SkinBone[] => {
    // fingers take their share of the hand's skin
    if (!flesh.includes(name)) return [];
    const from = places[name]!;
    const tip = tips[name];
    if (tip) return [{ joint, from, to: tip }];
    // collars hold the shoulders; a line of the chest to them would take that from them
    return children[joint]!.map((c) => rig.names[c]!)
      .filter((n) => !n.startsWith('collar'))
      .map((n) => ({ joint, from, to: places[n]! }));
  });
}
