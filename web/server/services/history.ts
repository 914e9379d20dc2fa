import { and, desc, eq, inArray, lt, sql } from 'drizzle-orm';
import { many } from '../../naming/counts';
import type { Queries } from '../db/client';
import { changes, items, people, type Subject } from '../db/schema';
import { newId } from '../ids';

export interface Entry {
  subject: Subject;
  subjectId: string;
  groupId: string;
  personId: string;
  action: string;
  label?: string;
  before?: Record<string, unknown> | null;
  after?: Record<string, unknown> | null;
}

/** Writes down what was done. Everything that follows the library (other processes, open pages) reads it from here. */
export async function record(db: Queries, entries: readonly Entry[]): Promise<void> {
  for (let i = 0; i < entries.length; i += 500) {
    await db.insert(changes).values(
      entries.slice(i, i + 500).map((e) => ({
        ...e,
        label: (e.label ?? '').slice(0, 300),
        before: e.before ?? null,
        after: e.after ?? null,
      })),
    );
  }
}

export const newGroup = newId;

export interface HistoryRow {
  seq: number;
  subject: Subject;
  subjectId: string;
  groupId: string;
  personId: string;
  personName: string;
  action: string;
  label: string;
  before: Record<string, unknown> | null;
  after: Record<string, unknown> | null;
  at: Date;
}

const columns = {
  seq: changes.seq,
  subject: changes.subject,
  subjectId: changes.subjectId,
  groupId: changes.groupId,
  personId: changes.personId,
  personName: sql<string>`coalesce(${people.name}, 'somebody')`,
  action: changes.action,
  label: changes.label,
  before: changes.before,
  after: changes.after,
  at: changes.at,
};

/** Who changed what about one thing, newest first. */
export const historyOf = (db: Queries, subject: Subject, subjectId: string, limit = 200): Promise<HistoryRow[]> =>
  db
    .select(columns)
    .from(changes)
    .leftJoin(people, eq(people.id, changes.personId))
    .where(and(eq(changes.subject, subject), eq(changes.subjectId, subjectId)))
    .orderBy(desc(changes.seq))
    .limit(limit);

export interface Activity extends Omit<HistoryRow, 'before' | 'after' | 'subject' | 'subjectId'> {
  subject: Subject;
  /** What it was done to, the first few. */
  subjects: { id: string; name: string }[];
  count: number;
}

/** Recent activity, one entry for each action. */
export async function activity(
  db: Queries,
  { before, personId, limit = 60 }: { before?: number | undefined; personId?: string | undefined; limit?: number },
): Promise<Activity[]> {
  const groups = await db
    .select({ groupId: changes.groupId, seq: sql<number>`max(${changes.seq})`, n: sql<number>`count(*)` })
    .from(changes)
    .where(
      and(
        before === undefined ? undefined : lt(changes.seq, before),
        personId === undefined ? undefined : eq(changes.personId, personId),
      ),
    )
    .groupBy(changes.groupId)
    .orderBy(desc(sql`max(${changes.seq})`))
    .limit(limit);
  if (groups.length === 0) return [];
  const rows = await db
    .select(columns)
    .from(changes)
    .leftJoin(people, eq(people.id, changes.personId))
    .where(
      inArray(
        changes.groupId,
        groups.map((g) => g.groupId),
      ),
    )
    .orderBy(desc(changes.seq))
    .limit(4000);
  const ids = [...new Set(rows.filter((r) => r.subject === 'item').map((r) => r.subjectId))];
  const names = new Map(
    ids.length === 0
      ? []
      : (await db.select({ id: items.id, name: items.name }).from(items).where(inArray(items.id, ids))).map(
          (i) => [i.id, i.name] as const,
        ),
  );
  return groups.flatMap((g) => {
    const own = rows.filter((r) => r.groupId === g.groupId);
    const first = own[0];
    if (!first) return [];
    const { before: _b, after: _a, subjectId: _s, ...entry } = first;
    const subjects = [...new Set(own.map((r) => r.subjectId))];
    return [
      {
        ...entry,
        seq: Number(g.seq),
        label:
          Number(g.n) > 1 && own.every((r) => r.action === 'add')
            ? `Added ${many(g.n, 'item')}`
            : (own.find((r) => r.label !== '')?.label ?? ''),
        subjects: subjects.slice(0, 5).flatMap((id) => (names.has(id) ? [{ id, name: names.get(id)! }] : [])),
        count: Number(g.n),
      },
    ];
  });
}
