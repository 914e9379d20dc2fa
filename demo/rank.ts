/** Spearman's rank correlation; ties share their rank. */
export function rankCorrelation(a: readonly number[], b: readonly number[]): number {
  const ranks = (v: readonly number[]): number[] => {
    const order = v.map((x, i) => ({ x, i })).sort((p, q) => p.x - q.x);
    const out = new Array<number>(v.length);
    for (let i = 0; i < order.length; ) {
      let j = i;
      while (j + 1 < order.length && order[j + 1]!.x === order[i]!.x) j++;
      for (let k = i; k <= j; k++) out[order[k]!.i] = (i + j) / 2;
      i = j + 1;
    }
    return out;
  };
  const [x, y] = [ranks(a), ranks(b)];
  const mean = (a.length - 1) / 2;
  let [top, p, q] = [0, 0, 0];
  x.forEach((v, i) => {
    top += (v - mean) * (y[i]! - mean);
    p += (v - mean) ** 2;
    q += (y[i]! - mean) ** 2;
  });
  return top / Math.sqrt(p * q);
}
