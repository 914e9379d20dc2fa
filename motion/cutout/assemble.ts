import { type Box, type Grid, overlapOf } from '../art/mask';
import { type BodyMap, CORE_SLOTS, SIDES, type Side, type Slot, type SlotEntry, slotLabel } from '../bodymap/slots';
import { MotionError } from '../errors';
import type { AttachmentPoint, CutoutPart, CutoutRig, Hinge } from '../rig/rig';
import { assertRig, MAX_JOINTS } from '../rig/rig';
import type { CutoutArt, CutoutFigure, PartGuess } from './figure';
import { HEAD_KINDS, type PartKind } from './part-names';
import { farEnd, farthest, type Laid, type Point, pivotBetween } from './pivots';
import { type ReadFigure, type ReadPart, readParts } from './read-parts';
import { type FoundArt, findSvgParts } from './svg-parts';

export interface AssembleOptions {
  /** Height of the figure, metres. */
  readonly heightM?: number;
  /** Metres for each of the picture's units, where that is settled. */
  readonly unit?: number;
}

/** What a joint is while the figure is put together. */
interface Draft {
  name: string;
  slot: Slot | undefined;
  parent: Draft | undefined;
  /** In the picture's units. */
  pivot: Point;
  end: Point | undefined;
  /** The part whose shape it goes by. */
  main: ReadPart | undefined;
  parts: ReadPart[];
  hinge: Hinge | undefined;
  marked: boolean;
}

/** How much parts that hang swing of themselves. */
const SWINGS: Partial<Record<PartKind, number>> = { tail: 0.5, skirt: 0.35, coat: 0.25, hair: 0.4, prop: 1 };

/**
 * A figure from a layered SVG: parts found, named, pinned on one another and put on the common body.
 * @throws MotionError as findSvgParts does, and 'unmappable' where no trunk, head or limb can be made out
 */
export const cutoutFromSvg = (bytes: Uint8Array, options: AssembleOptions = {}): CutoutFigure =>
  assemble(findSvgParts(bytes), options);

/** A figure from parts that were found; see cutoutFromSvg. */
export function assemble(found: FoundArt, { heightM = 1.7, unit: given }: AssembleOptions = {}): CutoutFigure {
  const read = readParts(found);
  const joints = draftJoints(read, found.together);
  const body = read.parts.filter((p) => p.kind !== 'backdrop' && p.shown);
  const feet = body.filter((p) => p.kind === 'foot' || p.kind === 'leg' || p.kind === 'shin');
  const bottom = (list: readonly ReadPart[]): number => Math.max(...list.map((p) => shownBox(p)[1] + shownBox(p)[3]));
  const top = Math.min(...body.map((p) => shownBox(p)[1]));
  const ground = bottom(feet.length > 0 ? feet : body);
  const unit = given ?? heightM / Math.max(1e-9, ground - top);
  const hips = joints.find((j) => j.slot === 'hips')!;
  const origin: [number, number] = [hips.pivot[0], ground];
  return build(found, read, joints, { unit, origin });
}

/** The box of what shows when the file is opened. */
const shownBox = (p: ReadPart): Box => p.found.drawings.find((d) => d.shown)?.box ?? p.box;

const middle = (b: Box): Point => [b[0] + b[2] / 2, b[1] + b[3] / 2];

function draftJoints(read: ReadFigure, together: FoundArt['together']): Draft[] {
  const { parts, grid } = read;
  const joints: Draft[] = [];
  const placed = new Set<ReadPart>();
  const first = (kinds: readonly PartKind[], side?: Side): ReadPart | undefined =>
    parts.find(
      (p) =>
        p.kind &&
        kinds.includes(p.kind) &&
        p.laid &&
        p.shown &&
        (side === undefined || p.side === side) &&
        !placed.has(p),
    ) ??
    parts.find(
      (p) => p.kind && kinds.includes(p.kind) && p.laid && (side === undefined || p.side === side) && !placed.has(p),
    );
  const names = new Set<string>();
  const add = (
    stem: string,
    slot: Slot | undefined,
    parent: Draft | undefined,
    main: ReadPart | undefined,
    pivot: Point,
    hinge?: Hinge,
  ): Draft => {
    let name = stem;
    for (let i = 2; names.has(name); i++) name = `${stem} ${i}`;
    names.add(name);
    const marked = main?.found.pivot;
    const joint: Draft = {
      name,
      slot,
      parent,
      pivot: marked ?? pivot,
      end: undefined,
      main,
      parts: main ? [main] : [],
      hinge,
      marked: marked !== undefined,
    };
    joints.push(joint);
    if (main) placed.add(main);
    return joint;
  };
  // (1) the trunk
  const pelvis = first(['pelvis']);
  const upper = first(['torso', 'chest']) ?? (pelvis ? undefined : first(['coat', 'skirt']));
  const trunk = pelvis ?? upper;
  if (!trunk?.laid) {
    const any = parts.find((p) => p.kind && p.kind !== 'backdrop');
    if (!any)
      throw new MotionError(
        'unmappable',
        'Neither a trunk nor a head nor limbs could be made out: name the groups after the parts they are, for instance "trunk", "head", "upper arm L".',
      );
  }
  const thighs = SIDES.map((s) => first(['thigh', 'leg'], s));
  const hipLine = thighs.flatMap((t) =>
    t?.laid && trunk?.laid ? [pivotBetween(grid, t.laid, trunk.laid, lowEnd(t), [middle(t.box)[0], t.box[1]])] : [],
  );
  const trunkBox = trunk ? trunk.box : grid.box;
  const hipsAt: Point =
    hipLine.length > 0
      ? hipLine.reduce<Point>((sum, p) => [sum[0] + p[0] / hipLine.length, sum[1] + p[1] / hipLine.length], [0, 0])
      : [trunkBox[0] + trunkBox[2] / 2, trunkBox[1] + 0.85 * trunkBox[3]];
  const hips = add('hips', 'hips', undefined, trunk, hipsAt);
  let chest = hips;
  if (pelvis?.laid && upper?.laid)
    chest = add(
      'chest',
      'spine1',
      hips,
      upper,
      pivotBetween(
        grid,
        upper.laid,
        pelvis.laid,
        [middle(upper.box)[0], upper.box[1]],
        [middle(upper.box)[0], upper.box[1] + upper.box[3]],
      ),
    );
  const chestMain = chest.main;
  // (2) neck and head
  const neckPart = first(['neck']);
  const headParts = parts.filter((p) => p.kind === 'head' && p.laid);
  const headPart = headParts.find((p) => p.shown) ?? headParts[0];
  let below = chest;
  if (neckPart?.laid && chestMain?.laid)
    below = add(
      'neck',
      'neck1',
      chest,
      neckPart,
      pivotBetween(grid, neckPart.laid, chestMain.laid, headPart ? middle(headPart.box) : undefined, [
        middle(neckPart.box)[0],
        neckPart.box[1] + neckPart.box[3],
      ]),
    );
  let head: Draft | undefined;
  if (headPart?.laid) {
    const under = below.main?.laid;
    const foot: Point = [middle(headPart.box)[0], headPart.box[1] + headPart.box[3]];
    const at = under ? headPivot(read, headPart.laid, headPart.box, under, foot) : foot;
    head = add('head', 'head', below, headPart, at);
    head.end = [at[0], headPart.box[1]];
    for (const p of headParts)
      if (p !== headPart) {
        head.parts.push(p);
        placed.add(p);
      }
  }
  if (chest !== hips || head)
    chest.end = (neckPart ? below.pivot : head?.pivot) ?? [
      middle(chestMain?.box ?? grid.box)[0],
      (chestMain?.box ?? grid.box)[1],
    ];
  if (chest !== hips) hips.end = chest.pivot;
  // (3) limbs
  for (const side of SIDES) {
    for (const [whole, kinds, parent] of [
      ['arm', ['upperArm', 'forearm', 'hand'], chest],
      ['leg', ['thigh', 'shin', 'foot'], hips],
    ] as const) {
      const chain: (readonly [ReadPart, PartKind])[] = [];
      const entire = first([whole], side);
      const pieces = kinds.map((k) => first([k], side));
      if (entire && !pieces[0]) chain.push([entire, kinds[0]]);
      pieces.forEach((p, i) => {
        if (p) chain.push([p, kinds[i]!]);
      });
      let on: Draft = parent;
      chain.forEach(([part, kind], i) => {
        const next = chain[i + 1]?.[0];
        const carrier = on.main?.laid ?? chestMain?.laid;
        if (!part.laid) return;
        const start: Point =
          whole === 'arm' || i > 0 ? [middle(part.box)[0], part.box[1]] : [middle(part.box)[0], part.box[1]];
        const away = next ? middle(next.box) : outer(part, on, whole);
        const at = carrier ? pivotBetween(grid, part.laid, carrier, away, i === 0 ? start : (on.end ?? start)) : start;
        const joint = add(`${slotLabel(kind + side)}`, kind + side, on, part, at);
        if (on !== parent) on.end = joint.pivot;
        joint.end =
          part.found.end ?? (kind === 'foot' ? toeEnd(read, part.laid, joint.pivot) : farEnd(part.laid, joint.pivot));
        on = joint;
      });
      // alternates of a limb drawn as groups of their own, and what else is called alike, goes with it
      for (const p of parts)
        if (!placed.has(p) && p.kind && p.side === side && (kinds as readonly PartKind[]).includes(p.kind)) {
          const joint = joints.find((j) => j.slot === `${p.kind}${side}`);
          if (joint) {
            joint.parts.push(p);
            placed.add(p);
          }
        }
    }
  }
  // (4) the rest: features on the head, what hangs on a joint of its own, everything else on what it covers
  for (const p of parts) {
    if (placed.has(p)) continue;
    if (p.kind === 'backdrop') continue;
    const carrier = p.kind && HEAD_KINDS.has(p.kind) && head ? head : (nearestJoint(read.grid, p, joints) ?? hips);
    const swing = p.kind ? SWINGS[p.kind] : undefined;
    if (swing !== undefined && p.laid && carrier.main?.laid && hangs(p, carrier, head)) {
      const at = hangingPoint(p);
      const joint = add(plainLabel(p.found.name), undefined, carrier, p, at, { swing });
      joint.end = farEnd(p.laid, joint.pivot);
      continue;
    }
    if (together && carrier.main && !together(p.found, carrier.main.found)) {
      add(plainLabel(p.found.name), undefined, carrier, p, middle(shownBox(p)));
      continue;
    }
    carrier.parts.push(p);
    placed.add(p);
  }
  const backdrop = parts.filter((p) => p.kind === 'backdrop');
  if (backdrop.length > 0) {
    const joint = add('backdrop', undefined, undefined, undefined, hips.pivot);
    joint.parts.push(...backdrop);
  }
  if (joints.length > MAX_JOINTS) throw new MotionError('too-large', 'The figure has too many joints.');
  return joints;
}

const plainLabel = (name: string): string => name.replace(/[_.]+/g, ' ').trim() || 'piece';

/** Lower end of a part, roughly. */
const lowEnd = (p: ReadPart): Point => [p.box[0] + p.box[2] / 2, p.box[1] + p.box[3]];

/** Where the free end of a limb's last piece lies: away from what it hangs on. */
function outer(part: ReadPart, on: Draft, whole: 'arm' | 'leg'): Point {
  if (whole === 'leg') return lowEnd(part);
  const from = on.main ? middle(on.main.box) : on.pivot;
  const m = middle(part.box);
  const ends = part.laid
    ? [part.laid.lie.back, part.laid.lie.fore].map(
        (t): Point => [
          part.laid!.lie.middle[0] + t * part.laid!.lie.axis[0],
          part.laid!.lie.middle[1] + t * part.laid!.lie.axis[1],
        ],
      )
    : [m];
  const score = (p: Point): number => Math.abs(p[0] - from[0]) + 0.7 * (p[1] - from[1]);
  return ends.reduce((best, p) => (score(p) > score(best) ? p : best));
}

/** A head turns low in its own shape, where it meets the neck or the trunk. */
function headPivot(read: ReadFigure, head: Laid, box: Box, under: Laid, foot: Point): Point {
  const at = pivotBetween(read.grid, head, under, [foot[0], box[1]], foot);
  // a beak or a long ear draws the middle aside: the neck lies under the head
  const [x, y] = at;
  const lowest = box[1] + box[3];
  return [x, Math.min(Math.max(y, box[1] + 0.6 * box[3]), lowest)];
}

/** Tip of a foot: forwards in profile, straight on where it is drawn from the front. */
function toeEnd(read: ReadFigure, foot: Laid, ankle: Point): Point {
  const aside = foot.lie.middle[0] - ankle[0];
  const direction: Point =
    read.facing === 'right'
      ? [1, 0]
      : read.facing === 'left'
        ? [-1, 0]
        : Math.abs(aside) > foot.lie.across
          ? [Math.sign(aside), 0]
          : [0, 1];
  const tip = farthest(read.grid, foot, ankle, direction);
  return direction[1] === 0 ? [tip[0], Math.max(tip[1], ankle[1])] : tip;
}

/** Whether a piece hangs free below where it is fixed. */
function hangs(p: ReadPart, carrier: Draft, head: Draft | undefined): boolean {
  const size = carrier.main?.box;
  if (!size) return false;
  if (p.kind === 'hair') return carrier === head && p.box[1] + p.box[3] > size[1] + 1.05 * size[3];
  if (p.kind === 'prop') return p.box[1] + p.box[3] / 2 > carrier.pivot[1] - 0.2 * p.box[3];
  return true;
}

/** Where a hanging piece is fixed: in the middle of its upper edge, a little inside. */
function hangingPoint(p: ReadPart): Point {
  const [x, y, w, h] = shownBox(p);
  return [x + w / 2, y + 0.08 * h];
}

/** The joint whose part a loose piece covers most, or is nearest to. */
function nearestJoint(grid: Grid, p: ReadPart, joints: readonly Draft[]): Draft | undefined {
  let best: Draft | undefined;
  let most = 0;
  for (const joint of joints) {
    if (!joint.main?.laid || !p.laid || joint.main === p) continue;
    const shared = overlapOf(grid, p.laid, joint.main.laid).cells;
    // a thing that meets a hand is held by it, whatever else it lies on
    const held = joint.slot?.startsWith('hand') && (p.kind === 'prop' || p.kind === undefined);
    const weight = (shared * (held ? 50 : 1)) / (1 + 0.1 * Math.abs(joint.main.order - p.order));
    if (weight > most) {
      most = weight;
      best = joint;
    }
  }
  if (best) return best;
  const m = middle(p.box);
  const away = (j: Draft): number => Math.hypot(middle(j.main!.box)[0] - m[0], middle(j.main!.box)[1] - m[1]);
  return joints.filter((j) => j.main).sort((a, b) => away(a) - away(b))[0];
}

function build(
  found: FoundArt,
  read: ReadFigure,
  drafts: readonly Draft[],
  { unit, origin }: { unit: number; origin: [number, number] },
): CutoutFigure {
  const at = (p: Point): [number, number] => [(p[0] - origin[0]) * unit, (origin[1] - p[1]) * unit];
  const index = new Map(drafts.map((d, j) => [d, j]));
  const n = drafts.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  drafts.forEach((d, j) => {
    const [x, y] = at(d.pivot);
    const [px, py] = d.parent ? at(d.parent.pivot) : [0, 0];
    restT.set([x - px, y - py, 0], 3 * j);
    restR[4 * j + 3] = 1;
  });
  const jointOfPart = new Map(drafts.flatMap((d) => d.parts.map((p) => [p, d] as const)));
  const ordered = read.parts.filter((p) => jointOfPart.has(p));
  // in a file that moves everything lies where it belongs
  const pivots = ordered.map((p) => (found.together ? jointOfPart.get(p)!.pivot : partPivot(p, jointOfPart.get(p)!)));
  const parts = ordered.map((p, i): CutoutPart => {
    const joint = jointOfPart.get(p)!;
    const pivot = pivots[i]!;
    const away = (q: Point): [number, number] => [(q[0] - pivot[0]) * unit, (pivot[1] - q[1]) * unit];
    const attachments: AttachmentPoint[] = [];
    if (p === joint.main) {
      for (const child of drafts)
        if (child.parent === joint) attachments.push({ name: child.name, at: away(child.pivot) });
      if (joint.end) attachments.push({ name: 'end', at: away(joint.end) });
    }
    return {
      name: p.found.name,
      joint: index.get(joint)!,
      pivot: [(pivot[0] - p.box[0]) * unit, (p.box[1] + p.box[3] - pivot[1]) * unit],
      attachments,
      drawings: p.found.drawings.map((d) => d.label),
      ...(p.view && hasViews(p, joint) ? { view: p.view } : {}),
    };
  });
  const hinges = Object.fromEntries(drafts.flatMap((d) => (d.hinge ? [[d.name, d.hinge] as const] : [])));
  const rig: CutoutRig = {
    kind: 'cutout',
    names: drafts.map((d) => d.name),
    parents: Int16Array.from(drafts, (d) => (d.parent ? index.get(d.parent)! : -1)),
    restT,
    restR,
    parts,
    ...(Object.keys(hinges).length > 0 ? { hinges } : {}),
    ...(read.mirrored ? { mirrored: true } : {}),
    found: {
      unitScale: unit,
      unitWhy: 'the figure’s height',
      upAxis: '+Y',
      facing: read.facing === 'right' ? '+X' : read.facing === 'left' ? '-X' : '+Z',
      certainty: 'measured',
    },
  };
  assertRig(rig);
  const art: CutoutArt = {
    box: found.box,
    unit,
    origin,
    defs: found.defs,
    drawings: ordered.flatMap((p) =>
      p.found.drawings.map(({ label, svg, box }) => ({ part: p.found.name, label, svg, box })),
    ),
    pivots,
    hidden: ordered.filter((p) => !p.shown).map((p) => p.found.name),
    restViews: Object.fromEntries(
      drafts.flatMap((d) => {
        const shown = d.parts.find((p) => p.view && p.shown)?.view;
        return shown ? [[d.name, shown] as const] : [];
      }),
    ),
  };
  const guesses = ordered.map(
    (p): PartGuess => ({
      part: p.found.name,
      kind: p.kind,
      side: p.side,
      view: p.view,
      state: p.state,
      why: p.why,
      pivot: jointOfPart.get(p)!.marked && p === jointOfPart.get(p)!.main ? 'marked' : 'guessed',
    }),
  );
  const notes = [
    ...found.notes,
    ...read.notes,
    `Drawn ${read.facing === 'front' ? 'from the front' : `facing ${read.facing}`}: ${read.facingWhy}.`,
  ];
  return { rig, map: mapOf(drafts), art, guesses, notes };
}

/** Whether a part's joint shows more than one view, so that a view is worth telling. */
function hasViews(part: ReadPart, joint: Draft): boolean {
  return joint.parts.some((p) => p !== part && p.view !== undefined && p.view !== part.view);
}

/** A part drawn elsewhere in the picture (a view beside the figure) is pinned by its own shape. */
function partPivot(part: ReadPart, joint: Draft): Point {
  if (part.found.pivot && part !== joint.main) return part.found.pivot;
  const main = joint.main;
  if (!main || part === main || part.shown) return joint.pivot;
  const [a, b] = [middle(part.box), middle(main.box)];
  if (Math.hypot(a[0] - b[0], a[1] - b[1]) < 0.6 * Math.max(main.box[2], main.box[3])) return joint.pivot;
  // as far into its box as the joint lies in the main part's
  const [u, v] = [(joint.pivot[0] - main.box[0]) / main.box[2], (joint.pivot[1] - main.box[1]) / main.box[3]];
  return [part.box[0] + u * part.box[2], part.box[1] + v * part.box[3]];
}

function mapOf(drafts: readonly Draft[]): BodyMap {
  const slots: Record<Slot, SlotEntry> = {};
  drafts.forEach((d, joint) => {
    if (d.slot) slots[d.slot] = { joint, state: d.main?.state ?? 'guessed', why: d.main?.why ?? 'by its place' };
  });
  for (const slot of CORE_SLOTS) {
    if (slots[slot]) continue;
    const none = /^(collar|toes)/.test(slot);
    slots[slot] = {
      joint: -1,
      state: none ? 'empty' : 'missing',
      why: none ? 'paper figures have none' : 'no part found for it',
    };
  }
  const ordered = Object.fromEntries(CORE_SLOTS.filter((s) => slots[s]).map((s) => [s, slots[s]!]));
  return { slots: ordered, warnings: [] };
}
