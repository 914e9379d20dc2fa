import type { Box } from '../art/mask';
import { applied, IDENTITY, inverse, type Matrix, multiply } from '../art/matrix';
import type { LottieLayer, LottieMovie } from './lottie-layers';
import type { LottieDrawer } from './lottie-markup';
import { readPartName } from './part-names';

/** A drawing that shows nothing: for parts that are not there all the time. */
export const GONE = 'nothing';

/** Layers that are one part: they are never there together. */
export interface Piece {
  readonly layers: PieceLayer[];
  name: string;
}

export interface PieceLayer {
  readonly layer: LottieLayer;
  /** Place in the order in which layers are drawn, the hindmost 0. */
  readonly z: number;
  /** What its drawing is called within the part: what its name says, or a number where other drawings stand beside it. */
  label: string;
  readonly markup: string;
  readonly shown: Uint8Array;
  /** From the layer to the picture as its drawing is kept. */
  laid: Matrix;
}

/** The movie's own time at a frame of ours, in its frames. */
export const timeOf = ({ start }: LottieMovie, frame: number): number => start + frame;

const turnOf = (m: Matrix): number => Math.atan2(m[1], m[0]);

/** The time at which the figure stands most nearly as it was drawn: its layers are turned least. */
export function restTime(movie: LottieMovie): number {
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
export function piecesOf(movie: LottieMovie, drawer: LottieDrawer, rest: number): Piece[] {
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
    callDrawings(piece);
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
export interface Way {
  readonly matrices: Matrix[];
  readonly layer: Int16Array;
}

/** What a part does to the picture, frame by frame, and which of its layers shows it. */
export function wayOf(movie: LottieMovie, { layers }: Piece): Way {
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
export function movesWith(a: Way | undefined, b: Way | undefined, box: Box): boolean {
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

/** Gives equal drawings of a part one label, and those that differ under one name a number. */
function callDrawings({ layers }: Piece): void {
  const known = new Map<string, string[]>();
  for (const l of layers) {
    const told = l.label || 'plain';
    const drawings = known.get(told) ?? [];
    known.set(told, drawings);
    if (!drawings.includes(l.markup)) drawings.push(l.markup);
    const place = drawings.indexOf(l.markup);
    l.label = place === 0 ? told : `${told} ${place + 1}`;
  }
}
