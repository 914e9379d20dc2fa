import { and, eq } from 'drizzle-orm';
import type { FittingDocument } from '../../contract';
import { FITTING, type FittingContent } from '../../documents/fitting';
import type { Batch } from '../../documents/shared-document';
import { asEdits, fitEdits, fitSettings } from '../../wishes/settings';
import type { FitEdits, FitSettings } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { fittings, people } from '../db/schema';
import { Refusal } from '../errors';
import { newId } from '../ids';
import { wasTaken, withBatch, withWrites } from './batches';
import { getCast } from './cast';
import { newGroup, record } from './history';
import { getItem } from './items';
import { demandFolders } from './rights';

interface Pair {
  itemId: string;
  castId: string;
}

const at = ({ itemId, castId }: Pair) => and(eq(fittings.itemId, itemId), eq(fittings.castId, castId));

const checked = ({ settings, edits }: { settings: unknown; edits: unknown }): FittingContent => ({
  settings: fitSettings.parse(settings),
  edits: asEdits(fitEdits.parse(edits)),
});

const asRow = ({ settings, edits }: FittingContent) => ({
  settings: settings as unknown as Record<string, unknown>,
  edits: edits as unknown as Record<string, unknown>,
});

export async function getFitting(db: Queries, itemId: string, castId: string): Promise<FittingDocument> {
  const [row] = await db
    .select({ fitting: fittings, by: people.name })
    .from(fittings)
    .leftJoin(people, eq(people.id, fittings.changedBy))
    .where(at({ itemId, castId }));
  if (!row || row.fitting.version === 0) return { settings: null, edits: null, version: 0, changedByName: null };
  return { ...checked(row.fitting), version: row.fitting.version, changedByName: row.by };
}

/**
 * Lays what a page wrote on a fitting under work, beside what others wrote meanwhile.
 * @throws Refusal 404 where item or character are gone, 403 where the item’s folder is closed, 400 for what it cannot hold
 */
export async function writeFitting(
  db: Database,
  person: Pick<Person, 'id' | 'role'>,
  pair: Pair,
  batch: Batch,
): Promise<FittingDocument> {
  const personId = person.id;
  const named = await Promise.all([getItem(db, pair.itemId), getCast(db, pair.castId)]);
  await demandFolders(db, person, [named[0].folderId]);
  await beginFitting(db, personId, pair);
  await db.transaction(async (tx) => {
    const [row] = await tx.select().from(fittings).where(at(pair)).for('update');
    if (wasTaken(row!.taken, batch)) return;
    const made = withWrites(FITTING, checked(row!), batch, checked);
    await tx
      .update(fittings)
      .set({
        ...asRow(made),
        version: row!.version + 1,
        taken: withBatch(row!.taken, batch),
        changedBy: personId,
        changedAt: new Date(),
      })
      .where(at(pair));
    await recordWork(tx, personId, named);
  });
  return getFitting(db, pair.itemId, pair.castId);
}

/** Stores a whole fitting. Somebody else's newer version is refused, so that nothing of theirs is overwritten unseen. */
export async function saveFitting(
  db: Database,
  person: Pick<Person, 'id' | 'role'>,
  wish: Pair & { settings: FitSettings; edits: FitEdits; version: number },
): Promise<{ version: number }> {
  const { itemId, castId, version } = wish;
  const personId = person.id;
  const named = await Promise.all([getItem(db, itemId), getCast(db, castId)]);
  await demandFolders(db, person, [named[0].folderId]);
  const value = { ...asRow(wish), changedBy: personId, changedAt: new Date() };
  await beginFitting(db, personId, { itemId, castId });
  await db.transaction(async (tx) => {
    const [done] = await tx
      .update(fittings)
      .set({ ...value, version: version + 1 })
      .where(and(at(wish), eq(fittings.version, version)));
    if (done.affectedRows === 0) {
      const [theirs] = await tx
        .select({ by: people.name })
        .from(fittings)
        .leftJoin(people, eq(people.id, fittings.changedBy))
        .where(at(wish));
      throw new Refusal(
        409,
        'changed-meanwhile',
        `${theirs?.by ?? 'Somebody'} changed this fitting in the meantime. Load it again and make your change on theirs.`,
      );
    }
    await recordWork(tx, personId, named);
  });
  return { version: version + 1 };
}

/**
 * Makes sure that the pair has a row, of version 0 where nothing was set yet, by a statement of its own: two who begin within
 * their transactions would wait for each other.
 */
async function beginFitting(db: Database, personId: string, pair: Pair): Promise<void> {
  const [known] = await db.select({ id: fittings.id }).from(fittings).where(at(pair));
  if (known) return;
  await db
    .insert(fittings)
    .ignore()
    .values({ id: newId(), ...pair, ...asRow(FITTING.empty), version: 0, changedBy: personId, changedAt: new Date() });
}

const recordWork = (db: Queries, personId: string, [item, member]: [{ id: string; name: string }, { name: string }]) =>
  record(db, [
    {
      subject: 'fitting',
      subjectId: item.id,
      groupId: newGroup(),
      personId,
      action: 'edit',
      label: `Worked on ${item.name} on ${member.name}`,
    },
  ]);
