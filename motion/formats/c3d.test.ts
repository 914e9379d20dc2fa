import { readC3d } from './c3d';

/** A C3D file with the points of some frames, as machines of three kinds write it. */
function c3d(
  frames: readonly (readonly (readonly number[] | null)[])[],
  kind: 84 | 85 | 86,
  floating: boolean,
): Uint8Array {
  const little = kind !== 86;
  const points = frames[0]!.length;
  const bytes = new Uint8Array(512 * 3 + frames.length * points * 16);
  const view = new DataView(bytes.buffer);
  const whole = (at: number, x: number): void => view.setInt16(at, x, little);
  const float = (at: number, x: number): void => {
    if (kind !== 85) {
      view.setFloat32(at, x, little);
      return;
    }
    view.setFloat32(at, 4 * x);
    const [a, b] = [view.getUint16(at), view.getUint16(at + 2)];
    view.setUint16(at, a, true);
    view.setUint16(at + 2, b, true);
  };
  bytes[0] = 2;
  bytes[1] = 0x50;
  whole(2, points);
  whole(6, 1);
  whole(8, frames.length);
  float(12, floating ? -0.1 : 0.1);
  whole(16, 4);
  float(20, 120);
  let at = 512;
  bytes.set([1, 0x50, 2, kind], at);
  at += 4;
  const text = (s: string): number[] => [...s].map((c) => c.charCodeAt(0));
  const put = (id: number, name: string, body: readonly number[], last = false): void => {
    bytes.set([name.length, id & 0xff, ...text(name)], at);
    at += 2 + name.length;
    whole(at, last ? 0 : 2 + body.length);
    bytes.set(body, at + 2);
    at += 2 + body.length;
  };
  put(-1, 'POINT', [0]);
  put(1, 'UNITS', [0xff, 1, 2, ...text('mm'), 0]);
  put(1, 'LABELS', [0xff, 2, 4, points, ...Array.from({ length: points }, (_, i) => text(`M${i}  `)).flat(), 0], true);
  frames.forEach((frame, f) =>
    frame.forEach((p, i) => {
      const o = 1536 + (f * points + i) * (floating ? 16 : 8);
      for (let k = 0; k < 4; k++) {
        const x = k === 3 ? (p ? 0 : -1) : (p?.[k] ?? 0);
        if (floating) float(o + 4 * k, x);
        else whole(o + 2 * k, k === 3 ? x : x * 10);
      }
    }),
  );
  return floating ? bytes : bytes.slice(0, 1536 + frames.length * points * 8);
}

const FRAMES = [
  [
    [1000, 20.5, -3],
    [1, 2, 3],
  ],
  [null, [4, 5, 6]],
];

test.each([84, 85, 86] as const)('points are read from machines of kind %d, whole and floating', (kind) => {
  for (const floating of [true, false]) {
    const markers = readC3d(c3d(FRAMES, kind, floating));
    expect(markers).toMatchObject({ labels: ['M0', 'M1'], fps: 120, frameCount: 2 });
    const places = [...markers.places].map((x) => Math.round(1e6 * x) / 1e3);
    expect(places).toEqual([1000, 20.5, -3, 1, 2, 3, Number.NaN, Number.NaN, Number.NaN, 4, 5, 6]);
  }
});

test('a file that is cut off, or none, is refused in a sentence', () => {
  const good = c3d(FRAMES, 84, true);
  expect(() => readC3d(good.slice(0, 1550))).toThrow(expect.objectContaining({ code: 'truncated' }));
  expect(() => readC3d(good.slice(0, 40))).toThrow(expect.objectContaining({ code: 'not-this-format' }));
  expect(() => readC3d(Uint8Array.from(good, (b, i) => (i === 0 ? 200 : b)))).toThrow(
    expect.objectContaining({ code: 'bad-structure' }),
  );
});
