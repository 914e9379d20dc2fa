import { MotionError } from '../errors';
import type { Markers } from '../markers/markers';
import { unique } from './trc';

const BLOCK = 512;
const MAX_MARKERS = 2000;
const MAX_NUMBERS = 60_000_000;
const UNITS: Readonly<Record<string, number>> = { mm: 0.001, cm: 0.01, m: 1, in: 0.0254 };

/** Numbers as the machine wrote them that made the file: Intel, DEC or MIPS. */
class Reader {
  private readonly view: DataView;

  constructor(
    readonly bytes: Uint8Array,
    private readonly machine: 'intel' | 'dec' | 'mips',
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  private need(at: number, count: number): void {
    if (at < 0 || at + count > this.bytes.length)
      throw new MotionError('truncated', 'The file ends before its data do.', { byte: this.bytes.length });
  }

  byte(at: number): number {
    this.need(at, 1);
    return this.view.getInt8(at);
  }

  whole(at: number): number {
    this.need(at, 2);
    return this.view.getInt16(at, this.machine !== 'mips');
  }

  float(at: number): number {
    this.need(at, 4);
    if (this.machine !== 'dec') return this.view.getFloat32(at, this.machine === 'intel');
    // the halves stand the other way round, and the exponent is two higher
    const half = [this.view.getUint16(at + 2, true), this.view.getUint16(at, true)];
    const swapped = new DataView(new ArrayBuffer(4));
    swapped.setUint16(0, half[1]!);
    swapped.setUint16(2, half[0]!);
    return swapped.getFloat32(0) / 4;
  }

  text(at: number, count: number): string {
    this.need(at, count);
    return new TextDecoder('latin1').decode(this.bytes.subarray(at, at + count));
  }
}

interface Parameter {
  readonly type: number;
  readonly sizes: readonly number[];
  /** Where its data begin. */
  readonly at: number;
}

/**
 * Reads the points of a C3D file, with whole or with floating numbers, from any of the three kinds of machines; analogue data are
 * passed over. Points that were not seen, or are marked so, are places not known.
 * Source: the public description of the format (C3D.org user guide).
 * @throws MotionError 'not-this-format', 'truncated', 'bad-structure' or 'too-large'
 */
export function readC3d(bytes: Uint8Array): Markers {
  if (bytes.length < BLOCK || bytes[1] !== 0x50)
    throw new MotionError('not-this-format', 'The file is no C3D: its second byte is not 80.', { byte: 1 });
  const parametersAt = BLOCK * (bytes[0]! - 1);
  if (parametersAt < BLOCK || parametersAt + 4 > bytes.length)
    throw new MotionError('bad-structure', 'The file’s parameters lie outside it.', { byte: 0 });
  const machine = ({ 84: 'intel', 85: 'dec', 86: 'mips' } as const)[bytes[parametersAt + 3]!] ?? 'intel';
  const file = new Reader(bytes, machine);
  const parameters = readParameters(file, parametersAt);
  const point = (name: string): Parameter | undefined => parameters.get(`POINT:${name}`);
  const number = (p: Parameter | undefined, or: number): number =>
    !p
      ? or
      : p.type === 4
        ? file.float(p.at)
        : p.type === 2
          ? file.whole(p.at) & 0xffff
          : p.type === 1
            ? file.byte(p.at)
            : or;
  const count = file.whole(2) & 0xffff;
  const [first, last] = [file.whole(6) & 0xffff, file.whole(8) & 0xffff];
  const scale = file.float(12);
  const analogue = file.whole(4) & 0xffff;
  const start = BLOCK * ((file.whole(16) & 0xffff) - 1);
  const fps = number(point('RATE'), file.float(20)) || file.float(20);
  if (!(fps > 0) || fps > 10_000) throw new MotionError('bad-structure', 'The file does not say its rate.');
  if (count === 0) throw new MotionError('no-motion', 'The file holds no points.');
  if (count > MAX_MARKERS)
    throw new MotionError('too-large', `The file has ${count} points; at most ${MAX_MARKERS} are taken.`);
  const floating = scale < 0;
  const perPoint = floating ? 16 : 8;
  const perFrame = count * perPoint + analogue * (floating ? 4 : 2);
  if (start < BLOCK || start > bytes.length) throw new MotionError('bad-structure', 'The file’s data lie outside it.');
  // longer takes tell their length elsewhere, since the header's numbers end at 65,535
  const told = number(point('FRAMES'), 0);
  const inHeader = last - first + 1;
  const fit = Math.floor((bytes.length - start) / perFrame);
  const frames =
    inHeader >= 65_535 || inHeader < 1 || last === 65_535 ? (told >= 1 && told < 65_535 ? told : fit) : inHeader;
  if (frames * count * 3 > MAX_NUMBERS) throw new MotionError('too-large', 'The file has too many numbers.');
  if (start + frames * perFrame > bytes.length)
    throw new MotionError('truncated', `The file ends after ${fit} of ${frames} frames.`, { byte: bytes.length });
  const unit = UNITS[textsOf(file, point('UNITS'))[0]?.toLowerCase() ?? 'mm'] ?? 0.001;
  const labels = [...textsOf(file, point('LABELS')), ...textsOf(file, point('LABELS2'))];
  const places = new Float32Array(3 * count * frames).fill(Number.NaN);
  for (let f = 0; f < frames; f++)
    for (let i = 0; i < count; i++) {
      const at = start + f * perFrame + i * perPoint;
      const read = (k: number): number => (floating ? file.float(at + 4 * k) : scale * file.whole(at + 2 * k));
      // below 0 where it was not seen
      if ((floating ? file.float(at + 12) : file.whole(at + 6)) < 0) continue;
      const p = [read(0), read(1), read(2)];
      if (!p.every((x) => Number.isFinite(x) && Math.abs(x) < 1e7)) continue;
      // some leave out the mark and write zeros instead
      if (p[0] === 0 && p[1] === 0 && p[2] === 0) continue;
      for (let k = 0; k < 3; k++) places[3 * (f * count + i) + k] = p[k]! * unit;
    }
  return {
    labels: unique(Array.from({ length: count }, (_, i) => labels[i]?.trim() || `marker ${i + 1}`)),
    fps,
    frameCount: frames,
    places,
  };
}

function readParameters(file: Reader, start: number): Map<string, Parameter> {
  const groups = new Map<number, string>();
  const found: { group: number; name: string; parameter: Parameter }[] = [];
  let at = start + 4;
  for (let i = 0; i < 4096 && at + 2 < file.bytes.length; i++) {
    const length = Math.abs(file.byte(at));
    const id = file.byte(at + 1);
    if (length === 0 || id === 0) break;
    const name = file
      .text(at + 2, length)
      .trim()
      .toUpperCase();
    const next = file.whole(at + 2 + length);
    const body = at + 4 + length;
    if (id < 0) groups.set(-id, name);
    else {
      const kind = file.byte(body);
      const dimensions = file.byte(body + 1);
      if (dimensions < 0 || dimensions > 7)
        throw new MotionError('bad-structure', 'A parameter of the file is broken.', { byte: body });
      const sizes = Array.from({ length: dimensions }, (_, d) => file.byte(body + 2 + d) & 0xff);
      found.push({ group: id, name, parameter: { type: kind, sizes, at: body + 2 + dimensions } });
    }
    if (next <= 0) break;
    at += 2 + length + next;
  }
  return new Map(found.map((f) => [`${groups.get(f.group) ?? ''}:${f.name}`, f.parameter]));
}

/** A parameter's texts: rows of letters of one length. */
function textsOf(file: Reader, p: Parameter | undefined): string[] {
  if (!p || p.type !== -1) return [];
  const [length = 0, count = 1] = p.sizes;
  if (p.sizes.length === 0 || length === 0) return [];
  return Array.from({ length: count }, (_, i) => file.text(p.at + i * length, length).trim());
}
