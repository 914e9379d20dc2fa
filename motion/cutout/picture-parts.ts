import UPNG from 'upng-js';
import { type Box, joinBoxes } from '../art/mask';
import type { Shape } from '../art/svg-shapes';
import { MotionError } from '../errors';
import { readPartName } from './part-names';
import { type FoundArt, type FoundDrawing, type FoundPart, mergeAlternates, named } from './svg-parts';

/** A file of a folder or an archive. */
export interface PictureFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

const MAX_SIDE = 8192;
const MAX_PIXELS = 48 * 1024 * 1024;
/** Bytes that one byte of deflate can stand for at most (RFC 1951: 258 for two bits). */
const MOST_UNPACKED_EACH = 1032;
const MAX_PICTURES = 1000;
/** Fainter than this a pixel counts as empty. */
const FAINT = 24;

/** What the small JSON beside the pictures says of one of them. All but the file may be left out. */
interface PictureNote {
  readonly file: string;
  readonly part?: string;
  readonly label?: string;
  readonly x?: number;
  readonly y?: number;
  readonly pivot?: readonly [number, number];
  readonly view?: string;
  readonly hidden?: boolean;
}

/**
 * Takes a set of PNG pictures as a layered drawing: one for each drawing of a part, the hindmost first. A JSON beside them
 * says where they lie and what they are; without one they all begin at the same corner, as layers of one canvas do, and their
 * names tell the rest.
 * @throws MotionError 'no-mesh' where there is no picture; 'too-large', 'bad-structure' naming the file
 */
export function findPictureParts(files: readonly PictureFile[]): FoundArt {
  const pictures = files.filter((f) => /\.png$/i.test(f.name));
  if (pictures.length === 0) throw new MotionError('no-mesh', 'There is no PNG picture in it.');
  if (pictures.length > MAX_PICTURES)
    throw new MotionError('too-large', `There are ${pictures.length} pictures; at most ${MAX_PICTURES} are taken.`);
  const notes = notesOf(files);
  const order =
    notes ?? [...pictures].sort((a, b) => natural(a.name, b.name)).map((f): PictureNote => ({ file: f.name }));
  const byName = new Map(pictures.map((f) => [base(f.name), f]));
  const parts: FoundPart[] = [];
  const grouped = new Map<string, number>();
  for (const note of order) {
    const file = byName.get(base(note.file));
    if (!file) throw new MotionError('bad-structure', `The list names ${note.file.slice(0, 80)}, which is not there.`);
    const stem = file.name.replace(/^.*\//, '').replace(/\.png$/i, '');
    const name = note.part ?? stem.replace(/^\d+[\s_.-]+/, '');
    const reading = readPartName(name);
    const drawing = drawingOf(file, note, reading.label || note.label || 'plain');
    if (!drawing) continue;
    const key = note.part === undefined ? undefined : `${note.part} ${note.view ?? ''}`;
    const at = key === undefined ? undefined : grouped.get(key);
    if (at !== undefined) {
      const before = parts[at]!;
      parts[at] = {
        ...before,
        drawings: [...before.drawings, { ...drawing, label: note.label ?? String(before.drawings.length + 1) }],
      };
      continue;
    }
    if (key !== undefined) grouped.set(key, parts.length);
    const view = /^(front|quarter|side|back)$/.exec(note.view ?? '')?.[0] as FoundPart['reading']['view'];
    parts.push({
      name,
      reading: { ...reading, view: view ?? reading.view },
      drawings: [note.label === undefined ? drawing : { ...drawing, label: note.label }],
      pivot: note.pivot ? [note.pivot[0], note.pivot[1]] : undefined,
    });
  }
  if (parts.length === 0) throw new MotionError('bad-structure', 'All pictures are empty.');
  const boxes = parts.flatMap((p) => p.drawings.map((d) => d.box));
  return {
    box: boxes.slice(1).reduce(joinBoxes, boxes[0]!),
    defs: '',
    parts: named(mergeAlternates(parts)),
    notes: [],
  };
}

const base = (name: string): string => name.replace(/^.*\//, '').toLowerCase();

const natural = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true });

/** The list in a JSON file beside the pictures: an array, or an object with "parts". */
function notesOf(files: readonly PictureFile[]): PictureNote[] | undefined {
  const file = files.find((f) => /\.json$/i.test(f.name));
  if (!file) return undefined;
  const wrong = (what: string): MotionError => new MotionError('bad-structure', what, { file: file.name });
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder().decode(file.bytes));
  } catch {
    throw wrong('The list of pictures cannot be read as JSON.');
  }
  const list = Array.isArray(json) ? json : (json as { parts?: unknown } | null)?.parts;
  if (!Array.isArray(list) || list.length === 0 || list.length > MAX_PICTURES)
    throw wrong('The list of pictures needs "parts", an entry for each picture.');
  return list.map((entry: Partial<PictureNote> | null, i) => {
    const { file: name, part, label, x, y, pivot, view, hidden } = entry ?? {};
    const text = (v: unknown): boolean => v === undefined || (typeof v === 'string' && v.length <= 200);
    const number = (v: unknown): boolean => v === undefined || (typeof v === 'number' && Number.isFinite(v));
    if (typeof name !== 'string') throw wrong(`Entry ${i + 1} needs "file", the name of a picture.`);
    if (!text(part) || !text(label) || !text(view)) throw wrong(`Entry ${i + 1}: part, label and view are text.`);
    if (!number(x) || !number(y)) throw wrong(`Entry ${i + 1}: x and y are numbers.`);
    if (
      pivot !== undefined &&
      !(Array.isArray(pivot) && pivot.length === 2 && pivot.every((v) => number(v) && v !== undefined))
    )
      throw wrong(`Entry ${i + 1}: a pivot is two numbers.`);
    return {
      file: name,
      ...(part === undefined ? {} : { part }),
      ...(label === undefined ? {} : { label }),
      ...(x === undefined ? {} : { x }),
      ...(y === undefined ? {} : { y }),
      ...(pivot === undefined ? {} : { pivot }),
      ...(view === undefined ? {} : { view }),
      hidden: hidden === true,
    };
  });
}

/** A picture cut to what is painted; undefined where nothing is. */
function drawingOf({ name, bytes }: PictureFile, note: PictureNote, label: string): FoundDrawing | undefined {
  const { width, height, rgba } = decode(name, bytes);
  let [x0, y0, x1, y1] = [width, height, -1, -1];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (rgba[4 * (y * width + x) + 3]! === 0) continue;
      x0 = Math.min(x0, x);
      x1 = Math.max(x1, x);
      y0 = Math.min(y0, y);
      y1 = Math.max(y1, y);
    }
  if (x1 < 0) return undefined;
  const [w, h] = [x1 - x0 + 1, y1 - y0 + 1];
  const cut = new Uint8Array(4 * w * h);
  const alpha = new Uint8Array(w * h);
  for (let y = 0; y < h; y++) {
    const from = 4 * ((y0 + y) * width + x0);
    cut.set(rgba.subarray(from, from + 4 * w), 4 * y * w);
    for (let x = 0; x < w; x++) alpha[y * w + x] = rgba[from + 4 * x + 3]! > FAINT ? 1 : 0;
  }
  const box: Box = [(note.x ?? 0) + x0, (note.y ?? 0) + y0, w, h];
  const png = new Uint8Array(UPNG.encode([cut.buffer as ArrayBuffer], w, h, 0));
  const shape: Shape = { rings: [], reach: 0, clips: [], pixels: { alpha, columns: w, rows: h, box } };
  return {
    label,
    svg: `<image x="${box[0]}" y="${box[1]}" width="${w}" height="${h}" href="data:image/png;base64,${base64(png)}"/>`,
    box,
    shapes: [shape],
    shown: note.hidden !== true,
  };
}

function decode(file: string, bytes: Uint8Array): { width: number; height: number; rgba: Uint8Array } {
  const wrong = (what: string): MotionError => new MotionError('bad-structure', what, { file });
  const head = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
  if (bytes.length < 33 || head.some((b, i) => bytes[i] !== b)) throw wrong('The file is no PNG picture.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  if (width === 0 || height === 0 || width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS)
    throw new MotionError(
      'too-large',
      `The picture has ${width} × ${height} pixels; at most ${MAX_SIDE} a side are taken.`,
      { file },
    );
  const channels = [1, 0, 3, 1, 2, 0, 4][bytes[25]!] ?? 4;
  const row = Math.ceil((width * channels * bytes[24]!) / 8);
  if (row * height > MOST_UNPACKED_EACH * bytes.length) throw wrong('The picture is cut off.');
  try {
    const chunks = drawnChunks(bytes);
    if (!chunks) throw wrong('The picture is cut off.');
    const image = UPNG.decode(chunks.buffer);
    const rgba = new Uint8Array(UPNG.toRGBA8(image)[0] ?? new ArrayBuffer(0));
    if (image.width !== width || image.height !== height || rgba.length !== 4 * width * height)
      throw wrong('The picture is cut off.');
    return { width, height, rgba };
  } catch (error) {
    if (error instanceof MotionError) throw error;
    throw wrong('The picture cannot be decoded: save it anew as PNG.');
  }
}

/** What of a PNG is drawn, and the most bytes each may have: the rest (texts, profiles, further frames) is never looked into. */
const DRAWN: Readonly<Record<string, number>> = { IHDR: 13, PLTE: 768, tRNS: 256, IDAT: Number.POSITIVE_INFINITY };

/** A PNG (RFC 2083) with nothing but its drawn chunks, in a buffer of its own; nothing where a chunk reaches beyond the file. */
function drawnChunks(bytes: Uint8Array): Uint8Array<ArrayBuffer> | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Uint8Array(bytes.length + 12);
  out.set(bytes.subarray(0, 8));
  let to = 8;
  for (let at = 8; at + 12 <= bytes.length; ) {
    const length = view.getUint32(at);
    const kind = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    if (kind === 'IEND') break;
    if (at + 12 + length > bytes.length) return undefined;
    const most = DRAWN[kind];
    if (most !== undefined) {
      if (length > most) return undefined;
      out.set(bytes.subarray(at, at + 12 + length), to);
      to += 12 + length;
    }
    at += 12 + length;
  }
  out.set([0, 0, 0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82], to);
  return out;
}

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

function base64(bytes: Uint8Array): string {
  const out: string[] = [];
  for (let i = 0; i < bytes.length; i += 3) {
    const n = (bytes[i]! << 16) | ((bytes[i + 1] ?? 0) << 8) | (bytes[i + 2] ?? 0);
    out.push(
      LETTERS[n >> 18]! +
        LETTERS[(n >> 12) & 63]! +
        (i + 1 < bytes.length ? LETTERS[(n >> 6) & 63]! : '=') +
        (i + 2 < bytes.length ? LETTERS[n & 63]! : '='),
    );
  }
  return out.join('');
}
