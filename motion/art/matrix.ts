/** Six numbers a b c d e f: a point (x, y) goes to (a x + c y + e, b x + d y + f), as SVG writes them. */
export type Matrix = readonly [a: number, b: number, c: number, d: number, e: number, f: number];

export const IDENTITY: Matrix = [1, 0, 0, 1, 0, 0];

/** First n, then m. */
export function multiply(m: Matrix, n: Matrix): Matrix {
  return [
    m[0] * n[0] + m[2] * n[1],
    m[1] * n[0] + m[3] * n[1],
    m[0] * n[2] + m[2] * n[3],
    m[1] * n[2] + m[3] * n[3],
    m[0] * n[4] + m[2] * n[5] + m[4],
    m[1] * n[4] + m[3] * n[5] + m[5],
  ];
}

/** The matrix that takes back what m does; undefined where m flattens the plane. */
export function inverse(m: Matrix): Matrix | undefined {
  const det = m[0] * m[3] - m[1] * m[2];
  if (!(Math.abs(det) > 1e-12)) return undefined;
  const [a, b, c, d] = [m[3] / det, -m[1] / det, -m[2] / det, m[0] / det];
  return [a, b, c, d, -(a * m[4] + c * m[5]), -(b * m[4] + d * m[5])];
}

/** Where a point goes. */
export const applied = (m: Matrix, x: number, y: number): [number, number] => [
  m[0] * x + m[2] * y + m[4],
  m[1] * x + m[3] * y + m[5],
];

/** How much longer lengths become, on average over directions. */
export const scaleOf = (m: Matrix): number => Math.sqrt(Math.abs(m[0] * m[3] - m[1] * m[2]));

const rotation = (degrees: number): Matrix => {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  return [c, s, -s, c, 0, 0];
};

/** Reads an SVG transform list; what it does not understand it leaves out. */
export function parseTransform(text: string | undefined): Matrix {
  let out = IDENTITY;
  if (!text) return out;
  for (const [, name, inside] of text.matchAll(/(\w+)\s*\(([^)]*)\)/g)) {
    const v = (inside!.match(/[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?/gi) ?? []).map(Number);
    if (v.some((x) => !Number.isFinite(x))) continue;
    const [a = 0, b = 0, c = 0] = v;
    let step: Matrix | undefined;
    switch (name) {
      case 'matrix':
        if (v.length === 6) step = v as unknown as Matrix;
        break;
      case 'translate':
        step = [1, 0, 0, 1, a, b];
        break;
      case 'scale':
        step = [a, 0, 0, v.length > 1 ? b : a, 0, 0];
        break;
      case 'rotate':
        step = multiply([1, 0, 0, 1, b, c], multiply(rotation(a), [1, 0, 0, 1, -b, -c]));
        break;
      case 'skewX':
        step = [1, 0, Math.tan((a * Math.PI) / 180), 1, 0, 0];
        break;
      case 'skewY':
        step = [1, Math.tan((a * Math.PI) / 180), 0, 1, 0, 0];
        break;
    }
    if (step) out = multiply(out, step);
  }
  return out;
}
