import { and, eq } from 'drizzle-orm';
import { asEdits, fitEdits, fitSettings } from '../../workers/settings';
import type { FitEdits, FitSettings } from '../../workers/wishes';
import type { Database, Queries } from '../db/client';
import { fittings, people } from '../db/schema';
import { Refusal } from '../errors';
import { newId } from '../ids';
import { getCast } from './cast';
import { newGroup, record } from './history';
import { getItem } from './items';

/** A fitting under work on one item and one cast member. Version 0: nothing was set yet. */
export interface FittingDocument {
  settings: FitSettings | null;
  edits: FitEdits | null;
  version: number;
  changedByName: string | null;
}

export async function getFitting(db: Queries, itemId: string, castId: string): Promise<FittingDocument> {
  const [row] = await db
    .select({ fitting: fittings, by: people.name })
    .from(fittings)
    .leftJoin(people, eq(people.id, fittings.changedBy))
    .where(and(eq(fittings.itemId, itemId), eq(fittings.castId, castId)));
  if (!row) return { settings: null, edits: null, version: 0, changedByName: null };
  return {
    settings: fitSettings.parse(row.fitting.settings),
    edits: asEdits(fitEdits.parse(row.fitting.edits)),
    version: row.fitting.version,
    changedByName: row.by,
  };
}

/** Stores a fitting under work. Somebody else's newer version is refused, so that nothing of theirs is overwritten unseen. */
export async function saveFitting(
  db: Database,
  personId: string,
  wish: { itemId: string; castId: string; settings: FitSettings; edits: FitEdits; version: number },
): Promise<{ version: number }> {
  const { itemId, castId, settings, edits, version } = wish;
  const [item, member] = await Promise.all([getItem(db, itemId), getCast(db, castId)]);
  const value = {
    settings: settings as unknown as Record<string, unknown>,
    edits: edits as unknown as Record<string, unknown>,
    changedBy: personId,
    changedAt: new Date(),
  };
  await db.transaction(async (tx) => {
    const pair = and(eq(fittings.itemId, itemId), eq(fittings.castId, castId));
    const [done] =
      version === 0
        ? await tx
            .insert(fittings)
            .ignore()
            .values({ id: newId(), itemId, castId, ...value })
        : await tx
            .update(fittings)
            .set({ ...value, version: version + 1 })
            .where(and(pair, eq(fittings.version, version)));
    if (done.affectedRows === 0) {
      const [theirs] = await tx
        .select({ by: people.name })
        .from(fittings)
        .leftJoin(people, eq(people.id, fittings.changedBy))
        .where(pair);
      throw new Refusal(
        409,
        'changed-meanwhile',
        `${theirs?.by ?? 'Somebody'} changed this fitting meanwhile. Theirs is shown now; take your last step again if it is still wanted.`,
      );
    }
    await record(tx, [
      {
        subject: 'fitting',
        subjectId: itemId,
        groupId: newGroup(),
        personId,
        action: 'edit',
        label: `Worked on ${item.name} on ${member.name}`,
      },
    ]);
  });
  return { version: version + 1 };
}
