import { laidOf, NO_EDITS, type ReelMember, type Stretch } from '@velvet-reel/motion';
import { and, eq } from 'drizzle-orm';
import type { CastRow, ItemRow, ReelRow } from '../../contract';
import { REEL, type ReelContent } from '../../documents/reel';
import { asReel } from '../../documents/reel-schema';
import { kindOf } from '../../kinds/kinds';
import type { ReelSource } from '../../wishes/reel-source';
import { asEdits, fitEdits, fitSettings } from '../../wishes/settings';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { reelItems, reels } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { bakeInThread, sceneInThread } from '../threads/pool';
import { assetBytes, castRig, getCast, listCast } from './cast';
import { namedDocuments } from './document-rows';
import { getFitting } from './fitting-documents';
import { addItem, getItems, motionBytes } from './items';
import { demandFolders } from './rights';
import { getRig } from './rigs';
import { listVersions } from './versions';

const itemsOf = ({ members }: ReelContent): string[] => [
  ...new Set(members.flatMap((m) => [...m.base, ...m.overlays].map((s) => s.itemId))),
];

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

const rows = namedDocuments<ReelContent>({
  table: reels,
  kind: REEL,
  check: asReel,
  subject: 'reel',
  word: 'reel',
  note: noteItems,
});
export const { get: getReel, make: makeReel, write: writeReel, bin: binReel } = rows;

/** All reels, those changed last first. */
export async function listReels(db: Queries, bin = false): Promise<ReelRow[]> {
  const [found, cast] = await Promise.all([rows.list(db, bin), listCast(db)]);
  const names = new Map(cast.map((c) => [c.id, c.name]));
  return found.map(({ id, name, content, version, changedByName, changedAt, binnedAt }) => {
    const first = content.members.flatMap((m) => m.base).sort((a, b) => a.at - b.at)[0];
    return {
      id,
      name,
      fps: content.fps,
      frames: content.frames,
      members: content.members.map((m) => ({ id: m.castId, name: names.get(m.castId) ?? 'a character that is gone' })),
      items: itemsOf(content).length,
      first: first?.itemId ?? null,
      version,
      changedByName,
      changedAt,
      binnedAt,
    };
  });
}

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

/** All visible members of a reel that have something on their lanes, and its cameras, as one GLB. Paper figures are left out. */
export async function exportReel(
  db: Database,
  id: string,
): Promise<{ name: string; bytes: Uint8Array; left: string[] }> {
  const { content } = await getReel(db, id);
  const members = [];
  const left: string[] = [];
  for (const member of content.members.filter((m) => !m.muted)) {
    const performer = await getCast(db, member.castId);
    const laid = await laidOn(
      db,
      [...member.base, ...member.overlays].filter((s) => !s.muted),
    );
    const target = await castRig(db, member.castId);
    if (laid.length === 0 || target.rig.kind === 'cutout') {
      left.push(performer.name);
      continue;
    }
    members.push({
      name: performer.name,
      target,
      member,
      figure: await assetBytes(db, performer, 'figure'),
      sources: await sourcesOf(db, member, performer, laid),
    });
  }
  if (members.length === 0)
    throw new Refusal(400, 'empty', 'Nobody visible on this reel has anything on their lanes that a GLB can hold.');
  const { name, fps, frames, cameras = [] } = content;
  return { name: `${name}.glb`, bytes: await sceneInThread({ name, fps, frames, cameras, members }), left };
}
