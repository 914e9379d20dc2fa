import { RateLimiterMemory } from 'rate-limiter-flexible';
import { Refusal } from './errors';

const kept = globalThis as { velvetLimits?: Map<string, RateLimiterMemory> };

/** So many times in so many seconds for one key; more is refused with the seconds to wait. */
export async function limitRate(what: string, key: string, points: number, seconds: number): Promise<void> {
  kept.velvetLimits ??= new Map();
  let limiter = kept.velvetLimits.get(what);
  if (!limiter) {
    limiter = new RateLimiterMemory({ points, duration: seconds });
    kept.velvetLimits.set(what, limiter);
  }
  try {
    await limiter.consume(key);
  } catch (error) {
    if (error instanceof Error) throw error;
    const wait = Math.ceil(((error as { msBeforeNext?: number }).msBeforeNext ?? 1000) / 1000);
    throw new Refusal(429, 'too-fast', `Too many requests. Try again in ${wait} s.`, { waitS: wait });
  }
}
