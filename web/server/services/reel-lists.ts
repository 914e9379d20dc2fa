import { and, asc, eq, isNull } from 'drizzle-orm';
import type { Named } from '../../contract';
import type { Queries } from '../db/client';
import { reelItems, reels } from '../db/schema';

/** Reels that an item lies on. */
export const reelsWith = (db: Queries, itemId: string): Promise<Named[]> =>
  db
    .select({ id: reels.id, name: reels.name })
    .from(reelItems)
    .innerJoin(reels, eq(reels.id, reelItems.reelId))
    .where(and(eq(reelItems.itemId, itemId), isNull(reels.binnedAt)))
    .orderBy(asc(reels.name))
    .limit(200);
