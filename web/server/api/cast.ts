import { z } from 'zod';
import { database } from '../db/client';
import { immutable } from '../http';
import { addCast, castRig, changeCast, fileBytes, getCast, listCast } from '../services/cast';
import { getRig, saveMap } from '../services/rigs';
import { type Endpoint, endpoint, hashParams, id, idParams, yes } from './endpoint';

const about = 'Cast';
const name = z.string().trim().min(1, 'a name is due').max(200);
const slot = z.object({
  joint: z.string().max(300).nullable(),
  state: z.enum(['sure', 'guessed', 'missing', 'empty']),
  why: z.string().max(300),
});

export const castEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/cast',
    summary: 'All cast members',
    about,
    need: 'read',
    query: z.object({ bin: yes.optional() }),
    run: ({ query }) => listCast(database(), query.bin),
  }),
  endpoint({
    method: 'POST',
    path: '/cast',
    summary: 'Make a bare skeleton, for instance a take’s, a cast member',
    about,
    need: 'change',
    body: z.object({ rigId: id, name }),
    run: async ({ person, body }) => {
      const rig = await getRig(database(), body.rigId);
      return addCast(database(), {
        name: body.name,
        rigId: body.rigId,
        heightM: rig.heightM,
        figure: null,
        personId: person.id,
      });
    },
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}',
    summary: 'One cast member',
    about,
    need: 'read',
    params: idParams,
    run: ({ params }) => getCast(database(), params.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/cast/{id}',
    summary: 'Rename, describe or bin a cast member',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ name, note: z.string().max(4000), binned: z.boolean() }).partial(),
    run: ({ person, params, body }) => changeCast(database(), person, params.id, body),
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}/rig',
    summary: 'The rig of a cast member with its body map',
    about,
    need: 'read',
    params: idParams,
    run: ({ params }) => castRig(database(), params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/rigs/{id}',
    summary: 'A rig with its body map',
    about,
    need: 'read',
    params: idParams,
    run: ({ params }) => getRig(database(), params.id),
  }),
  endpoint({
    method: 'PUT',
    path: '/rigs/{id}/map',
    summary: 'Store a corrected body map',
    about,
    need: 'change',
    params: idParams,
    body: z.object({
      map: z.object({ slots: z.record(z.string().max(40), slot) }),
      version: z.number().int().positive(),
    }),
    run: ({ person, params, body }) => saveMap(database(), params.id, body.map, body.version, person.id),
  }),
  endpoint({
    method: 'GET',
    path: '/files/{hash}',
    summary: 'A kept file: the figure of a cast member, a picture of an item',
    about: 'Bytes',
    need: 'read',
    params: hashParams,
    file: 'application/octet-stream',
    run: async ({ params }) => {
      const { bytes, mime } = await fileBytes(database(), params.hash);
      return immutable(bytes, mime);
    },
  }),
];
