import { and, desc, eq, inArray } from 'drizzle-orm';
import type { RightRequestRow } from '../../contract';
import type { Person } from '../auth/person';
import type { Queries } from '../db/client';
import { folderRights, folders, people, rightRequests } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { noteAudit } from './audit';
import { newGroup, record } from './history';

export const CAN = {
  read: ['viewer', 'animator', 'librarian', 'admin'],
  change: ['animator', 'librarian', 'admin'],
  curate: ['librarian', 'admin'],
  govern: ['admin'],
} as const;
export type Need = keyof typeof CAN;

export const can = (person: Pick<Person, 'role'>, need: Need): boolean =>
  (CAN[need] as readonly string[]).includes(person.role);

/** Which folders this person may not change, by id: those under a restricted or hidden one without a right to it. */
export const closedFolders = (db: Queries, person: Pick<Person, 'id' | 'role'>): Promise<Set<string>> =>
  foldersBelow(db, person, (f) => f.restricted || f.hidden);

/** Which folders this person does not see, nor what lies in them. */
export const hiddenFolders = (db: Queries, person: Pick<Person, 'id' | 'role'>): Promise<Set<string>> =>
  foldersBelow(db, person, (f) => f.hidden);

async function foldersBelow(
  db: Queries,
  person: Pick<Person, 'id' | 'role'>,
  shut: (folder: { restricted: boolean; hidden: boolean }) => boolean,
): Promise<Set<string>> {
  const closed = new Set<string>();
  if (can(person, 'curate')) return closed;
  const all = await db
    .select({ id: folders.id, parentId: folders.parentId, restricted: folders.restricted, hidden: folders.hidden })
    .from(folders);
  if (!all.some(shut)) return closed;
  const own = new Set(
    (await db.select({ id: folderRights.folderId }).from(folderRights).where(eq(folderRights.personId, person.id))).map(
      (r) => r.id,
    ),
  );
  const byId = new Map(all.map((f) => [f.id, f]));
  for (const { id } of all) {
    for (let f = byId.get(id), depth = 0; f && depth < 64; f = f.parentId ? byId.get(f.parentId) : undefined, depth++) {
      // a right to a folder opens all that lies below it
      if (own.has(f.id)) break;
      if (!shut(f)) continue;
      closed.add(id);
      break;
    }
  }
  return closed;
}

/** Who writes: a person, or their id where only that is known, as in a job. */
export type Writer = Pick<Person, 'id' | 'role'> | string;

/** @throws Refusal 403 where the writer may not change what lies in one of these folders */
export async function demandFolders(db: Queries, writer: Writer, folderIds: Iterable<string | null>): Promise<void> {
  const asked = [...folderIds].filter((id) => id !== null);
  if (asked.length === 0) return;
  const person = typeof writer === 'string' ? await personOf(db, writer) : writer;
  const closed = await closedFolders(db, person);
  for (const id of asked) {
    if (!closed.has(id)) continue;
    const [folder] = await db.select({ name: folders.name }).from(folders).where(eq(folders.id, id));
    throw new Refusal(
      403,
      'closed-folder',
      `“${folder?.name ?? 'This folder'}” may only be changed by some. Ask for the right at the folder, or work on a copy.`,
    );
  }
}

/** Somebody by their id. @throws Refusal 404 */
export async function personOf(db: Queries, id: string): Promise<Person> {
  const [person] = await db.select().from(people).where(eq(people.id, id));
  if (!person) throw notFound('The person');
  return person;
}

/** What may be set of a folder besides its name and place. */
export interface FolderAccess {
  restricted?: boolean | undefined;
  hidden?: boolean | undefined;
}

const ACCESS = {
  restricted: {
    true: ['folder restricted', 'restrict', (name: string) => `Restricted who can change ${name}`],
    false: ['folder opened', 'open', (name: string) => `Opened ${name} to everybody again`],
  },
  hidden: {
    true: ['folder hidden', 'hide', (name: string) => `Hid ${name} from those without a right to it`],
    false: ['folder shown', 'show', (name: string) => `Showed ${name} to everybody again`],
  },
} as const;

/** Restricts who changes a folder, or hides it from those without a right to it; or takes that back. */
export async function restrictFolder(
  db: Queries,
  person: Person,
  folderId: string,
  access: FolderAccess,
): Promise<void> {
  const [folder] = await db.select().from(folders).where(eq(folders.id, folderId));
  if (!folder) throw notFound('The folder');
  await db.transaction(async (tx) => {
    for (const what of ['restricted', 'hidden'] as const) {
      const value = access[what];
      if (value === undefined || value === folder[what]) continue;
      const [audited, action, label] = ACCESS[what][`${value}`];
      await tx
        .update(folders)
        .set({ [what]: value })
        .where(eq(folders.id, folderId));
      await noteAudit(tx, person.id, audited, folder.name);
      await record(tx, [
        {
          subject: 'folder',
          subjectId: folderId,
          groupId: newGroup(),
          personId: person.id,
          action,
          label: label(folder.name),
        },
      ]);
    }
  });
}

export async function askForRight(
  db: Queries,
  person: Person,
  folderId: string,
  note: string,
): Promise<{ id: string }> {
  const [folder] = await db.select().from(folders).where(eq(folders.id, folderId));
  if (!folder) throw notFound('The folder');
  const [open] = await db
    .select({ id: rightRequests.id })
    .from(rightRequests)
    .where(
      and(eq(rightRequests.folderId, folderId), eq(rightRequests.personId, person.id), eq(rightRequests.state, 'open')),
    );
  if (open) return open;
  const id = newId();
  await db.insert(rightRequests).values({ id, folderId, personId: person.id, note });
  await record(db, [
    {
      subject: 'right',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: 'ask',
      label: `${person.name} asks to be allowed to change ${folder.name}`,
    },
  ]);
  return { id };
}

export const openRequests = (db: Queries): Promise<RightRequestRow[]> =>
  db
    .select({
      id: rightRequests.id,
      folderId: rightRequests.folderId,
      folderName: folders.name,
      personId: rightRequests.personId,
      personName: people.name,
      note: rightRequests.note,
      state: rightRequests.state,
      createdAt: rightRequests.createdAt,
    })
    .from(rightRequests)
    .innerJoin(folders, eq(folders.id, rightRequests.folderId))
    .innerJoin(people, eq(people.id, rightRequests.personId))
    .where(eq(rightRequests.state, 'open'))
    .orderBy(desc(rightRequests.createdAt));

export async function decideRequest(db: Queries, person: Person, id: string, grant: boolean): Promise<void> {
  const [request] = await db.select().from(rightRequests).where(eq(rightRequests.id, id));
  if (!request) throw notFound('The request');
  if (request.state !== 'open') throw new Refusal(409, 'decided', 'Somebody has decided that already.');
  await db
    .update(rightRequests)
    .set({ state: grant ? 'granted' : 'refused', decidedBy: person.id, decidedAt: new Date() })
    .where(eq(rightRequests.id, id));
  if (grant) await giveRight(db, person, request.folderId, request.personId);
  await record(db, [
    {
      subject: 'right',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: grant ? 'grant' : 'refuse',
      label: grant ? 'Granted a right to change a folder' : 'Refused a right to change a folder',
    },
  ]);
}

export async function giveRight(db: Queries, by: Person, folderId: string, personId: string): Promise<void> {
  const [person, folder] = [await personOf(db, personId), await folderOf(db, folderId)];
  await db.insert(folderRights).ignore().values({ folderId, personId, grantedBy: by.id });
  await noteRight(db, folderId, by, 'grant', `${person.name} may change ${folder.name}`);
  await noteAudit(db, by.id, 'right given', `${person.name}, ${folder.name}`);
}

async function folderOf(db: Queries, id: string): Promise<{ name: string }> {
  const [folder] = await db.select({ name: folders.name }).from(folders).where(eq(folders.id, id));
  if (!folder) throw notFound('The folder');
  return folder;
}

const noteRight = (db: Queries, folderId: string, by: Person, action: string, label: string): Promise<void> =>
  record(db, [{ subject: 'right', subjectId: folderId, groupId: newGroup(), personId: by.id, action, label }]);

export async function takeRight(db: Queries, by: Person, folderId: string, personId: string): Promise<void> {
  const [person, folder] = [await personOf(db, personId), await folderOf(db, folderId)];
  await noteRight(db, folderId, by, 'refuse', `${person.name} may no longer change ${folder.name}`);
  await noteAudit(db, by.id, 'right taken', `${person.name}, ${folder.name}`);
  await db.delete(folderRights).where(and(eq(folderRights.folderId, folderId), eq(folderRights.personId, personId)));
}

/** Who has a right of their own to these folders. */
export async function rightsTo(
  db: Queries,
  folderIds: readonly string[],
): Promise<{ folderId: string; personId: string; personName: string }[]> {
  if (folderIds.length === 0) return [];
  return db
    .select({ folderId: folderRights.folderId, personId: folderRights.personId, personName: people.name })
    .from(folderRights)
    .innerJoin(people, eq(people.id, folderRights.personId))
    .where(inArray(folderRights.folderId, [...folderIds]));
}
