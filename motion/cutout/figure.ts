import type { Box } from '../art/mask';
import type { Matrix } from '../art/matrix';
import type { BodyMap } from '../bodymap/slots';
import type { CutoutPart, CutoutRig } from '../rig/rig';
import type { PartKind } from './part-names';

/** One picture that a part can show. */
export interface CutoutDrawing {
  readonly part: string;
  readonly label: string;
  /** Markup in the picture's coordinates, cleaned; it needs the art's `defs` beside it. */
  readonly svg: string;
  readonly box: Box;
}

/** The pictures of a cut-out figure. The picture's y runs downwards. */
export interface CutoutArt {
  readonly box: Box;
  /** Metres for each of the picture's units. */
  readonly unit: number;
  /** The point of the picture that lies at the world's origin: below the hips, on the ground. */
  readonly origin: readonly [x: number, y: number];
  readonly defs: string;
  readonly drawings: readonly CutoutDrawing[];
  /** Points of the parts that lie on their joints, in the picture's units, in the rig's order of parts. */
  readonly pivots: readonly (readonly [x: number, y: number])[];
  /** By joint name: the view in which it was drawn, where there are several. */
  readonly restViews: Readonly<Record<string, string>>;
  /** Parts that the file hides: they show in another view, or when a motion says so. */
  readonly hidden: readonly string[];
}

/** What was made of a part of the file, and how sure that is. */
export interface PartGuess {
  readonly part: string;
  readonly kind: PartKind | undefined;
  readonly side: 'L' | 'R' | undefined;
  readonly view: string | undefined;
  readonly state: 'sure' | 'guessed';
  readonly why: string;
  /** Whether its pivot was marked by the author or guessed from shapes. */
  readonly pivot: 'marked' | 'guessed';
}

/** A cut-out figure: its rig, what its parts are, and its pictures. */
export interface CutoutFigure {
  readonly rig: CutoutRig;
  readonly map: BodyMap;
  readonly art: CutoutArt;
  readonly guesses: readonly PartGuess[];
  readonly notes: readonly string[];
}

/**
 * Where a part's drawings go when its joint has a frame (see PlaneReader), in the picture's coordinates.
 * @param frames six numbers a joint @param stretch how much longer the part is along a direction of the joint's frame
 */
export function partMatrix(
  art: Pick<CutoutArt, 'unit' | 'origin'>,
  pivot: readonly [number, number],
  joint: number,
  frames: ArrayLike<number>,
  stretch?: { readonly by: number; readonly x: number; readonly y: number },
): Matrix {
  const o = 6 * joint;
  let [a, b, c, d] = [frames[o]!, frames[o + 1]!, frames[o + 2]!, frames[o + 3]!];
  if (stretch && stretch.by !== 1) {
    // (I + (by − 1) d dᵀ) in the joint's own frame, before everything else
    const k = stretch.by - 1;
    const [xx, xy, yy] = [1 + k * stretch.x * stretch.x, k * stretch.x * stretch.y, 1 + k * stretch.y * stretch.y];
    [a, b, c, d] = [a * xx + c * xy, b * xx + d * xy, a * xy + c * yy, b * xy + d * yy];
  }
  const [x, y] = [frames[o + 4]! / art.unit + art.origin[0], art.origin[1] - frames[o + 5]! / art.unit];
  // y runs upwards in the joint's frame and downwards in the picture
  const m = [a, -b, -c, d] as const;
  return [m[0], m[1], m[2], m[3], x - m[0] * pivot[0] - m[2] * pivot[1], y - m[1] * pivot[0] - m[3] * pivot[1]];
}

/** A point of the picture at rest in the world, metres. */
export const inWorld = (
  { unit, origin }: Pick<CutoutArt, 'unit' | 'origin'>,
  [x, y]: readonly [number, number],
): [number, number] => [(x - origin[0]) * unit, (origin[1] - y) * unit];

/** Parts that a joint carries, in drawing order. */
export const partsOn = (rig: CutoutRig, joint: number): CutoutPart[] => rig.parts.filter((p) => p.joint === joint);
