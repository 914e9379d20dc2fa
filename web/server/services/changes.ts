import { type ChangeWish, changeWords } from '../../workers/settings';
import type { Database } from '../db/client';
import { Refusal } from '../errors';
import { changeInThread } from '../jobs/threads';
import { addItem, getItem, type ItemRow, motionBytes } from './items';
import { getRig } from './rigs';

/** Makes a new item of another by a change; the other stays as it is, and the new one knows where it came from. */
export async function changeIntoNew(
  db: Database,
  itemId: string,
  wish: ChangeWish,
  name: string,
  personId: string,
): Promise<ItemRow> {
  const words = changeWords(wish);
  if (words.length === 0)
    throw new Refusal(400, 'nothing-to-do', 'Nothing about the motion would change: set something first.');
  const item = await getItem(db, itemId);
  const [source, packed] = await Promise.all([getRig(db, item.rigId), motionBytes(db, item.motionHash)]);
  const clip = await changeInThread({ source, packed, wish });
  return db.transaction((tx) =>
    addItem(tx, {
      name,
      kind: wish.loop ? 'cycle' : clip.facts.frameCount === 1 ? 'pose' : item.kind,
      note: item.note,
      folderId: item.folderId,
      tags: item.tags,
      rigId: item.rigId,
      clip,
      personId,
      provenance: {
        how: 'change',
        sourceItem: item.id,
        sourceVersion: item.versionId,
        sourceName: item.name,
        change: wish,
        words,
      },
    }),
  );
}
