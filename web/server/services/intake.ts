import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { IntakeResult } from '../../contract';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { intakes, items, people } from '../db/schema';
import { newId } from '../ids';
import type { ReadFile } from '../threads/work';
import { addCast, castWithArt } from './cast';
import { newGroup } from './history';
import { addItem, type NewItem } from './items';
import { makePackIn } from './packs';
import { hiddenFolders } from './rights';
import { keepRig } from './rigs';

export type IntakeRow = typeof intakes.$inferSelect;

const bare = (fileName: string): string =>
  fileName
    .replace(/^.*[\\/]/, '')
    .replace(/\.[^.]*$/, '')
    .trim() || fileName;
const NOTHING: IntakeResult = { items: [], cast: [], known: false, warnings: [] };

export interface Extras {
  /** Given by the demo world; files from people are described by hand later. */
  item?: Partial<Pick<NewItem, 'name' | 'kind' | 'note' | 'tags' | 'folder' | 'heading' | 'rights' | 'source'>>;
  cast?: { name: string; note: string };
  /** Who it was bought from. */
  supplier?: { name: string; take: string; issue: number };
}

/** Where a file came from, and what is kept of that. */
export interface Origin {
  fileName: string;
  bytes: number;
  /** SHA-256 of the file. */
  fileHash?: string | undefined;
  jobId?: string | undefined;
}

/** Puts what a file held into the library, all or nothing, and leaves a report. */
export const takeIn = (
  db: Database,
  read: ReadFile,
  origin: Origin,
  personId: string,
  extras: Extras = {},
): Promise<IntakeRow> => db.transaction((tx) => takeInto(tx, read, origin, personId, extras));

/** The same inside a transaction of the caller's. */
export async function takeInto(
  tx: Queries,
  read: ReadFile,
  origin: Origin,
  personId: string,
  extras: Extras = {},
): Promise<IntakeRow> {
  const { fileName, bytes } = origin;
  const rig = await keepRig(tx, read);
  const result: IntakeResult = {
    items: [],
    cast: [],
    known: rig.known,
    rigId: rig.id,
    warnings: read.warnings,
    format: read.format,
  };
  // a mesh is a character; so are a drawing that is not in the cast yet, and a skeleton without any motion
  // two people may draw the same parts; a motion belongs to whoever has them
  const known = read.art && (await castWithArt(tx, rig.id, read.clips.length === 0 ? read.art : undefined));
  const drawn = read.art && known?.binnedAt !== null;
  // the motion of a drawing is that figure's own
  let figure = drawn ? undefined : known?.id;
  if (read.figure || drawn || read.clips.length === 0) {
    const member = await addCast(tx, {
      name: extras.cast?.name ?? bare(fileName),
      note: extras.cast?.note ?? '',
      rigId: rig.id,
      heightM: read.heightM,
      figure: read.figure,
      art: read.art,
      personId,
    });
    if (drawn) figure = member.id;
    result.cast.push({ id: member.id, name: member.name, joints: member.jointCount });
    const [person] = await tx.select().from(people).where(eq(people.id, personId));
    if (person && person.performerId === null)
      await tx.update(people).set({ performerId: member.id }).where(eq(people.id, personId));
  }
  // what one job brings in is one action, however many workers do it
  const groupId = origin.jobId ?? newGroup();
  for (const clip of read.clips) {
    const name = extras.item?.name ?? (read.clips.length === 1 && read.format !== 'glb' ? bare(fileName) : clip.name);
    const item = await addItem(tx, {
      kind: clip.facts.frameCount === 1 ? 'pose' : clip.facts.loops ? 'cycle' : 'take',
      madeFor: figure ?? null,
      ...extras.item,
      name,
      rigId: rig.id,
      clip,
      provenance: {
        how: 'intake',
        file: fileName,
        clip: clip.name,
        format: read.format,
        bytes,
        ...(extras.supplier && { supplier: extras.supplier }),
      },
      personId,
      groupId,
    });
    result.items.push({ id: item.id, name: item.name, frames: clip.facts.frameCount, fps: clip.facts.fps });
  }
  // several clips of one file stay together, and each is an item of its own
  if (result.items.length > 1) {
    const pack = await makePackIn(
      tx,
      { id: personId, role: 'admin', name: '' },
      bare(fileName),
      result.items.map((i) => i.id),
      groupId,
    );
    result.pack = { id: pack.id, name: pack.name };
  }
  return report(tx, { ...origin, personId, state: 'done', message: '', code: '', result });
}

/** Items that the very same file became before, as far as they are not in the bin and somebody sees them. */
export async function knownFile(
  db: Queries,
  fileHash: string,
  person: Pick<Person, 'id' | 'role'>,
): Promise<{ id: string; name: string }[]> {
  const rows = await db
    .select({ result: intakes.result })
    .from(intakes)
    .where(and(eq(intakes.fileHash, fileHash), eq(intakes.state, 'done')))
    .orderBy(desc(intakes.createdAt))
    .limit(5);
  const ids = rows.flatMap((r) => r.result.items.map((i) => i.id));
  if (ids.length === 0) return [];
  const hidden = await hiddenFolders(db, person);
  const found = await db
    .select({ id: items.id, name: items.name, folderId: items.folderId })
    .from(items)
    .where(and(inArray(items.id, ids), isNull(items.binnedAt)));
  return found.flatMap(({ id, name, folderId }) => (folderId !== null && hidden.has(folderId) ? [] : [{ id, name }]));
}

/** Leaves a report of a file that could not be taken. */
export const refuseIn = (
  db: Queries,
  origin: Origin,
  personId: string,
  code: string,
  message: string,
): Promise<IntakeRow> =>
  report(db, {
    ...origin,
    personId,
    state: 'refused',
    message: message.slice(0, 1000),
    code: code.slice(0, 40),
    result: NOTHING,
  });

async function report(db: Queries, row: Omit<typeof intakes.$inferInsert, 'id'>): Promise<IntakeRow> {
  const id = newId();
  await db.insert(intakes).values({ ...row, id, fileName: row.fileName.slice(0, 300) });
  return (await db.select().from(intakes).where(eq(intakes.id, id)))[0]!;
}

/** The report, newest first; of one job where that is asked for. */
export const listIntakes = (db: Queries, jobId?: string, limit = 200): Promise<IntakeRow[]> =>
  db
    .select()
    .from(intakes)
    .where(jobId === undefined ? undefined : eq(intakes.jobId, jobId))
    .orderBy(desc(intakes.createdAt), desc(intakes.id))
    .limit(jobId === undefined ? limit : 5000);
