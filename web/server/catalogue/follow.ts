import { and, asc, between, desc, gt, gte, or } from 'drizzle-orm';
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

/** A number that is not there after so long was of a transaction that did not come about. */
const LATE_MS = 300_000;
/** More holes than this are read over from the first on, instead of one by one. */
const MOST_HOLES = 200;
const PAGE = 20_000;

/** Numbers of rows not seen yet though later ones were: their transaction was still open, or failed. */
interface Hole {
  from: number;
  to: number;
  since: number;
}

/**
 * Follows what is done in the library, by whichever process. Rows are numbered before their transaction ends, so later
 * numbers can be there first: numbers left out are looked for again for five minutes. Each row is told once.
 */
export class Follower {
  private last = 0;
  private holes: Hole[] = [];
  private running: Promise<Change[]> | undefined;

  constructor(private readonly db: Queries) {}

  /** Starts from now: what was done before is not told. */
  async start(): Promise<void> {
    const [newest] = await this.db.select({ at: changes.at }).from(changes).orderBy(desc(changes.at)).limit(1);
    if (!newest) return;
    const recent = await this.db
      .select({ seq: changes.seq })
      .from(changes)
      .where(gt(changes.at, new Date(newest.at.getTime() - LATE_MS)))
      .orderBy(desc(changes.seq))
      .limit(PAGE);
    recent.reverse();
    this.last = recent[0]!.seq - 1;
    for (const { seq } of recent) this.take(seq);
  }

  /** What was done since the last call. Calls at the same time share one look. */
  poll(): Promise<Change[]> {
    this.running ??= this.look().finally(() => {
      this.running = undefined;
    });
    return this.running;
  }

  private async look(): Promise<Change[]> {
    const old = Date.now() - LATE_MS;
    this.holes = this.holes.filter((h) => h.since > old);
    const wanted =
      this.holes.length > MOST_HOLES
        ? gte(changes.seq, this.holes[0]!.from)
        : or(gt(changes.seq, this.last), ...this.holes.map((h) => between(changes.seq, h.from, h.to)));
    const found: Change[] = [];
    for (let cursor = 0; ; ) {
      const rows = await this.db
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
        .where(and(wanted, gt(changes.seq, cursor)))
        .orderBy(asc(changes.seq))
        .limit(PAGE);
      found.push(...rows);
      // noted only when all of it is here: a query that fails half-way is asked again from the start
      if (rows.length < PAGE) return found.filter((r) => this.take(r.seq));
      cursor = rows.at(-1)!.seq;
    }
  }

  /** Notes a number as seen. @returns false where it was before */
  private take(seq: number): boolean {
    if (seq > this.last) {
      if (seq > this.last + 1) this.holes.push({ from: this.last + 1, to: seq - 1, since: Date.now() });
      this.last = seq;
      return true;
    }
    const i = this.holes.findIndex((h) => h.from <= seq && seq <= h.to);
    if (i < 0) return false;
    const { from, to, since } = this.holes[i]!;
    const parts = [
      { from, to: seq - 1, since },
      { from: seq + 1, to, since },
    ];
    this.holes.splice(i, 1, ...parts.filter((h) => h.from <= h.to));
    return true;
  }
}
