import { AsyncLocalStorage } from 'node:async_hooks';
import type { EngineCondition, KeyCurves } from '@velvet-reel/motion';
import { Zip, ZipDeflate } from 'fflate';
import type { CastRow, ItemRow, Provenance } from '../../contract';
import { kindOf } from '../../kinds/kinds';
import { many } from '../../naming/counts';
import { safeName } from '../../naming/safe-name';
import { type ExportFormat, endingOf, MESH_FORMATS } from '../../wishes/export-formats';
import { asEdits, fitEdits, fitSettings } from '../../wishes/settings';
import type { FitEdits, FitSettings } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { Refusal } from '../errors';
import { sentenceOf } from '../http';
import { conditionsInThread, exportCharacterInThread, exportInThread, fitInThread } from '../threads/pool';
import type { ExportOrder, FitOrder, ReadClip } from '../threads/work';
import { assetBytes, castWithArt, getCast, rigOfMember } from './cast';
import { listFolders, pathIn } from './folders';
import { addItem, getItem, getItems, keysOf, motionBytes } from './items';
import { demandFolders } from './rights';
import { getRig } from './rigs';
import { saveOver } from './versions';

/** What a solve needs, for an item and a cast member. */
export async function fitOrder(
  db: Database,
  itemId: string,
  castId: string,
  settings: FitSettings,
  edits?: FitEdits,
): Promise<{ item: ItemRow; member: CastRow; order: FitOrder }> {
  const [item, member] = await Promise.all([getItem(db, itemId), getCast(db, castId)]);
  const [source, target, packed, keys] = await Promise.all([
    getRig(db, item.rigId),
    rigOfMember(db, member),
    motionBytes(db, item.motionHash),
    keysOf(db, item),
  ]);
  return { item, member, order: { source: keys ? { ...source, keys } : source, target, packed, settings, edits } };
}

export interface Fitted {
  item: ItemRow;
  member: CastRow;
  order: FitOrder;
  clip: ReadClip;
  report: unknown;
  settings: FitSettings;
  edits?: FitEdits | undefined;
  name: string;
  /** Where to keep it; beside the source where left out. */
  folder?: string;
  personId: string;
}

/** Keeps a solved fitting as an item that knows how it came about. */
export async function keepFitted(db: Queries, f: Fitted): Promise<ItemRow> {
  return addItem(db, {
    name: f.name,
    kind: kindOf(f.item).makes,
    note: f.item.note,
    heading: f.item.heading,
    ...(f.folder ? { folder: f.folder } : { folderId: f.item.folderId }),
    tags: f.item.tags,
    rights: f.item.rights,
    source: f.item.source,
    madeFor: f.member.id,
    derivedFrom: f.item.id,
    rigId: f.member.rigId,
    clip: f.clip,
    personId: f.personId,
    provenance: provenanceOf(f),
  });
}

/** How a fitting came about, with all that is needed to make it again and to know when it would come out otherwise. */
export function provenanceOf(
  f: Pick<Fitted, 'item' | 'member' | 'settings' | 'edits' | 'order' | 'report'>,
): Provenance {
  return {
    how: 'fitting',
    sourceItem: f.item.id,
    sourceVersion: f.item.versionId,
    sourceName: f.item.name,
    character: f.member.id,
    characterName: f.member.name,
    settings: f.settings,
    ...(f.edits ? { edits: f.edits } : {}),
    sourceMap: f.order.source.map,
    targetMap: f.order.target.map,
    sourceMatch: f.order.source.match ?? null,
    targetMatch: f.order.target.match ?? null,
    // limits take part only where they are kept
    ...(f.settings.limits ? { targetLimits: f.order.target.limits ?? null } : {}),
    report: f.report,
  };
}

/** Solves a fitting on the server and keeps it as a new item. */
export async function keepFitting(
  db: Database,
  itemId: string,
  castId: string,
  settings: FitSettings,
  name: string,
  person: Person,
  edits?: FitEdits,
): Promise<ItemRow> {
  const { item, member, order } = await fitOrder(db, itemId, castId, settings, edits);
  await demandFolders(db, person, [item.folderId]);
  const { report, ...clip } = await fitInThread(order);
  return db.transaction((tx) =>
    keepFitted(tx, { item, member, order, clip, report, settings, edits, name, personId: person.id }),
  );
}

/** Makes a kept fitting again with what source, character and maps are now; the result is its next version. */
export async function fitAgain(
  db: Database,
  person: Person,
  itemId: string,
  seen: string,
): Promise<{ item: ItemRow; group: string }> {
  const kept = await getItem(db, itemId);
  const p = kept.provenance;
  if (p.how !== 'fitting')
    throw new Refusal(400, 'no-fitting', `${kept.name} was not made by a fitting: there is nothing to make again.`);
  await demandFolders(db, person, [kept.folderId]);
  const settings = fitSettings.parse(p.settings);
  const edits = p.edits === undefined ? undefined : asEdits(fitEdits.parse(p.edits));
  const { item, member, order } = await fitOrder(db, p.sourceItem, p.character, settings, edits);
  const { report, ...clip } = await fitInThread(order);
  return saveOver(
    db,
    person,
    itemId,
    {
      rigId: member.rigId,
      clip,
      provenance: provenanceOf({ item, member, settings, edits, order, report }),
      note: 'fitted again',
    },
    seen,
  );
}

export interface ExportWish {
  format: ExportFormat;
  fps: number | null;
  keyTolerance: number | null;
  keyCurves?: KeyCurves | undefined;
  mesh: boolean;
  /** Fit onto this cast member first. */
  onto: string | null;
  settings: FitSettings;
  edits?: FitEdits | undefined;
}

/** An item, or its fitting onto a cast member, as a file. The mesh is the character's the motion is on, where there is one. */
export async function exportItem(
  db: Database,
  itemId: string,
  wish: ExportWish,
): Promise<{ name: string; bytes: Uint8Array }> {
  const fitted = wish.onto ? await fitOrder(db, itemId, wish.onto, wish.settings, wish.edits) : null;
  const item = fitted?.item ?? (await getItem(db, itemId));
  const member = fitted?.member ?? (await madeForOf(db, item));
  const figure =
    wish.mesh && MESH_FORMATS.includes(wish.format) && member ? await assetBytes(db, member, 'figure') : null;
  const name = fitted ? `${item.name} on ${fitted.member.name}` : item.name;
  const order: ExportOrder = {
    name,
    format: wish.format,
    fps: wish.fps,
    keyTolerance: wish.keyTolerance,
    keyCurves: wish.keyCurves,
    rig: fitted?.order.source.rig ?? (await getRig(db, item.rigId)).rig,
    packed: fitted?.order.packed ?? (await motionBytes(db, item.motionHash)),
    keys: fitted ? (fitted.order.source.keys ?? null) : await keysOf(db, item),
    figure: member && (fitted || member.rigId === item.rigId) ? figure : null,
    onto: fitted?.order ?? null,
    ...(await paperOf(db, fitted?.member, item.rigId)),
  };
  return { name: `${name}.${endingOf(wish.format)}`, bytes: await exportInThread(order) };
}

/** The character that an item was fitted onto, while there is one. */
async function madeForOf(db: Database, item: ItemRow): Promise<CastRow | undefined> {
  const { provenance } = item;
  return provenance.how === 'fitting' ? getCast(db, provenance.character).catch(() => undefined) : undefined;
}

/** Pictures and body map of the cut-out that a motion is on; none for bodies in space. */
async function paperOf(
  db: Database,
  member: CastRow | undefined,
  rigId: string,
): Promise<Pick<ExportOrder, 'art' | 'map'>> {
  const whose = member ?? (await castWithArt(db, rigId));
  if (!whose?.assets.art) return {};
  return { art: await assetBytes(db, whose, 'art'), map: (await getRig(db, whose.rigId)).map };
}

/**
 * A character as one GLB: its mesh where it has one, and the items given as animations in it. Items on another skeleton are
 * refused by name: they have to be fitted first.
 */
export async function exportCharacter(
  db: Database,
  castId: string,
  wish: {
    itemIds: readonly string[];
    mesh: boolean;
    keyTolerance: number | null;
    keyCurves?: KeyCurves;
    vrm?: boolean;
  },
): Promise<{ name: string; bytes: Uint8Array }> {
  const member = await getCast(db, castId);
  const rows = await getItems(db, wish.itemIds);
  const strange = rows.find((i) => i.rigId !== member.rigId || !kindOf(i).fits);
  if (strange)
    throw new Refusal(
      400,
      'other-skeleton',
      !kindOf(strange).fits
        ? `${strange.name} ${kindOf(strange).instead}.`
        : `${strange.name} is on another skeleton than ${member.name}: fit it to ${member.name} first.`,
    );
  // animations are told apart by their names
  const taken = new Map<string, number>();
  const nameOf = (name: string): string => {
    const n = (taken.get(name) ?? 0) + 1;
    taken.set(name, n);
    return n === 1 ? name : `${name} ${n}`;
  };
  const clips: { name: string; packed: Uint8Array }[] = [];
  for (const row of rows) clips.push({ name: nameOf(row.name), packed: await motionBytes(db, row.motionHash) });
  const { rig, map } = await getRig(db, member.rigId);
  const bytes = await exportCharacterInThread({
    rig,
    ...(wish.vrm && { vrm: { name: member.name, map } }),
    figure: wish.mesh ? await assetBytes(db, member, 'figure') : null,
    clips,
    keyTolerance: wish.keyTolerance,
    keyCurves: wish.keyCurves,
  });
  return { name: `${member.name}.${wish.vrm ? 'vrm' : 'glb'}`, bytes };
}

/** What engines ask of a character, and whether it is met. */
export async function conditionsOf(db: Database, castId: string): Promise<EngineCondition[]> {
  const member = await getCast(db, castId);
  const { rig, map } = await getRig(db, member.rigId);
  return conditionsInThread({ rig, map, figure: await assetBytes(db, member, 'figure') });
}

/**
 * Many items as one archive, written while it is read: one file after the other, never all of them in memory. What cannot
 * be written is told in a text beside the others instead of breaking the archive.
 */
export async function exportMany(
  db: Database,
  ids: readonly string[],
  wish: ExportWish,
  withFolders: boolean,
): Promise<Response> {
  const rows = (await getItems(db, ids)).filter((i) => kindOf(i).fits);
  if (rows.length === 0) throw new Refusal(400, 'empty', 'None of these can be exported.');
  const folders = withFolders ? await listFolders(db) : [];
  const taken = new Set<string>();
  const place = (item: ItemRow, name: string): string => {
    const folder = withFolders
      ? pathIn(folders, item.folderId).split(' / ').filter(Boolean).map(safeName).join('/')
      : '';
    const clean = safeName(name);
    const dot = clean.lastIndexOf('.');
    for (let n = 1; ; n++) {
      const own = n === 1 ? clean : `${clean.slice(0, dot)} ${n}${clean.slice(dot)}`;
      const path = folder ? `${folder}/${own}` : own;
      if (!taken.has(path.toLowerCase())) {
        taken.add(path.toLowerCase());
        return path;
      }
    }
  };
  // the archive is written while it is fetched: still on behalf of whoever asked for it
  const within = AsyncLocalStorage.snapshot();
  let next = 0;
  const faults: string[] = [];
  let zip: Zip;
  const stream = new ReadableStream<Uint8Array>(
    {
      start(controller) {
        zip = new Zip((error, chunk, last) => {
          if (error) return controller.error(error);
          controller.enqueue(chunk);
          if (last) controller.close();
        });
      },
      async pull() {
        const add = (name: string, bytes: Uint8Array): void => {
          const entry = new ZipDeflate(name, { level: 6 });
          zip.add(entry);
          entry.push(bytes, true);
        };
        const item = rows[next++];
        if (item) {
          try {
            const file = await within(() => exportItem(db, item.id, wish));
            add(place(item, file.name), file.bytes);
          } catch (error) {
            faults.push(`${item.name}: ${sentenceOf(error)}`);
            add(`${safeName(item.name)}, not written.txt`, new TextEncoder().encode(`${faults.at(-1)}\n`));
          }
          return;
        }
        zip.end();
      },
      cancel: () => zip.terminate(),
    },
    { highWaterMark: 1 },
  );
  return new Response(stream, {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="velvet reel, ${many(rows.length, 'item')}.zip"`,
      'cache-control': 'no-store',
      'x-content-type-options': 'nosniff',
    },
  });
}
