import { type Box, boxOf, joinBoxes } from '../art/mask';
import { applied, IDENTITY, inverse, type Matrix, multiply } from '../art/matrix';
import { readSvg } from '../art/svg-read';
import { Styles, shapesOf } from '../art/svg-shapes';
import { MotionError } from '../errors';
import type { Ease } from '../motion/curve';
import { keyFrames } from '../motion/key-frames';
import { ORDER_TRACK, viewTrack } from '../motion/tracks';
import { endOf } from '../rig/flat';
import { assemble } from './assemble';
import { orderLabel } from './drive-order';
import { type CutoutFigure, inWorld } from './figure';
import { type CutoutKey, type CutoutKeys, evaluateKeys, type KeyTrack, keyedAt, type StepKeys, WIDTH } from './keys';
import { type LottieLayer, type LottieMovie, readLottie } from './lottie-layers';
import { LottieDrawer } from './lottie-markup';
import type { LottieValue } from './lottie-values';
import { readPartName } from './part-names';
import type { CutoutScene } from './scene-json';
import { CutoutShow } from './show';
import { type FoundDrawing, type FoundPart, named } from './svg-parts';

/** A drawing that shows nothing: for parts that are not there all the time. */
const GONE = 'nothing';

/** A scene out of a Lottie file, with what of it could not be taken. */
export interface LottieScene extends CutoutScene {
  readonly notes: readonly string[];
}

/** Layers that are one part: they are never there together. */
interface Piece {
  readonly layers: PieceLayer[];
  name: string;
}

interface PieceLayer {
  readonly layer: LottieLayer;
  /** Place in the order in which layers are drawn, the hindmost 0. */
  readonly z: number;
  label: string;
  readonly markup: string;
  readonly shown: Uint8Array;
  /** From the layer to the picture as its drawing is kept. */
  laid: Matrix;
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

const timeOf = ({ start }: LottieMovie, frame: number): number => start + frame;

const turnOf = (m: Matrix): number => Math.atan2(m[1], m[0]);

/** The time at which the figure stands most nearly as it was drawn: its layers are turned least. */
function restTime(movie: LottieMovie): number {
  const step = Math.max(1, Math.floor(movie.frameCount / 240));
  let [best, least] = [0, Number.POSITIVE_INFINITY];
  for (let f = 0; f < movie.frameCount; f += step) {
    const time = timeOf(movie, f);
    let turned = 0;
    let there = 0;
    for (const layer of movie.layers) {
      if (!layer.shownAt(time)) continue;
      there++;
      turned += Math.abs(turnOf(layer.matrixAt(time)));
    }
    // a time at which little is there says little
    const weight = there === 0 ? Number.POSITIVE_INFINITY : turned / there + (1 - there / movie.layers.length);
    if (weight < least - 1e-6) [best, least] = [f, weight];
  }
  return timeOf(movie, best);
}

/** Layers that draw, put together where they are drawings of one part. */
function piecesOf(movie: LottieMovie, drawer: LottieDrawer, rest: number): Piece[] {
  const pieces: Piece[] = [];
  const open = new Map<string, Piece[]>();
  movie.layers.forEach((layer, z) => {
    const shown = Uint8Array.from({ length: movie.frameCount }, (_, f) => (layer.shownAt(timeOf(movie, f)) ? 1 : 0));
    const first = shown.indexOf(1);
    if (first < 0) return;
    const restShown = layer.shownAt(rest);
    const markup = drawer.draw(layer, layer.insideAt(restShown ? rest : timeOf(movie, first)));
    if (markup === '') return;
    const { stem, label } = stemAndLabel(layer.name);
    const laid = layer.matrixAt(restShown ? rest : timeOf(movie, first));
    const one: PieceLayer = { layer, z, label, markup, shown, laid };
    const apart = (p: Piece): boolean => p.layers.every((l) => l.shown.every((s, f) => s + shown[f]! < 2));
    const fits = open.get(stem)?.find(apart);
    if (fits) fits.layers.push(one);
    else {
      const piece: Piece = { layers: [one], name: stem };
      pieces.push(piece);
      open.set(stem, [...(open.get(stem) ?? []), piece]);
    }
  });
  for (const piece of pieces) {
    // a layer alone keeps its whole name, unless that says itself what is a label
    const [only] = piece.layers;
    if (piece.layers.length === 1 && !/[:/]/.test(only!.layer.name)) {
      piece.name = only!.layer.name;
      only!.label = '';
    }
    piece.layers.sort((a, b) => a.shown.indexOf(1) - b.shown.indexOf(1));
    layAlike(movie, piece);
  }
  return pieces;
}

/** What a layer is called, and which of its drawings it shows where the name says so. */
function stemAndLabel(name: string): { stem: string; label: string } {
  const told = /^(.{1,60}?)\s*[:/]\s*([^:/]{1,40})$/.exec(name);
  if (told) return { stem: told[1]!, label: told[2]! };
  const { kind, side, depth, view, label } = readPartName(name);
  if (!kind || label === '') return { stem: name, label: '' };
  return { stem: [side, depth, view, kind].filter(Boolean).join(' '), label };
}

/**
 * Layers of one part, laid out alike: one that takes over from another without a jump, if it is drawn in the same coordinates,
 * is kept where the other is.
 */
function layAlike(movie: LottieMovie, { layers }: Piece): void {
  for (let i = 1; i < layers.length; i++) {
    const [before, now] = [layers[i - 1]!, layers[i]!];
    const start = now.shown.indexOf(1);
    const end = before.shown.lastIndexOf(1, start - 1);
    const a = before.layer.matrixAt(timeOf(movie, Math.max(0, end)));
    const b = now.layer.matrixAt(timeOf(movie, start));
    const moved = (m: Matrix, laid: Matrix): Matrix => multiply(m, inverse(laid) ?? IDENTITY);
    const from = moved(a, before.laid);
    const apart = (laid: Matrix): number => {
      const to = moved(b, laid);
      return Math.max(
        ...[
          [0, 0],
          [movie.width, 0],
          [0, movie.height],
        ].map(([x, y]) => {
          const [p, q] = [applied(from, x!, y!), applied(to, x!, y!)];
          return Math.hypot(p[0] - q[0], p[1] - q[1]);
        }),
      );
    };
    if (now.markup === before.markup || apart(before.laid) < apart(now.laid)) now.laid = before.laid;
  }
}

/** By frame: what a part does to the picture from where it is kept, and which of its layers is there, −1 where none is. */
interface Way {
  readonly matrices: Matrix[];
  readonly layer: Int16Array;
}

function wayOf(movie: LottieMovie, { layers }: Piece): Way {
  const layer = new Int16Array(movie.frameCount).fill(-1);
  const back = layers.map((l) => inverse(l.laid) ?? IDENTITY);
  let last = 0;
  const matrices = Array.from({ length: movie.frameCount }, (_, f) => {
    const now = layers.findIndex((l) => l.shown[f] === 1);
    layer[f] = now;
    // what is not there goes on as the one that was there last
    if (now >= 0) last = now;
    return multiply(layers[last]!.layer.matrixAt(timeOf(movie, f)), back[last]!);
  });
  return { matrices, layer };
}

/** Whether two parts keep their place to one another all the time, as far as a piece of this size can tell. */
function movesWith(a: Way | undefined, b: Way | undefined, box: Box): boolean {
  if (!a || !b) return true;
  const [x, y, w, h] = box;
  const tolerance = 0.01 * Math.max(w, h) + 0.05;
  return a.matrices.every((m, f) =>
    [
      [x, y],
      [x + w, y + h],
    ].every(([px, py]) => {
      const [p, q] = [applied(m, px!, py!), applied(b.matrices[f]!, px!, py!)];
      return Math.hypot(p[0] - q[0], p[1] - q[1]) < tolerance;
    }),
  );
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
      const label = labelIn(piece, l);
      if (drawings.some((d) => d.label === label)) continue;
      const drawn = drawingOf(
        drawer,
        l,
        label,
        l === atRest || (atRest !== undefined && labelIn(piece, atRest) === label),
      );
      if (drawn) drawings.push(drawn);
    }
    const first = drawings.findIndex((d) => d.shown);
    if (first > 0) drawings.unshift(...drawings.splice(first, 1));
    // hindmost pieces are there from the first to the last frame, as a rule
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

/** What a layer's drawing is called within its part: its label, or a number where other drawings stand beside it. */
function labelIn({ layers }: Piece, l: PieceLayer): string {
  const told = l.label || 'plain';
  const unlike = [...new Set(layers.filter((o) => (o.label || 'plain') === told).map((o) => o.markup))];
  const place = unlike.indexOf(l.markup);
  return place === 0 ? told : `${told} ${place + 1}`;
}

function drawingOf(drawer: LottieDrawer, l: PieceLayer, label: string, shown: boolean): FoundDrawing | undefined {
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
  return box && { label, svg, box, shapes, shown };
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

/** How far keys may stray: radians, the picture's units, and shares of a size. */
const TOLERANCE = { turn: 0.02 * (Math.PI / 180), place: 0.02, scale: 2e-4, length: 2e-4 };

type Channel = KeyTrack['channel'];

/** A joint by frame: its turn, its place in its parent's frame (metres), and its size or its length along its bone. */
type JointWay = Readonly<Partial<Record<Channel, Float64Array>>>;

function keysOf(
  movie: LottieMovie,
  figure: CutoutFigure,
  places: readonly number[],
  pieces: readonly Piece[],
  ways: readonly Way[],
): CutoutKeys {
  const { rig, art } = figure;
  const n = movie.frameCount;
  const drivers = rig.names.map((_, joint) => driversOf(figure, joint));
  const matrixOf = (joint: number, f: number): Matrix => {
    const list = drivers[joint]!;
    const there = list.find((p) => ways[places[p]!]!.layer[f]! >= 0) ?? list[0];
    return there === undefined ? IDENTITY : ways[places[there]!]!.matrices[f]!;
  };
  const pivots = rig.names.map((_, joint) => drivers[joint]!.map((p) => art.pivots[p]!)[0] ?? ([0, 0] as const));
  const joints = jointWays(figure, n, matrixOf, pivots);
  const tracks: KeyTrack[] = [];
  rig.names.forEach((joint, j) => {
    const [driver, second] = drivers[j]!;
    const piece = driver === undefined ? undefined : pieces[places[driver]!];
    const lone = piece && second === undefined && piece.layers.length === 1 ? piece.layers[0]!.layer : undefined;
    for (const channel of ['turn', 'place', 'scale', 'length'] as const) {
      const values = joints[j]![channel];
      if (!values) continue;
      const atRest =
        channel === 'turn' ? [0] : channel === 'place' ? [rig.restT[3 * j]!, rig.restT[3 * j + 1]!] : [1, 1];
      const tolerance = channel === 'place' ? TOLERANCE.place * art.unit : TOLERANCE[channel];
      const width = WIDTH[channel];
      const still = values.every((v, i) => Math.abs(v - atRest[i % width]!) <= tolerance / 4);
      if (still) continue;
      const keys =
        (lone && keysAsMade(movie, lone, channel, values, width, tolerance)) ?? sparse(values, width, n, tolerance);
      tracks.push({ joint, channel, keys });
    }
  });
  return { fps: movie.fps, frameCount: n, tracks, steps: stepsOf(movie, figure, places, pieces, ways) };
}

/** Parts that a joint goes by, the one that carries others first; what lies loose on it does not lead. */
function driversOf({ rig }: CutoutFigure, joint: number): number[] {
  const on = rig.parts.flatMap((p, i) => (p.joint === joint ? [i] : []));
  const main = on.filter((i) => rig.parts[i]!.attachments.length > 0);
  const views = on.filter((i) => rig.parts[i]!.view !== undefined && !main.includes(i));
  return main.length > 0 ? [...main, ...views] : on.slice(0, 1);
}

/**
 * What joints do, so that their parts lie where the layers lay. A joint has no skew: it is drawn longer or shorter along its
 * bone, or given a size along its own axes, whichever comes nearer over the whole.
 */
function jointWays(
  { rig, art }: CutoutFigure,
  n: number,
  matrixOf: (joint: number, f: number) => Matrix,
  pivots: readonly (readonly [number, number])[],
): JointWay[] {
  const frames: Float64Array[] = [];
  return rig.names.map((_, j) => {
    const parent = frames[rig.parents[j]!];
    const wanted: Matrix[] = Array.from({ length: n }, (_, f) => {
      const m = matrixOf(j, f);
      const [x, y] = inWorld(art, applied(m, ...pivots[j]!));
      const above = parent ? (Array.from(parent.subarray(6 * f, 6 * f + 6)) as unknown as Matrix) : IDENTITY;
      return multiply(inverse(above) ?? IDENTITY, [m[0], -m[1], -m[2], m[3], x, y]);
    });
    const end = endOf(rig, j);
    const sized = wanted.map(bySize);
    const along = end && wanted.map((m) => byLength(m, end));
    const off = (list: readonly Split[]): number => list.reduce((most, s) => Math.max(most, s.off), 0);
    const lengthened = along !== undefined && off(along) < off(sized) - 1e-6;
    const chosen = lengthened ? along : sized;
    const turn = new Float64Array(n);
    const place = new Float64Array(2 * n);
    const scale = new Float64Array((lengthened ? 1 : 2) * n);
    const own = new Float64Array(6 * n);
    chosen.forEach((split, f) => {
      const last = f > 0 ? turn[f - 1]! : 0;
      turn[f] = split.turn + 2 * Math.PI * Math.round((last - split.turn) / (2 * Math.PI));
      const [x, y] = [wanted[f]![4], wanted[f]![5]];
      place.set([x, y], 2 * f);
      scale.set(lengthened ? [split.size[0]] : split.size, scale.length === n ? f : 2 * f);
      const [sx, sy] = lengthened ? [1, 1] : split.size;
      const [cos, sin] = [Math.cos(split.turn), Math.sin(split.turn)];
      const above = parent ? (Array.from(parent.subarray(6 * f, 6 * f + 6)) as unknown as Matrix) : IDENTITY;
      own.set(multiply(above, [cos * sx, sin * sx, -sin * sy, cos * sy, x, y]), 6 * f);
    });
    frames.push(own);
    return lengthened ? { turn, place, length: scale } : { turn, place, scale };
  });
}

/** What a joint does about its own place, and how far that is from what it should do. */
interface Split {
  readonly turn: number;
  /** Sizes along both axes, or along the bone and across it. */
  readonly size: readonly [number, number];
  readonly off: number;
}

/** A turn and sizes along the joint's own axes; skew is what is left. */
function bySize([a, b, c, d]: Matrix): Split {
  const sx = Math.hypot(a, b);
  const turn = sx > 1e-9 ? Math.atan2(b, a) : 0;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  return { turn, size: [sx, cos * d - sin * c], off: Math.abs(cos * c + sin * d) };
}

/** A turn and a length along the bone (the nearest turn: Higham, 1986); what is left is size across it, and skew. */
function byLength([a, b, c, d]: Matrix, [ex, ey]: readonly [number, number]): Split {
  const turn = Math.atan2(b - c, a + d);
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  const size = Math.hypot(ex, ey) || 1;
  const [ux, uy] = [ex / size, ey / size];
  // what is left when the turn is taken back, along the bone and across it
  const [p, q, r, s] = [cos * a + sin * b, cos * b - sin * a, cos * c + sin * d, cos * d - sin * c];
  const along = [p * ux + r * uy, q * ux + s * uy] as const;
  const across = [-p * uy + r * ux, -q * uy + s * ux] as const;
  const length = along[0] * ux + along[1] * uy;
  const skew = Math.abs(along[1] * ux - along[0] * uy);
  const width = across[1] * ux - across[0] * uy;
  return { turn, size: [length, width], off: Math.max(skew, Math.abs(width - 1)) };
}

/** The layer's own keyframes, if a joint that has values only at these and eases as they do goes where it should in every frame. */
function keysAsMade(
  movie: LottieMovie,
  layer: LottieLayer,
  channel: Channel,
  values: Float64Array,
  width: number,
  tolerance: number,
): CutoutKey[] | undefined {
  const { transform, line } = layer;
  const property: LottieValue =
    channel === 'turn' ? transform.turn : channel === 'place' ? transform.place : transform.size;
  if (!line || property.keys.length < 2 || (channel === 'place' && transform.placeY)) return undefined;
  const keys: CutoutKey[] = [];
  for (const key of property.keys) {
    const frame = (key.time - line.offset) / line.rate - movie.start;
    const whole = Math.round(frame);
    if (Math.abs(frame - whole) > 1e-3 || key.way || !sameEases(key.eases)) return undefined;
    if (whole < 0 || whole > movie.frameCount - 1) continue;
    keys.push({ frame: whole, value: [...values.subarray(width * whole, width * whole + width)], ease: key.eases[0] });
  }
  if (keys.length === 0) return undefined;
  for (let f = 0; f < movie.frameCount; f++) {
    const now = keyedAt({ keys }, f)!;
    for (let i = 0; i < width; i++) if (Math.abs(now[i]! - values[width * f + i]!) > tolerance) return undefined;
  }
  return keys;
}

const sameEases = (eases: readonly Ease[]): boolean =>
  eases.every((e) => JSON.stringify(e) === JSON.stringify(eases[0]));

/** As few keys with straight ways between as may stray so far. */
function sparse(values: Float64Array, width: number, n: number, tolerance: number): CutoutKey[] {
  const at = (f: number, i: number): number => values[width * f + i]!;
  const kept = keyFrames(n, tolerance, (a, b, f) => {
    const t = (f - a) / (b - a);
    let worst = 0;
    for (let i = 0; i < width; i++) worst = Math.max(worst, Math.abs(at(f, i) - (1 - t) * at(a, i) - t * at(b, i)));
    return worst;
  });
  return [...kept].map((frame) => ({
    frame,
    value: Array.from({ length: width }, (_, i) => at(frame, i)),
    ease: 'linear',
  }));
}

/** Which drawing shows when, in which view, and what lies before what. */
function stepsOf(
  movie: LottieMovie,
  { rig }: CutoutFigure,
  places: readonly number[],
  pieces: readonly Piece[],
  ways: readonly Way[],
): StepKeys[] {
  const n = movie.frameCount;
  const steps: StepKeys[] = [];
  const add = (name: string, labelAt: (f: number) => string | undefined): void => {
    const keys: { frame: number; label: string }[] = [];
    for (let f = 0; f < n; f++) {
      const label = labelAt(f);
      if (label !== undefined && label !== keys.at(-1)?.label) keys.push({ frame: keys.length === 0 ? 0 : f, label });
    }
    if (keys.length > 0) steps.push({ name, keys });
  };
  const showing = (i: number, f: number): PieceLayer | undefined => {
    const piece = pieces[places[i]!]!;
    return piece.layers[ways[places[i]!]!.layer[f]!];
  };
  rig.parts.forEach((part, i) => {
    const piece = pieces[places[i]!]!;
    if (part.drawings.length < 2) return;
    add(part.name, (f) => {
      const l = showing(i, f);
      return l ? labelIn(piece, l) : part.view ? undefined : GONE;
    });
  });
  rig.names.forEach((name, joint) => {
    const viewed = rig.parts.flatMap((p, i) => (p.joint === joint && p.view ? [i] : []));
    if (viewed.length > 1) add(viewTrack(name), (f) => rig.parts[viewed.find((i) => showing(i, f)) ?? -1]?.view);
  });
  const heights = rig.parts.map((_, i) => pieces[places[i]!]!.layers[0]!.z);
  const orders: string[] = [];
  for (let f = 0; f < n; f++) {
    rig.parts.forEach((_, i) => {
      heights[i] = showing(i, f)?.z ?? heights[i]!;
    });
    orders.push(orderLabel(rig.parts.map((_, i) => i).sort((a, b) => heights[a]! - heights[b]!)));
  }
  const plain = orderLabel(rig.parts.map((_, i) => i));
  if (orders.some((o) => o !== plain)) add(ORDER_TRACK, (f) => orders[f]);
  return steps;
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
