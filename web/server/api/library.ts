import { count, isNotNull, isNull } from 'drizzle-orm';
import { z } from 'zod';
import {
  counts,
  customField,
  fieldChange,
  folder,
  folderRight,
  newField,
  rightRequest,
  savedSearch,
  TAG_COLOURS,
  tag,
} from '../../contract';
import { catalogue } from '../catalogue/live';
import { database } from '../db/client';
import { castMembers, items } from '../db/schema';
import { addField, changeField, listFields, removeField } from '../services/fields';
import { changeFolder, folderByPath, folderCounts, listFolders, removeFolder } from '../services/folders';
import {
  askForRight,
  closedFolders,
  decideRequest,
  giveRight,
  hiddenFolders,
  openRequests,
  restrictFolder,
  rightsTo,
  takeRight,
} from '../services/rights';
import { listSearches, removeSearch, saveSearch } from '../services/searches';
import { changeTag, listTags } from '../services/tags';
import { type Endpoint, endpoint, id, idParams } from './endpoint';

const about = 'Library';
const folderName = z
  .string()
  .trim()
  .min(1, 'enter a name')
  .max(160)
  .refine((s) => !s.includes('/'), 'a name cannot contain /');

export const libraryEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/counts',
    summary: 'How much there is',
    about,
    need: 'read',
    answer: counts,
    run: async () => {
      const db = database();
      const [live] = await db.select({ n: count() }).from(items).where(isNull(items.binnedAt));
      const [bin] = await db.select({ n: count() }).from(items).where(isNotNull(items.binnedAt));
      const [cast] = await db.select({ n: count() }).from(castMembers).where(isNull(castMembers.binnedAt));
      return { items: live?.n ?? 0, bin: bin?.n ?? 0, cast: cast?.n ?? 0 };
    },
  }),
  endpoint({
    method: 'GET',
    path: '/completions',
    summary: 'Names that filters know: tags, people, cast, folders',
    about,
    need: 'read',
    answer: z.record(z.string(), z.array(z.string())),
    run: async ({ person }) => {
      await catalogue().open();
      return catalogue().values(await hiddenFolders(database(), person));
    },
  }),
  endpoint({
    method: 'GET',
    path: '/folders',
    summary: 'All folders',
    about,
    need: 'read',
    answer: z.array(folder),
    run: async ({ person }) => {
      const db = database();
      const [all, held, closed] = await Promise.all([listFolders(db), folderCounts(db), closedFolders(db, person)]);
      return all.map((f) => ({ ...f, n: held.get(f.id) ?? 0, open: !closed.has(f.id) }));
    },
  }),
  endpoint({
    method: 'POST',
    path: '/folders',
    summary: 'Make a folder by its path; existing folders stay',
    about,
    need: 'change',
    body: z.object({ path: z.string().trim().min(1, 'enter a name').max(600) }),
    answer: z.object({ id: z.string() }),
    run: ({ person, body }) =>
      database().transaction(async (tx) => {
        return { id: await folderByPath(tx, body.path, person) };
      }),
  }),
  endpoint({
    method: 'PATCH',
    path: '/folders/{id}',
    summary: 'Rename or move a folder',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ name: folderName.optional(), parentId: id.nullable().optional() }),
    run: ({ person, params, body }) => database().transaction((tx) => changeFolder(tx, person, params.id, body)),
  }),
  endpoint({
    method: 'DELETE',
    path: '/folders/{id}',
    summary: 'Remove an empty folder',
    about,
    need: 'change',
    params: idParams,
    run: ({ person, params }) => database().transaction((tx) => removeFolder(tx, person, params.id)),
  }),
  endpoint({
    method: 'PUT',
    path: '/folders/{id}/restricted',
    summary: 'Restrict who can change what is in a folder, or hide it from those without a right; or take that back',
    about,
    need: 'curate',
    params: idParams,
    body: z.object({ restricted: z.boolean().optional(), hidden: z.boolean().optional() }),
    run: ({ person, params, body }) => restrictFolder(database(), person, params.id, body),
  }),
  endpoint({
    method: 'GET',
    path: '/folders/{id}/rights',
    summary: 'Who may change a restricted folder',
    about,
    need: 'read',
    params: idParams,
    answer: z.array(folderRight),
    run: ({ params }) => rightsTo(database(), [params.id]),
  }),
  endpoint({
    method: 'PUT',
    path: '/folders/{id}/rights/{person}',
    summary: 'Let somebody change a restricted folder, or stop letting them',
    about,
    need: 'curate',
    params: z.object({ id, person: id }),
    body: z.object({ may: z.boolean() }),
    run: ({ person, params, body }) =>
      body.may
        ? giveRight(database(), person, params.id, params.person)
        : takeRight(database(), person, params.id, params.person),
  }),
  endpoint({
    method: 'POST',
    path: '/folders/{id}/requests',
    summary: 'Ask for access to a restricted folder',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ note: z.string().max(500).default('') }),
    run: ({ person, params, body }) => askForRight(database(), person, params.id, body.note),
  }),
  endpoint({
    method: 'GET',
    path: '/requests',
    summary: 'Open requests for access',
    about,
    need: 'curate',
    answer: z.array(rightRequest),
    run: () => openRequests(database()),
  }),
  endpoint({
    method: 'POST',
    path: '/requests/{id}',
    summary: 'Grant or refuse access',
    about,
    need: 'curate',
    params: idParams,
    body: z.object({ grant: z.boolean() }),
    run: ({ person, params, body }) => database().transaction((tx) => decideRequest(tx, person, params.id, body.grant)),
  }),
  endpoint({
    method: 'GET',
    path: '/tags',
    summary: 'All tags',
    about,
    need: 'read',
    answer: z.array(tag),
    run: async ({ person }) => listTags(database(), await hiddenFolders(database(), person)),
  }),
  endpoint({
    method: 'PATCH',
    path: '/tags/{id}',
    summary: 'Rename, colour or explain a tag; renaming it to another merges the two',
    about,
    need: 'curate',
    params: idParams,
    body: z.object({
      name: z.string().trim().min(1, 'enter a name').max(80).optional(),
      colour: z.enum(TAG_COLOURS).optional(),
      synonyms: z.array(z.string().trim().min(1).max(80)).max(40).optional(),
    }),
    answer: tag,
    run: ({ person, params, body }) => database().transaction((tx) => changeTag(tx, person, params.id, body)),
  }),
  endpoint({
    method: 'GET',
    path: '/searches',
    summary: 'Saved searches: one’s own and those that others share',
    about,
    need: 'read',
    answer: z.array(savedSearch),
    run: ({ person }) => listSearches(database(), person),
  }),
  endpoint({
    method: 'POST',
    path: '/searches',
    summary: 'Save a search',
    about,
    need: 'read',
    body: z.object({
      name: z.string().trim().min(1, 'enter a name').max(120),
      view: z.string().max(2000),
      shared: z.boolean().default(false),
    }),
    run: ({ person, body }) => saveSearch(database(), person, body),
  }),
  endpoint({
    method: 'DELETE',
    path: '/searches/{id}',
    summary: 'Remove a saved search',
    about,
    need: 'read',
    params: idParams,
    run: ({ person, params }) => removeSearch(database(), person, params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/fields',
    summary: 'Fields that this library has besides the built-in ones',
    about,
    need: 'read',
    answer: z.array(customField),
    run: () => listFields(database()),
  }),
  endpoint({
    method: 'POST',
    path: '/fields',
    summary: 'Add a field',
    about,
    need: 'curate',
    body: newField,
    run: ({ person, body }) => addField(database(), person, body),
  }),
  endpoint({
    method: 'PATCH',
    path: '/fields/{id}',
    summary: 'Rename a field or change its choices',
    about,
    need: 'curate',
    params: idParams,
    body: fieldChange,
    run: ({ person, params, body }) => changeField(database(), person, params.id, body),
  }),
  endpoint({
    method: 'PUT',
    path: '/fields/{id}',
    summary: 'Restore a removed field under its id, with what items have in it',
    about,
    need: 'curate',
    params: idParams,
    body: newField,
    run: ({ person, params, body }) => addField(database(), person, body, params.id),
  }),
  endpoint({
    method: 'DELETE',
    path: '/fields/{id}',
    summary: 'Remove a field; what items have in it is kept and hidden',
    about,
    need: 'curate',
    params: idParams,
    run: ({ person, params }) => removeField(database(), person, params.id),
  }),
];
