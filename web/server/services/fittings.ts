import type { ExportFormat } from '../../workers/export-formats';
import type { ExportOrder, FitOrder } from '../../workers/heavy';
import type { FitSettings } from '../../workers/settings';
import type { Database } from '../db/client';
import { exportInThread, fitInThread } from '../jobs/threads';
import { castRig, fileBytes, getCast } from './cast';
import { addItem, getItem, type ItemRow, motionBytes } from './items';
import { getRig } from './rigs';

async function orderFor(
  db: Database,
  itemId: string,
  castId: string,
  settings: FitSettings,
): Promise<{ item: ItemRow; order: FitOrder }> {
  const item = await getItem(db, itemId);
  const [source, target, packed] = await Promise.all([
    getRig(db, item.rigId),
    castRig(db, castId),
    motionBytes(db, item.motionHash),
  ]);
  return { item, order: { source, target, packed, settings } };
}

/** Solves a fitting on the server and keeps it as a new item that knows how it came about. */
export async function keepFitting(
  db: Database,
  itemId: string,
  castId: string,
  settings: FitSettings,
  name: string,
  personId: string,
): Promise<ItemRow> {
  const { item, order } = await orderFor(db, itemId, castId, settings);
  const member = await getCast(db, castId);
  const { report, ...clip } = await fitInThread(order);
  return db.transaction((tx) =>
    addItem(tx, {
      name,
      kind: item.kind,
      note: item.note,
      folderId: item.folderId,
      tags: item.tags,
      rigId: member.rigId,
      clip,
      personId,
      provenance: {
        how: 'fitting',
        sourceItem: item.id,
        sourceVersion: item.versionId,
        sourceName: item.name,
        character: member.id,
        characterName: member.name,
        settings,
        sourceMap: order.source.map,
        targetMap: order.target.map,
        report,
      },
    }),
  );
}

export interface ExportWish {
  format: ExportFormat;
  fps: number | null;
  keyTolerance: number | null;
  mesh: boolean;
  /** Fit onto this cast member first. */
  onto: string | null;
  settings: FitSettings;
}

/** An item, or its fitting onto a cast member, as a file. The mesh is the character's the motion is on, where there is one. */
export async function exportItem(
  db: Database,
  itemId: string,
  wish: ExportWish,
): Promise<{ name: string; bytes: Uint8Array }> {
  const item = await getItem(db, itemId);
  const madeFor = wish.onto ?? (item.provenance.how === 'fitting' ? item.provenance.character : null);
  const member = madeFor ? await getCast(db, madeFor).catch(() => undefined) : undefined;
  const figure =
    wish.mesh && wish.format === 'glb' && member?.fileHash ? (await fileBytes(db, member.fileHash)).bytes : null;
  const onto = wish.onto ? (await orderFor(db, itemId, wish.onto, wish.settings)).order : null;
  const name = wish.onto && member ? `${item.name} on ${member.name}` : item.name;
  const order: ExportOrder = {
    name,
    format: wish.format,
    fps: wish.fps,
    keyTolerance: wish.keyTolerance,
    rig: (await getRig(db, item.rigId)).rig,
    packed: await motionBytes(db, item.motionHash),
    figure: member && (wish.onto || member.rigId === item.rigId) ? figure : null,
    onto,
  };
  return { name: `${name}.${wish.format}`, bytes: await exportInThread(order) };
}
