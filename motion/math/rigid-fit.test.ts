import fc from 'fast-check';
import { eigenSymmetric } from './eigen';
import { axisAngleQuat, rotate3 } from './quat';
import { rigidFit } from './rigid-fit';

const number = fc.double({ min: -3, max: 3, noNaN: true });
const point = fc.tuple(number, number, number);

describe('eigenvectors of a symmetric matrix', () => {
  test('turn it into its values, the largest first, at right angles to one another', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 5 }), fc.array(number, { minLength: 15, maxLength: 15 }), (n, values) => {
        const m = new Float64Array(n * n);
        for (let i = 0, k = 0; i < n; i++) for (let j = i; j < n; j++) m[i * n + j] = m[j * n + i] = values[k++]!;
        const { values: found, vectors } = eigenSymmetric(m, n);
        for (let e = 0; e < n; e++) {
          if (e > 0) expect(found[e]!).toBeLessThanOrEqual(found[e - 1]! + 1e-9);
          const v = vectors.subarray(e * n, (e + 1) * n);
          for (let i = 0; i < n; i++) {
            let sum = 0;
            for (let j = 0; j < n; j++) sum += m[i * n + j]! * v[j]!;
            expect(sum).toBeCloseTo(found[e]! * v[i]!, 7);
          }
          for (let f = 0; f <= e; f++) {
            const dot = v.reduce((s, x, k) => s + x * vectors[f * n + k]!, 0);
            expect(dot).toBeCloseTo(f === e ? 1 : 0, 8);
          }
        }
      }),
    );
  });
});

describe('a rigid movement', () => {
  const moved = (points: readonly (readonly number[])[], q: readonly number[], t: readonly number[]): number[] =>
    points.flatMap((p) => {
      const out = [0, 0, 0];
      rotate3(out, 0, q, 0, p, 0);
      return out.map((x, k) => x + t[k]!);
    });
  const off = (
    fit: NonNullable<ReturnType<typeof rigidFit>>,
    from: readonly number[],
    to: readonly number[],
  ): number => {
    let most = 0;
    const p = [0, 0, 0];
    for (let i = 0; i < from.length; i += 3) {
      rotate3(p, 0, fit.turn, 0, from, i);
      for (let k = 0; k < 3; k++) most = Math.max(most, Math.abs(p[k]! + fit.shift[k]! - to[i + k]!));
    }
    return most;
  };

  /** How far points lie off the line through the first one and the one farthest from it. */
  const beside = (points: readonly (readonly number[])[]): number => {
    const ways = points.map((p) => p.map((x, k) => x - points[0]![k]!));
    const long = ways.map((v) => Math.hypot(...v));
    const most = Math.max(1e-12, ...long);
    const [x, y, z] = (ways[long.indexOf(most)] ?? [0, 0, 0]).map((a) => a / most) as [number, number, number];
    return Math.max(...ways.map(([u, v, w]) => Math.hypot(y * w! - z * v!, z * u! - x * w!, x * v! - y * u!)));
  };

  test('is found again from the points that it moved', () => {
    fc.assert(
      fc.property(
        fc.array(point, { minLength: 3, maxLength: 8 }),
        point,
        number,
        point,
        (points, axis, angle, shift) => {
          fc.pre(Math.hypot(...axis) > 0.1);
          // points that nearly lie on one line leave the turn about it open
          fc.pre(beside(points) > 1e-3);
          const long = Math.hypot(...axis);
          const q = [0, 0, 0, 1];
          axisAngleQuat(q, 0, axis[0] / long, axis[1] / long, axis[2] / long, angle);
          const from = points.flat();
          const to = moved(points, q, shift);
          expect(off(rigidFit(from, to, new Float64Array(points.length).fill(1))!, from, to)).toBeLessThan(1e-6);
        },
      ),
    );
  });

  test('counts no point of weight nought, and one of great weight most', () => {
    const from = [0, 0, 0, 1, 0, 0, 0, 1, 0, 5, 5, 5];
    const to = [2, 0, 0, 3, 0, 0, 2, 1, 0, -9, 3, 1];
    const fit = rigidFit(from, to, [1, 1, 1, 0])!;
    expect(off(fit, from.slice(0, 9), to.slice(0, 9))).toBeLessThan(1e-9);
    const torn = rigidFit([0, 0, 0, 1, 0, 0], [0, 0, 0, 3, 0, 0], [1e6, 1])!;
    expect(Math.abs(torn.shift[0]!)).toBeLessThan(1e-4);
  });

  test('of two points turns no more than it has to, and of one there is none', () => {
    const fit = rigidFit([0, 0, 0, 0, 2, 0], [1, 1, 1, 1, 3, 1], [1, 1])!;
    expect(Math.abs(fit.turn[3]!)).toBeCloseTo(1, 9);
    expect(rigidFit([0, 0, 0], [1, 1, 1], [1])).toBeUndefined();
  });
});
