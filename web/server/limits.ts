import { RateLimiterMemory } from 'rate-limiter-flexible';
import { Refusal } from './errors';

const kept = globalThis as { velvetLimits?: Map<string, RateLimiterMemory> };

function limiterFor(what: string, points: number, seconds: number): RateLimiterMemory {
  kept.velvetLimits ??= new Map();
  let limiter = kept.velvetLimits.get(what);
  if (!limiter) {
    limiter = new RateLimiterMemory({ points, duration: seconds });
    kept.velvetLimits.set(what, limiter);
  }
  return limiter;
}

const tooFast = (ms: number): Refusal => {
  const waitS = Math.ceil(ms / 1000);
  return new Refusal(429, 'too-fast', `Too many requests. Try again in ${waitS} s.`, { waitS });
};

/** Runs what may fail so many times in so many seconds for one key; successes do not count. */
export async function limitFailures<T>(
  what: string,
  key: string,
  points: number,
  seconds: number,
  run: () => Promise<T>,
): Promise<T> {
  const limiter = limiterFor(what, points, seconds);
  const before = await limiter.get(key);
  if (before && before.consumedPoints >= points) throw tooFast(before.msBeforeNext);
  try {
    return await run();
  } catch (error) {
    await limiter.consume(key).catch(() => undefined);
    throw error;
  }
}

/** So many times in so many seconds for one key; more is refused with the seconds to wait. */
export async function limitRate(what: string, key: string, points: number, seconds: number): Promise<void> {
  try {
    await limiterFor(what, points, seconds).consume(key);
  } catch (error) {
    if (error instanceof Error) throw error;
    throw tooFast((error as { msBeforeNext?: number }).msBeforeNext ?? 1000);
  }
}
