import { and, eq, lt, sql } from 'drizzle-orm';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import type { Queries } from './db/client';
import { attempts } from './db/schema';
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

/**
 * Runs what may fail so many times in so many seconds for one key; successes do not count. Counted in the database before it is
 * tried, so that neither many at once nor several servers get past it.
 */
export async function limitFailures<T>(
  db: Queries,
  key: string,
  points: number,
  seconds: number,
  run: () => Promise<T>,
): Promise<T> {
  const until = sql`now(3) + interval ${sql.raw(String(seconds))} second`;
  const own = eq(attempts.key, key);
  await db
    .insert(attempts)
    .ignore()
    .values({ key, count: 0, until: until as never });
  await db
    .update(attempts)
    .set({ count: 0, until: until as never })
    .where(and(own, lt(attempts.until, sql`now(3)`)));
  const [taken] = await db
    .update(attempts)
    .set({ count: sql`${attempts.count} + 1` })
    .where(and(own, lt(attempts.count, points)));
  if (taken.affectedRows === 0) {
    const [row] = await db
      .select({ leftMs: sql<number>`timestampdiff(microsecond, now(3), ${attempts.until}) / 1000` })
      .from(attempts)
      .where(own);
    throw tooFast(Math.max(1000, Number(row?.leftMs ?? 0)));
  }
  const done = await run();
  await db
    .update(attempts)
    .set({ count: sql`greatest(0, ${attempts.count} - 1)` })
    .where(own);
  return done;
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
