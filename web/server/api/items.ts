import { KEY_CURVES } from '@velvet-reel/motion';
import { z } from 'zod';
import {
  activityEntry,
  changedItem,
  edited,
  fitReasons,
  freshness,
  historyEntry,
  item,
  itemChange,
  itemList,
  uses,
  version,
} from '../../contract';
import { many } from '../../naming/counts';
import { EXPORT_FORMATS, type ExportFormat } from '../../wishes/export-formats';
import { asEdits, changeWish, fitEdits, fitSettings, settingsText } from '../../wishes/settings';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import { catalogue } from '../catalogue/live';
import { SORTS } from '../catalogue/order';
import { database } from '../db/client';
import { fromReads } from '../db/reads';
import { Refusal } from '../errors';
import { readUpload } from '../files/upload';
import { download, immutable } from '../http';
import { noteAudit } from '../services/audit';
import { destroyItems, inUse } from '../services/bin';
import { changeItem, editItems, MOST_EDITS, setFavourite, undoGroup } from '../services/edits';
import { exportItem, exportMany, fitAgain, keepFitting } from '../services/fittings';
import { freshnessOf } from '../services/freshness';
import { activity, historyOf } from '../services/history';
import { getItem, getItems, motionBytes, stripsOf } from '../services/items';
import { changeInPlace, changeIntoNew } from '../services/motion-changes';
import { makePack, memberIds, setMembers } from '../services/packs';
import { demandFolders } from '../services/rights';
import { reasonsFor } from '../services/scores';
import { findAll, type LibrarySearch, namesOf, searchLibrary } from '../services/search';
import { setSteps } from '../services/sequences';
import { keepStill } from '../services/stills';
import { usesOf } from '../services/uses';
import { listVersions, restoreVersion } from '../services/versions';
import { type Endpoint, endpoint, hashParams, id, idParams, yes } from './endpoint';

const about = 'Items';
const name = z.string().trim().min(1, 'enter a name').max(200);
const ids = z.array(id).min(1).max(MOST_EDITS);

const search = z.object({
  q: z
    .string()
    .max(1000)
    .optional()
    .describe('Words and filters, as in the search field: walk -limp kind:clip longer:4'),
  folder: id.optional(),
  pack: id.optional().describe('Only members of this pack'),
  like: id.optional().describe('Items that move like this one, the most similar first'),
  pose: z
    .string()
    .regex(/^[\w-]{64}$/)
    .optional()
    .describe('Items that pass through this pose (a pose record, base64url), the most similar first'),
  support: yes.optional().describe('With pose: on the same feet'),
  performer: id.optional().describe('Cast member to give fit scores for'),
  bin: yes.optional(),
  sort: z.enum(SORTS).optional(),
  backwards: yes.optional(),
  offset: z.coerce.number().int().min(0).max(10_000_000).optional(),
  limit: z.coerce.number().int().min(1).max(500).optional(),
  facets: yes.optional().describe('Count what each filter would find'),
});

const asSearch = (q: z.infer<typeof search>): LibrarySearch => ({
  text: q.q,
  folderId: q.folder,
  pack: q.pack,
  like: q.like,
  pose: q.pose,
  sameSupport: q.support,
  performerId: q.performer,
  bin: q.bin,
  sort: q.sort,
  backwards: q.backwards,
  offset: q.offset,
  limit: q.limit,
  facets: q.facets,
});

const MIME: Readonly<Record<ExportFormat, string>> = {
  glb: 'model/gltf-binary',
  usda: 'text/plain; charset=utf-8',
  vrma: 'model/gltf-binary',
  bvh: 'text/plain; charset=utf-8',
  csv: 'text/csv; charset=utf-8',
  json: 'application/json',
  // handed out as a file: nothing opens it in the page
  svg: 'image/svg+xml',
  lottie: 'application/json',
  png: 'application/zip',
  sprites: 'application/zip',
};

const exportQuery = z.object({
  format: z.enum(EXPORT_FORMATS),
  fps: z.coerce.number().positive().max(1000).optional(),
  keys: z.coerce.number().min(0.01).max(1000).optional().describe('Millimetres within which keys are left out'),
  curves: z.enum(KEY_CURVES).default('straight').describe('What runs between keys where some are left out'),
  mesh: z.enum(['0', '1']).default('1'),
  onto: id.optional().describe('Cast member to fit it onto first'),
  settings: settingsText.optional(),
});
/** What is too long for an address: edits by hand. */
const exportBody = exportQuery.extend({
  fps: z.number().positive().max(1000).nullable().default(null),
  keys: z.number().min(0.01).max(1000).nullable().default(null),
  mesh: z.boolean().default(true),
  settings: fitSettings.optional(),
  edits: fitEdits.optional(),
});
const exportWish = (q: z.infer<typeof exportQuery>) => ({
  format: q.format,
  fps: q.fps ?? null,
  keyTolerance: q.keys === undefined ? null : q.keys / 1000,
  keyCurves: q.curves,
  mesh: q.mesh === '1',
  onto: q.onto ?? null,
  settings: q.settings ?? FIT_DEFAULTS,
});

export const itemEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/items',
    summary: 'Search the library',
    about,
    need: 'read',
    query: search,
    answer: itemList,
    run: ({ person, query }) => fromReads((db) => searchLibrary(db, catalogue(), person, asSearch(query), database())),
  }),
  endpoint({
    method: 'GET',
    path: '/items/ids',
    summary: 'Ids of everything that a search finds',
    about,
    need: 'read',
    query: search,
    answer: z.object({ ids: z.array(z.string()) }),
    run: async ({ person, query }) => ({
      ids: await fromReads((db) => findAll(db, catalogue(), person, asSearch(query), database())),
    }),
  }),
  endpoint({
    method: 'GET',
    path: '/items/names',
    summary: 'Names and kinds of what a search finds, in its order; 20,000 at most',
    about,
    need: 'read',
    query: search,
    answer: z.object({ names: z.array(z.tuple([z.string(), z.string()])) }),
    run: async ({ person, query }) => ({
      names: await fromReads((db) => namesOf(db, catalogue(), person, asSearch(query), database())),
    }),
  }),
  endpoint({
    method: 'GET',
    path: '/items/some',
    summary: 'Items by their ids',
    about,
    need: 'read',
    query: z.object({ ids: z.string().max(9000) }),
    answer: z.array(item),
    run: ({ person, query }) =>
      getItems(
        database(),
        query.ids
          .split(',')
          .filter((x) => id.safeParse(x).success)
          .slice(0, 500),
        person.id,
      ),
  }),
  endpoint({
    method: 'PATCH',
    path: '/items',
    summary: 'Change many items, all or none, as one step that can be undone',
    about,
    need: 'change',
    body: z.union([
      z.object({ ids, change: itemChange, label: z.string().max(300).optional() }),
      z.object({
        edits: z
          .array(z.object({ id, change: itemChange, expected: itemChange.optional() }))
          .min(1)
          .max(MOST_EDITS),
        label: z.string().max(300).optional(),
      }),
    ]),
    answer: edited,
    run: async ({ person, body }) => {
      const edits = 'ids' in body ? body.ids.map((x) => ({ id: x, change: body.change })) : body.edits;
      const done = await editItems(database(), person, edits, body.label);
      // a page asks again for what it shows
      return { ...done, items: done.items.slice(0, 100) };
    },
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}',
    summary: 'One item',
    about,
    need: 'read',
    params: idParams,
    answer: item,
    run: ({ person, params }) => getItem(database(), params.id, person.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/items/{id}',
    summary: 'Change an item’s description',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ change: itemChange, expected: itemChange.optional() }),
    answer: changedItem,
    run: ({ person, params, body }) => changeItem(database(), person, params.id, body.change, body.expected),
  }),
  endpoint({
    method: 'PUT',
    path: '/items/{id}/favourite',
    summary: 'Add an item to your favourites, or remove it',
    about,
    need: 'read',
    params: idParams,
    body: z.object({ on: z.boolean() }),
    run: ({ person, params, body }) => setFavourite(database(), person, params.id, body.on),
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}/export',
    summary: 'An item as a file',
    about,
    need: 'read',
    heavy: true,
    params: idParams,
    query: exportQuery,
    file: 'application/octet-stream',
    run: async ({ person, params, query }) => {
      const file = await exportItem(database(), params.id, exportWish(query));
      await noteAudit(database(), person.id, 'exported', file.name);
      return download(file.bytes, file.name, MIME[query.format]);
    },
  }),
  endpoint({
    method: 'POST',
    path: '/items/{id}/export',
    summary: 'An item as a file, with edits of its fitting',
    about,
    need: 'read',
    heavy: true,
    params: idParams,
    body: exportBody,
    file: 'application/octet-stream',
    run: async ({ person, params, body: b }) => {
      const file = await exportItem(database(), params.id, {
        format: b.format,
        fps: b.fps,
        keyTolerance: b.keys === null ? null : b.keys / 1000,
        keyCurves: b.curves,
        mesh: b.mesh,
        onto: b.onto ?? null,
        settings: b.settings ?? FIT_DEFAULTS,
        edits: b.edits === undefined ? undefined : asEdits(b.edits),
      });
      await noteAudit(database(), person.id, 'exported', file.name);
      return download(file.bytes, file.name, MIME[b.format]);
    },
  }),
  endpoint({
    method: 'GET',
    path: '/export',
    summary: 'Many items as one ZIP archive',
    about,
    need: 'read',
    query: exportQuery.extend({ ids: z.string().max(9000), folders: yes.optional() }),
    file: 'application/zip',
    run: async ({ person, query }) => {
      const wanted = [...new Set(query.ids.split(',').filter((x) => id.safeParse(x).success))].slice(0, 500);
      if (wanted.length === 0) throw new Refusal(400, 'invalid', 'ids: give at least one item');
      await noteAudit(database(), person.id, 'exported', `${many(wanted.length, 'item')} as ${query.format}`);
      return exportMany(database(), wanted, exportWish(query), query.folders ?? false);
    },
  }),
  endpoint({
    method: 'POST',
    path: '/items/{id}/change',
    summary: 'Make a new item by changing this one, or save the change as its next version',
    about,
    need: 'change',
    heavy: true,
    params: idParams,
    body: z.object({
      name: name.optional(),
      change: changeWish,
      over: id.optional().describe('The version that was changed: save over it'),
    }),
    answer: z.object({ item, group: z.string().nullable() }),
    run: async ({ person, params, body }) => {
      if (body.over !== undefined) return changeInPlace(database(), params.id, body.change, person, body.over);
      if (body.name === undefined) throw new Refusal(400, 'invalid', 'name: enter a name');
      return { item: await changeIntoNew(database(), params.id, body.change, body.name, person), group: null };
    },
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}/versions',
    summary: 'All versions of an item, newest first',
    about,
    need: 'read',
    params: idParams,
    answer: z.array(version),
    run: ({ params }) => listVersions(database(), params.id),
  }),
  endpoint({
    method: 'POST',
    path: '/items/{id}/versions/{version}/restore',
    summary: 'Make another version the current one',
    about,
    need: 'change',
    params: z.object({ id, version: id }),
    answer: changedItem,
    run: ({ person, params }) => restoreVersion(database(), person, params.id, params.version),
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}/history',
    summary: 'Who changed what about an item',
    about,
    need: 'read',
    params: idParams,
    answer: z.array(historyEntry),
    run: ({ params }) => historyOf(database(), 'item', params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}/uses',
    summary: 'Where an item is used and what it was made from',
    about,
    need: 'read',
    params: idParams,
    answer: uses,
    run: ({ params }) => usesOf(database(), params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}/fit',
    summary: 'How well an item fits a cast member, and why',
    about,
    need: 'read',
    params: idParams,
    query: z.object({ cast: id }),
    answer: fitReasons,
    run: async ({ params, query }) => {
      const { readingId } = await getItem(database(), params.id);
      return (await reasonsFor(database(), query.cast, readingId)) ?? { score: null, reasons: [] };
    },
  }),
  endpoint({
    method: 'PUT',
    path: '/items/{id}/still',
    summary: 'Take a picture (PNG) for an item',
    about,
    need: 'change',
    params: idParams,
    form: true,
    answer: changedItem,
    run: async ({ request, person, params }) => {
      // nothing is stored for an item that cannot be changed
      await demandFolders(database(), person, [(await getItem(database(), params.id)).folderId]);
      const { bytes } = await readUpload(request, person, 4 * 2 ** 20);
      return changeItem(database(), person, params.id, { stillHash: await keepStill(database(), bytes) });
    },
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}/members',
    summary: 'What a pack holds',
    about,
    need: 'read',
    params: idParams,
    answer: z.array(item),
    run: async ({ person, params }) => getItems(database(), await memberIds(database(), params.id), person.id),
  }),
  endpoint({
    method: 'PUT',
    path: '/items/{id}/members',
    summary: 'Make a pack hold exactly these items, in this order',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ ids: z.array(id).min(1).max(2000) }),
    answer: item,
    run: ({ person, params, body }) => setMembers(database(), person, params.id, body.ids),
  }),
  endpoint({
    method: 'POST',
    path: '/packs',
    summary: 'Put items together as a pack',
    about,
    need: 'change',
    body: z.object({ name, ids: z.array(id).min(1).max(2000) }),
    answer: item,
    run: ({ person, body }) => makePack(database(), person, body.name, body.ids),
  }),
  endpoint({
    method: 'POST',
    path: '/sequences',
    summary: 'Say that items lead to each other, or no longer do',
    about,
    need: 'change',
    body: z.object({
      steps: z
        .array(z.tuple([id, id]))
        .min(1)
        .max(2000)
        .describe('Pairs: the item that ends, and the one that follows'),
      follow: z.boolean().describe('False removes the steps'),
    }),
    answer: z.object({ changed: z.array(z.tuple([id, id])) }),
    run: async ({ person, body }) => ({ changed: await setSteps(database(), person, body.steps, body.follow) }),
  }),
  endpoint({
    method: 'POST',
    path: '/fittings',
    summary: 'Fit an item onto a cast member and keep the result',
    about,
    need: 'change',
    heavy: true,
    body: z.object({ itemId: id, castId: id, name, settings: fitSettings, edits: fitEdits.optional() }),
    answer: item,
    run: ({ person, body: b }) =>
      keepFitting(
        database(),
        b.itemId,
        b.castId,
        b.settings,
        b.name,
        person,
        b.edits === undefined ? undefined : asEdits(b.edits),
      ),
  }),
  endpoint({
    method: 'GET',
    path: '/items/{id}/freshness',
    summary: 'Whether a kept fitting would come out differently today, and why; null for items that are not fittings',
    about,
    need: 'read',
    params: idParams,
    answer: freshness.nullable(),
    run: async ({ params }) => Response.json(await freshnessOf(database(), params.id)),
  }),
  endpoint({
    method: 'POST',
    path: '/items/{id}/fit-again',
    summary: 'Make a kept fitting again with what its source and character are now, as its next version',
    about,
    need: 'change',
    heavy: true,
    params: idParams,
    body: z.object({ seen: id.describe('The version that was looked at') }),
    answer: changedItem,
    run: ({ person, params, body }) => fitAgain(database(), person, params.id, body.seen),
  }),
  endpoint({
    method: 'POST',
    path: '/bin/uses',
    summary: 'Which of these items are in use elsewhere',
    about,
    need: 'read',
    body: z.object({ ids }),
    run: ({ body }) => inUse(database(), body.ids),
  }),
  endpoint({
    method: 'POST',
    path: '/bin/destroy',
    summary: 'Destroy items that are in the bin. This cannot be undone',
    about,
    need: 'curate',
    body: z.object({ ids, evenInUse: z.boolean().default(false) }),
    answer: z.object({ destroyed: z.number().int() }),
    run: async ({ person, body }) => {
      const done = await destroyItems(database(), person, body.ids, body.evenInUse);
      await noteAudit(database(), person.id, 'destroyed', many(done.destroyed, 'item'));
      return done;
    },
  }),
  endpoint({
    method: 'POST',
    path: '/history/{id}/undo',
    summary: 'Undo an action',
    about: 'History',
    need: 'change',
    params: idParams,
    answer: edited,
    run: async ({ person, params }) => {
      const done = await undoGroup(database(), person, params.id);
      return { ...done, items: done.items.slice(0, 100) };
    },
  }),
  endpoint({
    method: 'GET',
    path: '/activity',
    summary: 'Recent activity',
    about: 'History',
    need: 'read',
    query: z.object({ before: z.coerce.number().int().positive().optional(), person: id.optional() }),
    answer: z.array(activityEntry),
    run: ({ query }) => activity(database(), { before: query.before, personId: query.person }),
  }),
  endpoint({
    method: 'GET',
    path: '/motions/{hash}',
    summary: 'A packed motion; see docs/formats/packed-motion.md',
    about: 'Bytes',
    need: 'read',
    params: hashParams,
    file: 'application/octet-stream',
    run: async ({ params }) =>
      immutable(await fromReads((db) => motionBytes(db, params.hash)), 'application/octet-stream'),
  }),
  endpoint({
    method: 'GET',
    path: '/strips',
    summary: 'Strips of many readings: for each a byte of id length, the id, four bytes of size, the strip',
    about: 'Bytes',
    need: 'read',
    query: z.object({ readings: z.string().max(9000) }),
    file: 'application/octet-stream',
    run: async ({ query }) => {
      const wanted = query.readings
        .split(',')
        .filter((x) => id.safeParse(x).success)
        .slice(0, 200);
      const rows = await fromReads((db) => stripsOf(db, wanted));
      const out = new Uint8Array(rows.reduce((sum, r) => sum + 5 + r.id.length + r.strip.length, 0));
      const view = new DataView(out.buffer);
      let at = 0;
      for (const { id: key, strip } of rows) {
        out[at] = key.length;
        out.set(new TextEncoder().encode(key), at + 1);
        view.setUint32(at + 1 + key.length, strip.length, true);
        out.set(strip, at + 5 + key.length);
        at += 5 + key.length + strip.length;
      }
      return new Response(out, {
        headers: { 'content-type': 'application/octet-stream', 'cache-control': 'private, max-age=3600' },
      });
    },
  }),
];
