import { desc, eq } from 'drizzle-orm';
import type { ReadFile } from '../../workers/heavy';
import type { Database } from '../db/client';
import { type IntakeResult, intakes, people } from '../db/schema';
import { newId } from '../ids';
import { addCast } from './cast';
import { addItem, type NewItem } from './items';
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
  item?: Partial<Pick<NewItem, 'name' | 'kind' | 'note' | 'tags' | 'folder'>>;
  cast?: { name: string; note: string };
}

/** Puts what a file held into the library, all or nothing, and leaves a report. */
export async function takeIn(
  db: Database,
  read: ReadFile,
  fileName: string,
  bytes: number,
  personId: string,
  extras: Extras = {},
): Promise<IntakeRow> {
  return db.transaction(async (tx) => {
    const rig = await keepRig(tx, read);
    const result: IntakeResult = {
      items: [],
      cast: [],
      known: rig.known,
      rigId: rig.id,
      warnings: read.warnings,
      format: read.format,
    };
    for (const clip of read.clips) {
      const name = extras.item?.name ?? (read.clips.length === 1 && read.format === 'bvh' ? bare(fileName) : clip.name);
      const item = await addItem(tx, {
        kind: clip.facts.frameCount === 1 ? 'pose' : clip.facts.loops ? 'cycle' : 'take',
        ...extras.item,
        name,
        rigId: rig.id,
        clip,
        provenance: { how: 'intake', file: fileName, clip: clip.name, format: read.format, bytes },
        personId,
      });
      result.items.push({ id: item.id, name: item.name, frames: clip.facts.frameCount, fps: clip.facts.fps });
    }
    // a mesh is a character; so is a skeleton without any motion
    if (read.figure || read.clips.length === 0) {
      const member = await addCast(tx, {
        name: extras.cast?.name ?? bare(fileName),
        note: extras.cast?.note ?? '',
        rigId: rig.id,
        heightM: read.heightM,
        figure: read.figure,
        personId,
      });
      result.cast.push({ id: member.id, name: member.name, joints: member.jointCount });
      const [person] = await tx.select().from(people).where(eq(people.id, personId));
      if (person && person.performerId === null)
        await tx.update(people).set({ performerId: member.id }).where(eq(people.id, personId));
    }
    return report(tx, { personId, fileName, bytes, state: 'done', message: '', code: '', result });
  });
}

/** Leaves a report of a file that could not be taken. */
export const refuseIn = (
  db: Database,
  fileName: string,
  bytes: number,
  personId: string,
  code: string,
  message: string,
): Promise<IntakeRow> =>
  report(db, {
    personId,
    fileName,
    bytes,
    state: 'refused',
    message: message.slice(0, 1000),
    code: code.slice(0, 40),
    result: NOTHING,
  });

type Writer = Pick<Database, 'insert' | 'select'>;

async function report(db: Writer, row: Omit<typeof intakes.$inferInsert, 'id'>): Promise<IntakeRow> {
  const id = newId();
  await db.insert(intakes).values({ ...row, id, fileName: row.fileName.slice(0, 300) });
  return (await db.select().from(intakes).where(eq(intakes.id, id)))[0]!;
}

export const listIntakes = (db: Database, limit = 200): Promise<IntakeRow[]> =>
  db.select().from(intakes).orderBy(desc(intakes.createdAt), desc(intakes.id)).limit(limit);
