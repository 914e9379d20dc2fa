import { timingSafeEqual } from 'node:crypto';
import { count, eq, sql } from 'drizzle-orm';
import { collectDefaultMetrics, Gauge, Registry } from 'prom-client';
import { PART_STATES } from '../contract';
import { database } from './db/client';
import { migrations } from './db/migrate';
import { attempts, jobParts, jobs } from './db/schema';
import { freeBytes, LEAST_FREE } from './files/space';
import { sha256 } from './ids';
import { faultOf, log } from './log';

const TRY = sha256('readiness');

/** Why this process cannot do its work now; null where it can. */
export async function readiness(): Promise<string | null> {
  try {
    const db = database();
    const [rows] = (await db.execute(sql`select max(created_at) as at from __drizzle_migrations`)) as unknown as [
      { at: number | string | null }[],
    ];
    const there = Number(rows[0]?.at ?? 0);
    const wanted = migrations().at(-1)?.at ?? 0;
    if (there < wanted) return 'the database is of an older release: run npm run migrate';
    if (there > wanted) return 'the database is of a newer release than this process';
    // a database that only reads, or a full disk, shows here and nowhere else
    await db
      .insert(attempts)
      .values({ key: TRY, count: 0, until: new Date() })
      .onDuplicateKeyUpdate({ set: { until: new Date() } });
    const free = await freeBytes();
    return free !== null && free < LEAST_FREE ? 'the disk is almost full' : null;
  } catch (error) {
    log.warn(faultOf(error), 'not ready');
    return 'the database cannot be reached or does not take what is written';
  }
}

/** Whether a request may see the figures: nobody where no token is set. */
export function mayMeasure(authorization: string | null, token = process.env.VELVET_METRICS ?? ''): boolean {
  const given = Buffer.from(sha256(authorization ?? ''));
  return token !== '' && timingSafeEqual(given, Buffer.from(sha256(`Bearer ${token}`)));
}

const kept = globalThis as { velvetMetrics?: Registry };

function registry(): Registry {
  if (kept.velvetMetrics) return kept.velvetMetrics;
  const all = new Registry();
  collectDefaultMetrics({ register: all, prefix: 'velvet_' });
  new Gauge({
    name: 'velvet_job_parts',
    help: 'Parts of open jobs, by state',
    labelNames: ['state'],
    registers: [all],
    async collect() {
      for (const state of PART_STATES) this.set({ state }, 0);
      const rows = await database()
        .select({ state: jobParts.state, n: count() })
        .from(jobParts)
        .innerJoin(jobs, eq(jobs.id, jobParts.jobId))
        .where(eq(jobs.state, 'queued'))
        .groupBy(jobParts.state);
      for (const { state, n } of rows) this.set({ state }, n);
    },
  });
  new Gauge({
    name: 'velvet_disk_free_bytes',
    help: 'Room left where the data lies',
    registers: [all],
    async collect() {
      this.set((await freeBytes()) ?? Number.NaN);
    },
  });
  kept.velvetMetrics = all;
  return all;
}

/** The figures, as Prometheus reads them. */
export const measured = async (): Promise<{ text: string; type: string }> => ({
  text: await registry().metrics(),
  type: registry().contentType,
});
