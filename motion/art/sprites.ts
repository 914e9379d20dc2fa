import { MotionError } from '../errors';
import type { Box } from './mask';
import type { Raster } from './raster';

/** What stands beside a sheet of sprites and tells where its pictures lie; see docs/formats. */
export interface SpriteJson {
  format: 'velvet-reel-sprites';
  version: 1;
  name: string;
  fps: number;
  /** Width and height of every frame before its empty edges were cut off, pixels. */
  size: [number, number];
  /** The point of a frame on which the figure stands at rest, pixels from its upper left corner. */
  origin: [number, number];
  /** The pictures: where each lies in the sheet (x, y, width, height), and where its corner lies in the frame. */
  sprites: { at: [number, number, number, number]; offset: [number, number] }[];
  /** By frame: which picture shows. */
  frames: number[];
}

/** Pixels between pictures, so that none bleeds into its neighbour. */
const GAP = 2;
/** The most pixels that a sheet has on a side: what graphics cards take. */
export const MAX_SHEET = 4096;
const MAX_FRAMES = 2000;

interface Sprite {
  readonly width: number;
  readonly height: number;
  readonly offset: [number, number];
  readonly rgba: Uint8Array;
}

/** Gathers the frames of a movement for one sheet: empty edges are cut off, and equal frames are kept once. */
export class SpriteSheet {
  private readonly sprites: Sprite[] = [];
  private readonly known = new Map<string, number[]>();
  private readonly frames: number[] = [];
  private size: [number, number] = [0, 0];

  /** @throws MotionError 'too-large' for more than 2,000 frames */
  add(picture: Raster): void {
    if (this.frames.length >= MAX_FRAMES)
      throw new MotionError('too-large', `A sheet holds at most ${MAX_FRAMES} frames: take a lower rate or a part.`);
    this.size = [picture.width, picture.height];
    const sprite = trimmed(picture);
    const key = `${sprite.width} ${sprite.height} ${sprite.offset.join(' ')} ${hashOf(sprite.rgba)}`;
    const alike = (this.known.get(key) ?? []).find((i) => sameBytes(this.sprites[i]!.rgba, sprite.rgba));
    if (alike !== undefined) {
      this.frames.push(alike);
      return;
    }
    this.known.set(key, [...(this.known.get(key) ?? []), this.sprites.length]);
    this.frames.push(this.sprites.length);
    this.sprites.push(sprite);
  }

  /**
   * All pictures on one sheet, in rows of falling height, and where each lies.
   * @throws MotionError 'too-large' where they do not fit 4,096 by 4,096 pixels
   */
  laidOut(): { sheet: Raster } & Pick<SpriteJson, 'size' | 'sprites' | 'frames'> {
    const order = [...this.sprites.keys()].sort((a, b) => this.sprites[b]!.height - this.sprites[a]!.height || a - b);
    const area = this.sprites.reduce((sum, s) => sum + (s.width + GAP) * (s.height + GAP), 0);
    const widest = Math.max(1, ...this.sprites.map((s) => s.width));
    let width = Math.min(MAX_SHEET, Math.max(widest + 2 * GAP, Math.ceil(Math.sqrt(1.08 * area))));
    let laid = rowsOf(this.sprites, order, width);
    if (laid.height > MAX_SHEET) {
      width = MAX_SHEET;
      laid = rowsOf(this.sprites, order, width);
    }
    if (laid.height > MAX_SHEET || widest + 2 * GAP > MAX_SHEET)
      throw new MotionError('too-large', 'The frames do not fit on one sheet: draw them smaller, or at a lower rate.');
    const rgba = new Uint8Array(4 * width * laid.height);
    this.sprites.forEach(({ width: w, height: h, rgba: from }, i) => {
      const [x, y] = laid.places[i]!;
      for (let row = 0; row < h; row++)
        rgba.set(from.subarray(4 * row * w, 4 * (row + 1) * w), 4 * ((y + row) * width + x));
    });
    return {
      sheet: { width, height: laid.height, rgba },
      size: this.size,
      sprites: this.sprites.map((s, i) => ({ at: [...laid.places[i]!, s.width, s.height], offset: s.offset })),
      frames: [...this.frames],
    };
  }
}

/**
 * A sheet with what has to be said of it. @param box the part of the picture that every frame shows @param origin see CutoutArt
 * @throws MotionError as laidOut does
 */
export function spriteFiles(
  sheet: SpriteSheet,
  { name, fps, box, origin }: { name: string; fps: number; box: Box; origin: readonly [number, number] },
): { picture: Raster; json: SpriteJson } {
  const { sheet: picture, size, sprites, frames } = sheet.laidOut();
  const at = [0, 1].map((k) => Math.round(((origin[k]! - box[k]!) / box[k + 2]!) * size[k]! * 100) / 100);
  return {
    picture,
    json: { format: 'velvet-reel-sprites', version: 1, name, fps, size, origin: [at[0]!, at[1]!], sprites, frames },
  };
}

/** How large a frame may be drawn so that so many of them fit on one sheet: pixels high, at most 512. */
export function spriteHeight(frames: number, [width, height]: readonly [number, number]): number {
  const each = (0.85 * MAX_SHEET * MAX_SHEET) / Math.max(1, frames);
  return Math.max(16, Math.min(512, Math.floor(Math.sqrt((each * height) / width)) - GAP));
}

function rowsOf(
  sprites: readonly Sprite[],
  order: readonly number[],
  width: number,
): { places: [number, number][]; height: number } {
  const places: [number, number][] = [];
  let [x, y, row] = [GAP, GAP, 0];
  for (const i of order) {
    const { width: w, height: h } = sprites[i]!;
    if (x + w + GAP > width && x > GAP) [x, y, row] = [GAP, y + row + GAP, 0];
    places[i] = [x, y];
    x += w + GAP;
    row = Math.max(row, h);
  }
  return { places, height: y + row + GAP };
}

/** What of a picture is painted; one clear pixel where nothing is. */
function trimmed({ width, height, rgba }: Raster): Sprite {
  let [x0, y0, x1, y1] = [width, height, -1, -1];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (rgba[4 * (y * width + x) + 3] === 0) continue;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      y1 = y;
    }
  if (x1 < 0) [x0, y0, x1, y1] = [0, 0, 0, 0];
  const [w, h] = [x1 - x0 + 1, y1 - y0 + 1];
  const out = new Uint8Array(4 * w * h);
  for (let y = 0; y < h; y++) {
    const from = 4 * ((y0 + y) * width + x0);
    out.set(rgba.subarray(from, from + 4 * w), 4 * y * w);
  }
  return { width: w, height: h, offset: [x0, y0], rgba: out };
}

/** FNV-1a, 1991. */
function hashOf(bytes: Uint8Array): number {
  let hash = 0x811c9dc5;
  for (const b of bytes) hash = Math.imul(hash ^ b, 0x01000193);
  return hash >>> 0;
}

const sameBytes = (a: Uint8Array, b: Uint8Array): boolean => a.length === b.length && a.every((x, i) => x === b[i]);
