import { and, asc, eq, inArray, isNull, or } from 'drizzle-orm';
import { kindOf } from '../../kinds/kinds';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { itemLinks, items } from '../db/schema';
import { Refusal } from '../errors';
import { newGroup, record } from './history';
import { getItems } from './items';
import { demandFolders } from './rights';

/** One item that goes on into another: first the one that ends, then the one that begins. */
export type Step = readonly [from: string, to: string];

/**
 * Says that items follow each other, or no longer do. An item may go on into several, and a sequence may come back to where
 * it began.
 * @returns the steps that really changed, which is what taking it back needs
 */
export async function setSteps(db: Database, person: Person, steps: readonly Step[], follow: boolean): Promise<Step[]> {
  if (steps.some(([from, to]) => from === to))
    throw new Refusal(400, 'itself', 'An item cannot go on into itself; a cycle does that by its kind.');
  return db.transaction(async (tx) => {
    const rows = new Map((await getItems(tx, [...new Set(steps.flat())])).map((i) => [i.id, i]));
    for (const id of new Set(steps.flat()))
      if (rows.get(id) === undefined)
        throw new Refusal(404, 'not-found', `An item of the sequence is not there any more (${id}).`);
    const other = [...rows.values()].find((i) => !kindOf(i).joins);
    if (other) throw new Refusal(400, 'no-motion', `${other.name} ${kindOf(other).instead}.`);
    await demandFolders(
      tx,
      person,
      [...new Set(steps.map(([from]) => from))].map((id) => rows.get(id)!.folderId),
    );
    const there = new Set((await stepsAmong(tx, [...rows.keys()])).map(String));
    const changed = [...new Map(steps.map((s) => [String(s), s])).values()].filter(
      (s) => there.has(String(s)) !== follow,
    );
    if (changed.length === 0) return [];
    if (follow)
      await tx.insert(itemLinks).values(changed.map(([fromId, toId]) => ({ fromId, toId, kind: 'next' as const })));
    else await tx.delete(itemLinks).where(or(...changed.map(isStep)));
    const groupId = newGroup();
    await record(
      tx,
      changed.map(([from, to]) => ({
        subject: 'item' as const,
        subjectId: from,
        groupId,
        personId: person.id,
        action: 'sequence',
        label: follow
          ? `${rows.get(from)!.name} leads to ${rows.get(to)!.name}`
          : `${rows.get(from)!.name} no longer leads to ${rows.get(to)!.name}`,
      })),
    );
    return changed;
  });
}

const isStep = ([from, to]: Step) =>
  and(eq(itemLinks.fromId, from), eq(itemLinks.toId, to), eq(itemLinks.kind, 'next'));

/** All steps of sequences that begin and end among these items. */
export async function stepsAmong(db: Queries, ids: readonly string[]): Promise<Step[]> {
  const within = new Set(ids);
  const out: Step[] = [];
  for (let i = 0; i < ids.length; i += 500) {
    const rows = await db
      .select({ from: itemLinks.fromId, to: itemLinks.toId })
      .from(itemLinks)
      .where(and(inArray(itemLinks.fromId, ids.slice(i, i + 500)), eq(itemLinks.kind, 'next')));
    for (const { from, to } of rows) if (within.has(to)) out.push([from, to]);
  }
  return out;
}

/** What an item goes on into, and what goes on into it; not what lies in the bin. */
export async function neighbours(
  db: Queries,
  id: string,
): Promise<{ next: { id: string; name: string }[]; before: { id: string; name: string }[] }> {
  const named = { id: items.id, name: items.name };
  const [next, before] = await Promise.all([
    db
      .select(named)
      .from(itemLinks)
      .innerJoin(items, eq(items.id, itemLinks.toId))
      .where(and(eq(itemLinks.fromId, id), eq(itemLinks.kind, 'next'), isNull(items.binnedAt)))
      .orderBy(asc(items.name))
      .limit(200),
    db
      .select(named)
      .from(itemLinks)
      .innerJoin(items, eq(items.id, itemLinks.fromId))
      .where(and(eq(itemLinks.toId, id), eq(itemLinks.kind, 'next'), isNull(items.binnedAt)))
      .orderBy(asc(items.name))
      .limit(200),
  ]);
  return { next, before };
}
