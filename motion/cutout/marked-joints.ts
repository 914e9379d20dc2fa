import type { Mask } from '../art/mask';
import { SIDES, type Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import { type Facing, facingOf } from '../rig/flat';
import { assemble } from './assemble';
import type { CutoutFigure } from './figure';
import type { DrawnFigure } from './merge';
import { shapesIn } from './painted';
import { LIMB_KINDS, type PartKind, readPartName } from './part-names';
import type { Point } from './pivots';
import { type ReadFigure, type ReadPart, readParts } from './read-parts';
import type { FoundArt, FoundPart } from './svg-parts';

/** Joints of a layered drawing that can be marked, from the trunk outwards. */
export const MARKED_JOINTS = [
  'hips',
  'neck1',
  'head',
  ...SIDES.flatMap((s) => ['upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot'].map((part) => part + s)),
] as const;

/** Where joints lie in the picture, by slot. */
export type JointMarks = Readonly<Record<string, readonly [x: number, y: number]>>;

/** Points of a bone that are looked at, and the share of them that a part has to paint to be it. */
const LOOKS = 16;
const PAINTED = 0.5;
/** Left and right are interchangeable where swapping them fits nearly as well. */
const EITHER = 0.7;
/** Pieces that end free are about so long, as shares of the bone before them; a head, of the trunk. */
const FREE: Partial<Record<PartKind, number>> = { hand: 0.45, foot: 0.35, head: 0.5 };

/** A bone between marks, and what a part is that lies along it. */
interface Bone {
  readonly kind: PartKind;
  readonly side: Side | undefined;
  /** Slots that a part of this kind takes; no two parts share one. */
  readonly takes: readonly string[];
  readonly way: readonly Point[];
  readonly length: number;
  /** Where it ends, if a mark says so. */
  readonly end: Point | undefined;
}

/**
 * A cut-out put together anew by marked joints: what lies along a bone between two marks is that part of the body and turns at
 * its mark. What lies along none keeps what its name says and goes with what it lies on. Drawings stay as they are. Pure.
 * @param marks by slot, in the picture's units; the hips, and of the rest what there is: an arm drawn in one piece needs no elbow
 * @throws MotionError 'bad-argument' for marks that are no joints, without hips, and where no part lies along any of them
 */
export function putTogether({ rig, art }: DrawnFigure, marks: JointMarks): CutoutFigure {
  for (const [slot, at] of Object.entries(marks))
    if (!(MARKED_JOINTS as readonly string[]).includes(slot) || !at.every(Number.isFinite))
      throw new MotionError('bad-argument', `"${slot.slice(0, 40)}" is no joint that can be marked.`);
  if (!marks.hips) throw new MotionError('bad-argument', 'Mark the hips: everything else hangs on them.');
  const found: FoundPart[] = rig.parts.map((part) => {
    const turned = part.view !== undefined && art.restViews[rig.names[part.joint]!] !== part.view;
    const hidden = turned || art.hidden.includes(part.name);
    return {
      name: part.name,
      reading: readPartName(part.name),
      pivot: undefined,
      drawings: art.drawings
        .filter((d) => d.part === part.name)
        .map(({ label, svg, box }, i) => ({
          label,
          svg,
          box,
          shapes: shapesIn(art.defs, svg) ?? [],
          shown: !hidden && i === 0,
        })),
    };
  });
  const whole: FoundArt = { box: art.box, defs: art.defs, parts: found, notes: [], marked: true };
  const along = partsAlong(readParts(whole), bonesOf(marks), nearSide(facingOf(rig)));
  if (along.size === 0)
    throw new MotionError('bad-argument', 'No part of the drawing lies along any of the marked joints.');
  const named = (kind: PartKind): boolean => found.some((part) => part.reading.kind === kind);
  const lowest = (['pelvis', 'torso', 'chest'] as const).find(named);
  const parts = found.map((part): FoundPart => {
    const bone = along.get(part.name);
    const { kind, side } = part.reading;
    // a trunk that is drawn in two pieces keeps its waist: the hips' mark is that of the lower one
    if (kind !== undefined && TRUNK.has(kind)) return kind === lowest ? { ...part, pivot: marks.hips } : part;
    if (bone)
      return {
        ...part,
        reading: { ...part.reading, kind: bone.kind, side: bone.side },
        pivot: bone.way[0],
        ...(bone.end && { end: bone.end }),
      };
    // named as a limb, but no bone runs along it: another view's drawing, or something else
    const taken = [...along.values()].some((b) => b.kind === kind && b.side === side);
    const body = kind !== undefined && (LIMB_KINDS.has(kind) || BODY.has(kind));
    return body && !taken ? { ...part, reading: { ...part.reading, kind: undefined } } : part;
  });
  const made = assemble({ ...whole, parts }, { unit: art.unit });
  const hinges = Object.entries(rig.hinges ?? {}).filter(([joint]) => made.rig.names.includes(joint));
  return {
    ...made,
    rig: {
      ...made.rig,
      // a facing that was set by hand stays
      found: rig.found.certainty === 'stated' ? rig.found : made.rig.found,
      ...(hinges.length > 0 && { hinges: { ...made.rig.hinges, ...Object.fromEntries(hinges) } }),
    },
  };
}

const TRUNK: ReadonlySet<PartKind> = new Set(['torso', 'chest', 'pelvis']);
const BODY: ReadonlySet<PartKind> = new Set(['neck', 'head']);

const between = (a: Point, b: Point, t: number): Point => [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
const far = (a: Point, b: Point): number => Math.hypot(b[0] - a[0], b[1] - a[1]);

/** The bones that marks make, pieces of limbs before limbs in one piece. */
function bonesOf(marks: JointMarks): Bone[] {
  const bones: Bone[] = [];
  const add = (
    kind: PartKind,
    side: Side | undefined,
    takes: readonly string[],
    way: readonly Point[],
    end?: Point,
  ) => {
    let length = 0;
    for (let i = 1; i < way.length; i++) length += far(way[i - 1]!, way[i]!);
    if (length > 0) bones.push({ kind, side, takes, way, length, end });
  };
  const { hips, neck1: neck, head } = marks as Record<string, Point | undefined>;
  const shoulders = SIDES.flatMap((s) => (marks[`upperArm${s}`] ? [marks[`upperArm${s}`]!] : []));
  const top = neck ?? (shoulders.length === 2 ? between(shoulders[0]!, shoulders[1]!, 0.5) : head);
  const trunk = top ? far(hips!, top) : 0;
  if (top) add('torso', undefined, ['hips'], [hips!, top]);
  if (neck && head) add('neck', undefined, ['neck1'], [neck, head], head);
  if (head && trunk > 0)
    add('head', undefined, ['head'], [head, between(hips!, head, 1 + (FREE.head! * trunk) / far(hips!, head))]);
  for (const side of SIDES)
    for (const [whole, kinds] of [
      ['arm', ['upperArm', 'forearm', 'hand']],
      ['leg', ['thigh', 'shin', 'foot']],
    ] as const) {
      const at = kinds.map((k) => marks[k + side]);
      const [a, b, c] = at;
      if (a && b) add(kinds[0], side, [kinds[0] + side], [a, b]);
      if (b && c) add(kinds[1], side, [kinds[1] + side], [b, c], c);
      const free = c && (b ?? a);
      if (free) add(kinds[2], side, [kinds[2] + side], [c, between(free, c, 1 + (b ? 1 : 0.5) * FREE[kinds[2]]!)]);
      // the limb in one piece, bent or straight
      const pieces = at.filter((p) => p !== undefined);
      if (a && c) add(whole, side, [kinds[0] + side, kinds[1] + side], pieces, c);
      else if (a && b) add(whole, side, [kinds[0] + side, kinds[1] + side], [a, between(a, b, 2)]);
    }
  return bones;
}

/** The side that is nearer to the eye in a profile. */
const nearSide = (facing: Facing): Side | undefined => (facing === 'front' ? undefined : facing === 'left' ? 'L' : 'R');

/**
 * Which part lies along which bone: the pairs that fit best come first, and no part and no slot is taken twice. Where left and
 * right fit either way, as in a profile, the part drawn later is the nearer one.
 */
function partsAlong({ grid, parts }: ReadFigure, bones: readonly Bone[], near: Side | undefined): Map<string, Bone> {
  const pairs = parts.flatMap((part) =>
    part.laid && part.shown
      ? bones.flatMap((bone) => {
          const fits = fit(part, bone);
          return fits > 0 ? [{ part, bone, fits }] : [];
        })
      : [],
  );
  const out = new Map<string, Bone>();
  const taken = new Set<string>();
  for (const { part, bone } of pairs.sort((a, b) => b.fits - a.fits)) {
    if (out.has(part.found.name) || bone.takes.some((slot) => taken.has(slot))) continue;
    out.set(part.found.name, bone);
    for (const slot of bone.takes) taken.add(slot);
  }
  const lying = parts.filter((p) => out.has(p.found.name));
  for (const one of lying)
    for (const other of lying) {
      const [a, b] = [out.get(one.found.name)!, out.get(other.found.name)!];
      if (near === undefined || a.kind !== b.kind || a.side === b.side || !a.side) continue;
      const either = fit(one, b) + fit(other, a) > EITHER * (fit(one, a) + fit(other, b));
      if (!either || one.order > other.order === (a.side === near)) continue;
      out.set(one.found.name, b);
      out.set(other.found.name, a);
    }
  return out;

  function paints(mask: Mask, [x, y]: Point): boolean {
    const [column, row] = [Math.floor((x - grid.box[0]) / grid.cell), Math.floor((y - grid.box[1]) / grid.cell)];
    return column >= 0 && column < grid.columns && row >= 0 && mask[row * grid.columns + column] === 1;
  }
  /** How well a part lies along a bone: the share that it paints, reduced where their lengths differ; 0 for too small a share. */
  function fit({ laid, found }: ReadPart, bone: Bone): number {
    let painted = 0;
    for (let i = 0; i < LOOKS; i++) if (paints(laid!.mask, pointAlong(bone, (i + 0.5) / LOOKS))) painted++;
    if (painted < PAINTED * LOOKS) return 0;
    const { fore, back } = laid!.lie;
    const unlike = Math.abs(Math.log((fore - back) / bone.length));
    const named = found.reading.kind === bone.kind && (found.reading.side ?? bone.side) === bone.side;
    return (
      (painted / LOOKS) * Math.exp(-(bone.kind in FREE || bone.kind === 'torso' ? 0.5 : 1) * unlike) * (named ? 1.3 : 1)
    );
  }
}

function pointAlong({ way, length }: Bone, share: number): Point {
  let left = share * length;
  for (let i = 1; i < way.length; i++) {
    const piece = far(way[i - 1]!, way[i]!);
    if (left <= piece || i === way.length - 1) return between(way[i - 1]!, way[i]!, left / (piece || 1));
    left -= piece;
  }
  return way[0]!;
}
