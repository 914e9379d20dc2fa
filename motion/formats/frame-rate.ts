const STANDARD = [
  12,
  15,
  24000 / 1001,
  24,
  25,
  30000 / 1001,
  30,
  48,
  50,
  60000 / 1001,
  60,
  72,
  75,
  90,
  100,
  120000 / 1001,
  120,
  144,
  150,
  180,
  200,
  240,
  250,
  300,
  360,
  480,
  500,
  600,
  1000,
];

/**
 * Frames per second meant by a printed frame time. A time printed with few digits stands for an interval
 * (0.0333333 means 30); the nearest customary rate inside it is taken, else the plain reciprocal.
 */
export function rateFromFrameTime(text: string): number {
  const seconds = Number(text);
  const digits = /\.(\d+)/.exec(text)?.[1]?.length ?? 0;
  const exponent = /e([+-]?\d+)$/i.exec(text);
  const half = 0.5 * 10 ** (-digits + (exponent ? Number(exponent[1]) : 0));
  const slack = Math.max(Math.min(half * 1.01, seconds * 0.02), seconds * 1e-5);
  let best = 1 / seconds;
  let bestGap = slack;
  for (const rate of STANDARD) {
    const gap = Math.abs(1 / rate - seconds);
    if (gap <= bestGap) {
      best = rate;
      bestGap = gap;
    }
  }
  const whole = Math.round(1 / seconds);
  if (best === 1 / seconds && whole > 0 && Math.abs(1 / whole - seconds) <= slack) best = whole;
  return best;
}
