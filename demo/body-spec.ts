import { type BodyMap, guessBodyMap, NORMAL_SPACE, restPose, type SkeletonRig } from '../motion/index';
import { basisQuat, invMulQuat, mulQuat, normalizeQuat, rotate3 } from '../motion/math/quat';
import { normal, seeded } from './random';

/** Proportions of one cast member, metres; angles in degrees. */
export interface BodySpec {
  hipWidth: number;
  thigh: number;
  shin: number;
  ankle: number;
  /** Ankle to ball, ball to tip; toes are left out when 0. */
  foot: number;
  toes: number;
  /** Bone lengths of the spine from the hips up. */
  spine: number[];
  shoulderWidth: number;
  collar: number;
  upperArm: number;
  forearm: number;
  hand: number;
  neck: number[];
  head: number;
  /** Angle of the arms from hanging at rest: 90 is T, 45 is A. */
  arms: number;
  /** Joints a finger, by finger; 0 leaves it out. */
  fingers: [number, number, number, number, number];
  twists: boolean;
  /** How joint axes lie: along the world, along the bones, or anyhow. */
  axes: 'world' | 'bone' | 'odd';
  name: (slot: string) => string;
}

interface Node {
  slot: string;
  parent: string | undefined;
  at: number[];
  tip?: number[];
  /** Direction of the bone, for axes along bones. */
  along: number[];
}

const add = (a: number[], b: number[], s = 1): number[] => a.map((x, k) => x + b[k]! * s);

/** Lays out joints in the rest pose: standing on y = 0, facing +Z. */
function layOut(spec: BodySpec): Node[] {
  const nodes: Node[] = [];
  const hipY = spec.ankle + spec.shin + spec.thigh;
  const up = [0, 1, 0];
  let at = [0, hipY + 0.03, 0];
  nodes.push({ slot: 'hips', parent: undefined, at, along: up });
  let parent = 'hips';
  spec.spine.forEach((length, i) => {
    const slot = `spine${i + 1}`;
    if (i === 0) at = add(at, [0, 0.06, -0.005]);
    nodes.push({ slot, parent, at, along: up });
    at = add(at, [0, length, i === spec.spine.length - 1 ? 0.0 : -0.006]);
    parent = slot;
  });
  const chest = parent;
  const chestTop = at;
  spec.neck.forEach((length, i) => {
    nodes.push({ slot: `neck${i + 1}`, parent, at, along: up });
    at = add(at, [0, length, 0.012]);
    parent = `neck${i + 1}`;
  });
  nodes.push({ slot: 'head', parent, at, along: up, tip: [0, spec.head, 0] });
  for (const side of ['L', 'R'] as const) {
    const s = side === 'L' ? 1 : -1;
    const angle = (spec.arms * Math.PI) / 180;
    const out = [s * Math.sin(angle), -Math.cos(angle), 0];
    const inner = add(chestTop, [s * (spec.shoulderWidth - spec.collar), -0.05, 0.0]);
    let above = chest;
    if (spec.collar > 0) {
      nodes.push({ slot: `collar${side}`, parent: chest, at: inner, along: [s, 0, 0] });
      above = `collar${side}`;
    }
    const shoulder = add(inner, [s * spec.collar, -0.01, -0.005]);
    const elbow = add(add(shoulder, out, spec.upperArm), [0, 0, -0.004]);
    const wrist = add(add(elbow, out, spec.forearm), [0, 0, 0.004]);
    nodes.push({ slot: `upperArm${side}`, parent: above, at: shoulder, along: out });
    if (spec.twists)
      nodes.push({
        slot: `upperArmTwist1${side}`,
        parent: `upperArm${side}`,
        at: add(shoulder, out, spec.upperArm * 0.5),
        along: out,
      });
    nodes.push({ slot: `forearm${side}`, parent: `upperArm${side}`, at: elbow, along: out });
    if (spec.twists)
      nodes.push({
        slot: `forearmTwist1${side}`,
        parent: `forearm${side}`,
        at: add(elbow, out, spec.forearm * 0.5),
        along: out,
      });
    nodes.push({
      slot: `hand${side}`,
      parent: `forearm${side}`,
      at: wrist,
      along: out,
      tip: out.map((x) => x * spec.hand),
    });
    layFingers(nodes, spec, side, wrist, out);
    const hip = [s * spec.hipWidth, hipY, 0];
    const knee = [s * spec.hipWidth, spec.ankle + spec.shin, 0.006];
    const ankle = [s * spec.hipWidth, spec.ankle, -0.01];
    const ball = [s * (spec.hipWidth + 0.008), spec.toes > 0 ? 0.02 : 0.0, ankle[2]! + spec.foot];
    const down = [0, -1, 0];
    nodes.push({ slot: `thigh${side}`, parent: 'hips', at: hip, along: down });
    if (spec.twists)
      nodes.push({
        slot: `thighTwist1${side}`,
        parent: `thigh${side}`,
        at: add(hip, down, spec.thigh * 0.5),
        along: down,
      });
    nodes.push({ slot: `shin${side}`, parent: `thigh${side}`, at: knee, along: down });
    nodes.push({ slot: `foot${side}`, parent: `shin${side}`, at: ankle, along: [0, 0, 1], tip: add(ball, ankle, -1) });
    if (spec.toes > 0)
      nodes.push({
        slot: `toes${side}`,
        parent: `foot${side}`,
        at: ball,
        along: [0, 0, 1],
        tip: [0, -0.02, spec.toes],
      });
  }
  const withChildren = new Set(nodes.map((n) => n.parent));
  for (const n of nodes) if (withChildren.has(n.slot)) delete n.tip;
  return nodes;
}

function layFingers(nodes: Node[], spec: BodySpec, side: 'L' | 'R', wrist: number[], out: number[]): void {
  const names = ['thumb', 'index', 'middle', 'ring', 'pinky'];
  const shown = names.filter((_, i) => spec.fingers[i]! > 0);
  names.forEach((finger, i) => {
    const count = spec.fingers[i]!;
    if (count === 0) return;
    const thumb = finger === 'thumb';
    const spread = thumb ? 0.03 : 0.024 - 0.048 * ((shown.indexOf(finger) - 1) / Math.max(1, shown.length - 2));
    const dir = thumb
      ? normalise(
          add(
            out.map((x) => x * 0.75),
            [0, -0.15, 0.75],
          ),
        )
      : out;
    let at = add(add(wrist, out, spec.hand * (thumb ? 0.22 : 0.52)), [0, thumb ? -0.008 : 0, spread]);
    const length = (spec.hand * (thumb ? 0.4 : finger === 'middle' ? 0.52 : finger === 'pinky' ? 0.38 : 0.47)) / count;
    for (let k = 1; k <= count; k++) {
      const node: Node = {
        slot: `${finger}${k}${side}`,
        parent: k === 1 ? `hand${side}` : `${finger}${k - 1}${side}`,
        at,
        along: dir,
      };
      if (k === count) node.tip = dir.map((x) => x * length);
      nodes.push(node);
      at = add(at, dir, length);
    }
  });
}

function normalise(v: number[]): number[] {
  const l = Math.hypot(...v);
  return v.map((x) => x / l);
}

/** Builds the rig; its slots are known by construction and returned as the true body map, for tests to compare with. */
export function buildBody(
  spec: BodySpec,
  seed: number,
): { rig: SkeletonRig; truth: Map<string, string>; map: BodyMap } {
  const nodes = orderByTree(layOut(spec));
  const n = nodes.length;
  const index = new Map(nodes.map((node, j) => [node.slot, j]));
  const random = seeded(seed);
  const world = nodes.map((node) => axesOf(node, spec.axes, random));
  const parents = Int16Array.from(nodes, (node) => (node.parent === undefined ? -1 : index.get(node.parent)!));
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  nodes.forEach((node, j) => {
    const p = parents[j]!;
    const parentTurn = p < 0 ? [0, 0, 0, 1] : world[p]!;
    const back = [-parentTurn[0]!, -parentTurn[1]!, -parentTurn[2]!, parentTurn[3]!];
    const offset = p < 0 ? node.at : add(node.at, nodes[p]!.at, -1);
    const q = [0, 0, 0, 1];
    invMulQuat(q, 0, parentTurn, 0, world[j]!, 0);
    restR.set(q, 4 * j);
    rotate3(restT, 3 * j, back, 0, offset, 0);
    if (node.tip) rotate3(tips, 3 * j, [-world[j]![0]!, -world[j]![1]!, -world[j]![2]!, world[j]![3]!], 0, node.tip, 0);
  });
  const names = nodes.map((node) => spec.name(node.slot));
  const rig: SkeletonRig = { kind: 'skeleton', names, parents, restT, restR, tips, found: NORMAL_SPACE };
  return { rig, truth: new Map(nodes.map((node, j) => [node.slot, names[j]!])), map: guessBodyMap(rig, restPose(rig)) };
}

function orderByTree(nodes: Node[]): Node[] {
  const out: Node[] = [];
  const visit = (slot: string | undefined): void => {
    for (const node of nodes.filter((x) => x.parent === slot)) {
      out.push(node);
      visit(node.slot);
    }
  };
  visit(undefined);
  return out;
}

function axesOf(node: Node, style: BodySpec['axes'], random: () => number): number[] {
  const q = [0, 0, 0, 1];
  if (style === 'world') return q;
  const y = normalise(node.along);
  const hint = Math.abs(y[2]!) > 0.9 ? [0, 1, 0] : [0, 0, 1];
  const x = normalise([
    y[1]! * hint[2]! - y[2]! * hint[1]!,
    y[2]! * hint[0]! - y[0]! * hint[2]!,
    y[0]! * hint[1]! - y[1]! * hint[0]!,
  ]);
  const z = [x[1]! * y[2]! - x[2]! * y[1]!, x[2]! * y[0]! - x[0]! * y[2]!, x[0]! * y[1]! - x[1]! * y[0]!];
  basisQuat(q, 0, x, y, z);
  if (style === 'odd') {
    const turn = [normal(random), normal(random), normal(random), normal(random)];
    normalizeQuat(turn, 0);
    mulQuat(q, 0, q, 0, turn, 0);
  }
  return q;
}
