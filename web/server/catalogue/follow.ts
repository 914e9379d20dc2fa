import { asc, desc, gt } from 'drizzle-orm';
import type { Queries } from '../db/client';
import { changes, type Subject } from '../db/schema';

export interface Change {
  seq: number;
  subject: Subject;
  subjectId: string;
  personId: string;
  groupId: string;
  action: string;
  label: string;
  at: Date;
}

/** A row may become visible this long after rows with later numbers: its transaction was still open. */
const LATE_MS = 60_000;
const MOST = 20_000;

/**
 * Follows what is done in the library, by whichever process. Rows come in the order of their numbers but for those whose
 * transaction ended late; each is told once.
 */
export class Follower {
  private newest = new Date(0);
  private readonly seen = new Map<number, number>();
  private running: Promise<Change[]> | undefined;

  constructor(private readonly db: Queries) {}

  /** Starts from now: what was done before is not told. */
  async start(): Promise<void> {
    const [last] = await this.db.select({ at: changes.at }).from(changes).orderBy(desc(changes.at)).limit(1);
    this.newest = last?.at ?? new Date(0);
    for (const c of await this.read()) this.seen.set(c.seq, c.at.getTime());
  }

  /** What was done since the last call. Calls at the same time share one look. */
  poll(): Promise<Change[]> {
    this.running ??= this.look().finally(() => {
      this.running = undefined;
    });
    return this.running;
  }

  private async look(): Promise<Change[]> {
    const fresh = (await this.read()).filter((c) => !this.seen.has(c.seq));
    for (const c of fresh) {
      this.seen.set(c.seq, c.at.getTime());
      if (c.at > this.newest) this.newest = c.at;
    }
    const old = this.newest.getTime() - 3 * LATE_MS;
    if (this.seen.size > 2000) for (const [seq, at] of this.seen) if (at < old) this.seen.delete(seq);
    return fresh;
  }

  private read(): Promise<Change[]> {
    return this.db
      .select({
        seq: changes.seq,
        subject: changes.subject,
        subjectId: changes.subjectId,
        personId: changes.personId,
        groupId: changes.groupId,
        action: changes.action,
        label: changes.label,
        at: changes.at,
      })
      .from(changes)
      .where(gt(changes.at, new Date(this.newest.getTime() - LATE_MS)))
      .orderBy(asc(changes.seq))
      .limit(MOST);
  }
}
