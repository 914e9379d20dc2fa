import type { GLTF } from '@gltf-transform/core';
import { MotionError } from '../errors';
import { normalize64, slerp64 } from '../math/fast';
import { normalizeQuat } from '../math/quat';

export interface SamplerKeys {
  readonly times: Float64Array;
  /** width numbers a key; for CUBICSPLINE three times as many: in-tangent, value, out-tangent. */
  readonly values: Float64Array;
  readonly width: number;
  readonly interpolation: GLTF.AnimationSamplerInterpolation;
}

/**
 * Checks times (finite, rising) and the number of values.
 * @throws MotionError 'empty', 'wrong-count' or 'bad-number', with joint and key
 */
export function checkKeys(keys: SamplerKeys, joint: string): void {
  const per = keys.width * (keys.interpolation === 'CUBICSPLINE' ? 3 : 1);
  if (keys.times.length === 0) throw new MotionError('empty', 'An animation channel has no keys.', { joint });
  if (keys.values.length !== keys.times.length * per) {
    throw new MotionError(
      'wrong-count',
      `An animation channel has ${keys.times.length} keys and ${keys.values.length} numbers; it needs ${keys.times.length * per}.`,
      { joint },
    );
  }
  for (let i = 0; i < keys.times.length; i++) {
    const t = keys.times[i]!;
    if (!Number.isFinite(t) || (i > 0 && t < keys.times[i - 1]!))
      throw new MotionError('bad-number', 'Key times are not rising.', { joint, frame: i });
  }
  const bad = keys.values.findIndex((x) => !Number.isFinite(x));
  if (bad >= 0)
    throw new MotionError('bad-number', 'A key is not a finite number.', { joint, frame: Math.floor(bad / per) });
}

/** Reads keys at rising times; remembers its place, so a whole clip is read in one pass. */
export class KeyReader {
  private at = 0;
  private readonly pair = new Float64Array(8);
  readonly out: Float64Array;

  constructor(private readonly keys: SamplerKeys) {
    this.out = new Float64Array(keys.width);
  }

  /** Value at a time in seconds, by glTF's rules for STEP, LINEAR (slerp for four wide) and CUBICSPLINE. */
  read(time: number, isTurn: boolean): Float64Array {
    const { times, values, width, interpolation } = this.keys;
    const { out } = this;
    const last = times.length - 1;
    while (this.at < last && times[this.at + 1]! <= time) this.at++;
    const i = this.at;
    const cubic = interpolation === 'CUBICSPLINE';
    const per = cubic ? 3 * width : width;
    const middle = cubic ? width : 0;
    if (i >= last || time <= times[i]! || interpolation === 'STEP') {
      for (let k = 0; k < width; k++) out[k] = values[i * per + middle + k]!;
      if (isTurn) normalizeQuat(out, 0);
      return out;
    }
    const span = times[i + 1]! - times[i]!;
    const t = span > 0 ? (time - times[i]!) / span : 0;
    if (cubic) {
      const t2 = t * t;
      const t3 = t2 * t;
      const a = i * per;
      const b = a + per;
      for (let k = 0; k < width; k++) {
        out[k] =
          (2 * t3 - 3 * t2 + 1) * values[a + width + k]! +
          span * (t3 - 2 * t2 + t) * values[a + 2 * width + k]! +
          (3 * t2 - 2 * t3) * values[b + width + k]! +
          span * (t3 - t2) * values[b + k]!;
      }
      if (isTurn) normalizeQuat(out, 0);
    } else if (isTurn) {
      const { pair } = this;
      for (let k = 0; k < 8; k++) pair[k] = values[4 * i + k]!;
      normalize64(pair, 0);
      normalize64(pair, 4);
      slerp64(out, 0, pair, 0, pair, 4, t);
    } else {
      for (let k = 0; k < width; k++) out[k] = (1 - t) * values[i * width + k]! + t * values[(i + 1) * width + k]!;
    }
    return out;
  }
}
