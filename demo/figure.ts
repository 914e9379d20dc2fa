import {
  type BodyMap,
  chainOf,
  childrenOf,
  type Figure,
  type FigureMaterial,
  type FigureMesh,
  jointOf,
  restPose,
  type SkeletonRig,
  strongestFour,
} from '../motion/index';
import type { BodySpec } from './body-spec';
import { type Blob, distanceTo, fieldAt, surfaceNets } from './sdf';

type Color = [number, number, number];
/** Surfaces that face shapes move. */
const EYES: Color = [0.01, 0.008, 0.008];
const MOUTH: Color = [0.2, 0.035, 0.03];

export interface Look {
  kind: 'person' | 'robot';
  girth: number;
  belly: number;
  head: number;
  coat: Color;
  trousers: Color;
  boots: Color;
  skin: Color;
  trim: Color;
  hair: Color;
  hat: 'cap' | 'souwester' | 'bobble' | 'none';
}

/** Grid of each colour's surface, metres: fine for faces and fingers, coarse for cloth. */
const THIN = 0.0115;
const FINE = 0.019;
const COARSE = 0.032;

/** Models a body around the rig's joints: one soft surface for every colour, weighted to the joints that carry it. */
export function buildFigure(rig: SkeletonRig, map: BodyMap, spec: BodySpec, look: Look): Figure {
  const blobs = look.kind === 'robot' ? robot(rig, map, spec, look) : person(rig, map, spec, look);
  const layers = new Map<string, Blob[]>();
  for (const blob of blobs) {
    const key = blob.color.map((c) => c.toFixed(3)).join(' ');
    layers.set(key, [...(layers.get(key) ?? []), blob]);
  }
  const robotic = look.kind === 'robot';
  const materials: FigureMaterial[] = [];
  const meshes = [...layers.values()].map((layer, i): FigureMesh => {
    const [r, g, b] = layer[0]!.color;
    materials.push({
      name: `paint ${i + 1}`,
      color: [r, g, b, 1],
      roughness: robotic ? 0.5 : 0.82,
      metallic: robotic ? 0.2 : 0,
      doubleSided: false,
      image: -1,
    });
    return withShapes(skinLayer(layer, blobs, rig, robotic ? 0.006 : 0.032, `layer ${i + 1}`, i), layer);
  });
  return { meshes, materials, images: [] };
}

/** Face shapes of eyes (blink_L, blink_R) and mouth (mouth_open, smile): how far each point moves at full strength. */
function withShapes(mesh: FigureMesh, layer: readonly Blob[]): FigureMesh {
  const move = (by: (x: number, y: number, z: number) => [number, number, number]): Float32Array => {
    const out = new Float32Array(mesh.positions.length);
    for (let o = 0; o < out.length; o += 3)
      out.set(by(mesh.positions[o]!, mesh.positions[o + 1]!, mesh.positions[o + 2]!), o);
    return out;
  };
  const centre = layer.reduce((s, b) => s + (b.a[1]! + b.b[1]!) / 2, 0) / layer.length;
  const half = Math.max(...layer.map((b) => Math.max(Math.abs(b.a[0]!), Math.abs(b.b[0]!))));
  if (layer[0]!.color === EYES)
    return {
      ...mesh,
      shapes: [
        { name: 'blink_L', positions: move((x, y) => [0, x > 0 ? (centre - y) * 0.85 : 0, 0]) },
        { name: 'blink_R', positions: move((x, y) => [0, x < 0 ? (centre - y) * 0.85 : 0, 0]) },
      ],
    };
  if (layer[0]!.color === MOUTH)
    return {
      ...mesh,
      shapes: [
        { name: 'mouth_open', positions: move((x, y) => [-x * 0.25, (y - centre) * 2.6 - 0.3 * half, 0]) },
        {
          name: 'smile',
          positions: move((x) => [x * 0.3, half * 0.35 * Math.min(1, (x / half) ** 2) - half * 0.08, -0.1 * half]),
        },
      ],
    };
  return mesh;
}

function skinLayer(
  layer: readonly Blob[],
  all: readonly Blob[],
  rig: SkeletonRig,
  spread: number,
  name: string,
  material: number,
): FigureMesh {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  let thinnest = Number.POSITIVE_INFINITY;
  for (const b of layer) {
    const r = Math.max(b.ra, b.rb) * Math.max(1, ...(b.squash ?? [])) + Math.max(0, ...(b.box ?? [])) + 0.03;
    thinnest = Math.min(
      thinnest,
      Math.min(b.ra, b.rb) * Math.min(1, ...(b.squash ?? [])) + Math.min(1, ...(b.box ?? [1])) * (b.box ? 1 : 0),
    );
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k]!, b.a[k]! - r, b.b[k]! - r);
      high[k] = Math.max(high[k]!, b.a[k]! + r, b.b[k]! + r);
    }
  }
  const cell =
    thinnest < 0.008 ? Math.max(0.005, thinnest * 0.8) : thinnest < 0.015 ? THIN : thinnest < 0.03 ? FINE : COARSE;
  const surface = surfaceNets(layer, low, high, cell);
  const count = surface.positions.length / 3;
  const positions = Float32Array.from(surface.positions);
  const normals = new Float32Array(3 * count);
  const joints = new Uint16Array(4 * count);
  const weights = new Float32Array(4 * count);
  const children = childrenOf(rig);
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [positions[3 * i]!, positions[3 * i + 1]!, positions[3 * i + 2]!];
    const near = layer.filter((b) => distanceTo(b, x, y, z) < 0.09);
    const g = [
      fieldAt(near, x + 0.002, y, z) - fieldAt(near, x - 0.002, y, z),
      fieldAt(near, x, y + 0.002, z) - fieldAt(near, x, y - 0.002, z),
      fieldAt(near, x, y, z + 0.002) - fieldAt(near, x, y, z - 0.002),
    ];
    const l = Math.hypot(...g);
    normals.set(l > 0 ? g.map((v) => v / l) : [0, 1, 0], 3 * i);
    const own = near.reduce(
      (best, b) => (distanceTo(b, x, y, z) < distanceTo(best, x, y, z) ? b : best),
      near[0] ?? layer[0]!,
    );
    const first = distanceTo(own, x, y, z);
    // what moves a point: the part it belongs to, softly shared with that part's neighbours in the tree
    const kin = new Set([own.joint, rig.parents[own.joint]!, ...children[own.joint]!]);
    const sharing = all
      .filter((b) => kin.has(b.joint))
      .map((b) => ({ joint: b.joint, d: Math.max(first, distanceTo(b, x, y, z)) }));
    const best = new Map<number, number>();
    for (const { joint, d } of sharing)
      best.set(joint, Math.max(best.get(joint) ?? 0, Math.exp(-(((d - first) / spread) ** 2))));
    const four = strongestFour([...best.keys()], [...best.values()], own.joint);
    joints.set(four.joints, 4 * i);
    weights.set(four.weights, 4 * i);
  }
  return {
    name,
    positions,
    normals,
    uvs: undefined,
    colors: undefined,
    joints,
    weights,
    indices: Uint32Array.from(surface.indices),
    material,
    shapes: [],
  };
}

class Builder {
  readonly blobs: Blob[] = [];
  private readonly p: Float64Array;

  constructor(
    private readonly rig: SkeletonRig,
    private readonly map: BodyMap,
  ) {
    this.p = restPose(rig).p;
  }

  joint(slot: string): number {
    if (slot === 'chest') return chainOf(this.map, 'spine').at(-1) ?? this.joint('hips');
    return jointOf(this.map, slot);
  }

  at(slot: string, dx = 0, dy = 0, dz = 0): number[] {
    const j = this.joint(slot);
    return [this.p[3 * j]! + dx, this.p[3 * j + 1]! + dy, this.p[3 * j + 2]! + dz];
  }

  tip(slot: string): number[] {
    const j = this.joint(slot);
    const pose = restPose(this.rig);
    const t = this.rig.tips.subarray(3 * j, 3 * j + 3);
    const [x, y, z, w] = [0, 1, 2, 3].map((k) => pose.r[4 * j + k]!) as [number, number, number, number];
    const tx = 2 * (y * t[2]! - z * t[1]!);
    const ty = 2 * (z * t[0]! - x * t[2]!);
    const tz = 2 * (x * t[1]! - y * t[0]!);
    return [t[0]! + w * tx + y * tz - z * ty, t[1]! + w * ty + z * tx - x * tz, t[2]! + w * tz + x * ty - y * tx].map(
      (v, k) => v + this.p[3 * j + k]!,
    );
  }

  limb(
    slot: string,
    a: number[],
    b: number[],
    ra: number,
    rb: number,
    color: Color,
    soft = 0.03,
    squash?: number[],
  ): void {
    const joint = this.joint(slot);
    if (joint >= 0) this.blobs.push({ joint, a, b, ra, rb, color, soft, ...(squash ? { squash } : {}) });
  }

  box(slot: string, centre: number[], half: number[], round: number, color: Color, soft = 0.01): void {
    const joint = this.joint(slot);
    if (joint >= 0) this.blobs.push({ joint, a: centre, b: centre, ra: round, rb: round, box: half, color, soft });
  }
}

const between = (a: number[], b: number[], t: number): number[] => a.map((x, k) => x + (b[k]! - x) * t);
const scale = (c: Color, s: number): Color => [c[0] * s, c[1] * s, c[2] * s];

function person(rig: SkeletonRig, map: BodyMap, spec: BodySpec, look: Look): Blob[] {
  const m = new Builder(rig, map);
  const g = look.girth;
  const spine = chainOf(map, 'spine');
  const hips = m.at('hips');
  const chest = m.at('chest');
  const neck = m.at(spec.neck.length > 0 ? 'neck1' : 'head');
  // trunk: pelvis, belly, ribs
  m.limb(
    'hips',
    m.at('hips', -spec.hipWidth * 0.75, -0.02, 0),
    m.at('hips', spec.hipWidth * 0.75, -0.02, 0),
    0.086 * g,
    0.086 * g,
    look.trousers,
    0.05,
    [1, 1, 0.88],
  );
  spine.forEach((j, i) => {
    const slot = `spine${i + 1}`;
    const a = m.at(slot);
    const b = i + 1 < spine.length ? m.at(`spine${i + 2}`) : neck;
    const u = (i + 0.5) / spine.length;
    const wide = (0.082 + 0.03 * u) * g * (1 + (look.belly - 1) * (1 - u));
    if (j < 0) return;
    m.limb(slot, a, between(a, b, 0.7), wide, wide * 1.02, look.coat, 0.06, [1.18, 1, 0.86]);
  });
  m.limb(
    'chest',
    [-spec.shoulderWidth * 0.62, neck[1]! - 0.085, chest[2]!],
    [spec.shoulderWidth * 0.62, neck[1]! - 0.085, chest[2]!],
    0.066 * g,
    0.066 * g,
    look.coat,
    0.05,
  );
  // coat skirt and belt
  m.limb(
    'hips',
    [-spec.hipWidth * 0.62, hips[1]! + 0.055, 0],
    [spec.hipWidth * 0.62, hips[1]! + 0.055, 0],
    0.1 * g,
    0.1 * g,
    look.coat,
    0.06,
    [1, 0.62, 0.94],
  );
  belt(m, spine.length > 0 ? 'spine1' : 'hips', hips[1]! + 0.075, spec.hipWidth * 0.62, look);
  // scarf, neck, head
  const headSize = spec.head * 0.46 * look.head ** 0.3;
  const head = m.at('head', 0, spec.head * 0.5, 0.012);
  m.limb(spec.neck.length > 0 ? 'neck1' : 'chest', neck, m.at('head'), 0.05 * Math.sqrt(g), 0.048, look.skin, 0.02);
  m.limb(
    spec.neck.length > 0 ? 'neck1' : 'chest',
    [neck[0]! - 0.02, neck[1]! + 0.005, neck[2]! + 0.005],
    [neck[0]! + 0.02, neck[1]! + 0.005, neck[2]! + 0.005],
    0.066 * Math.sqrt(g),
    0.066 * Math.sqrt(g),
    look.trim,
    0.02,
    [1, 0.55, 1],
  );
  m.limb(
    'head',
    [head[0]!, head[1]! - headSize * 0.25, head[2]! + 0.004],
    [head[0]!, head[1]! + headSize * 0.22, head[2]! - 0.008],
    headSize * 0.72,
    headSize * 0.86,
    look.skin,
    0.02,
    [0.92, 1, 1],
  );
  m.limb(
    'head',
    [head[0]!, head[1]! - headSize * 0.1, head[2]! + headSize * 0.82],
    [head[0]!, head[1]! - headSize * 0.02, head[2]! + headSize * 0.78],
    headSize * 0.16,
    headSize * 0.12,
    scale(look.skin, 1.05),
    0.02,
  );
  for (const s of [-1, 1]) {
    const eye = [head[0]! + s * headSize * 0.33, head[1]! + headSize * 0.12, head[2]! + headSize * 0.78];
    m.limb('head', eye, eye, headSize * 0.095, headSize * 0.095, EYES, 0.0, [0.8, 1.25, 0.7]);
    const corner = [head[0]! + s * headSize * 0.2, head[1]! - headSize * 0.4, head[2]! + headSize * 0.74];
    const lips = [head[0]!, head[1]! - headSize * 0.42, head[2]! + headSize * 0.78];
    m.limb('head', lips, corner, headSize * 0.05, headSize * 0.035, MOUTH, 0.02, [1, 0.9, 0.9]);
    const ear = [head[0]! + s * headSize * 0.8, head[1]! - headSize * 0.02, head[2]!];
    m.limb('head', ear, ear, headSize * 0.17, headSize * 0.17, look.skin, 0.02);
  }
  m.limb(
    'head',
    [head[0]!, head[1]! + headSize * 0.12, head[2]! - headSize * 0.28],
    [head[0]!, head[1]! + headSize * 0.42, head[2]! - headSize * 0.1],
    headSize * 0.74,
    headSize * 0.66,
    look.hair,
    0.015,
  );
  hat(m, look, head, headSize);
  for (const side of ['L', 'R'] as const) {
    const s = side === 'L' ? 1 : -1;
    const [upper, fore, hand] = [m.at(`upperArm${side}`), m.at(`forearm${side}`), m.at(`hand${side}`)];
    m.limb(
      `collar${side}`,
      m.at(`collar${side}`),
      between(m.at(`collar${side}`), upper, 0.8),
      0.06 * g,
      0.06 * g,
      look.coat,
      0.04,
    );
    m.limb(`upperArm${side}`, upper, fore, 0.058 * g, 0.046 * g, look.coat, 0.03);
    m.limb(`forearm${side}`, fore, between(fore, hand, 0.86), 0.047 * g, 0.041 * g, look.coat, 0.02);
    m.limb(
      `forearm${side}`,
      between(fore, hand, 0.88),
      between(fore, hand, 0.92),
      0.043 * g,
      0.043 * g,
      look.trim,
      0.006,
    );
    const w = 0.03 * Math.sqrt(g) * (spec.hand / 0.18);
    m.limb(`hand${side}`, hand, palmEnd(m, map, side, hand), w * 0.85, w, look.skin, 0.015, [1, 0.72, 1]);
    fingers(m, map, spec, side, look, Math.sqrt(g) * (spec.hand / 0.18));
    const [thigh, shin, foot] = [m.at(`thigh${side}`), m.at(`shin${side}`), m.at(`foot${side}`)];
    m.limb(`thigh${side}`, thigh, shin, 0.084 * g, 0.06 * g, look.trousers, 0.03);
    m.limb(`shin${side}`, shin, between(shin, foot, 0.42), 0.06 * g, 0.056 * g, look.trousers, 0.025);
    m.limb(`shin${side}`, between(shin, foot, 0.5), between(shin, foot, 0.94), 0.062 * g, 0.05 * g, look.boots, 0.012);
    const sole = 0.034 * Math.sqrt(g);
    const ball = spec.toes > 0 ? m.at(`toes${side}`) : [foot[0]! + s * 0.004, 0, foot[2]! + spec.foot * 0.68];
    m.limb(
      `foot${side}`,
      [foot[0]!, sole * 1.02, foot[2]! - spec.foot * 0.22],
      [ball[0]!, sole * 1.12, ball[2]! - 0.01],
      sole * 0.98,
      sole * 1.08,
      look.boots,
      0.03,
      [1.15, 1, 1],
    );
    m.limb(
      `foot${side}`,
      [foot[0]!, foot[1]! * 0.95, foot[2]!],
      [ball[0]!, sole * 1.1, ball[2]! - 0.02],
      0.042 * Math.sqrt(g),
      sole,
      look.boots,
      0.03,
    );
    const toeEnd = spec.toes > 0 ? spec.toes * 0.72 : spec.foot * 0.22;
    m.limb(
      spec.toes > 0 ? `toes${side}` : `foot${side}`,
      [ball[0]!, sole * 1.12, ball[2]! + 0.005],
      [ball[0]! + s * 0.002, sole, ball[2]! + toeEnd],
      sole * 1.08,
      sole * 0.95,
      look.boots,
      0.02,
      [1.18, 1, 1],
    );
  }
  return m.blobs;
}

/** The middle of a palm's far end: close enough to the knuckles for fingers to grow out of it, else half way to the hand's tip. */
function palmEnd(m: Builder, map: BodyMap, side: 'L' | 'R', hand: number[]): number[] {
  for (const finger of ['middle1', 'index1'])
    if (jointOf(map, finger + side) >= 0) return between(hand, m.at(finger + side), 0.75);
  return between(hand, m.tip(`hand${side}`), 0.5);
}

function fingers(m: Builder, map: BodyMap, spec: BodySpec, side: 'L' | 'R', look: Look, w: number): void {
  ['thumb', 'index', 'middle', 'ring', 'pinky'].forEach((finger, i) => {
    for (let k = 1; k <= spec.fingers[i]!; k++) {
      const slot = `${finger}${k}${side}`;
      if (jointOf(map, slot) < 0) continue;
      const next = `${finger}${k + 1}${side}`;
      const end = jointOf(map, next) >= 0 ? m.at(next) : m.tip(slot);
      // a thumb grows out of the palm's side
      const from = slot === `thumb1${side}` ? between(m.at(`hand${side}`), m.at(slot), 0.4) : m.at(slot);
      m.limb(slot, from, end, 0.0125 * w, 0.0105 * w, look.skin, 0.006);
    }
  });
}

/** How far something reaches from a point in a direction, metres. */
function reachOf(blobs: readonly Blob[], from: number[], way: number[]): number {
  let far = 0;
  while (far < 1 && fieldAt(blobs, from[0]! + far * way[0]!, from[1]! + far * way[1]!, from[2]! + far * way[2]!) < 0)
    far += 0.002;
  return far;
}

/** A band round all that is there of the trunk at a height, lying a little outside it. */
function belt(m: Builder, slot: string, height: number, half: number, look: Look): void {
  const trunk = [...m.blobs];
  const reach = (a: number): number => reachOf(trunk, [0, height, 0], [Math.sin(a), 0, Math.cos(a)]);
  const [front, back] = [reach(0), reach(Math.PI)];
  const middle = (front - back) / 2;
  const r = Math.max(0.03, reach(Math.PI / 2) - half);
  const deep = (front + back) / 2;
  // as far out as the corners of the trunk ask for
  let out = 0.009 * look.girth ** 2;
  for (let i = 0; i < 48; i++) {
    const a = (i / 48) * 2 * Math.PI;
    const [x, z] = [reach(a) * Math.sin(a), reach(a) * Math.cos(a) - middle];
    const beyond = Math.max(0, Math.abs(x) - half);
    const grown = (by: number): number => Math.hypot(beyond / (r + by), z / (deep + by));
    while (out < 0.08 && grown(out - 0.006) > 1) out += 0.002;
  }
  m.limb(slot, [-half, height, middle], [half, height, middle], r + out, r + out, look.trim, 0.004, [
    1,
    (0.016 * look.girth) / (r + out),
    (deep + out) / (r + out),
  ]);
}

function hat(m: Builder, look: Look, head: number[], r: number): void {
  const [x, y, z] = head as [number, number, number];
  if (look.hat === 'cap') {
    m.limb(
      'head',
      [x, y + r * 0.62, z - r * 0.05],
      [x, y + r * 0.7, z - r * 0.05],
      r * 0.86,
      r * 0.8,
      look.coat,
      0.006,
      [1, 0.62, 1.05],
    );
    m.limb(
      'head',
      [x - r * 0.3, y + r * 0.42, z + r * 0.75],
      [x + r * 0.3, y + r * 0.42, z + r * 0.75],
      r * 0.36,
      r * 0.36,
      look.boots,
      0.006,
      [1.1, 0.2, 1],
    );
    m.limb(
      'head',
      [x, y + r * 0.42, z - r * 0.02],
      [x, y + r * 0.42, z],
      r * 0.9,
      r * 0.9,
      look.trim,
      0.004,
      [1, 0.14, 1.02],
    );
  } else if (look.hat === 'souwester') {
    m.limb(
      'head',
      [x, y + r * 0.6, z - r * 0.05],
      [x, y + r * 0.75, z - r * 0.05],
      r * 0.84,
      r * 0.6,
      look.coat,
      0.02,
      [1, 0.85, 1.05],
    );
    m.limb(
      'head',
      [x, y + r * 0.36, z - r * 0.25],
      [x, y + r * 0.4, z + r * 0.1],
      r * 1.15,
      r * 1.0,
      look.coat,
      0.02,
      [1.02, 0.16, 1.1],
    );
  } else if (look.hat === 'bobble') {
    m.limb(
      'head',
      [x, y + r * 0.68, z - r * 0.05],
      [x, y + r * 0.92, z - r * 0.1],
      r * 0.94,
      r * 0.66,
      look.coat,
      0.02,
    );
    m.limb(
      'head',
      [x, y + r * 0.46, z - r * 0.05],
      [x, y + r * 0.5, z - r * 0.04],
      r * 0.97,
      r * 0.97,
      look.trim,
      0.006,
      [1, 0.24, 1],
    );
    m.limb(
      'head',
      [x, y + r * 1.62, z - r * 0.12],
      [x, y + r * 1.62, z - r * 0.12],
      r * 0.26,
      r * 0.26,
      look.trim,
      0.01,
    );
  } else {
    m.limb('head', [x, y - r * 0.55, z + r * 0.35], [x, y - r * 0.85, z + r * 0.45], r * 0.5, r * 0.3, look.hair, 0.03);
  }
}

function robot(rig: SkeletonRig, map: BodyMap, spec: BodySpec, look: Look): Blob[] {
  const m = new Builder(rig, map);
  const hips = m.at('hips');
  const chest = m.at('chest');
  const head = m.at('head');
  m.box('hips', [0, hips[1]! - 0.01, 0], [spec.hipWidth * 0.85, 0.06, 0.075], 0.025, look.trousers);
  m.limb('chest', [0, chest[1]! + 0.02, 0], [0, chest[1]! + 0.12, 0], 0.065, 0.065, look.boots, 0.01);
  const middle = chest[1]! + spec.spine[0]! * 0.62;
  m.box('chest', [0, middle, 0], [spec.shoulderWidth * 0.66, spec.spine[0]! * 0.34, 0.11], 0.04, look.coat);
  m.limb('chest', [0, middle + 0.02, 0.14], [0, middle + 0.02, 0.15], 0.075, 0.07, look.trim, 0.008, [1, 1, 0.5]);
  m.limb('chest', [-0.1, middle - 0.02, -0.15], [0.1, middle - 0.02, -0.15], 0.065, 0.065, look.trim, 0.01);
  m.box('head', [0, head[1]! + spec.head * 0.46, 0.01], [0.1, spec.head * 0.24, 0.085], 0.04, look.skin);
  m.limb('head', [0, head[1]!, 0], [0, head[1]! + 0.05, 0], 0.06, 0.06, look.boots, 0.01);
  for (const s of [-1, 1])
    m.limb(
      'head',
      [s * 0.05, head[1]! + spec.head * 0.5, 0.13],
      [s * 0.05, head[1]! + spec.head * 0.5, 0.138],
      0.03,
      0.028,
      look.hair,
      0.003,
    );
  m.limb(
    'head',
    [0, head[1]! + spec.head * 0.8, 0],
    [0, head[1]! + spec.head * 1.05, 0],
    0.012,
    0.012,
    look.boots,
    0.004,
  );
  m.limb(
    'head',
    [0, head[1]! + spec.head * 1.08, 0],
    [0, head[1]! + spec.head * 1.08, 0],
    0.026,
    0.026,
    look.trim,
    0.004,
  );
  for (const side of ['L', 'R'] as const) {
    const [upper, fore, hand] = [m.at(`upperArm${side}`), m.at(`forearm${side}`), m.at(`hand${side}`)];
    const end = m.tip(`hand${side}`);
    m.limb(
      `collar${side}`,
      m.at(`collar${side}`),
      between(m.at(`collar${side}`), upper, 0.7),
      0.055,
      0.055,
      look.boots,
      0.005,
    );
    m.limb(`upperArm${side}`, upper, upper, 0.085, 0.085, look.trim, 0.004);
    m.limb(`upperArm${side}`, between(upper, fore, 0.2), between(upper, fore, 0.82), 0.048, 0.044, look.coat, 0.006);
    m.limb(`forearm${side}`, fore, fore, 0.058, 0.058, look.boots, 0.004);
    m.limb(`forearm${side}`, between(fore, hand, 0.22), between(fore, hand, 0.86), 0.062, 0.05, look.coat, 0.006);
    m.limb(`hand${side}`, hand, between(hand, end, 0.3), 0.046, 0.05, look.boots, 0.004);
    for (const dz of [-0.036, 0.036])
      m.limb(
        `hand${side}`,
        between(hand, end, 0.3).map((v, k) => (k === 2 ? v + dz : v)),
        end.map((v, k) => (k === 2 ? v + dz * 0.5 : v)),
        0.022,
        0.017,
        look.trim,
        0.004,
      );
    const [thigh, shin, foot] = [m.at(`thigh${side}`), m.at(`shin${side}`), m.at(`foot${side}`)];
    const ball = m.at(`toes${side}`);
    m.limb(`thigh${side}`, thigh, thigh, 0.08, 0.08, look.trim, 0.004);
    m.limb(`thigh${side}`, between(thigh, shin, 0.2), between(thigh, shin, 0.84), 0.062, 0.055, look.trousers, 0.006);
    m.limb(`shin${side}`, shin, shin, 0.066, 0.066, look.boots, 0.004);
    m.limb(`shin${side}`, between(shin, foot, 0.2), between(shin, foot, 0.9), 0.07, 0.056, look.coat, 0.006);
    m.box(`foot${side}`, [foot[0]!, 0.042, (foot[2]! + ball[2]!) / 2 - 0.04], [0.052, 0.016, 0.07], 0.026, look.boots);
    m.limb(`foot${side}`, foot, foot, 0.058, 0.058, look.boots, 0.01);
    m.box(`toes${side}`, [ball[0]!, 0.036, ball[2]! + 0.04], [0.052, 0.01, 0.024], 0.026, look.trim);
  }
  return m.blobs;
}
