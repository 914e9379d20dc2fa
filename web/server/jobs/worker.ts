import { hostname } from 'node:os';
import { eq, inArray } from 'drizzle-orm';
import { databaseAway } from '../db/away';
import type { Database } from '../db/client';
import { jobParts, uploads } from '../db/schema';
import { Refusal } from '../errors';
import { newId } from '../ids';
import { faultOf, log } from '../log';
import { measureSkins } from '../services/cast';
import { endJobIfDone, unendedJobs } from '../services/jobs';
import { measureSkinInThread, stoppable } from '../threads/pool';
import {
  endPart,
  expireWaiting,
  type Job,
  layDown,
  MOST_ATTEMPTS,
  type Part,
  stillAlive,
  sweepUploads,
  takePart,
  uploadsInUse,
} from './queue';
import { RUNNERS } from './runners';

const IDLE_MS = 500;
/** How often a worker says that it lives, and hears whether its part is still its own. */
const BEAT_MS = 2000;
const WRONG_MS = 3000;
const LOOK_MS = 2000;
/** How often an idle worker clears away what nobody waits for. */
const SWEEP_MS = 600_000;

/**
 * Does parts of jobs, one after the other, until told to stop. Any number of workers, on any machines, work on the same
 * database. One that dies holds nothing: its part is taken over when its lease ends.
 */
export class Worker {
  readonly name: string;
  private stopping = false;
  private lastFault = '';
  private nextLook = 0;
  private nextSweep = 0;
  private measured = false;
  /** What broke off in here and is to be laid down once the database answers. */
  private broken: { part: Part; blameless: boolean } | undefined;
  private wake: (() => void) | undefined;

  constructor(
    private readonly db: Database,
    private readonly log: (text: string) => void = () => undefined,
    name = `${hostname()}:${process.pid}:${newId().slice(0, 4)}`,
  ) {
    this.name = name.slice(0, 60);
  }

  stop(): void {
    this.stopping = true;
    this.wake?.();
  }

  async run(): Promise<void> {
    while (!this.stopping) {
      try {
        if (!(await this.step())) await this.rest(IDLE_MS);
        this.lastFault = '';
      } catch (error) {
        // the database went away, most likely: the part is taken up again when it is back
        const fault = faultOf(error);
        const why = `${fault.error} ${fault.code ?? ''} ${fault.message ?? ''}`;
        if (why !== this.lastFault) log.error({ worker: this.name, ...fault }, 'worker failed');
        this.lastFault = why;
        await this.rest(WRONG_MS);
      }
    }
  }

  private rest(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms);
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  /** Does one part. False where there was none. */
  async step(): Promise<boolean> {
    if (this.broken) {
      await layDown(this.db, this.broken.part, this.broken.blameless);
      this.broken = undefined;
    }
    const taken = await takePart(this.db, this.name);
    if (!taken) {
      await this.endTheRest();
      await this.measureOnce();
      return false;
    }
    const { job, part } = taken;
    // a part that was cancelled, or given to another worker, is broken off where it is
    const stop = new AbortController();
    const beat = setInterval(
      () =>
        void stillAlive(this.db, part).then(
          (own) => own || stop.abort(),
          () => undefined,
        ),
      BEAT_MS,
    );
    try {
      if (part.attempts > MOST_ATTEMPTS)
        await this.refuse(
          job,
          part,
          `${part.name}: it failed ${MOST_ATTEMPTS} times and was given up. Try it on its own.`,
        );
      else await stoppable(stop.signal, () => this.work(job, part));
    } catch (error) {
      if (stop.signal.aborted) return true;
      this.broken = { part, blameless: databaseAway(error) };
      throw error;
    } finally {
      clearInterval(beat);
    }
    if (await endJobIfDone(this.db, job.id)) await this.sweep(job.id);
    return true;
  }

  /** A job whose last worker died between its part and the end of the job is ended by whoever has nothing to do. */
  private async endTheRest(): Promise<void> {
    if (Date.now() < this.nextLook) return;
    this.nextLook = Date.now() + LOOK_MS;
    if (Date.now() >= this.nextSweep) {
      this.nextSweep = Date.now() + SWEEP_MS;
      await expireWaiting(this.db);
      await sweepUploads(this.db);
    }
    for (const id of await unendedJobs(this.db)) {
      await this.sweep(id);
      await endJobIfDone(this.db, id);
    }
  }

  /** Once, when there is nothing else to do: what earlier versions of the product left unmeasured. */
  private async measureOnce(): Promise<void> {
    if (this.measured) return;
    const count = await measureSkins(this.db, measureSkinInThread);
    this.measured = true;
    if (count > 0) this.log(`worker ${this.name}: measured the skin of ${count} characters`);
  }

  private async work(job: Job, part: Part): Promise<void> {
    try {
      await RUNNERS[job.kind].run(this.db, job, part);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      await this.refuse(job, part, error.message);
    }
  }

  private refuse(job: Job, part: Part, message: string): Promise<boolean> {
    return endPart(this.db, part, async (tx) => {
      await RUNNERS[job.kind].refused?.(tx, job, part);
      return { state: 'refused', message };
    });
  }

  /** Uploaded bytes of a finished job go when nobody needs them. */
  private async sweep(jobId: string): Promise<void> {
    const rows = await this.db.select({ payload: jobParts.payload }).from(jobParts).where(eq(jobParts.jobId, jobId));
    const hashes = [
      ...new Set(rows.flatMap((r) => [r.payload.hash, r.payload.skeleton].filter((h) => typeof h === 'string'))),
    ] as string[];
    const used = await uploadsInUse(this.db, hashes);
    const free = hashes.filter((h) => !used.has(h));
    for (let i = 0; i < free.length; i += 500)
      await this.db.delete(uploads).where(inArray(uploads.hash, free.slice(i, i + 500)));
  }
}
