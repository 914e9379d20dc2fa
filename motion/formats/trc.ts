import { MotionError } from '../errors';
import type { Markers } from '../markers/markers';

const UNITS: Readonly<Record<string, number>> = { mm: 0.001, cm: 0.01, m: 1, in: 0.0254, ft: 0.3048 };
const MAX_MARKERS = 2000;
const MAX_NUMBERS = 60_000_000;

/**
 * Reads TRC: a table of marker places, a frame a line. Cells that are empty, or hold no number, are places not seen.
 * @throws MotionError 'not-this-format', 'bad-structure', 'bad-number' or 'too-large', with the line
 */
export function readTrc(bytes: Uint8Array): Markers {
  const lines = new TextDecoder()
    .decode(bytes)
    .replace(/^\ufeff/, '')
    .split(/\r\n|\n|\r/);
  if (!/^PathFileType\b/.test(lines[0] ?? ''))
    throw new MotionError('not-this-format', 'A TRC file begins with PathFileType.', { line: 1 });
  const wrong = (line: number, what: string): MotionError => new MotionError('bad-structure', what, { line });
  const cells = (n: number): string[] => (lines[n] ?? '').split('\t').map((c) => c.trim());
  const keys = cells(1);
  const values = cells(2);
  const told = (key: string): string | undefined =>
    values[keys.findIndex((k) => k.toLowerCase() === key.toLowerCase())];
  const fps = Number(told('DataRate') ?? told('CameraRate'));
  if (!(fps > 0) || fps > 10_000) throw wrong(3, 'The file does not say its DataRate.');
  const unit = UNITS[(told('Units') ?? 'mm').toLowerCase()];
  if (unit === undefined) throw wrong(3, `The unit "${(told('Units') ?? '').slice(0, 20)}" is none that is known.`);
  const head = lines.findIndex((l) => /^Frame#?\t/i.test(l));
  if (head < 0) throw wrong(4, 'The line that names the markers, beginning with Frame#, is missing.');
  // a name stands above the first of its three columns
  const names = cells(head).slice(2);
  while (names.length > 0 && names.at(-1) === '') names.pop();
  const labels = names.filter((_, i) => i % 3 === 0).map((n, i) => n || `marker ${i + 1}`);
  const close = names.length > 1 && names[1] !== '';
  const all = close ? names.filter((n) => n !== '') : labels;
  if (all.length === 0) throw wrong(head + 1, 'The file names no markers.');
  if (all.length > MAX_MARKERS)
    throw new MotionError('too-large', `The file has ${all.length} markers; at most ${MAX_MARKERS} are taken.`);
  const rows: { cells: string[]; line: number }[] = [];
  for (let n = head + 1; n < lines.length; n++) {
    const row = cells(n);
    // X1 Y1 Z1 … and empty lines
    if (row.every((c) => c === '') || !/^\d/.test(row[0] ?? '')) continue;
    rows.push({ cells: row, line: n + 1 });
  }
  if (rows.length * all.length * 3 > MAX_NUMBERS) throw new MotionError('too-large', 'The file has too many numbers.');
  const places = new Float32Array(3 * all.length * rows.length).fill(Number.NaN);
  rows.forEach(({ cells: row, line }, f) => {
    for (let i = 0; i < all.length; i++) {
      const at = [0, 1, 2].map((k) => row[2 + 3 * i + k] ?? '');
      if (at.some((c) => c === '' || /^nan$/i.test(c))) continue;
      const p = at.map(Number);
      if (!p.every(Number.isFinite))
        throw new MotionError(
          'bad-number',
          `"${at.find((c) => !Number.isFinite(Number(c)))!.slice(0, 20)}" is no number.`,
          { line },
        );
      places.set(
        p.map((x) => x * unit),
        3 * (f * all.length + i),
      );
    }
  });
  return { labels: unique(all), fps, frameCount: rows.length, places };
}

/** Writes TRC in millimetres. */
export function writeTrc({ labels, fps, frameCount, places }: Markers): string {
  const m = labels.length;
  const lines = [
    'PathFileType\t4\t(X/Y/Z)\tmarkers.trc',
    'DataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits\tOrigDataRate\tOrigDataStartFrame\tOrigNumFrames',
    [fps, fps, frameCount, m, 'mm', fps, 1, frameCount].join('\t'),
    ['Frame#', 'Time', ...labels.flatMap((l) => [l, '', ''])].join('\t'),
    ['', '', ...labels.flatMap((_, i) => [`X${i + 1}`, `Y${i + 1}`, `Z${i + 1}`])].join('\t'),
    '',
  ];
  for (let f = 0; f < frameCount; f++) {
    const row = [String(f + 1), (f / fps).toFixed(5)];
    for (let i = 0; i < 3 * m; i++) {
      const x = places[3 * f * m + i]!;
      row.push(Number.isNaN(x) ? '' : (1000 * x).toFixed(3));
    }
    lines.push(row.join('\t'));
  }
  return `${lines.join('\n')}\n`;
}

/** Labels made different by numbers behind them. */
export function unique(labels: readonly string[]): string[] {
  const used = new Set<string>();
  return labels.map((label) => {
    let name = label;
    for (let n = 2; used.has(name); n++) name = `${label} ${n}`;
    used.add(name);
    return name;
  });
}
