import { desc, eq, isNotNull, isNull } from 'drizzle-orm';
import type { DocumentKind } from '../../documents/cells';
import type { Batch } from '../../documents/shared-document';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { people, type plays, type reels, type Subject } from '../db/schema';
import { notFound } from '../errors';
import { newId } from '../ids';
import { wasTaken, withBatch, withWrites } from './batches';
import { newGroup, record } from './history';

/** Most documents of one kind that a list answers with. */
const MOST = 500;

/** A kind of document that has a name and a row of its own, and lies in a list: reels, play-throughs. */
export interface NamedDocuments<C extends { readonly name: string }> {
  /** All tables of such documents have the columns of reels. */
  readonly table: typeof reels | typeof plays;
  readonly kind: DocumentKind<C>;
  /** Content as it should be; throws where it is not. */
  readonly check: (given: unknown) => C;
  readonly subject: Subject;
  /** "reel", in the middle of a sentence. */
  readonly word: string;
  /** Takes down what of the content other rows are found by. */
  readonly note: (db: Queries, id: string, content: C) => Promise<void>;
}

type Maker = Pick<Person, 'id'>;

/** What every such kind can do: be listed, read, begun, written beside others, binned. */
export function namedDocuments<C extends { readonly name: string }>({
  table: given,
  kind,
  check,
  subject,
  word,
  note,
}: NamedDocuments<C>) {
  const table = given as typeof reels;
  const asStored = (content: C) => content as unknown as (typeof reels.$inferInsert)['content'];
  const tell = (db: Queries, personId: string, id: string, action: 'add' | 'edit', label: string) =>
    record(db, [{ subject, subjectId: id, groupId: newGroup(), personId, action, label }]);

  const list = async (db: Queries, bin: boolean) =>
    (
      await db
        .select({ row: table, by: people.name })
        .from(table)
        .leftJoin(people, eq(people.id, table.changedBy))
        .where(bin ? isNotNull(table.binnedAt) : isNull(table.binnedAt))
        .orderBy(desc(table.changedAt), desc(table.id))
        .limit(MOST)
    ).map(({ row, by }) => ({ ...row, content: row.content as unknown as C, changedByName: by }));

  /** @throws Refusal 404 */
  const get = async (db: Queries, id: string) => {
    const [found] = await db
      .select({ row: table, by: people.name })
      .from(table)
      .leftJoin(people, eq(people.id, table.changedBy))
      .where(eq(table.id, id));
    if (!found) throw notFound(`The ${word}`);
    const { content, version, binnedAt } = found.row;
    return { id, content: check(content), version, changedByName: found.by, binnedAt };
  };

  /** An empty one, or one that holds what is given, within a transaction. */
  const makeIn = async (db: Queries, person: Maker, part: Partial<C> & { name: string }): Promise<{ id: string }> => {
    const content = check({ ...kind.empty, ...part });
    const id = newId();
    await db.insert(table).values({
      id,
      name: content.name,
      content: asStored(content),
      createdBy: person.id,
      changedBy: person.id,
      changedAt: new Date(),
    });
    await note(db, id, content);
    await tell(db, person.id, id, 'add', `Began the ${word} ${content.name}`);
    return { id };
  };

  return {
    list,
    get,
    makeIn,
    make: (db: Database, person: Maker, part: Partial<C> & { name: string }): Promise<{ id: string }> =>
      db.transaction((tx) => makeIn(tx, person, part)),

    /**
     * Lays what a page wrote on one, beside what others wrote meanwhile.
     * @throws Refusal 404 where it is gone, 400 for what it cannot hold
     */
    write: async (db: Database, person: Maker, id: string, batch: Batch) => {
      await db.transaction(async (tx) => {
        const [row] = await tx.select().from(table).where(eq(table.id, id)).for('update');
        if (!row) throw notFound(`The ${word}`);
        if (wasTaken(row.taken, batch)) return;
        const content = withWrites(kind, check(row.content), batch, check);
        await tx
          .update(table)
          .set({
            name: content.name,
            content: asStored(content),
            version: row.version + 1,
            taken: withBatch(row.taken, batch),
            changedBy: person.id,
            changedAt: new Date(),
          })
          .where(eq(table.id, id));
        await note(tx, id, content);
        await tell(tx, person.id, id, 'edit', `Worked on the ${word} ${content.name}`);
      });
      return get(db, id);
    },

    /** Moves one to the bin, or brings it back. */
    bin: (db: Database, person: Maker, id: string, binned: boolean): Promise<void> =>
      db.transaction(async (tx) => {
        const [row] = await tx.select({ name: table.name }).from(table).where(eq(table.id, id)).for('update');
        if (!row) throw notFound(`The ${word}`);
        await tx
          .update(table)
          .set({ binnedAt: binned ? new Date() : null })
          .where(eq(table.id, id));
        const what = `the ${word} ${row.name}`;
        await tell(tx, person.id, id, 'edit', `${binned ? 'Moved to the bin' : 'Brought back'}: ${what}`);
      }),
  };
}
