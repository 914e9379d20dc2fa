/**
 * Course nearest to weighted values under a penalty on its bending: minimises Σ w (x − y)² + bend · Σ (Δ²x)² + slope · Σ (Δx)²
 * + hold · Σ x². Where weights are 0 it runs on smoothly, and levels off beyond the last value. A banded Cholesky
 * factorisation, in time proportional to the length.
 * Method: Whittaker, On a new method of graduation, 1923; Eilers, A perfect smoother, 2003.
 * @param values `width` numbers a frame
 * @param weights one a frame, 0 or more
 * @param cutoffHz frequency of which a half passes where all weights are 1
 * @returns `width` numbers a frame
 */
export function smoothCourse(
  values: Float64Array,
  weights: Float64Array,
  width: number,
  cutoffHz: number,
  fps: number,
): Float64Array {
  const n = weights.length;
  const omega = Math.min(Math.PI, (2 * Math.PI * cutoffHz) / fps);
  const bend = (2 * Math.sin(omega / 2)) ** -4;
  const slope = SLOPE * bend * (2 * Math.sin(omega / 2)) ** 2;
  // rows of the symmetric matrix: diagonal and two bands above it
  const d0 = new Float64Array(n);
  const d1 = new Float64Array(n);
  const d2 = new Float64Array(n);
  for (let i = 0; i < n; i++) d0[i] = weights[i]! + HOLD;
  for (let i = 0; i + 1 < n; i++) {
    d0[i]! += slope;
    d0[i + 1]! += slope;
    d1[i]! -= slope;
  }
  for (let i = 0; i + 2 < n; i++) {
    d0[i]! += bend;
    d0[i + 1]! += 4 * bend;
    d0[i + 2]! += bend;
    d1[i]! -= 2 * bend;
    d1[i + 1]! -= 2 * bend;
    d2[i]! += bend;
  }
  // LDLᵀ in place: d0 holds D, d1 and d2 the factors below the diagonal
  for (let i = 0; i < n; i++) {
    const pivot = d0[i]!;
    const a = d1[i]! / pivot;
    const b = d2[i]! / pivot;
    if (i + 1 < n) {
      d0[i + 1]! -= a * d1[i]!;
      d1[i + 1]! -= a * d2[i]!;
    }
    if (i + 2 < n) d0[i + 2]! -= b * d2[i]!;
    d1[i] = a;
    d2[i] = b;
  }
  const out = new Float64Array(width * n);
  for (let k = 0; k < width; k++) {
    for (let i = 0; i < n; i++) {
      let x = weights[i]! > 0 ? weights[i]! * values[width * i + k]! : 0;
      if (i > 0) x -= d1[i - 1]! * out[width * (i - 1) + k]!;
      if (i > 1) x -= d2[i - 2]! * out[width * (i - 2) + k]!;
      out[width * i + k] = x;
    }
    for (let i = n - 1; i >= 0; i--) {
      let x = out[width * i + k]! / d0[i]!;
      if (i + 1 < n) x -= d1[i]! * out[width * (i + 1) + k]!;
      if (i + 2 < n) x -= d2[i]! * out[width * (i + 2) + k]!;
      out[width * i + k] = x;
    }
  }
  return out;
}

/** Share of the bending's penalty at the cutoff that slopes get: enough to level off where nothing is known. */
const SLOPE = 0.02;
/** Pulls towards 0 where nothing else does; keeps the system solvable. */
const HOLD = 1e-6;
