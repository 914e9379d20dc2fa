import { boxOf, joinBoxes } from '../art/mask';
import { applied, IDENTITY } from '../art/matrix';
import { readSvg } from '../art/svg-read';
import { Styles, shapesOf } from '../art/svg-shapes';
import { MotionError } from '../errors';
import { assemble } from './assemble';
import type { CutoutFigure } from './figure';
import { evaluateKeys } from './keys';
import { keysOf } from './lottie-keys';
import { type LottieMovie, readLottie } from './lottie-layers';
import { LottieDrawer } from './lottie-markup';
import { GONE, movesWith, type Piece, type PieceLayer, piecesOf, restTime, type Way, wayOf } from './lottie-pieces';
import { readPartName } from './part-names';
import type { CutoutScene } from './scene-json';
import { CutoutShow } from './show';
import { type FoundDrawing, type FoundPart, named } from './svg-parts';

/** A scene out of a Lottie file, with what of it could not be taken. */
export interface LottieScene extends CutoutScene {
  readonly notes: readonly string[];
}

/**
 * Reads a Lottie animation (Lottie Animation Community, specification 1.0, and what older writers left) as a cut-out figure
 * with its motion: layers as parts, those that are there in turn as the drawings of one, what moves them as keys of the
 * figure's joints. Keys stay keys, easing and all, wherever the figure's joints hang as the layers do; elsewhere the movement
 * is taken frame by frame and kept with as few keys as may stray by a fiftieth of the picture's unit or of a degree.
 * @returns notes: a sentence for each thing that a figure cannot keep
 * @throws MotionError as readLottie does, 'no-mesh' where nothing is drawn, 'unmappable' as assemble does
 */
export function sceneFromLottie(json: unknown): LottieScene {
  const movie = readLottie(json);
  const rest = restTime(movie);
  const drawer = new LottieDrawer(movie.assets, movie.leftOut);
  const pieces = piecesOf(movie, drawer, rest);
  if (pieces.length === 0)
    throw new MotionError('no-mesh', 'The animation draws nothing that can be read: no shapes, solids or pictures.');
  const ways = pieces.map((p) => wayOf(movie, p));
  const found = foundParts(movie, drawer, pieces, ways, rest);
  const figure = assemble({
    box: [0, 0, movie.width, movie.height],
    defs: drawer.allDefs,
    parts: found,
    notes: movie.leftOut.sentences(),
    together: (a, b) => movesWith(ways[found.indexOf(a)], ways[found.indexOf(b)], a.drawings[0]!.box),
  });
  const byName = new Map(found.map((f, i) => [f.name, i]));
  const places = figure.rig.parts.map((p) => byName.get(p.name)!);
  const keys = keysOf(movie, figure, places, pieces, ways);
  const motion = evaluateKeys(figure.rig, keys);
  const notes = [...figure.notes, ...strayNotes(figure, motion, places, ways)];
  return { name: movie.name, figure: { ...figure, notes }, motion, keys, notes };
}

/** Parts as the assembly takes them, in drawing order. */
function foundParts(
  movie: LottieMovie,
  drawer: LottieDrawer,
  pieces: readonly Piece[],
  ways: readonly Way[],
  rest: number,
): FoundPart[] {
  const restFrame = Math.round(rest - movie.start);
  const parts = pieces.map((piece, i): FoundPart => {
    const drawings: FoundDrawing[] = [];
    const way = ways[i]!;
    const atRest = piece.layers[way.layer[restFrame]!];
    for (const l of piece.layers) {
      if (drawings.some((d) => d.label === l.label)) continue;
      const drawn = drawingOf(drawer, l, l.label === atRest?.label);
      if (drawn) drawings.push(drawn);
    }
    const first = drawings.findIndex((d) => d.shown);
    if (first > 0) drawings.unshift(...drawings.splice(first, 1));
    if (way.layer.includes(-1) && drawings.length > 0)
      drawings.push({ label: GONE, svg: '<g/>', box: drawings[0]!.box, shapes: [], shown: false });
    return {
      name: piece.name,
      reading: readPartName(piece.name),
      drawings,
      pivot: pivotOf(movie, piece, drawings),
    };
  });
  return named(parts.map((p) => (p.drawings.length > 0 ? p : { ...p, drawings: [emptyDrawing(movie)] })));
}

const emptyDrawing = ({ width, height }: LottieMovie): FoundDrawing => ({
  label: GONE,
  svg: '<g/>',
  box: [0, 0, width, height],
  shapes: [],
  shown: false,
});

function drawingOf(drawer: LottieDrawer, l: PieceLayer, shown: boolean): FoundDrawing | undefined {
  const svg = `<g transform="matrix(${l.laid.map((x) => Math.round(x * 1e6) / 1e6).join(' ')})">${l.markup}</g>`;
  const { root } = readSvg(
    new TextEncoder().encode(
      `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><defs>${drawer.defsIn(svg)}</defs>${svg}</svg>`,
    ),
  );
  const node = root.children.find((c) => c.tag === 'g');
  if (!node) return undefined;
  const ids = new Map<string, (typeof root.children)[number]>();
  const gather = (n: typeof root): void => {
    if (n.attributes.id !== undefined) ids.set(n.attributes.id, n);
    n.children.forEach(gather);
  };
  gather(root);
  const shapes = shapesOf({ ids, styles: new Styles([]) }, node, IDENTITY);
  const box = boxOf(shapes);
  return box && { label: l.label, svg, box, shapes, shown };
}

/** Where a part is pinned: the anchor of its layer, where that is what it turns about. */
function pivotOf(
  movie: LottieMovie,
  { layers }: Piece,
  drawings: readonly FoundDrawing[],
): [number, number] | undefined {
  const { layer, laid } = layers[0]!;
  const { turn, size, anchor } = layer.transform;
  const carries = movie.layers.some((l) => l.parent === layer);
  if (!turn.moves && !size.moves && !carries) return undefined;
  const [ax = 0, ay = 0] = anchor.at(movie.start);
  const at = applied(laid, ax, ay);
  const box = drawings.map((d) => d.box).reduce(joinBoxes, drawings[0]?.box ?? [0, 0, 0, 0]);
  const room = 0.35 * Math.max(box[2], box[3]);
  const near =
    at[0] > box[0] - room && at[0] < box[0] + box[2] + room && at[1] > box[1] - room && at[1] < box[1] + box[3] + room;
  return near ? at : undefined;
}

/** Farther than this, shares of the picture's longer side, a part counts as moving otherwise. */
const STRAY = 0.005;

/** Parts that do not lie where the file has them: those that share a joint with another, and those that were skewed. */
function strayNotes(
  { rig, art }: CutoutFigure,
  motion: CutoutScene['motion'],
  places: readonly number[],
  ways: readonly Way[],
): string[] {
  const show = new CutoutShow(rig, art, motion);
  const limit = STRAY * Math.max(art.box[2], art.box[3]);
  const step = Math.max(1, Math.floor(motion.frameCount / 200));
  const far = new Set<number>();
  for (let f = 0; f < motion.frameCount; f += step) {
    show.at(f / motion.fps);
    rig.parts.forEach((part, i) => {
      const way = ways[places[i]!]!;
      if (far.has(i) || way.layer[f]! < 0) return;
      const [x, y, w, h] = art.drawings.find((d) => d.part === part.name)!.box;
      const m = show.matrixOf(i);
      for (const [px, py] of [
        [x, y],
        [x + w, y],
        [x, y + h],
        [x + w, y + h],
      ] as const) {
        const [p, q] = [applied(m, px, py), applied(way.matrices[f]!, px, py)];
        if (Math.hypot(p[0] - q[0], p[1] - q[1]) > limit) far.add(i);
      }
    });
  }
  if (far.size === 0) return [];
  const names = [...far].slice(0, 4).map((i) => `“${rig.parts[i]!.name}”`);
  return [
    `${far.size === 1 ? 'One part moves' : `${far.size} parts move`} otherwise than in the file, skewed or on a joint that others share: ${names.join(', ')}${far.size > 4 ? ' and others' : ''}.`,
  ];
}
