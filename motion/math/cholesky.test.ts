import { backward, factor, forward } from './cholesky';
import { seeded } from './random';

test('a positive definite system is solved, wherever its right side begins', () => {
  const random = seeded(4);
  for (const n of [1, 2, 7, 20]) {
    const rows = Array.from({ length: n }, () => Array.from({ length: n }, () => random() - 0.5));
    const a = new Float64Array(n * n);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) a[i * n + j] = rows.reduce((sum, r) => sum + r[i]! * r[j]!, i === j ? 0.1 : 0);
    const x = Array.from({ length: n }, () => random());
    const b = new Float64Array(n + 2);
    for (let i = 0; i < n; i++) b[2 + i] = x.reduce((sum, v, j) => sum + a[i * n + j]! * v, 0);
    expect(factor(a, n)).toBe(true);
    forward(a, n, b, 2);
    backward(a, n, b, 2);
    for (let i = 0; i < n; i++) expect(b[2 + i]).toBeCloseTo(x[i]!, 9);
    expect([b[0], b[1]]).toEqual([0, 0]);
  }
});

test('what is not positive definite is told', () => {
  expect(factor(Float64Array.of(1, 0, 2, 1), 2)).toBe(false);
  expect(factor(Float64Array.of(0), 1)).toBe(false);
});
