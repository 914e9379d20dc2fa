import { type Box, type Grid, gridOver, joinBoxes, maskOf, nearestOf, overlapOf } from '../art/mask';
import type { Side } from '../bodymap/slots';
import type { Facing } from '../rig/flat';
import { HEAD_KINDS, LIMB_KINDS, type PartKind, type PartView } from './part-names';
import { type Laid, laid, type Point } from './pivots';
import type { FoundArt, FoundPart } from './svg-parts';

/** A part of a file with what it is. */
export interface ReadPart {
  readonly found: FoundPart;
  /** Place in the drawing order, the hindmost 0. */
  readonly order: number;
  readonly laid: Laid | undefined;
  readonly box: Box;
  readonly shown: boolean;
  kind: PartKind | undefined;
  side: Side | undefined;
  view: PartView | undefined;
  state: 'sure' | 'guessed';
  why: string;
}

export interface ReadFigure {
  readonly grid: Grid;
  readonly parts: readonly ReadPart[];
  readonly facing: Facing;
  readonly facingWhy: string;
  readonly mirrored: boolean;
  readonly notes: readonly string[];
}

/**
 * What the parts of a figure are: by names where they tell, by shapes, order and neighbours where they do not. What rests
 * on shapes alone is guessed.
 */
export function readParts(art: FoundArt): ReadFigure {
  const notes: string[] = [];
  const boxes = art.parts.flatMap((p) => (p.reading.kind === 'backdrop' ? [] : p.drawings.map((d) => d.box)));
  const grid = gridOver(boxes.reduce(joinBoxes, boxes[0] ?? art.box));
  const parts: ReadPart[] = art.parts.map((found, order) => {
    const first = found.drawings[0]!;
    const { kind, side, view } = found.reading;
    return {
      found,
      order,
      laid: kind === 'backdrop' ? undefined : laid(grid, maskOf(grid, first.shapes)),
      box: found.drawings.map((d) => d.box).reduce(joinBoxes, first.box),
      shown: found.drawings.some((d) => d.shown),
      kind,
      side,
      view,
      state: kind ? 'sure' : 'guessed',
      why: kind ? (found.pivot && art.marked ? 'by the joints that were marked' : 'by its name') : 'by nothing yet',
    };
  });
  findBackdrop(grid, parts);
  if (!art.marked) byShape(grid, parts);
  const { facing, why } = findFacing(parts);
  const mirrored = findSides(parts, facing, notes);
  return { grid, parts, facing, facingWhy: why, mirrored, notes };
}

const middleOf = (box: Box): Point => [box[0] + box[2] / 2, box[1] + box[3] / 2];

/** What covers nearly all of the picture and lies behind everything is no part of a body. */
function findBackdrop(grid: Grid, parts: readonly ReadPart[]): void {
  const hind = parts.find((p) => p.kind !== 'backdrop');
  if (!hind?.laid || hind.kind || parts.length < 4) return;
  const rest = parts.filter((p) => p !== hind && p.laid);
  const others = rest.map((p) => p.box).reduce(joinBoxes, rest[0]!.box);
  const covers =
    hind.box[0] <= others[0] + 0.02 * grid.box[2] &&
    hind.box[1] <= others[1] + 0.02 * grid.box[3] &&
    hind.box[0] + hind.box[2] >= others[0] + 0.98 * others[2] &&
    hind.box[1] + hind.box[3] >= others[1] + 0.98 * others[3];
  if (!covers) return;
  hind.kind = 'backdrop';
  hind.why = 'it lies behind everything and covers it';
}

const has = (parts: readonly ReadPart[], kinds: readonly PartKind[]): boolean =>
  parts.some((p) => p.kind !== undefined && kinds.includes(p.kind));

/** Gives parts without a telling name the place in a body that their shapes suggest. */
function byShape(grid: Grid, parts: readonly ReadPart[]): void {
  const open = (): ReadPart[] => parts.filter((p) => p.kind === undefined && p.laid && p.shown);
  if (open().length === 0) return;
  const total = parts.reduce((sum, p) => sum + (p.shown ? (p.laid?.lie.cells ?? 0) : 0), 0);
  const solid = (p: ReadPart): boolean => (p.laid?.lie.cells ?? 0) > 0.002 * total;
  const claim = (part: ReadPart, kind: PartKind, why: string, side?: Side): void => {
    part.kind = kind;
    part.state = 'guessed';
    part.why = why;
    part.side ??= side;
  };
  const touching = neighbours(grid, parts);
  const degree = (p: ReadPart): number => touching.get(p)?.size ?? 0;
  // (1) the trunk: large, and much hangs on it
  if (!has(parts, ['torso', 'chest', 'pelvis', 'coat', 'skirt'])) {
    const trunk = open()
      .filter((p) => solid(p) && degree(p) >= 2)
      .sort((a, b) => score(b) - score(a))[0];
    function score(p: ReadPart): number {
      const [, y] = p.laid!.lie.middle;
      const height = (y - grid.box[1]) / grid.box[3];
      // somewhere in the middle of the figure, not at its foot
      return Math.sqrt(p.laid!.lie.cells) * (1 + degree(p)) * (1 - Math.abs(height - 0.45));
    }
    if (trunk) claim(trunk, 'torso', 'large, and most other parts meet it');
  }
  const trunk =
    parts.find((p) => p.kind === 'torso' && p.laid) ??
    parts.find((p) => p.kind === 'chest' && p.laid) ??
    parts.find((p) => p.kind === 'pelvis' && p.laid) ??
    parts.find((p) => p.kind === 'coat' && p.laid);
  if (!trunk?.laid) return;
  const [tx, ty, tw, th] = trunk.box;
  // (2) the head: above the trunk, near its middle, the largest there
  if (!has(parts, ['head'])) {
    const above = open().filter((p) => {
      const [x, y] = p.laid!.lie.middle;
      return solid(p) && y < ty + 0.15 * th && Math.abs(x - (tx + tw / 2)) < 0.75 * tw;
    });
    const head = above.sort((a, b) => b.laid!.lie.cells - a.laid!.lie.cells)[0];
    if (head) {
      claim(head, 'head', 'the largest part above the trunk');
      for (const p of above) {
        if (p === head || p.kind) continue;
        const lower = p.box[1] + p.box[3] / 2 > head.box[1] + 0.8 * head.box[3];
        if (lower && touching.get(p)?.has(trunk)) claim(p, 'neck', 'between trunk and head');
      }
    }
  }
  // (3) what lies on the head goes with it
  const head = parts.find((p) => p.kind === 'head' && p.laid);
  if (head?.laid)
    for (const p of open()) {
      const shared = overlapOf(grid, p.laid!, head.laid!).cells;
      const above = p.laid!.lie.middle[1] < ty + 0.1 * th;
      if (above && shared > 0.3 * Math.min(p.laid!.lie.cells, head.laid.lie.cells))
        claim(p, p.box[1] < head.box[1] + 0.05 * head.box[3] ? 'hat' : 'nose', 'it lies on the head');
    }
  // (4) limbs: what hangs together once the trunk is taken away
  const loose = open().filter(solid);
  const twins = twinsOf(grid, loose, trunk);
  const hidden = new Set(twins.values());
  const single = loose.filter((p) => !hidden.has(p));
  for (const limb of limbsOf(grid, single, touching, trunk)) nameLimb(grid, limb, trunk, parts, claim);
  for (const [part, twin] of twins) if (part.kind) claim(twin, part.kind, LIKE);
  // further out they swing apart: the other one is the piece of the same size that meets the other limb
  for (const [inner, outer] of OUTWARDS) {
    const [from, to] = [inner, outer].map((k) => parts.filter((p) => p.kind === k && p.laid));
    if (from!.length !== 2 || to!.length !== 1) continue;
    const size = (p: ReadPart): number => Math.abs(Math.log(p.laid!.lie.cells / to![0]!.laid!.lie.cells));
    const other = open()
      .filter((p) => solid(p) && size(p) < 0.35 && from!.some((f) => touching.get(p)?.has(f)))
      .sort((a, b) => size(a) - size(b))[0];
    if (other) claim(other, outer, LIKE);
  }
}

const LIKE = 'it lies with its like on the other side';
const OUTWARDS: readonly (readonly [PartKind, PartKind])[] = [
  ['upperArm', 'forearm'],
  ['forearm', 'hand'],
  ['thigh', 'shin'],
  ['shin', 'foot'],
];

/** A piece less elongated than this is a hand, a foot or the like. */
const STUB = 1.6;
/** Least share of the smaller one that two thighs, shins or arms drawn in profile have in common. */
const COINCIDE = 0.45;
/** How far apart the middles of two like pieces may lie in profile, in heights of the trunk. */
const NEAR_TWIN = 0.3;

/**
 * Pieces that lie over one another and are alike: in profile both arms and both legs are drawn in one place, and which piece
 * hangs on which cannot be told by touching. Each front piece with the one behind it; none in a figure seen from the front.
 */
function twinsOf(grid: Grid, loose: readonly ReadPart[], trunk: ReadPart): Map<ReadPart, ReadPart> {
  const likeness = (a: ReadPart, b: ReadPart): number | undefined => {
    const [p, q] = [a.laid!.lie, b.laid!.lie];
    const size = Math.min(p.cells, q.cells) / Math.max(p.cells, q.cells);
    const long = Math.max(p.along, q.along);
    const apart = Math.hypot(p.middle[0] - q.middle[0], p.middle[1] - q.middle[1]) / trunk.box[3];
    const round = Math.min(p.along / p.across, q.along / q.across) < 1.3;
    const turned = round ? 1 : Math.abs(p.axis[0] * q.axis[0] + p.axis[1] * q.axis[1]);
    const alike = Math.min(p.along, q.along) / long > 0.75 && size > 0.7 && turned > 0.8;
    return alike && apart < NEAR_TWIN ? apart : undefined;
  };
  const pairs = loose.flatMap((a, i) =>
    loose.slice(i + 1).flatMap((b) => {
      const apart = likeness(a, b);
      return apart === undefined ? [] : [{ a, b, apart }];
    }),
  );
  const over = pairs.filter(
    ({ a, b }) =>
      overlapOf(grid, a.laid!, b.laid!).cells > COINCIDE * Math.min(a.laid!.lie.cells, b.laid!.lie.cells) &&
      a.laid!.lie.along > 1.5 * a.laid!.lie.across,
  );
  const twins = new Map<ReadPart, ReadPart>();
  if (over.length < 2) return twins;
  const taken = new Set<ReadPart>();
  for (const { a, b } of pairs.sort((x, y) => x.apart - y.apart)) {
    if (taken.has(a) || taken.has(b)) continue;
    taken.add(a).add(b);
    twins.set(a.order > b.order ? a : b, a.order > b.order ? b : a);
  }
  return twins;
}

/** Parts that overlap or nearly meet. */
function neighbours(grid: Grid, parts: readonly ReadPart[]): Map<ReadPart, Set<ReadPart>> {
  const out = new Map<ReadPart, Set<ReadPart>>();
  const near = 2.5 * grid.cell;
  const solid = parts.filter((p) => p.laid && p.shown && p.kind !== 'backdrop');
  solid.forEach((a, i) => {
    for (const b of solid.slice(i + 1)) {
      const apart =
        a.box[0] > b.box[0] + b.box[2] + near ||
        b.box[0] > a.box[0] + a.box[2] + near ||
        a.box[1] > b.box[1] + b.box[3] + near ||
        b.box[1] > a.box[1] + a.box[3] + near;
      if (apart) continue;
      const meet = overlapOf(grid, a.laid!, b.laid!).cells > 0 || nearestOf(grid, a.laid!, b.laid!).distance < near;
      if (!meet) continue;
      out.set(a, (out.get(a) ?? new Set()).add(b));
      out.set(b, (out.get(b) ?? new Set()).add(a));
    }
  });
  return out;
}

/** Both ends of a piece along its long axis. */
const endsOf = ({ laid: at }: ReadPart): Point[] => {
  const { middle, axis, back, fore } = at!.lie;
  return [back, fore].map((t): Point => [middle[0] + t * axis[0], middle[1] + t * axis[1]]);
};

/** The end of a piece that is farther from a point. */
const tipOf = (p: ReadPart, [x, y]: Point): Point =>
  endsOf(p).reduce((a, b) => (Math.hypot(a[0] - x, a[1] - y) > Math.hypot(b[0] - x, b[1] - y) ? a : b));

/** Whether a long piece is much thicker than the one it would hang on: limbs grow thinner outwards. */
const thicker = (p: ReadPart, on: ReadPart): boolean =>
  p.laid!.lie.along > STUB * p.laid!.lie.across && p.laid!.lie.across > 1.3 * on.laid!.lie.across;

/** Chains of parts from the trunk outwards. Each part hangs on the neighbour through which the trunk is nearest. */
function limbsOf(
  grid: Grid,
  loose: readonly ReadPart[],
  touching: ReadonlyMap<ReadPart, ReadonlySet<ReadPart>>,
  trunk: ReadPart,
): ReadPart[][] {
  const [tx, ty, tw, th] = trunk.box;
  const free = new Set(loose);
  const stub = (p: ReadPart): boolean => p.laid!.lie.along < STUB * p.laid!.lie.across;
  // a hanging hand meets the trunk, too: whoever lies farther from shoulders and hip joints waits
  const roots = [...free].filter((p) => touching.get(p)?.has(trunk));
  const anchor = (p: ReadPart): number => {
    const top = p.box[1];
    const shoulder = Math.abs(top - (ty + 0.1 * th));
    const hip = Math.abs(top - (ty + 0.95 * th));
    const sideways = Math.min(Math.abs(p.box[0] + p.box[2] / 2 - tx), Math.abs(p.box[0] + p.box[2] / 2 - tx - tw));
    // a limb begins with a long piece; a hand or a foot that meets the trunk is the end of one
    return Math.min(shoulder + 0.3 * sideways, hip) + (stub(p) ? 0.3 * th : 0);
  };
  /** The end of a limb's first piece at which it is fixed: the one nearer to shoulder or hip joint. */
  const rootOf = (p: ReadPart): Point => {
    const ends = endsOf(p);
    const off = ([x, y]: Point): number => {
      const aside = Math.max(tx - x, 0, x - tx - tw);
      return Math.hypot(aside, Math.min(Math.abs(y - ty - 0.1 * th), Math.abs(y - ty - 0.95 * th)));
    };
    return off(ends[0]!) < off(ends[1]!) ? ends[0]! : ends[1]!;
  };
  /** Whether a piece begins a limb of its own: it lies over another one's beginning, or is long and hangs on the trunk below a hand. */
  const begins = (p: ReadPart, last: ReadPart): boolean =>
    !stub(p) &&
    touching.get(p)?.has(trunk) === true &&
    (stub(last) ||
      (touching.get(last)?.has(trunk) === true &&
        overlapOf(grid, p.laid!, last.laid!).cells > COINCIDE * Math.min(p.laid!.lie.cells, last.laid!.lie.cells)));
  roots.sort((a, b) => anchor(a) - anchor(b));
  const taken = new Set<ReadPart>();
  const limbs: ReadPart[][] = [];
  for (const root of roots) {
    if (taken.has(root)) continue;
    const limb = [root];
    taken.add(root);
    for (;;) {
      const last = limb.at(-1)!;
      const before = limb.at(-2);
      const from = before ? middleOf(before.box) : rootOf(last);
      const here = middleOf(last.box);
      const tip = tipOf(last, from);
      const next = [...(touching.get(last) ?? [])]
        .filter((p) => free.has(p) && !taken.has(p) && !thicker(p, last) && !begins(p, last))
        .map((p) => {
          const to = middleOf(p.box);
          // straight on, and not back towards the trunk
          const onward = (to[0] - here[0]) * (here[0] - from[0]) + (to[1] - here[1]) * (here[1] - from[1]);
          const rank = Math.abs(anchor(p)) / Math.max(1e-9, th);
          const gap = Math.min(...endsOf(p).map(([x, y]) => Math.hypot(x - tip[0], y - tip[1])));
          return { p, onward, rank, gap };
        })
        .filter(({ p, onward, rank }) => onward > 0 || (rank > 0.25 && !touching.get(p)?.has(trunk)))
        .sort((a, b) => a.gap - b.gap)[0]?.p;
      if (!next || limb.length >= 5) break;
      limb.push(next);
      taken.add(next);
    }
    limbs.push(limb);
  }
  return limbs;
}

function nameLimb(
  grid: Grid,
  limb: readonly ReadPart[],
  trunk: ReadPart,
  parts: readonly ReadPart[],
  claim: (part: ReadPart, kind: PartKind, why: string, side?: Side) => void,
): void {
  const [, ty, , th] = trunk.box;
  const root = limb[0]!;
  const lowest = Math.max(...limb.map((p) => p.box[1] + p.box[3]));
  const ground = grid.box[1] + grid.box[3];
  const shared = overlapOf(grid, root.laid!, trunk.laid!);
  const start = shared.cells > 0 ? shared.middle[1] : root.box[1];
  const leg = start > ty + 0.55 * th && lowest > ground - 0.2 * grid.box[3];
  const arm = !leg && start < ty + 0.6 * th && (limb.length > 1 || root.laid!.lie.along > 1.5 * root.laid!.lie.across);
  if (!leg && !arm) return;
  const enough = parts.filter(
    (p) => p.kind === (leg ? 'thigh' : 'upperArm') || p.kind === (leg ? 'leg' : 'arm'),
  ).length;
  if (enough >= 2) return;
  const names: PartKind[] = leg
    ? limb.length >= 3
      ? ['thigh', 'shin', 'foot']
      : limb.length === 2
        ? isFoot(limb[1]!, limb[0]!)
          ? ['leg', 'foot']
          : ['thigh', 'shin']
        : ['leg']
    : limb.length >= 3
      ? ['upperArm', 'forearm', 'hand']
      : limb.length === 2
        ? ['upperArm', 'forearm']
        : ['arm'];
  limb.slice(0, 3).forEach((p, i) => {
    claim(p, names[i]!, leg ? 'it hangs below the trunk and reaches the ground' : 'it hangs beside the upper trunk');
  });
}

/** A piece at the end of a leg that is short and lies flat. */
const isFoot = (p: ReadPart, leg: ReadPart): boolean => p.box[3] < 0.4 * leg.box[3] || p.box[2] > 1.2 * p.box[3];

/** Which way a figure faces: by its feet, its nose, and whether its legs stand beside one another. */
function findFacing(parts: readonly ReadPart[]): { facing: Facing; why: string } {
  const shown = parts.filter((p) => p.laid && p.shown);
  const of = (...kinds: PartKind[]): ReadPart[] => shown.filter((p) => p.kind && kinds.includes(p.kind));
  let votes = 0;
  const why = new Set<string>();
  const feet = of('foot');
  const shins = of('shin', 'leg');
  const offsets = feet.map((foot) => {
    const from = (p: ReadPart): number => Math.abs(endX(p) - middleOf(foot.box)[0]);
    // the leg it stands under: the one whose lower end is nearest; of two close together it may be either
    const [under, other] = [...shins].sort((a, b) => from(a) - from(b));
    if (!under) return 0;
    const close = other && Math.abs(endX(under) - endX(other)) < 0.6 * foot.box[2];
    const above = close ? (endX(under) + endX(other)) / 2 : endX(under);
    return (middleOf(foot.box)[0] - above) / Math.max(foot.box[2], 1e-9);
  });
  function endX(p: ReadPart): number {
    const { middle, axis, back, fore } = p.laid!.lie;
    const down = axis[1] > 0 ? fore : back;
    return middle[0] + down * axis[0];
  }
  if (offsets.length >= 2) {
    const apart = offsets.some((o) => o > 0.05) && offsets.some((o) => o < -0.05);
    if (apart) why.add('the feet point apart');
    else if (Math.abs(average(offsets)) > 0.1) {
      votes += 2 * Math.sign(average(offsets));
      why.add('both feet point that way');
    }
    if (apart) return { facing: 'front', why: [...why].join(', ') };
  }
  const head = of('head')[0];
  if (head) {
    for (const nose of of('nose')) {
      const off = (middleOf(nose.box)[0] - middleOf(head.box)[0]) / Math.max(head.box[2], 1e-9);
      if (Math.abs(off) > 0.22) {
        votes += 1.5 * Math.sign(off);
        why.add('the nose points that way');
      }
    }
    const eyes = of('eye', 'pupil').map(
      (e) => (middleOf(e.box)[0] - middleOf(head.box)[0]) / Math.max(head.box[2], 1e-9),
    );
    if (eyes.length > 0 && eyes.every((e) => Math.sign(e) === Math.sign(eyes[0]!) && Math.abs(e) > 0.08)) {
      votes += Math.sign(eyes[0]!);
      why.add('the eyes lie on that side of the head');
    } else if (eyes.length >= 2 && eyes.some((e) => e > 0.05) && eyes.some((e) => e < -0.05)) votes *= 0.4;
  }
  const legs = of('thigh', 'leg');
  const trunk = of('torso', 'pelvis', 'chest', 'coat')[0];
  if (legs.length >= 2 && trunk) {
    const spread = Math.abs(middleOf(legs[0]!.box)[0] - middleOf(legs[1]!.box)[0]) / trunk.box[2];
    if (spread > 0.35) votes *= 0.5;
    else votes *= 1.25;
  }
  if (Math.abs(votes) < 1.4)
    return { facing: 'front', why: why.size > 0 ? [...why].join(', ') : 'nothing points aside' };
  return { facing: votes > 0 ? 'right' : 'left', why: [...why].join(', ') };
}

/** Gives limbs their sides. Answers whether the figure's left lies on the picture's left though it faces the eye. */
function findSides(parts: readonly ReadPart[], facing: Facing, notes: string[]): boolean {
  const limbs = parts.filter((p) => p.kind && LIMB_KINDS.has(p.kind) && p.laid);
  const trunk = parts.find((p) => p.laid && (p.kind === 'torso' || p.kind === 'chest' || p.kind === 'pelvis'));
  const centre = trunk ? middleOf(trunk.box)[0] : average(limbs.map((p) => middleOf(p.box)[0]));
  // seen from its right side, what is near is its right
  const near: Side = facing === 'left' ? 'L' : 'R';
  const far: Side = near === 'L' ? 'R' : 'L';
  let mirrored = false;
  if (facing === 'front') {
    let vote = 0;
    for (const p of limbs)
      if (p.side)
        vote += Math.sign(middleOf(p.box)[0] - centre) * (p.side === 'L' ? 1 : -1) * (p.laid!.lie.cells > 0 ? 1 : 0);
    mirrored = vote < -1;
    if (mirrored)
      notes.push(
        'Parts called left lie on the left of the picture, as in a mirror; motions are carried over mirrored, so that left stays left by name.',
      );
  }
  for (const p of limbs) {
    if (p.side) continue;
    if (p.found.reading.depth && facing !== 'front') {
      p.side = p.found.reading.depth === 'near' ? near : far;
      p.why += `, ${p.found.reading.depth} in a figure that faces ${facing}`;
      continue;
    }
    const twin = limbs.find((q) => q !== p && q.kind === p.kind && q.shown === p.shown && q.view === p.view);
    p.state = 'guessed';
    if (facing === 'front') {
      const own = middleOf(p.box)[0];
      const right = twin && !twin.side ? own > middleOf(twin.box)[0] : own > centre;
      p.side = right !== mirrored ? 'L' : 'R';
      p.why += ', side by where it lies';
      if (twin && !twin.side) {
        twin.side = p.side === 'L' ? 'R' : 'L';
        twin.state = 'guessed';
        twin.why += ', side by where it lies';
      }
    } else {
      p.side = twin ? (twin.side ? (twin.side === 'L' ? 'R' : 'L') : p.order > twin.order ? near : far) : near;
      p.why += ', side by what it is drawn before';
      if (twin && !twin.side) {
        twin.side = p.side === 'L' ? 'R' : 'L';
        twin.state = 'guessed';
        twin.why += ', side by what it is drawn before';
      }
    }
  }
  // eyes, brows and ears have sides, too, where there are two
  for (const p of parts) {
    if (!p.kind || !HEAD_KINDS.has(p.kind) || p.side || !p.laid) continue;
    const twin = parts.find((q) => q !== p && q.kind === p.kind && q.view === p.view && !q.side && q.laid);
    if (!twin) continue;
    const right = middleOf(p.box)[0] > middleOf(twin.box)[0];
    p.side = right !== mirrored ? 'L' : 'R';
    twin.side = p.side === 'L' ? 'R' : 'L';
  }
  return mirrored;
}

const average = (values: readonly number[]): number =>
  values.length > 0 ? values.reduce((a, b) => a + b, 0) / values.length : 0;
