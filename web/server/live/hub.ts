import { desc, gt, inArray, sql } from 'drizzle-orm';
import type { JobRow } from '../../contract';
import type { Change } from '../catalogue/follow';
import { catalogue } from '../catalogue/live';
import { database } from '../db/client';
import { changes, jobs } from '../db/schema';
import { listJobs } from '../services/jobs';
import { whoIsHere } from '../services/presence';

export type LiveEvent =
  | { type: 'changes'; changes: Pick<Change, 'subject' | 'subjectId' | 'personId' | 'action' | 'label'>[] }
  | { type: 'jobs'; jobs: JobRow[] }
  | { type: 'present'; present: Awaited<ReturnType<typeof whoIsHere>> };

type Send = (event: LiveEvent) => void;

const JOBS_MS = 700;
const PRESENT_MS = 1500;
/** Opening a page takes less. */
const OPENING_S = 5;
/** More at once is told as one: look anew. */
const MOST_TOLD = 200;

/** Tells the open pages of this process what is going on. Looks at jobs and presence only while somebody listens. */
class Hub {
  private readonly listeners = new Set<Send>();
  private timers: ReturnType<typeof setInterval>[] = [];
  private unlisten: (() => void) | undefined;
  private lastJobs = '';
  private lastPresent = '';
  private running = new Set<string>();

  listen(send: Send): () => void {
    this.listeners.add(send);
    if (this.listeners.size === 1) this.start();
    this.lastJobs = '';
    this.lastPresent = '';
    void this.catchUp(send).catch(() => undefined);
    return () => {
      this.listeners.delete(send);
      if (this.listeners.size === 0) this.stop();
    };
  }

  /** What was done while a page was being opened: after its first questions, before it listened. */
  private async catchUp(send: Send): Promise<void> {
    const done = await database()
      .select({
        subject: changes.subject,
        subjectId: changes.subjectId,
        personId: changes.personId,
        action: changes.action,
        label: changes.label,
      })
      .from(changes)
      .where(gt(changes.at, sql`now(3) - interval ${sql.raw(String(OPENING_S))} second`))
      .orderBy(desc(changes.seq))
      .limit(MOST_TOLD);
    if (done.length > 0 && this.listeners.has(send)) send({ type: 'changes', changes: done.reverse() });
  }

  private tell(event: LiveEvent): void {
    for (const send of this.listeners) send(event);
  }

  private start(): void {
    void catalogue()
      .open()
      .catch(() => undefined);
    this.unlisten = catalogue().listen((changes) =>
      this.tell({
        type: 'changes',
        changes: changes
          .slice(-MOST_TOLD)
          .map(({ subject, subjectId, personId, action, label }) => ({ subject, subjectId, personId, action, label })),
      }),
    );
    const every = (ms: number, run: () => Promise<void>): void => {
      let busy = false;
      this.timers.push(
        setInterval(() => {
          if (busy) return;
          busy = true;
          void run()
            .catch(() => undefined)
            .finally(() => {
              busy = false;
            });
        }, ms),
      );
    };
    every(JOBS_MS, () => this.lookAtJobs());
    every(PRESENT_MS, () => this.lookWhoIsHere());
  }

  private stop(): void {
    for (const t of this.timers) clearInterval(t);
    this.timers = [];
    this.unlisten?.();
  }

  private async lookAtJobs(): Promise<void> {
    const db = database();
    const open = await db
      .select({ id: jobs.id })
      .from(jobs)
      .where(inArray(jobs.state, ['queued', 'paused', 'collecting']));
    // those that ended since are told once more
    const ids = [...new Set([...open.map((j) => j.id), ...this.running])];
    this.running = new Set(open.map((j) => j.id));
    const rows = ids.length === 0 ? [] : await listJobs(db, ids);
    const text = JSON.stringify(rows);
    if (text === this.lastJobs) return;
    this.lastJobs = text;
    this.tell({ type: 'jobs', jobs: rows });
  }

  private async lookWhoIsHere(): Promise<void> {
    const present = await whoIsHere(database());
    const text = JSON.stringify(present);
    if (text === this.lastPresent) return;
    this.lastPresent = text;
    this.tell({ type: 'present', present });
  }
}

const kept = globalThis as { velvetHub?: Hub };
export function hub(): Hub {
  kept.velvetHub ??= new Hub();
  return kept.velvetHub;
}
