import { MotionError } from '../errors';
import { eulerQuat, mulQuat } from '../math/quat';
import { MAX_JOINTS, NORMAL_SPACE, type SkeletonRig } from '../rig/rig';

/** One bone of an ASF file: where it leads at rest, its own axes, and what of it moves. */
export interface AsfBone {
  readonly name: string;
  /** Offset of the bone's end from its start, in file units, in the file's world at rest. */
  readonly along: readonly [number, number, number];
  /** C: turn of the bone's own axes. A frame's turn acts as C · R · C⁻¹. */
  readonly axes: readonly number[];
  /** Letters in the order in which they are applied: X Y Z turns, x y z places, l length. */
  readonly dof: string;
}

/** An Acclaim skeleton. Joint j of the rig is bone j; joint 0 is the root. */
export interface AsfFile {
  readonly rig: SkeletonRig;
  readonly bones: readonly AsfBone[];
  /** Radians of an angle unit. */
  readonly angle: number;
  /** What the motion's lengths are multiplied by: the file's own length unit divided out. */
  readonly lengthScale: number;
  readonly warnings: readonly string[];
}

const MAX_BYTES = 16 * 1024 * 1024;

interface Draft {
  name: string;
  direction: [number, number, number];
  length: number;
  axis: [number, number, number];
  order: string;
  dof: string;
  line: number;
}

/** Lines with their numbers, comments and blank ones left out. */
function* linesOf(text: string): Generator<{ words: string[]; line: number }> {
  let line = 0;
  for (const raw of text.split(/\r\n|\r|\n/)) {
    line++;
    const words = raw.replace(/#.*$/, '').trim().split(/\s+/).filter(Boolean);
    if (words.length > 0) yield { words, line };
  }
}

/**
 * Reads the skeleton of an Acclaim pair (ASF). Lengths stay in file units, with the file's own length unit divided out.
 * Throws MotionError only, with the line.
 */
export function readAsf(bytes: Uint8Array): AsfFile {
  if (bytes.length === 0) throw new MotionError('empty', 'The file is empty.');
  if (bytes.length > MAX_BYTES)
    throw new MotionError('too-large', `A skeleton file of ${Math.round(bytes.length / 2 ** 20)} MiB is too large.`);
  const text = new TextDecoder().decode(bytes);
  if (!/^\s*(#[^\n]*\n\s*)*:version/i.test(text))
    throw new MotionError('not-this-format', 'This is not an ASF skeleton: it does not begin with ":version".', {
      line: 1,
    });
  let section = '';
  let lengthUnit = 1;
  let angle = Math.PI / 180;
  const root: Draft = {
    name: 'root',
    direction: [0, 0, 0],
    length: 0,
    axis: [0, 0, 0],
    order: 'XYZ',
    dof: 'xyzXYZ',
    line: 1,
  };
  let rootPlace: [number, number, number] = [0, 0, 0];
  const bones: Draft[] = [];
  const links: { parent: string; children: string[]; line: number }[] = [];
  let bone: Draft | undefined;
  const warnings: string[] = [];
  for (const { words, line } of linesOf(text)) {
    const key = words[0]!.toLowerCase();
    if (key.startsWith(':')) {
      section = key.slice(1);
      continue;
    }
    if (section === 'units') {
      if (key === 'length') lengthUnit = number(words[1], line) || 1;
      if (key === 'angle') angle = /^rad/i.test(words[1] ?? '') ? 1 : Math.PI / 180;
    } else if (section === 'root') {
      if (key === 'order') root.dof = dofOf(words.slice(1), line);
      if (key === 'axis') root.order = orderOf(words[1], line);
      if (key === 'position') rootPlace = three(words.slice(1), line);
      if (key === 'orientation') root.axis = three(words.slice(1), line);
    } else if (section === 'bonedata') {
      if (key === 'begin')
        bone = { name: '', direction: [0, 0, 0], length: 0, axis: [0, 0, 0], order: 'XYZ', dof: '', line };
      else if (key === 'end') {
        if (!bone?.name) throw new MotionError('bad-structure', 'A bone without a name ends here.', { line });
        bones.push(bone);
        if (bones.length > MAX_JOINTS)
          throw new MotionError('too-large', `There are more than ${MAX_JOINTS} bones.`, { line });
        bone = undefined;
      } else if (bone) {
        if (key === 'name') bone.name = words[1] ?? '';
        if (key === 'direction') bone.direction = three(words.slice(1), line);
        if (key === 'length') bone.length = number(words[1], line);
        if (key === 'axis') {
          bone.axis = three(words.slice(1), line);
          bone.order = orderOf(words[4], line);
        }
        if (key === 'dof') bone.dof = dofOf(words.slice(1), line);
      }
    } else if (section === 'hierarchy' && key !== 'begin' && key !== 'end') {
      links.push({ parent: words[0]!, children: words.slice(1), line });
    }
  }
  if (bone) throw new MotionError('truncated', `The bone "${bone.name}" is never ended.`, { line: bone.line });
  if (bones.length === 0) throw new MotionError('no-joints', 'The skeleton has no bones.');
  const order = orderBones(root, bones, links);
  if (order.length < bones.length + 1) {
    const missing = bones.filter((b) => !order.some((o) => o.bone === b)).map((b) => b.name);
    warnings.push(`Bones without a parent were left out: ${missing.slice(0, 5).join(', ')}.`);
  }
  return buildRig(order, rootPlace, lengthUnit, angle, warnings);
}

function orderBones(
  root: Draft,
  bones: readonly Draft[],
  links: readonly { parent: string; children: string[]; line: number }[],
): { bone: Draft; parent: number }[] {
  const byName = new Map(bones.map((b) => [b.name, b]));
  const children = new Map<string, string[]>();
  for (const { parent, children: names, line } of links) {
    if (parent !== 'root' && !byName.has(parent))
      throw new MotionError('bad-structure', `The hierarchy names "${parent}", which is not a bone.`, { line });
    for (const name of names)
      if (!byName.has(name))
        throw new MotionError('bad-structure', `The hierarchy names "${name}", which is not a bone.`, { line });
    children.set(parent, [...(children.get(parent) ?? []), ...names]);
  }
  const out: { bone: Draft; parent: number }[] = [{ bone: root, parent: -1 }];
  const seen = new Set<string>(['root']);
  for (let i = 0; i < out.length; i++) {
    for (const name of children.get(out[i]!.bone.name) ?? []) {
      if (seen.has(name))
        throw new MotionError('bad-structure', `The bone "${name}" has two parents.`, { joint: name });
      seen.add(name);
      out.push({ bone: byName.get(name)!, parent: i });
    }
  }
  return out;
}

function buildRig(
  order: readonly { bone: Draft; parent: number }[],
  rootPlace: readonly number[],
  lengthUnit: number,
  angle: number,
  warnings: string[],
): AsfFile {
  const n = order.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  const parents = Int16Array.from(order, (o) => o.parent);
  const bones = order.map(({ bone }): AsfBone => {
    const l = Math.hypot(...bone.direction) || 1;
    const along = bone.direction.map((x) => ((x / l) * bone.length) / lengthUnit) as [number, number, number];
    const axes = [0, 0, 0, 1];
    turnInOrder(
      axes,
      bone.order,
      bone.axis.map((x) => x * angle),
    );
    return { name: bone.name, along, axes, dof: bone.dof };
  });
  const hasChild = new Set(order.map((o) => o.parent));
  order.forEach(({ parent }, j) => {
    restR[4 * j + 3] = 1;
    // a bone starts where its parent ends
    const at = parent < 0 ? rootPlace.map((x) => x / lengthUnit) : bones[parent]!.along;
    for (let k = 0; k < 3; k++) restT[3 * j + k] = at[k]!;
    if (!hasChild.has(j)) for (let k = 0; k < 3; k++) tips[3 * j + k] = bones[j]!.along[k]!;
  });
  const rig: SkeletonRig = {
    kind: 'skeleton',
    names: bones.map((b) => b.name),
    parents,
    restT,
    restR,
    tips,
    found: NORMAL_SPACE,
  };
  return { rig, bones, angle, lengthScale: 1 / lengthUnit, warnings };
}

/** Turns about the fixed axes one after the other: 'XYZ' turns about x first. */
export function turnInOrder(dst: number[], order: string, angles: readonly number[]): void {
  dst.splice(0, 4, 0, 0, 0, 1);
  const q = [0, 0, 0, 1];
  for (let i = 0; i < order.length; i++) {
    eulerQuat(q, 0, order[i]!, angles[i]!, 0, 0);
    mulQuat(dst, 0, q, 0, dst, 0);
  }
}

function number(word: string | undefined, line: number): number {
  const x = Number(word);
  if (word === undefined || !Number.isFinite(x))
    throw new MotionError('bad-number', `"${(word ?? '').slice(0, 24)}" is not a number.`, { line });
  return x;
}

function three(words: string[], line: number): [number, number, number] {
  return [number(words[0], line), number(words[1], line), number(words[2], line)];
}

function orderOf(word: string | undefined, line: number): string {
  const order = (word ?? 'XYZ').toUpperCase();
  if (!/^[XYZ]{1,3}$/.test(order))
    throw new MotionError('bad-structure', `"${order.slice(0, 12)}" is not an order of axes.`, { line });
  return order;
}

function dofOf(words: string[], line: number): string {
  return words
    .map((w) => {
      const known: Record<string, string> = { rx: 'X', ry: 'Y', rz: 'Z', tx: 'x', ty: 'y', tz: 'z', l: 'l' };
      const letter = known[w.toLowerCase()];
      if (!letter) throw new MotionError('bad-structure', `"${w.slice(0, 12)}" is not a degree of freedom.`, { line });
      return letter;
    })
    .join('');
}
