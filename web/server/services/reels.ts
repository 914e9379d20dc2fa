import { laidOf, NO_EDITS, type ReelMember, type Stretch } from '@velvet-reel/motion';
import { and, desc, eq, isNotNull, isNull } from 'drizzle-orm';
import type { CastRow, ItemRow, ReelRow } from '../../contract';
import { REEL, type ReelContent } from '../../documents/reel';
import { asReel } from '../../documents/reel-schema';
import type { Batch } from '../../documents/shared-document';
import { kindOf } from '../../kinds/kinds';
import type { ReelSource } from '../../wishes/reel-source';
import { asEdits, fitEdits, fitSettings } from '../../wishes/settings';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { people, reelItems, reels } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { bakeInThread } from '../threads/pool';
import { wasTaken, withBatch, withWrites } from './batches';
import { castRig, getCast, listCast } from './cast';
import { getFitting } from './fitting-documents';
import { newGroup, record } from './history';
import { addItem, getItems, motionBytes } from './items';
import { demandFolders } from './rights';
import { getRig } from './rigs';
import { listVersions } from './versions';

const MOST_REELS = 500;

const itemsOf = ({ members }: ReelContent): string[] => [
  ...new Set(members.flatMap((m) => [...m.base, ...m.overlays].map((s) => s.itemId))),
];

/** All reels, those changed last first. */
export async function listReels(db: Queries, bin = false): Promise<ReelRow[]> {
  const [rows, cast] = await Promise.all([
    db
      .select({ reel: reels, by: people.name })
      .from(reels)
      .leftJoin(people, eq(people.id, reels.changedBy))
      .where(bin ? isNotNull(reels.binnedAt) : isNull(reels.binnedAt))
      .orderBy(desc(reels.changedAt), desc(reels.id))
      .limit(MOST_REELS),
    listCast(db),
  ]);
  const names = new Map(cast.map((c) => [c.id, c.name]));
  return rows.map(({ reel, by }) => {
    const { content } = reel;
    const first = content.members.flatMap((m) => m.base).sort((a, b) => a.at - b.at)[0];
    return {
      id: reel.id,
      name: reel.name,
      fps: content.fps,
      frames: content.frames,
      members: content.members.map((m) => ({ id: m.castId, name: names.get(m.castId) ?? 'a character that is gone' })),
      items: itemsOf(content).length,
      first: first?.itemId ?? null,
      version: reel.version,
      changedByName: by,
      changedAt: reel.changedAt,
      binnedAt: reel.binnedAt,
    };
  });
}

/** @throws Refusal 404 */
export async function getReel(db: Queries, id: string) {
  const [row] = await db
    .select({ reel: reels, by: people.name })
    .from(reels)
    .leftJoin(people, eq(people.id, reels.changedBy))
    .where(eq(reels.id, id));
  if (!row) throw notFound('The reel');
  const { content, version, binnedAt } = row.reel;
  return { id, content: asReel(content), version, changedByName: row.by, binnedAt };
}

/** Makes a reel: an empty one, or one that holds what is given. */
export async function makeReel(
  db: Database,
  person: Pick<Person, 'id'>,
  given: Partial<ReelContent> & { name: string },
): Promise<{ id: string }> {
  const content = asReel({ ...REEL.empty, ...given });
  const id = newId();
  await db.transaction(async (tx) => {
    await tx.insert(reels).values({
      id,
      name: content.name,
      content,
      createdBy: person.id,
      changedBy: person.id,
      changedAt: new Date(),
    });
    await noteItems(tx, id, content);
    await tell(tx, person.id, id, 'add', `Began the reel ${content.name}`);
  });
  return { id };
}

/**
 * Lays what a page wrote on a reel, beside what others wrote meanwhile.
 * @throws Refusal 404 where it is gone, 400 for what it cannot hold
 */
export async function writeReel(db: Database, person: Pick<Person, 'id'>, id: string, batch: Batch) {
  await db.transaction(async (tx) => {
    const [row] = await tx.select().from(reels).where(eq(reels.id, id)).for('update');
    if (!row) throw notFound('The reel');
    if (wasTaken(row.taken, batch)) return;
    const content = withWrites(REEL, asReel(row.content), batch, asReel);
    await tx
      .update(reels)
      .set({
        name: content.name,
        content,
        version: row.version + 1,
        taken: withBatch(row.taken, batch),
        changedBy: person.id,
        changedAt: new Date(),
      })
      .where(eq(reels.id, id));
    await noteItems(tx, id, content);
    await tell(tx, person.id, id, 'edit', `Worked on the reel ${content.name}`);
  });
  return getReel(db, id);
}

/** Moves a reel to the bin, or brings it back. */
export async function binReel(db: Database, person: Pick<Person, 'id'>, id: string, binned: boolean): Promise<void> {
  await db.transaction(async (tx) => {
    const [row] = await tx.select({ name: reels.name }).from(reels).where(eq(reels.id, id)).for('update');
    if (!row) throw notFound('The reel');
    await tx
      .update(reels)
      .set({ binnedAt: binned ? new Date() : null })
      .where(eq(reels.id, id));
    await tell(tx, person.id, id, 'edit', `${binned ? 'Moved to the bin' : 'Brought back'}: the reel ${row.name}`);
  });
}

async function noteItems(db: Queries, reelId: string, content: ReelContent): Promise<void> {
  const now = itemsOf(content);
  const before = (await db.select({ id: reelItems.itemId }).from(reelItems).where(eq(reelItems.reelId, reelId))).map(
    (r) => r.id,
  );
  for (const itemId of before)
    if (!now.includes(itemId))
      await db.delete(reelItems).where(and(eq(reelItems.reelId, reelId), eq(reelItems.itemId, itemId)));
  const added = now.filter((i) => !before.includes(i));
  if (added.length > 0) await db.insert(reelItems).values(added.map((itemId) => ({ reelId, itemId })));
}

const tell = (db: Queries, personId: string, subjectId: string, action: 'add' | 'edit', label: string) =>
  record(db, [{ subject: 'reel', subjectId, groupId: newGroup(), personId, action, label }]);

/** What is laid on a member, each once, in the version that is laid; what is gone is missing. */
async function laidOn(db: Database, stretches: readonly Stretch[]): Promise<{ laid: string; item: ItemRow }[]> {
  const found = new Map((await getItems(db, [...new Set(stretches.map((s) => s.itemId))])).map((i) => [i.id, i]));
  const out = new Map<string, ItemRow>();
  for (const s of stretches) {
    const item = found.get(s.itemId);
    if (!item || !kindOf(item).fits || item.binnedAt !== null || out.has(laidOf(s))) continue;
    if (s.versionId === null || s.versionId === item.versionId) out.set(laidOf(s), item);
    else {
      const version = (await listVersions(db, item.id)).find((v) => v.id === s.versionId);
      const { motionHash, rigId, id } = version ?? {};
      if (motionHash && rigId && id) out.set(laidOf(s), { ...item, motionHash, rigId, versionId: id });
    }
  }
  return [...out].map(([laid, item]) => ({ laid, item }));
}

/** How what is laid comes onto a member, with its motions. */
async function sourcesOf(
  db: Database,
  member: ReelMember,
  performer: CastRow,
  used: readonly { laid: string; item: ItemRow }[],
) {
  return Promise.all(
    used.map(async ({ laid, item }) => {
      const [fitting, packed] = await Promise.all([
        getFitting(db, item.id, member.castId),
        motionBytes(db, item.motionHash),
      ]);
      const own = item.rigId === performer.rigId && fitting.settings === null;
      const source: ReelSource = {
        laid,
        motionHash: item.motionHash,
        fit: own
          ? null
          : {
              source: await getRig(db, item.rigId),
              settings: fitting.settings ? fitSettings.parse(fitting.settings) : FIT_DEFAULTS,
              edits: fitting.edits ? asEdits(fitEdits.parse(fitting.edits)) : NO_EDITS,
            },
      };
      return { ...source, packed };
    }),
  );
}

export interface BakeWish {
  memberId: string;
  /** Frames of the reel, both included. */
  start: number;
  end: number;
  name: string;
  /** By path; beside the first item where left out. */
  folder?: string | undefined;
}

/**
 * Bakes what a member does in some frames into one item: what is shown there, number by number.
 * @throws Refusal 404 for a member or item that is gone, 400 for frames that are not on the reel, 403 where the folder is closed
 */
export async function bakeReel(db: Database, person: Person, id: string, wish: BakeWish): Promise<ItemRow> {
  const { content, version } = await getReel(db, id);
  const member = content.members.find((m) => m.id === wish.memberId);
  if (!member) throw notFound('The member of the reel');
  if (wish.end < wish.start || wish.end >= content.frames)
    throw new Refusal(
      400,
      'frames',
      `Frames ${wish.start + 1} to ${wish.end + 1} are not within the reel’s 1 to ${content.frames}.`,
    );
  const stretches = [...member.base, ...member.overlays].filter((s) => !s.muted);
  const performer = await getCast(db, member.castId);
  const laid = await laidOn(db, stretches);
  const used = laid.map((l) => l.item);
  const first = used[0];
  if (!first) throw new Refusal(400, 'empty', 'Nothing lies on this member’s lanes: lay an item there first.');
  if (wish.folder === undefined) await demandFolders(db, person, [first.folderId]);
  const clip = await bakeInThread({
    target: await castRig(db, member.castId),
    fps: content.fps,
    frames: content.frames,
    member,
    sources: await sourcesOf(db, member, performer, laid),
    start: wish.start,
    end: wish.end,
  });
  return db.transaction((tx) =>
    addItem(tx, {
      name: wish.name,
      kind: wish.end > wish.start ? 'clip' : 'pose',
      note: '',
      heading: '',
      ...(wish.folder === undefined ? { folderId: first.folderId } : { folder: wish.folder }),
      tags: [...new Set(used.flatMap((i) => i.tags))],
      rights: used.every((i) => i.rights === first.rights) ? first.rights : 'unknown',
      source: first.source,
      madeFor: performer.id,
      derivedFrom: first.id,
      rigId: performer.rigId,
      clip,
      personId: person.id,
      provenance: {
        how: 'reel',
        reel: id,
        reelName: content.name,
        version,
        member: member.id,
        character: performer.id,
        characterName: performer.name,
        start: wish.start,
        end: wish.end,
        items: used.map((i) => ({ id: i.id, name: i.name, version: i.versionId })),
      },
    }),
  );
}
