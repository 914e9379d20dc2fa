import { MotionError } from '../errors';
import { MAX_FRAMES, MAX_NUMBERS, type Motion } from '../motion/motion';
import type { PlaceTrack } from '../motion/tracks';
import { MAX_JOINTS, NORMAL_SPACE, type SkeletonRig } from '../rig/rig';
import { lineAt, NumberScanner } from './bvh-scan';
import { rateFromFrameTime } from './frame-rate';

export interface BvhFile {
  /** In the file's own units and axes; see normalizeSpace. */
  readonly rig: SkeletonRig;
  /** Undefined where the file declares no frames. */
  readonly motion: Motion | undefined;
  readonly warnings: readonly string[];
}

interface Node {
  name: string;
  parent: number;
  offset: [number, number, number];
  /** One letter a channel: X Y Z for turns, x y z for places. */
  channels: string;
  tip: [number, number, number] | undefined;
  line: number;
}

const MAX_DEPTH = 512;

/**
 * Reads a BVH file. Rest turns are identity (the zero pose); turns come in the joint's frame.
 * A position channel replaces the joint's offset where its values lie nearer the offset than zero, and adds to it otherwise.
 * Throws MotionError only, with the line.
 */
export function readBvh(bytes: Uint8Array): BvhFile {
  const warnings: string[] = [];
  if (bytes.length === 0) throw new MotionError('empty', 'The file is empty.');
  const head = findMotion(bytes);
  const nodes = readHierarchy(bytes, head.hierarchyEnd, warnings);
  const rig = buildRig(nodes, warnings);
  if (head.numbersStart < 0) {
    throw new MotionError('truncated', 'The file ends before its MOTION part.', { line: lineAt(bytes, bytes.length) });
  }
  const frames = readCount(head.framesText, head.framesLine);
  if (frames === 0) {
    warnings.push('The file declares no frames: only its skeleton was read.');
    return { rig, motion: undefined, warnings };
  }
  const seconds = Number(head.frameTimeText);
  if (!(seconds > 0) || !Number.isFinite(seconds)) {
    throw new MotionError(
      'bad-number',
      `The frame time "${head.frameTimeText.slice(0, 24)}" is not a number above 0.`,
      { line: head.framesLine + 1 },
    );
  }
  const fps = rateFromFrameTime(head.frameTimeText);
  return { rig, motion: readFrames(bytes, head.numbersStart, nodes, frames, fps, warnings), warnings };
}

interface Head {
  hierarchyEnd: number;
  numbersStart: number;
  framesText: string;
  framesLine: number;
  frameTimeText: string;
}

function findMotion(bytes: Uint8Array): Head {
  const text = new TextDecoder();
  const missing: Head = {
    hierarchyEnd: bytes.length,
    numbersStart: -1,
    framesText: '',
    framesLine: 0,
    frameTimeText: '',
  };
  let found: Head | undefined;
  let line = 0;
  for (let i = 0; i < bytes.length; ) {
    let end = bytes.indexOf(10, i);
    if (end < 0) end = bytes.length;
    line++;
    if (end - i < 200) {
      const s = text
        .decode(bytes.subarray(i, end))
        .replace(/(#|\/\/).*/, '')
        .trim();
      if (line === 1 && !/^\uFEFF?\s*(HIERARCHY|ROOT)\b/i.test(s) && s !== '' && !/^[\s\S]{0,3}HIERARCHY/i.test(s)) {
        throw new MotionError('not-this-format', 'The file does not start with HIERARCHY, so it is not BVH.', { line });
      }
      if (!found && /^MOTION$/i.test(s)) found = { ...missing, hierarchyEnd: i };
      else if (found && found.framesText === '') {
        const m = /^Frames\s*:?\s*(\S+)$/i.exec(s);
        if (m) {
          found.framesText = m[1]!;
          found.framesLine = line;
        } else if (s !== '')
          throw new MotionError('bad-structure', 'MOTION needs a line "Frames: N" after it.', { line });
      } else if (found) {
        const m = /^Frame\s*Time\s*:?\s*(\S+)$/i.exec(s);
        if (m) return { ...found, frameTimeText: m[1]!, numbersStart: end };
        if (s !== '')
          throw new MotionError('bad-structure', '"Frames:" needs a line "Frame Time: seconds" after it.', { line });
      }
    } else if (line === 1)
      throw new MotionError('not-this-format', 'The file does not start with HIERARCHY, so it is not BVH.', { line });
    i = end + 1;
  }
  return found ?? missing;
}

function readCount(text: string, line: number): number {
  const n = Number(text);
  if (!Number.isInteger(n) || n < 0)
    throw new MotionError('bad-number', `"${text.slice(0, 24)}" is not a count of frames.`, { line });
  if (n > MAX_FRAMES)
    throw new MotionError('too-large', `${n} frames are declared; at most ${MAX_FRAMES} are accepted.`, { line });
  return n;
}

function readHierarchy(bytes: Uint8Array, end: number, warnings: string[]): Node[] {
  const lines = new TextDecoder()
    .decode(bytes.subarray(0, Math.min(end, 8_000_000)))
    .replace(/^\uFEFF/, '')
    .split('\n');
  const nodes: Node[] = [];
  /** Open braces: index of a node, or −1 inside an end site. */
  const open: number[] = [];
  let pending: number | undefined;
  const tips = new Map<number, Node['offset']>();
  let endOwner = -1;
  lines.forEach((raw, index) => {
    const line = index + 1;
    const code = raw.replace(/(#|\/\/).*/, '');
    // a line may hold several statements: split braces off
    for (const part of code.replace(/([{}])/g, '\n$1\n').split('\n')) {
      const s = part.trim();
      if (s === '') continue;
      const word = s.split(/\s+/, 1)[0]!.toUpperCase();
      const top = open.at(-1);
      if (word === 'HIERARCHY') continue;
      if (word === '{') {
        if (pending === undefined)
          throw new MotionError('bad-structure', 'A brace opens without a joint before it.', { line });
        if (open.length >= MAX_DEPTH)
          throw new MotionError('too-large', `Joints are nested more than ${MAX_DEPTH} deep.`, { line });
        open.push(pending);
        pending = undefined;
      } else if (word === '}') {
        if (open.pop() === undefined)
          throw new MotionError('bad-structure', 'A brace closes that was never opened.', { line });
      } else if (word === 'ROOT' || word === 'JOINT') {
        if (nodes.length >= MAX_JOINTS) throw new MotionError('too-large', `More than ${MAX_JOINTS} joints.`, { line });
        if (top === -1) throw new MotionError('bad-structure', 'A joint stands inside an end site.', { line });
        const name = s.slice(word.length).trim() || `joint ${nodes.length + 1}`;
        nodes.push({ name, parent: top ?? -1, offset: [0, 0, 0], channels: '', tip: undefined, line });
        pending = nodes.length - 1;
      } else if (word === 'END') {
        if (top === undefined || top === -1)
          throw new MotionError('bad-structure', 'An end site stands outside a joint.', { line });
        endOwner = top;
        pending = -1;
      } else if (word === 'OFFSET') {
        const v = s
          .split(/[\s,]+/)
          .slice(1)
          .map(Number);
        if (v.length < 3 || v.slice(0, 3).some((x) => !Number.isFinite(x))) {
          throw new MotionError('bad-number', 'OFFSET needs three finite numbers.', { line });
        }
        if (top === undefined) throw new MotionError('bad-structure', 'OFFSET stands outside a joint.', { line });
        const offset: Node['offset'] = [v[0]!, v[1]!, v[2]!];
        if (top === -1) tips.set(endOwner, tips.get(endOwner) ?? offset);
        else nodes[top]!.offset = offset;
      } else if (word === 'CHANNELS') {
        if (top === undefined || top === -1)
          throw new MotionError('bad-structure', 'CHANNELS stands outside a joint.', { line });
        nodes[top]!.channels = readChannels(s, line);
      } else throw new MotionError('bad-structure', `"${s.slice(0, 30)}" is not part of a BVH skeleton.`, { line });
    }
  });
  if (nodes.length === 0) throw new MotionError('no-joints', 'The file names no joints.');
  if (open.length > 0)
    throw new MotionError('truncated', `${open.length} braces are never closed.`, { line: lines.length });
  for (const [j, tip] of tips) nodes[j]!.tip = tip;
  if (nodes.filter((n) => n.parent < 0).length > 1)
    warnings.push('The file has several roots; all are read as one rig.');
  return nodes;
}

function readChannels(s: string, line: number): string {
  const words = s.split(/[\s,]+/).slice(1);
  const declared = Number(words[0]);
  const names = words.slice(1).filter(Boolean);
  if (!Number.isInteger(declared) || declared !== names.length) {
    throw new MotionError('wrong-count', `CHANNELS declares ${words[0]} and names ${names.length}.`, { line });
  }
  return names
    .map((name) => {
      const m = /^([xyz])(rotation|position)$/i.exec(name);
      if (!m) throw new MotionError('unsupported', `The channel "${name.slice(0, 30)}" is not known.`, { line });
      return m[2]!.toLowerCase() === 'rotation' ? m[1]!.toUpperCase() : m[1]!.toLowerCase();
    })
    .join('');
}

function buildRig(nodes: Node[], warnings: string[]): SkeletonRig {
  const n = nodes.length;
  const seen = new Map<string, number>();
  const names = nodes.map(({ name }) => {
    const k = (seen.get(name) ?? 0) + 1;
    seen.set(name, k);
    if (k > 1) warnings.push(`The joint name "${name}" stands ${k} times; the later one is called "${name} ${k}".`);
    return k > 1 ? `${name} ${k}` : name;
  });
  const restR = new Float32Array(4 * n);
  const restT = new Float32Array(3 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  nodes.forEach((node, j) => {
    restR[4 * j + 3] = 1;
    restT.set(node.offset, 3 * j);
    if (node.tip) tips.set(node.tip, 3 * j);
  });
  return {
    kind: 'skeleton',
    names,
    parents: Int16Array.from(nodes, (x) => x.parent),
    restT,
    restR,
    tips,
    found: NORMAL_SPACE,
  };
}

function readFrames(
  bytes: Uint8Array,
  start: number,
  nodes: Node[],
  frames: number,
  fps: number,
  warnings: string[],
): Motion {
  const n = nodes.length;
  const width = nodes.reduce((sum, node) => sum + node.channels.length, 0);
  if (width === 0) throw new MotionError('no-motion', 'No joint has channels, so there is no motion to read.');
  // two bytes a number are the least a file can spend: bounds the allocation by the file itself
  const possible = Math.ceil((bytes.length - start) / 2);
  const needed = frames * width;
  if (frames * n * 4 > MAX_NUMBERS)
    throw new MotionError('too-large', `${frames} frames of ${n} joints are more than is taken at once.`);
  const scanner = new NumberScanner(bytes, start);
  if (needed > possible) refuseShort(scanner, frames, width, 0, bytes);

  const turns = new Float32Array(4 * n * frames);
  const row = new Float64Array(width);
  const plans = nodes.map((node) => planOf(node, frames));
  for (let f = 0; f < frames; f++) {
    const got = scanner.read(row, width);
    if (got < width) refuseShort(scanner, frames, width, f * width + got, bytes);
    let c = 0;
    for (let j = 0; j < n; j++) {
      const o = 4 * (f * n + j);
      const plan = plans[j]!;
      if (plan.fast) turnFast(turns, o, plan, row, c);
      else turnSlow(turns, o, plan, row, c);
      if (plan.places)
        for (let k = 0; k < plan.width; k++) if (plan.place[k]! >= 0) plan.places[3 * f + plan.place[k]!] = row[c + k]!;
      c += plan.width;
      if (f > 0) {
        const b = o - 4 * n;
        const dot =
          turns[o]! * turns[b]! +
          turns[o + 1]! * turns[b + 1]! +
          turns[o + 2]! * turns[b + 2]! +
          turns[o + 3]! * turns[b + 3]!;
        if (dot < 0) for (let k = 0; k < 4; k++) turns[o + k] = -turns[o + k]!;
      }
    }
  }
  const extra = scanner.countRest();
  if (extra > 0) {
    warnings.push(
      `${frames} frames are declared; ${extra} numbers (about ${Math.round(extra / width)} frames) more are in the file and were left out.`,
    );
  }
  const places: PlaceTrack[] = [];
  plans.forEach((plan, joint) => {
    if (plan.places) places.push({ joint, values: placeTrack(nodes[joint]!, plan.places, frames) });
  });
  return { fps, frameCount: frames, turns, places, numbers: [], scales: [], steps: [] };
}

interface ChannelPlan {
  width: number;
  /** Offsets of the three turns within the joint's channels and their axes, where each axis stands once. */
  fast: boolean;
  at: number[];
  axis: number[];
  sign: number;
  place: number[];
  places: Float32Array | undefined;
}

function planOf(node: Node, frames: number): ChannelPlan {
  const at: number[] = [];
  const axis: number[] = [];
  const place: number[] = [];
  [...node.channels].forEach((c, k) => {
    const turn = 'XYZ'.indexOf(c);
    place.push('xyz'.indexOf(c));
    if (turn >= 0) {
      at.push(k);
      axis.push(turn);
    }
  });
  return {
    width: node.channels.length,
    fast: axis.length === 3 && new Set(axis).size === 3,
    at,
    axis,
    sign: (axis[1]! - axis[0]! + 3) % 3 === 1 ? 1 : -1,
    place,
    places: place.some((p) => p >= 0) ? new Float32Array(3 * frames) : undefined,
  };
}

const HALF_DEGREE = Math.PI / 360;

/** Product of three turns about different axes i, j, k in closed form; sign = +1 where (i, j, k) is cyclic. */
function turnFast(dst: Float32Array, o: number, plan: ChannelPlan, row: Float64Array, c: number): void {
  const a = row[c + plan.at[0]!]! * HALF_DEGREE;
  const b = row[c + plan.at[1]!]! * HALF_DEGREE;
  const d = row[c + plan.at[2]!]! * HALF_DEGREE;
  const s1 = Math.sin(a);
  const c1 = Math.cos(a);
  const s2 = Math.sin(b);
  const c2 = Math.cos(b);
  const s3 = Math.sin(d);
  const c3 = Math.cos(d);
  const e = plan.sign;
  dst[o + plan.axis[0]!] = s1 * c2 * c3 + e * c1 * s2 * s3;
  dst[o + plan.axis[1]!] = c1 * s2 * c3 - e * s1 * c2 * s3;
  dst[o + plan.axis[2]!] = c1 * c2 * s3 + e * s1 * s2 * c3;
  dst[o + 3] = c1 * c2 * c3 - e * s1 * s2 * s3;
}

function turnSlow(dst: Float32Array, o: number, plan: ChannelPlan, row: Float64Array, c: number): void {
  let x = 0;
  let y = 0;
  let z = 0;
  let w = 1;
  for (let k = 0; k < plan.at.length; k++) {
    const half = row[c + plan.at[k]!]! * HALF_DEGREE;
    const s = Math.sin(half);
    const q = Math.cos(half);
    const bx = plan.axis[k] === 0 ? s : 0;
    const by = plan.axis[k] === 1 ? s : 0;
    const bz = plan.axis[k] === 2 ? s : 0;
    const nx = w * bx + x * q + y * bz - z * by;
    const ny = w * by - x * bz + y * q + z * bx;
    const nz = w * bz + x * by - y * bx + z * q;
    w = w * q - x * bx - y * by - z * bz;
    x = nx;
    y = ny;
    z = nz;
  }
  dst[o] = x;
  dst[o + 1] = y;
  dst[o + 2] = z;
  dst[o + 3] = w;
}

function placeTrack(node: Node, values: Float32Array, frames: number): Float32Array {
  const present = [0, 1, 2].map((k) => node.channels.includes('xyz'[k]!));
  let toZero = 0;
  let toOffset = 0;
  for (let k = 0; k < 3; k++) {
    if (!present[k]) continue;
    let mean = 0;
    for (let f = 0; f < frames; f++) mean += values[3 * f + k]! / frames;
    toZero += mean * mean;
    toOffset += (mean - node.offset[k]!) ** 2;
  }
  const adds = toZero < toOffset;
  for (let f = 0; f < frames; f++) {
    for (let k = 0; k < 3; k++) if (adds || !present[k]) values[3 * f + k] = values[3 * f + k]! + node.offset[k]!;
  }
  return values;
}

function refuseShort(scanner: NumberScanner, frames: number, width: number, before: number, bytes: Uint8Array): never {
  const got = before + scanner.countRest();
  throw new MotionError(
    'wrong-count',
    `${frames} frames of ${width} numbers are declared; the file holds ${got} numbers, ${Math.floor(got / width)} whole frames. Export it again, or correct the frame count.`,
    { line: lineAt(bytes, bytes.length) },
  );
}
