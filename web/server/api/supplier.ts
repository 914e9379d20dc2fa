import { z } from 'zod';
import { offeredPack, offerPage, offerPreview, reissue, supplierState } from '../../contract';
import { database } from '../db/client';
import {
  fetchOwned,
  fetchReissues,
  fetchTakes,
  linkAccount,
  offeredPacks,
  offers,
  previewOf,
  reissues,
  setByItself,
  supplierStateOf,
  unlinkAccount,
} from '../services/supplier';
import { AT_A_PAGE, SupplierClient, supplierAddress } from '../supplier/client';
import { type Endpoint, endpoint } from './endpoint';

const about = 'Supplier';
const takeId = z.string().regex(/^[\w-]{1,60}$/, 'not a take');
const takes = z.array(takeId).min(1).max(2000);
const job = z.object({ id: z.string() });
const anyone = (): SupplierClient => new SupplierClient(supplierAddress(), undefined, AT_A_PAGE);
const kept = { 'cache-control': 'private, max-age=600', 'x-content-type-options': 'nosniff' };

export const supplierEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/supplier',
    summary: 'Whether the supplier answers, which account is linked and what waits there',
    about,
    need: 'read',
    answer: supplierState,
    run: () => supplierStateOf(database()),
  }),
  endpoint({
    method: 'PUT',
    path: '/supplier/link',
    summary: 'Link the account that a key belongs to',
    about,
    need: 'curate',
    sessionOnly: true,
    body: z.object({ key: z.string().trim().min(1, 'enter the key').max(300) }),
    run: ({ person, body }) => linkAccount(database(), person, body.key),
  }),
  endpoint({
    method: 'DELETE',
    path: '/supplier/link',
    summary: 'Forget the linked account; what was taken stays',
    about,
    need: 'curate',
    sessionOnly: true,
    run: ({ person }) => unlinkAccount(database(), person),
  }),
  endpoint({
    method: 'PATCH',
    path: '/supplier/link',
    summary: 'Bring in what is owned without being asked, or only when asked',
    about,
    need: 'curate',
    body: z.object({ byItself: z.boolean() }),
    run: ({ body }) => setByItself(database(), body.byItself),
  }),
  endpoint({
    method: 'GET',
    path: '/supplier/takes',
    summary: 'A page of the catalogue, with what is owned and what is in the library',
    about,
    need: 'read',
    query: z.object({
      q: z.string().max(200).optional(),
      tag: z.string().max(80).optional(),
      pack: takeId.optional(),
      page: z.coerce.number().int().min(1).max(10_000).optional(),
    }),
    answer: offerPage,
    run: ({ query }) => offers(database(), query as Parameters<typeof offers>[1]),
  }),
  endpoint({
    method: 'GET',
    path: '/supplier/packs',
    summary: 'Packs of the catalogue',
    about,
    need: 'read',
    answer: z.array(offeredPack),
    run: () => offeredPacks(database()),
  }),
  endpoint({
    method: 'GET',
    path: '/supplier/takes/{take}/strip',
    summary: 'Some poses of an offered take in a row',
    about,
    need: 'read',
    params: z.object({ take: takeId }),
    file: 'image/png',
    run: async ({ params }) => {
      const bytes = (await anyone().strip(params.take)) as Uint8Array<ArrayBuffer>;
      return new Response(bytes, { headers: { ...kept, 'content-type': 'image/png' } });
    },
  }),
  endpoint({
    method: 'GET',
    path: '/supplier/takes/{take}/preview',
    summary: 'The beginning of an offered take, to be seen on a performer before it is bought',
    about,
    need: 'read',
    params: z.object({ take: takeId }),
    answer: offerPreview,
    run: ({ params }) => previewOf(anyone(), params.take),
  }),
  endpoint({
    method: 'POST',
    path: '/supplier/fetch',
    summary: 'Buy takes, or a pack, for the price that was shown, and bring them in; what is owned costs nothing',
    about,
    need: 'curate',
    body: z.object({
      takes: takes.optional(),
      pack: takeId.optional(),
      price: z.int().min(0),
      folder: z.string().max(600).default(''),
    }),
    answer: job,
    run: ({ person, body }) => fetchTakes(database(), person, body),
  }),
  endpoint({
    method: 'POST',
    path: '/supplier/owned',
    summary: 'Bring in all that is owned and not in the library',
    about,
    need: 'change',
    answer: job.nullable(),
    run: async ({ person }) => Response.json((await fetchOwned(database(), person)) ?? null),
  }),
  endpoint({
    method: 'GET',
    path: '/supplier/reissues',
    summary: 'Takes of which there is a newer issue, with what changed and where they are used',
    about,
    need: 'read',
    answer: z.array(reissue),
    run: () => reissues(database()),
  }),
  endpoint({
    method: 'POST',
    path: '/supplier/reissues',
    summary: 'Bring newer issues in, each as the next version of its item',
    about,
    need: 'change',
    body: z.object({ takes }),
    answer: job,
    run: ({ person, body }) => fetchReissues(database(), person, body.takes),
  }),
];
