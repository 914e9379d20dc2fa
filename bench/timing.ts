/** Median, least and most of at least five timed runs after warm-up, in milliseconds. */
export interface Timing {
  median: number;
  low: number;
  high: number;
}

export function time(run: () => unknown, { runs = 7, warm = 3 } = {}): Timing {
  for (let i = 0; i < warm; i++) run();
  const times = Array.from({ length: runs }, () => {
    const start = performance.now();
    run();
    return performance.now() - start;
  }).sort((a, b) => a - b);
  return { median: times[times.length >> 1]!, low: times[0]!, high: times.at(-1)! };
}

export type Row = [what: string, figure: string, reach: string, met: 'yes' | 'no' | '–'];

export function table(title: string, rows: Row[]): void {
  const width = [0, 1, 2].map((k) => Math.max(...rows.map((r) => r[k]!.length), 8));
  console.log(`\n${title}`);
  for (const r of rows)
    console.log(`  ${r[0].padEnd(width[0]!)}  ${r[1].padStart(width[1]!)}  ${r[2].padStart(width[2]!)}  ${r[3]}`);
}

export const per = (count: number, ms: number): number => (1000 * count) / ms;
export const thousands = (x: number): string => `${(x / 1000).toFixed(x < 10_000 ? 1 : 0)} k`;
