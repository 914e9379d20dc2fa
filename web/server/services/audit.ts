import { and, desc, eq, lt } from 'drizzle-orm';
import type { z } from 'zod';
import type { Audited, auditEntry } from '../../contract';
import type { Queries } from '../db/client';
import { audit, people } from '../db/schema';

/** Writes an entry. Entries are only ever added. @param about what it was done with or to, in words */
export async function noteAudit(db: Queries, personId: string | null, what: Audited, about: string): Promise<void> {
  await db.insert(audit).values({ personId, what, about: about.slice(0, 300) });
}

export interface AuditSearch {
  /** Entries older than this one. */
  before?: number | undefined;
  personId?: string | undefined;
  what?: string | undefined;
  limit?: number | undefined;
}

/** Entries, the newest first. */
export const readAudit = (
  db: Queries,
  { before, personId, what, limit = 200 }: AuditSearch,
): Promise<z.output<typeof auditEntry>[]> =>
  db
    .select({
      seq: audit.seq,
      at: audit.at,
      personId: audit.personId,
      personName: people.name,
      what: audit.what,
      about: audit.about,
    })
    .from(audit)
    .leftJoin(people, eq(people.id, audit.personId))
    .where(
      and(
        before === undefined ? undefined : lt(audit.seq, before),
        personId === undefined ? undefined : eq(audit.personId, personId),
        what === undefined ? undefined : eq(audit.what, what),
      ),
    )
    .orderBy(desc(audit.seq))
    .limit(limit);

/** All of it as JSON lines, the newest first, read page by page while it is fetched. */
export function auditLines(db: Queries, search: AuditSearch): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let { before } = search;
  return new ReadableStream(
    {
      async pull(controller) {
        const page = await readAudit(db, { ...search, before, limit: 1000 });
        before = page.at(-1)?.seq;
        if (before === undefined) return controller.close();
        controller.enqueue(encoder.encode(page.map((entry) => `${JSON.stringify(entry)}\n`).join('')));
      },
    },
    { highWaterMark: 1 },
  );
}
