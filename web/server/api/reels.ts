import { z } from 'zod';
import { item, reelDocument, reelRow } from '../../contract';
import type { ReelContent } from '../../documents/reel';
import { reelContent } from '../../documents/reel-schema';
import { database } from '../db/client';
import { download } from '../http';
import { noteAudit } from '../services/audit';
import { batch } from '../services/batches';
import { bakeReel, binReel, exportReel, getReel, listReels, makeReel, writeReel } from '../services/reels';
import { type Endpoint, endpoint, id, idParams, yes } from './endpoint';

const about = 'Reels';
const frame = z.int().min(0).max(1_000_000);

export const reelEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/reels',
    summary: 'All reels, those changed last first',
    about,
    need: 'read',
    query: z.object({ bin: yes.optional() }),
    answer: z.array(reelRow),
    run: ({ query }) => listReels(database(), query.bin),
  }),
  endpoint({
    method: 'POST',
    path: '/reels',
    summary: 'Begin a reel: an empty one, or with what is given on it',
    about,
    need: 'change',
    body: reelContent.partial().required({ name: true }),
    answer: z.object({ id: z.string() }),
    run: ({ person, body }) => makeReel(database(), person, body as Partial<ReelContent> & { name: string }),
  }),
  endpoint({
    method: 'GET',
    path: '/reels/{id}',
    summary: 'A reel as it is worked on',
    about,
    need: 'read',
    params: idParams,
    answer: reelDocument,
    run: ({ params }) => getReel(database(), params.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/reels/{id}',
    summary: 'Write some cells of a reel, beside what others write meanwhile',
    about,
    need: 'change',
    params: idParams,
    body: batch,
    answer: reelDocument,
    run: ({ person, params, body }) => writeReel(database(), person, params.id, body),
  }),
  endpoint({
    method: 'PUT',
    path: '/reels/{id}/bin',
    summary: 'Move a reel to the bin, or bring it back',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ binned: z.boolean() }),
    run: ({ person, params, body }) => binReel(database(), person, params.id, body.binned),
  }),
  endpoint({
    method: 'POST',
    path: '/reels/{id}/bake',
    summary: 'Bake what a member does in some frames into one item',
    about,
    need: 'change',
    heavy: true,
    params: idParams,
    body: z.object({
      memberId: id,
      start: frame.describe('First frame of the reel, counted from 0'),
      end: frame.describe('Last one, included'),
      name: z.string().trim().min(1, 'enter a name').max(200),
      folder: z.string().max(600).optional().describe('A folder by path; beside the first item where left out'),
    }),
    answer: item,
    run: ({ person, params, body }) => bakeReel(database(), person, params.id, body),
  }),
  endpoint({
    method: 'GET',
    path: '/reels/{id}/export',
    summary: 'Everybody on a reel in one scene, with its cameras, as a GLB',
    about,
    need: 'read',
    heavy: true,
    params: idParams,
    file: 'model/gltf-binary',
    run: async ({ person, params }) => {
      const file = await exportReel(database(), params.id);
      await noteAudit(database(), person.id, 'exported', file.name);
      return download(file.bytes, file.name, 'model/gltf-binary');
    },
  }),
];
