import { clipDistance } from '@velvet-reel/motion';
import { eq, isNull } from 'drizzle-orm';
import type { Queries } from '../db/client';
import { items, itemVersions } from '../db/schema';
import { notFound } from '../errors';

/** Legs of difference up to which a motion counts as like another: walks are, a walk and a run are not. */
const ALIKE = 0.085;
/** So many are shown even where little is alike, unless they are farther off than this. */
const AT_LEAST = 4;
const FAR = 0.15;
const MOST = 500;

/** The item itself and those that move like it: their ids with the distance, the likest first. Needs no words or tags. */
export async function itemsLike(db: Queries, id: string): Promise<Map<string, number>> {
  const one = (
    await db
      .select({ descriptor: itemVersions.descriptor })
      .from(items)
      .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
      .where(eq(items.id, id))
  )[0];
  if (!one) throw notFound('The item');
  const rows = await db
    .select({ id: items.id, descriptor: itemVersions.descriptor })
    .from(items)
    .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
    .where(isNull(items.binnedAt));
  const near = rows
    .filter((r) => r.descriptor.length === one.descriptor.length && one.descriptor.length > 0)
    .map((r) => [r.id, clipDistance(one.descriptor, r.descriptor)] as const)
    .filter(([other]) => other !== id)
    .sort((a, b) => a[1] - b[1])
    .filter(([, distance], rank) => distance <= (rank < AT_LEAST ? FAR : ALIKE));
  return new Map([[id, -1] as const, ...near].slice(0, MOST));
}
