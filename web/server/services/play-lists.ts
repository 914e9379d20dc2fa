import { and, asc, eq, isNull } from 'drizzle-orm';
import type { Named } from '../../contract';
import type { Queries } from '../db/client';
import { playItems, plays } from '../db/schema';

/** Play-throughs that show an item. */
export const playsWith = (db: Queries, itemId: string): Promise<Named[]> =>
  db
    .select({ id: plays.id, name: plays.name })
    .from(playItems)
    .innerJoin(plays, eq(plays.id, playItems.playId))
    .where(and(eq(playItems.itemId, itemId), isNull(plays.binnedAt)))
    .orderBy(asc(plays.name))
    .limit(200);
