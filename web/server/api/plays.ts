import { z } from 'zod';
import { playDocument, playRow } from '../../contract';
import type { PlayContent } from '../../documents/play';
import { playContent } from '../../documents/play-schema';
import { fitSettings } from '../../wishes/settings';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import { database } from '../db/client';
import { download } from '../http';
import { noteAudit } from '../services/audit';
import { batch } from '../services/batches';
import { binPlay, carryPlay, exportPlay, getPlay, listPlays, makePlay, writePlay } from '../services/plays';
import { type Endpoint, endpoint, id, idParams, yes } from './endpoint';

const about = 'Play-throughs';

export const playEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/plays',
    summary: 'All play-throughs, those changed last first',
    about,
    need: 'read',
    query: z.object({ bin: yes.optional() }),
    answer: z.array(playRow),
    run: ({ query }) => listPlays(database(), query.bin),
  }),
  endpoint({
    method: 'POST',
    path: '/plays',
    summary: 'Begin a play-through: an empty one, or with what is given in it',
    about,
    need: 'change',
    body: playContent.partial().required({ name: true }),
    answer: z.object({ id: z.string() }),
    run: ({ person, body }) => makePlay(database(), person, body as Partial<PlayContent> & { name: string }),
  }),
  endpoint({
    method: 'GET',
    path: '/plays/{id}',
    summary: 'A play-through as it is worked on',
    about,
    need: 'read',
    params: idParams,
    answer: playDocument,
    run: ({ params }) => getPlay(database(), params.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/plays/{id}',
    summary: 'Write some cells of a play-through, beside what others write meanwhile',
    about,
    need: 'change',
    params: idParams,
    body: batch,
    answer: playDocument,
    run: ({ person, params, body }) => writePlay(database(), person, params.id, body),
  }),
  endpoint({
    method: 'PUT',
    path: '/plays/{id}/bin',
    summary: 'Move a play-through to the bin, or bring it back',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ binned: z.boolean() }),
    run: ({ person, params, body }) => binPlay(database(), person, params.id, body.binned),
  }),
  endpoint({
    method: 'POST',
    path: '/plays/{id}/carry',
    summary: 'Carry a play-through to another character: its items are fitted as a job, and a copy of it shows them',
    about,
    need: 'change',
    params: idParams,
    body: z.object({
      castId: id,
      name: z.string().trim().min(1, 'enter a name').max(200),
      nameRule: z.string().max(200).default('{item} on {character}'),
      folder: z.string().max(600).default(''),
      settings: fitSettings.default(FIT_DEFAULTS as z.output<typeof fitSettings>),
    }),
    answer: z.object({ id: z.string().describe('The job'), parts: z.int() }),
    run: ({ person, params, body }) => carryPlay(database(), person, params.id, body),
  }),
  endpoint({
    method: 'GET',
    path: '/plays/{id}/export',
    summary: 'A play-through as JSON and SCXML, with a GLB of all its clips, in one ZIP',
    about,
    need: 'read',
    heavy: true,
    params: idParams,
    file: 'application/zip',
    run: async ({ person, params }) => {
      const file = await exportPlay(database(), params.id);
      await noteAudit(database(), person.id, 'exported', file.name);
      return download(file.bytes, file.name, 'application/zip');
    },
  }),
];
