import type { ItemRow, Provenance } from '../../contract';
import { kindOf, type MotionKind } from '../../kinds/kinds';
import { type ChangeWish, changeWords } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database } from '../db/client';
import { Refusal } from '../errors';
import { changeInThread } from '../threads/pool';
import type { ReadClip } from '../threads/work';
import { addItem, getItem, keysOf, motionBytes } from './items';
import { demandFolders } from './rights';
import { getRig } from './rigs';
import { saveOver } from './versions';

async function carryOut(
  db: Database,
  itemId: string,
  wish: ChangeWish,
): Promise<{ item: ItemRow; clip: ReadClip; words: string[] }> {
  const words = changeWords(wish);
  if (words.length === 0)
    throw new Refusal(400, 'nothing-to-do', 'This would not change the motion: set something first.');
  const item = await getItem(db, itemId);
  const [source, packed, keys] = await Promise.all([
    getRig(db, item.rigId),
    motionBytes(db, item.motionHash),
    keysOf(db, item),
  ]);
  return { item, clip: await changeInThread({ source, packed, keys, wish }), words };
}

/** What a changed item is: drawings alone are an exposure, a frame a pose, a part of a take a clip. */
function kindAfter(item: ItemRow, wish: ChangeWish, clip: ReadClip): MotionKind {
  if (wish.what === 'drawings') return 'exposure';
  if (clip.facts.frameCount === 1) return 'pose';
  if (wish.loop) return 'cycle';
  const kept = kindOf(item).makes;
  return kept === 'take' && wish.trim ? 'clip' : kept;
}

const provenanceOf = (item: ItemRow, wish: ChangeWish, words: string[]): Provenance => ({
  how: 'change',
  sourceItem: item.id,
  sourceVersion: item.versionId,
  sourceName: item.name,
  change: wish,
  words,
});

/** Makes a new item of another by a change; the other stays as it is, and the new one knows where it came from. */
export async function changeIntoNew(
  db: Database,
  itemId: string,
  wish: ChangeWish,
  name: string,
  person: Person,
): Promise<ItemRow> {
  const { item, clip, words } = await carryOut(db, itemId, wish);
  await demandFolders(db, person, [item.folderId]);
  return db.transaction((tx) =>
    addItem(tx, {
      name,
      kind: kindAfter(item, wish, clip),
      note: item.note,
      heading: item.heading,
      folderId: item.folderId,
      tags: item.tags,
      rights: item.rights,
      source: item.source,
      madeFor: item.madeFor,
      derivedFrom: item.id,
      parts: [...wish.regions, ...wish.joints],
      rigId: item.rigId,
      clip,
      personId: person.id,
      provenance: provenanceOf(item, wish, words),
    }),
  );
}

/** Saves a change over the item itself, as its next version; the one before stays and can be put in force again. */
export async function changeInPlace(
  db: Database,
  itemId: string,
  wish: ChangeWish,
  person: Person,
  seenVersion: string,
): Promise<{ item: ItemRow; group: string }> {
  const { item, clip, words } = await carryOut(db, itemId, wish);
  return saveOver(
    db,
    person,
    itemId,
    {
      rigId: item.rigId,
      clip,
      provenance: provenanceOf(item, wish, words),
      note: words.join(', '),
      parts: [...wish.regions, ...wish.joints],
    },
    seenVersion,
  );
}
