import { and, eq, inArray } from 'drizzle-orm';
import { z } from 'zod';
import type { ItemRow } from '../../contract';
import { kindOf } from '../../kinds/kinds';
import { many } from '../../naming/counts';
import { fitSettings } from '../../wishes/settings';
import type { FitSettings } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database } from '../db/client';
import { items, jobParts, jobs } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { listCast } from './cast';
import { belowFolder, demandPath, listFolders } from './folders';
import { getItems } from './items';
import { addJob } from './jobs';
import { memberIds } from './packs';
import { can, demandFolders, hiddenFolders } from './rights';
import { stepsAmong } from './sequences';

const id = z.string().regex(/^[\w-]{1,16}$/, 'not an id');

export const fitJob = z
  .object({
    itemIds: z.array(id).max(5000).default([]).describe('Items; a pack stands for its members'),
    folderIds: z.array(id).max(200).default([]).describe('Everything in these folders and below'),
    castIds: z.array(id).min(1).max(50),
    settings: fitSettings,
    perItem: z
      .record(id, fitSettings)
      .default({})
      .describe('Other settings for single items; those of a pack are for its members'),
    own: z
      .boolean()
      .default(true)
      .describe('Use what was set in Fitting for an item and character, where something was'),
    nameRule: z.string().max(200).default('{item} on {character}'),
    packRule: z.string().max(200).default('{item} on {character}'),
    folder: z.string().max(600).default(''),
  })
  .refine((w) => w.itemIds.length + w.folderIds.length > 0, 'choose at least one item or folder');
export type FitJob = z.output<typeof fitJob>;

const MOST_FITTINGS = 20_000;

/** What a job carries to make links anew among the copies. */
export const fitLinks = z.object({
  packs: z.array(z.object({ id: z.string(), name: z.string(), items: z.array(z.string()) })).default([]),
  /** Pairs of items of which the first was copied from the second. */
  variants: z.array(z.tuple([z.string(), z.string()])).default([]),
  /** Pairs of items of which the first goes on into the second. */
  next: z.array(z.tuple([z.string(), z.string()])).default([]),
  /** Play-throughs of which a copy shows the copies. */
  plays: z.array(z.object({ id: z.string(), name: z.string(), items: z.array(z.string()) })).default([]),
});

/** Starts fittings of many items onto one or several cast members. */
export async function openFit(
  db: Database,
  person: Person,
  wish: FitJob,
  plays: z.output<typeof fitLinks>['plays'] = [],
): Promise<{ id: string; parts: number }> {
  const named = await getItems(db, wish.itemIds);
  const inFolders = await itemsInFolders(db, person, wish.folderIds);
  const packs = [...named, ...inFolders].filter((i) => kindOf(i).content === 'members');
  const members = new Map<string, string[]>();
  for (const pack of packs) members.set(pack.id, await memberIds(db, pack.id));
  const direct = [...named, ...inFolders].filter((i) => kindOf(i).fits);
  const have = new Set(direct.map((i) => i.id));
  const more = [...new Set([...members.values()].flat())].filter((i) => !have.has(i));
  const rows = unique([...direct, ...(await getItems(db, more))]).filter((i) => i.binnedAt === null);
  if (rows.length === 0) throw new Refusal(400, 'empty', 'None of what you chose is a motion.');
  const bound = rows.find((r) => r.bound && r.madeFor !== null && wish.castIds.some((c) => c !== r.madeFor));
  if (bound)
    throw new Refusal(
      400,
      'bound',
      `${bound.name} is for ${bound.madeForName ?? 'another character'} alone: set it free first, or leave it out.`,
    );
  const cast = new Map((await listCast(db)).map((c) => [c.id, c]));
  const wanted = [...new Set(wish.castIds)].filter((c) => cast.has(c));
  if (wanted.length === 0) throw new Refusal(400, 'invalid', 'castIds: no cast member of these is there');
  if (rows.length * wanted.length > MOST_FITTINGS)
    throw new Refusal(
      400,
      'too-many',
      `One job makes at most ${MOST_FITTINGS} fittings; choose fewer items or characters.`,
    );
  if (wish.folder === '')
    await demandFolders(
      db,
      person,
      rows.map((r) => r.folderId),
    );
  else await demandPath(db, person, wish.folder);
  const ids = new Set(rows.map((r) => r.id));
  const links: z.output<typeof fitLinks> = {
    packs: packs.map((p) => ({ id: p.id, name: p.name, items: members.get(p.id)!.filter((m) => ids.has(m)) })),
    variants: rows.flatMap((r): [string, string][] =>
      r.derivedFrom !== null && ids.has(r.derivedFrom) ? [[r.id, r.derivedFrom]] : [],
    ),
    next: (await stepsAmong(db, [...ids])).map(([from, to]): [string, string] => [from, to]),
    plays: [...plays],
  };
  const settingsOf = (item: string): FitSettings | undefined =>
    wish.perItem[item] ?? packs.map((p) => members.get(p.id)!.includes(item) && wish.perItem[p.id]).find((x) => !!x);
  const parts = wanted.flatMap((castId) =>
    rows.map((r) => {
      const settings = settingsOf(r.id);
      return {
        name: `${r.name} on ${cast.get(castId)!.name}`,
        state: 'ready' as const,
        payload: { itemId: r.id, castId, ...(settings ? { settings } : {}) },
      };
    }),
  );
  const job = await addJob(db, person, {
    kind: 'fit',
    title: `${rows.length} ${rows.length === 1 ? 'item' : 'items'} onto ${wanted.map((c) => cast.get(c)!.name).join(', ')}`,
    order: {
      settings: wish.settings,
      own: wish.own,
      nameRule: wish.nameRule,
      packRule: wish.packRule,
      folder: wish.folder,
      links,
    },
    parts,
  });
  return { ...job, parts: parts.length };
}

const unique = (rows: readonly ItemRow[]): ItemRow[] => [...new Map(rows.map((r) => [r.id, r])).values()];

async function itemsInFolders(db: Database, person: Person, folderIds: readonly string[]): Promise<ItemRow[]> {
  if (folderIds.length === 0) return [];
  const all = await listFolders(db);
  const hidden = await hiddenFolders(db, person);
  const below = [...new Set(folderIds.flatMap((f) => belowFolder(all, f)))].filter((f) => !hidden.has(f));
  const rows = await db.select({ id: items.id }).from(items).where(inArray(items.folderId, below)).limit(MOST_FITTINGS);
  return getItems(
    db,
    rows.map((r) => r.id),
  );
}

export const fitAgainJob = z.object({
  itemIds: z.array(id).min(1).max(5000).describe('Items that fittings were kept as'),
});

/**
 * Makes kept fittings again with what sources, characters and maps are now, as one job; each result is the next version of
 * its item, and all of them are one step to take back (group: the job's id).
 */
export async function openFitAgain(
  db: Database,
  person: Person,
  wish: z.output<typeof fitAgainJob>,
): Promise<{ id: string; parts: number }> {
  const kept = unique(await getItems(db, wish.itemIds)).filter((i) => i.binnedAt === null);
  const fittings = kept.flatMap((item) => (item.provenance.how === 'fitting' ? [{ item, by: item.provenance }] : []));
  if (fittings.length === 0)
    throw new Refusal(400, 'no-fitting', 'None of these was made by a fitting: there is nothing to make again.');
  await demandFolders(
    db,
    person,
    fittings.map((f) => f.item.folderId),
  );
  const job = await addJob(db, person, {
    kind: 'fit',
    title: `${fittings.length === 1 ? fittings[0]!.item.name : `${many(fittings.length, 'fitting')}`} again`,
    order: { settings: fitSettings.parse(fittings[0]!.by.settings) },
    parts: fittings.map(({ item, by }) => ({
      name: item.name,
      state: 'ready' as const,
      payload: {
        itemId: by.sourceItem,
        castId: by.character,
        settings: by.settings,
        ...(by.edits === undefined ? {} : { edits: by.edits }),
        plain: true,
        over: item.id,
        together: true,
      },
    })),
  });
  return { ...job, parts: fittings.length };
}

export const redoWish = z.object({
  parts: z.array(id).min(1).max(5000),
  settings: fitSettings,
});

/** Puts done fittings of a job back to work with other settings. What they made stays as the earlier version. */
export async function redoFits(
  db: Database,
  person: Person,
  jobId: string,
  wish: z.output<typeof redoWish>,
): Promise<{ again: number }> {
  return db.transaction(async (tx) => {
    const [job] = await tx.select().from(jobs).where(eq(jobs.id, jobId)).for('update');
    if (job?.kind !== 'fit') throw notFound('The job');
    if (job.personId !== person.id && !can(person, 'curate'))
      throw new Refusal(403, 'no-right', 'Only who started a job, or a librarian, can do parts of it again.');
    const rows = await tx
      .select()
      .from(jobParts)
      .where(
        and(eq(jobParts.jobId, jobId), inArray(jobParts.id, wish.parts), inArray(jobParts.state, ['done', 'refused'])),
      );
    if (rows.length === 0) throw new Refusal(400, 'empty', 'None of these has ended: there is nothing to do again.');
    for (const row of rows) {
      const made = (row.result as { items?: { id: string }[] } | null)?.items?.[0]?.id;
      await tx
        .update(jobParts)
        .set({
          state: 'ready',
          message: '',
          attempts: 0,
          worker: null,
          leaseUntil: null,
          endedAt: null,
          payload: { ...row.payload, settings: wish.settings, plain: true, ...(made ? { over: made } : {}) },
        })
        .where(eq(jobParts.id, row.id));
    }
    await tx.update(jobs).set({ state: 'queued', endedAt: null }).where(eq(jobs.id, jobId));
    return { again: rows.length };
  });
}
