import fc from 'fast-check';
import {
  alignSigns,
  angleBetweenQuats,
  arcQuat,
  axisAngleQuat,
  basisQuat,
  eulerQuat,
  invMulQuat,
  mulInvQuat,
  mulQuat,
  normalizeQuat,
  quatToZxy,
  rotate3,
  slerp,
  twistQuat,
} from './quat';
import { angleBetween3 } from './vec';

const component = fc.double({ min: -1, max: 1, noNaN: true });
const quat = fc
  .tuple(component, component, component, component)
  .filter((q) => Math.hypot(...q) > 0.05)
  .map((q) => {
    const out = [...q];
    normalizeQuat(out, 0);
    return out;
  });
const vector = fc
  .tuple(component, component, component)
  .filter((v) => Math.hypot(...v) > 0.05)
  .map((v) => [...v]);

describe('quaternions', () => {
  test('a quarter turn about y takes x to −z', () => {
    const q = [0, 0, 0, 1];
    axisAngleQuat(q, 0, 0, 1, 0, Math.PI / 2);
    const v = [1, 0, 0];
    rotate3(v, 0, q, 0, v, 0);
    expect(v[0]).toBeCloseTo(0, 12);
    expect(v[2]).toBeCloseTo(-1, 12);
  });

  test('products turn one after the other, and work in place', () => {
    fc.assert(
      fc.property(quat, quat, vector, (a, b, v) => {
        const ab = [0, 0, 0, 1];
        mulQuat(ab, 0, a, 0, b, 0);
        const once = [0, 0, 0];
        rotate3(once, 0, ab, 0, v, 0);
        const twice = [...v];
        rotate3(twice, 0, b, 0, twice, 0);
        rotate3(twice, 0, a, 0, twice, 0);
        for (let k = 0; k < 3; k++) expect(once[k]).toBeCloseTo(twice[k]!, 9);
        const inPlace = [...a];
        mulQuat(inPlace, 0, inPlace, 0, b, 0);
        expect(inPlace).toEqual(ab);
      }),
    );
  });

  test('the inverse products undo', () => {
    fc.assert(
      fc.property(quat, quat, (a, b) => {
        const q = [0, 0, 0, 1];
        invMulQuat(q, 0, a, 0, b, 0);
        mulQuat(q, 0, a, 0, q, 0);
        expect(angleBetweenQuats(q, 0, b, 0)).toBeLessThan(1e-9);
        mulInvQuat(q, 0, b, 0, a, 0);
        mulQuat(q, 0, q, 0, a, 0);
        expect(angleBetweenQuats(q, 0, b, 0)).toBeLessThan(1e-9);
      }),
    );
  });

  test('the shortest arc takes one direction to the other, opposite ones too', () => {
    fc.assert(
      fc.property(vector, vector, (a, b) => {
        const q = [0, 0, 0, 1];
        arcQuat(q, 0, a, 0, b, 0);
        const v = [...a];
        rotate3(v, 0, q, 0, v, 0);
        expect(angleBetween3(v, 0, b, 0)).toBeLessThan(2e-3);
      }),
    );
    const q = [0, 0, 0, 1];
    arcQuat(q, 0, [0, -2, 0], 0, [0, 1, 0], 0);
    const v = [0, -1, 0];
    rotate3(v, 0, q, 0, v, 0);
    expect(v[1]).toBeCloseTo(1, 9);
  });

  test('slerp runs at even speed along the shorter way, whatever the signs', () => {
    fc.assert(
      fc.property(quat, quat, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, t) => {
        const q = [0, 0, 0, 1];
        slerp(
          q,
          0,
          a,
          0,
          b.map((x) => -x),
          0,
          t,
        );
        const whole = angleBetweenQuats(a, 0, b, 0);
        if (whole > Math.PI - 0.05) return;
        expect(angleBetweenQuats(a, 0, q, 0)).toBeCloseTo(t * whole, 4);
      }),
    );
  });

  test('turns by Z, X, Y survive the way there and back', () => {
    fc.assert(
      fc.property(quat, (q) => {
        const e = [0, 0, 0];
        quatToZxy(q, 0, e, 0);
        const back = [0, 0, 0, 1];
        eulerQuat(back, 0, 'ZXY', e[0]!, e[1]!, e[2]!);
        expect(angleBetweenQuats(q, 0, back, 0)).toBeLessThan(1e-3);
      }),
    );
  });

  test('a twist is the part about its axis', () => {
    const q = [0, 0, 0, 1];
    const swing = [0, 0, 0, 1];
    axisAngleQuat(q, 0, 1, 0, 0, 0.7);
    axisAngleQuat(swing, 0, 0, 0, 1, 0.4);
    mulQuat(q, 0, swing, 0, q, 0);
    const twist = [0, 0, 0, 1];
    twistQuat(twist, 0, q, 0, 1, 0, 0);
    expect(2 * Math.atan2(twist[0]!, twist[3]!)).toBeCloseTo(0.7, 9);
  });

  test('a basis of turned axes gives the turn', () => {
    fc.assert(
      fc.property(quat, (q) => {
        const axes = [
          [1, 0, 0],
          [0, 1, 0],
          [0, 0, 1],
        ].map((v) => {
          rotate3(v, 0, q, 0, v, 0);
          return v;
        });
        const back = [0, 0, 0, 1];
        basisQuat(back, 0, axes[0]!, axes[1]!, axes[2]!);
        expect(angleBetweenQuats(q, 0, back, 0)).toBeLessThan(1e-6);
      }),
    );
  });

  test('signs are made continuous without changing any turn', () => {
    const track = Float32Array.from([0, 0, 0, 1, 0, 0, -0.1, -0.995, 0, 0, 0.2, 0.98]);
    alignSigns(track, 0, 4, 3);
    expect(track[7]).toBeGreaterThan(0);
    expect(track[11]).toBeGreaterThan(0);
    expect(track[6]).toBeCloseTo(0.1, 6);
  });
});
