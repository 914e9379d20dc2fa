/**
 * The lower factor of a symmetric positive definite matrix, in place: of A = L·Lᵀ the lower half holds L afterwards.
 * @param a n × n numbers, row by row; only the lower half is read
 * @returns whether the matrix is positive definite; where it is not, `a` is left half done
 */
export function factor(a: Float64Array, n: number): boolean {
  for (let i = 0; i < n; i++)
    for (let j = 0; j <= i; j++) {
      let sum = a[i * n + j]!;
      for (let k = 0; k < j; k++) sum -= a[i * n + k]! * a[j * n + k]!;
      if (i > j) a[i * n + j] = sum / a[j * n + j]!;
      else if (sum > 0) a[i * n + i] = Math.sqrt(sum);
      else return false;
    }
  return true;
}

/**
 * L·x = b for a factor of {@link factor}, in place.
 * @param b holds x afterwards, from `o` on @param first the first number of b that is not 0; so it is with x
 */
export function forward(l: Float64Array, n: number, b: Float64Array, o = 0, first = 0): void {
  for (let i = first; i < n; i++) {
    let sum = b[o + i]!;
    for (let k = first; k < i; k++) sum -= l[i * n + k]! * b[o + k]!;
    b[o + i] = sum / l[i * n + i]!;
  }
}

/** Lᵀ·x = b for a factor of {@link factor}, in place. @param b holds x afterwards, from `o` on */
export function backward(l: Float64Array, n: number, b: Float64Array, o = 0): void {
  for (let i = n - 1; i >= 0; i--) {
    let sum = b[o + i]!;
    for (let k = i + 1; k < n; k++) sum -= l[k * n + i]! * b[o + k]!;
    b[o + i] = sum / l[i * n + i]!;
  }
}
