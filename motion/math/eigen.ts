/**
 * Eigenvalues and eigenvectors of a symmetric n × n matrix by Jacobi's turns, the largest value first.
 * @param matrix n × n numbers, row by row; left as it is
 * @returns vectors: n × n numbers, one vector a row
 */
export function eigenSymmetric(matrix: ArrayLike<number>, n: number): { values: Float64Array; vectors: Float64Array } {
  const a = Float64Array.from(matrix);
  const v = new Float64Array(n * n);
  for (let i = 0; i < n; i++) v[i * n + i] = 1;
  for (let sweep = 0; sweep < 50; sweep++) {
    let off = 0;
    let all = 0;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        all += a[i * n + j]! ** 2;
        if (i !== j) off += a[i * n + j]! ** 2;
      }
    if (off <= 1e-24 * all) break;
    for (let p = 0; p < n; p++)
      for (let q = p + 1; q < n; q++) {
        const apq = a[p * n + q]!;
        if (apq === 0) continue;
        const theta = (a[q * n + q]! - a[p * n + p]!) / (2 * apq);
        const t = Math.sign(theta || 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
        const c = 1 / Math.sqrt(t * t + 1);
        const s = t * c;
        for (let k = 0; k < n; k++) {
          const x = a[k * n + p]!;
          const y = a[k * n + q]!;
          a[k * n + p] = c * x - s * y;
          a[k * n + q] = s * x + c * y;
        }
        for (let k = 0; k < n; k++) {
          const x = a[p * n + k]!;
          const y = a[q * n + k]!;
          a[p * n + k] = c * x - s * y;
          a[q * n + k] = s * x + c * y;
        }
        for (let k = 0; k < n; k++) {
          const x = v[p * n + k]!;
          const y = v[q * n + k]!;
          v[p * n + k] = c * x - s * y;
          v[q * n + k] = s * x + c * y;
        }
      }
  }
  const order = Array.from({ length: n }, (_, i) => i).sort((i, j) => a[j * n + j]! - a[i * n + i]!);
  const vectors = new Float64Array(n * n);
  order.forEach((i, row) => {
    for (let k = 0; k < n; k++) vectors[row * n + k] = v[i * n + k]!;
  });
  return { values: Float64Array.from(order, (i) => a[i * n + i]!), vectors };
}
