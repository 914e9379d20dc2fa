import fc from 'fast-check';
import { basis64, invMul64, mul64, mulInv64, norm, normalize64, rotate64, slerp64, storeNear } from './fast';
import { lowPass } from './low-pass';
import { composeMat, decomposeMat, identityMat, invertMat, mulMat, transformPoint } from './mat4';
import { angleBetweenQuats, invMulQuat, mulInvQuat, mulQuat, normalizeQuat, rotate3, slerp } from './quat';
import { seeded } from './random';
import { expQuat, logQuat } from './rotation-vector';
import { angleBetween3, clamp, cross3, distance3, dot3, normalize3, smoothstep } from './vec';

const number = fc.double({ min: -1, max: 1, noNaN: true });
const quat = fc
  .tuple(number, number, number, number)
  .filter((q) => Math.hypot(...q) > 0.1)
  .map((q) => {
    const out = [...q];
    normalizeQuat(out, 0);
    return out;
  });
const vec = fc.tuple(number, number, number).map((v) => v.map((x) => 3 * x));
const close = (a: ArrayLike<number>, b: ArrayLike<number>, digits = 9): void =>
  Array.from(a).forEach((x, i) => expect(x).toBeCloseTo(b[i]!, digits));

describe('the quick products are the plain ones', () => {
  test.each([
    ['mul', mul64, mulQuat],
    ['inverse first', invMul64, invMulQuat],
    ['inverse second', mulInv64, mulInvQuat],
  ] as const)('%s', (_, quick, plain) => {
    fc.assert(
      fc.property(quat, quat, (a, b) => {
        const fast = new Float64Array(4);
        const slow = [0, 0, 0, 0];
        quick(fast, 0, Float64Array.from(a), 0, Float64Array.from(b), 0);
        plain(slow, 0, a, 0, b, 0);
        close(fast, slow);
        // in place over either input: all is read before anything is written
        for (const over of [0, 4]) {
          const both = Float64Array.from([...a, ...b]);
          quick(both, over, both, 0, both, 4);
          close(both.subarray(over, over + 4), slow);
        }
      }),
    );
  });

  test('a turned vector, in place too, keeps its length', () => {
    fc.assert(
      fc.property(quat, vec, (q, v) => {
        const out = new Float64Array(3);
        const slow = [0, 0, 0];
        rotate64(out, 0, Float64Array.from(q), 0, Float64Array.from(v), 0);
        rotate3(slow, 0, q, 0, v, 0);
        close(out, slow);
        expect(norm(out[0]!, out[1]!, out[2]!)).toBeCloseTo(Math.hypot(...v), 9);
        const same = Float64Array.from(v);
        rotate64(same, 0, Float64Array.from(q), 0, same, 0);
        close(same, slow);
      }),
    );
  });

  test('a mix of two turns, from one to the other and no farther', () => {
    fc.assert(
      fc.property(quat, quat, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, t) => {
        const fast = new Float64Array(4);
        const slow = [0, 0, 0, 0];
        slerp64(fast, 0, Float64Array.from(a), 0, Float64Array.from(b), 0, t);
        slerp(slow, 0, a, 0, b, 0, t);
        expect(angleBetweenQuats(fast, 0, slow, 0)).toBeLessThan(1e-5);
        const whole = angleBetweenQuats(a, 0, b, 0);
        expect(angleBetweenQuats(a, 0, fast, 0)).toBeLessThanOrEqual(whole + 1e-5);
        expect(angleBetweenQuats(a, 0, fast, 0) + angleBetweenQuats(fast, 0, b, 0)).toBeCloseTo(whole, 4);
      }),
    );
  });

  test('a stored turn goes on from the one before, with the nearer sign', () => {
    fc.assert(
      fc.property(quat, quat, (a, b) => {
        const track = new Float32Array(8);
        storeNear(track, 0, Float64Array.from(a), 0, -1);
        storeNear(track, 4, Float64Array.from(b), 0, 0);
        const dot = [0, 1, 2, 3].reduce((s, k) => s + track[k]! * track[4 + k]!, 0);
        expect(dot).toBeGreaterThanOrEqual(-1e-6);
        expect(angleBetweenQuats(track, 4, b, 0)).toBeLessThan(1e-3);
      }),
    );
  });

  test('a basis made of a turn’s axes is the turn', () => {
    fc.assert(
      fc.property(quat, (q) => {
        const axes = [0, 1, 2].map((k) => {
          const v = new Float64Array(3);
          rotate64(
            v,
            0,
            Float64Array.from(q),
            0,
            Float64Array.from([k === 0 ? 1 : 0, k === 1 ? 1 : 0, k === 2 ? 1 : 0]),
            0,
          );
          return v;
        });
        const out = new Float64Array(4);
        basis64(out, axes[0]!, axes[1]!, axes[2]!);
        expect(angleBetweenQuats(out, 0, q, 0)).toBeLessThan(1e-6);
      }),
    );
  });

  test('nothing of no length becomes a turn of none', () => {
    const q = new Float64Array(4);
    normalize64(q, 0);
    expect([...q]).toEqual([0, 0, 0, 1]);
  });
});

describe('rotation vectors', () => {
  test('are at most half a turn long and come back as the same turn', () => {
    fc.assert(
      fc.property(quat, (q) => {
        const v = [0, 0, 0];
        const back = [0, 0, 0, 1];
        logQuat(v, 0, q, 0);
        expect(Math.hypot(...v)).toBeLessThanOrEqual(Math.PI + 1e-9);
        expect(Math.hypot(...v)).toBeCloseTo(angleBetweenQuats(q, 0, [0, 0, 0, 1], 0), 6);
        expQuat(back, 0, v, 0);
        expect(angleBetweenQuats(back, 0, q, 0)).toBeLessThan(1e-6);
      }),
    );
  });

  test('the smallest turns keep their axis', () => {
    const v = [1e-10, 0, 0];
    const q = [0, 0, 0, 1];
    expQuat(q, 0, v, 0);
    const back = [0, 0, 0];
    logQuat(back, 0, q, 0);
    expect(back[0]).toBeCloseTo(1e-10, 14);
  });
});

describe('matrices', () => {
  const scale = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.2, max: 4, noNaN: true })));

  test('are taken apart into what they were made of', () => {
    fc.assert(
      fc.property(vec, quat, scale, (t, q, s) => {
        const d = decomposeMat(composeMat(t, q, s));
        close(d.t, t, 6);
        close(d.s, s, 6);
        expect(angleBetweenQuats(d.q, 0, q, 0)).toBeLessThan(1e-5);
      }),
    );
  });

  test('times their inverse are nothing; points come back', () => {
    fc.assert(
      fc.property(vec, quat, scale, vec, (t, q, s, p) => {
        const m = composeMat(t, q, s);
        const inverse = invertMat(m)!;
        close(mulMat(m, inverse), identityMat(), 6);
        const moved = [0, 0, 0];
        transformPoint(moved, 0, m, p, 0);
        transformPoint(moved, 0, inverse, moved, 0);
        close(moved, p, 6);
      }),
    );
  });

  test('flat ones have no inverse, and say so', () => {
    expect(invertMat(composeMat([0, 0, 0], [0, 0, 0, 1], [1, 0, 1]))).toBeUndefined();
  });

  test('one after the other is their product', () => {
    fc.assert(
      fc.property(vec, quat, vec, quat, vec, (t1, q1, t2, q2, p) => {
        const [a, b] = [composeMat(t1, q1, [1, 1, 1]), composeMat(t2, q2, [1, 1, 1])];
        const once = [0, 0, 0];
        const twice = [0, 0, 0];
        transformPoint(once, 0, mulMat(a, b), p, 0);
        transformPoint(twice, 0, b, p, 0);
        transformPoint(twice, 0, a, twice, 0);
        close(once, twice, 6);
      }),
    );
  });
});

describe('vectors', () => {
  test('a product across stands across both and is as long as the area between', () => {
    fc.assert(
      fc.property(vec, vec, (a, b) => {
        const c = [0, 0, 0];
        cross3(c, 0, a, 0, b, 0);
        expect(dot3(c, 0, a, 0)).toBeCloseTo(0, 6);
        expect(dot3(c, 0, b, 0)).toBeCloseTo(0, 6);
        const area = Math.sqrt(Math.max(0, dot3(a, 0, a, 0) * dot3(b, 0, b, 0) - dot3(a, 0, b, 0) ** 2));
        expect(Math.hypot(...c)).toBeCloseTo(area, 5);
        const over = [...a];
        cross3(over, 0, over, 0, b, 0);
        close(over, c);
      }),
    );
  });

  test('angles lie between nothing and half a turn, whatever the lengths', () => {
    fc.assert(
      fc.property(vec, vec, (a, b) => {
        const angle = angleBetween3(a, 0, b, 0);
        expect(angle).toBeGreaterThanOrEqual(0);
        expect(angle).toBeLessThanOrEqual(Math.PI);
        expect(angleBetween3(b, 0, a, 0)).toBeCloseTo(angle, 9);
      }),
    );
    expect(distance3([1, 2, 3], 0, [1, 2, 5], 0)).toBe(2);
    const v = [3, 0, 4];
    expect(normalize3(v, 0)).toBe(5);
    close(v, [0.6, 0, 0.8]);
  });

  test('the smooth step is 0 before, 1 behind, never falls, and level at both ends', () => {
    let last = -1;
    for (let x = -0.5; x <= 1.5; x += 0.01) {
      const y = smoothstep(x);
      expect(y).toBeGreaterThanOrEqual(last - 1e-12);
      last = y;
    }
    expect([smoothstep(-1), smoothstep(0), smoothstep(0.5), smoothstep(1), smoothstep(2)]).toEqual([0, 0, 0.5, 1, 1]);
    expect(smoothstep(0.001)).toBeLessThan(1e-5);
    expect([clamp(5, 0, 1), clamp(-5, 0, 1), clamp(0.3, 0, 1)]).toEqual([1, 0, 0.3]);
  });
});

describe('the low-pass', () => {
  const sine = (hz: number, fps: number, frames: number): Float32Array =>
    Float32Array.from({ length: frames }, (_, f) => Math.sin((2 * Math.PI * hz * f) / fps));
  const level = (x: Float32Array): number => {
    const middle = x.subarray(x.length >> 2, (3 * x.length) >> 2);
    return Math.sqrt(middle.reduce((s, y) => s + y * y, 0) / middle.length);
  };

  test.each([
    [1, 6, 0.99, 1.01],
    [6, 6, 0.66, 0.75],
    [24, 6, 0, 0.03],
    [50, 10, 0, 0.01],
  ])('%d Hz at a cut-off of %d Hz comes through between %d and %d', (hz, cutoff, low, high) => {
    const x = sine(hz, 120, 600);
    const before = level(x);
    lowPass(cutoff, 120)(x, 0, 1, 600);
    expect(level(x) / before).toBeGreaterThanOrEqual(low);
    expect(level(x) / before).toBeLessThanOrEqual(high);
  });

  test('delays nothing: a slow wave keeps its peaks where they were', () => {
    const x = sine(1, 120, 600);
    const y = x.slice();
    lowPass(8, 120)(y, 0, 1, 600);
    const peak = (a: Float32Array): number => a.subarray(240, 360).indexOf(Math.max(...a.subarray(240, 360)));
    expect(Math.abs(peak(y) - peak(x))).toBeLessThanOrEqual(1);
  });

  test('leaves a straight line and every other number of the table alone', () => {
    const table = Float32Array.from({ length: 200 }, (_, i) => (i % 2 === 0 ? i / 2 : 7));
    lowPass(5, 60)(table, 0, 2, 100);
    for (let f = 0; f < 100; f++) {
      expect(table[2 * f]!).toBeCloseTo(f, 3);
      expect(table[2 * f + 1]).toBe(7);
    }
  });

  test('the shortest tracks come through unharmed', () => {
    for (const frames of [0, 1, 2, 3, 5]) {
      const x = new Float32Array(frames).fill(2);
      lowPass(5, 30)(x, 0, 1, frames);
      for (const v of x) expect(v).toBeCloseTo(2, 5);
    }
  });
});

test('seeded numbers are the same for the same seed, spread over 0 to 1', () => {
  const draw = (seed: number): number[] =>
    Array.from(
      { length: 1000 },
      (
        (r) => () =>
          r()
      )(seeded(seed)),
    );
  expect(draw(7)).toEqual(draw(7));
  expect(draw(7)).not.toEqual(draw(8));
  const x = draw(3);
  expect(Math.min(...x)).toBeGreaterThanOrEqual(0);
  expect(Math.max(...x)).toBeLessThan(1);
  expect(x.reduce((a, b) => a + b, 0) / x.length).toBeCloseTo(0.5, 1);
});
