import { z } from 'zod';
import { apiToken, person, ROLES } from '../../contract';
import { addPerson, changePerson, listPeople, newPerson, PASSWORD_LEAST } from '../auth/accounts';
import { listTokens, makeToken, revokeToken } from '../auth/tokens';
import { database } from '../db/client';
import { choosePerformer } from '../services/cast';
import { can } from '../services/rights';
import { type Endpoint, endpoint, id, idParams } from './endpoint';

const about = 'People';

export const peopleEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/people',
    summary: 'Who works with the library; addresses for admins only',
    about,
    need: 'read',
    answer: z.array(person),
    run: async ({ person: me }) => {
      const all = await listPeople(database());
      return can(me, 'govern') ? all : all.map((p) => ({ ...p, email: null }));
    },
  }),
  endpoint({
    method: 'POST',
    path: '/people',
    summary: 'Make an account',
    about,
    need: 'govern',
    body: newPerson,
    answer: z.object({ id: z.string() }),
    run: ({ person, body }) => addPerson(database(), body, person),
  }),
  endpoint({
    method: 'PATCH',
    path: '/people/{id}',
    summary: 'Change an account: name, role, password, whether it can sign in',
    about,
    need: 'govern',
    params: idParams,
    body: z.object({
      name: z.string().trim().min(1).max(120).optional(),
      role: z.enum(ROLES).optional(),
      left: z.boolean().optional(),
      password: z
        .string()
        .min(PASSWORD_LEAST, `a password has at least ${PASSWORD_LEAST} characters`)
        .max(200)
        .optional(),
    }),
    run: ({ person, params, body }) => changePerson(database(), person, params.id, body),
  }),
  endpoint({
    method: 'PATCH',
    path: '/me',
    summary: 'Choose the performer',
    about,
    need: 'read',
    body: z.object({ performerId: id.nullable() }),
    run: ({ person, body }) => choosePerformer(database(), person.id, body.performerId),
  }),
  endpoint({
    method: 'GET',
    path: '/tokens',
    summary: 'Your own tokens for programs',
    about,
    need: 'read',
    answer: z.array(apiToken),
    run: ({ person }) => listTokens(database(), person.id),
  }),
  endpoint({
    method: 'POST',
    path: '/tokens',
    summary: 'Make a token; its text is shown only once',
    about,
    need: 'read',
    body: z.object({ name: z.string().trim().min(1, 'enter a name').max(120) }),
    answer: z.object({ id: z.string(), token: z.string() }),
    run: ({ person, body }) => makeToken(database(), person.id, body.name),
  }),
  endpoint({
    method: 'DELETE',
    path: '/tokens/{id}',
    summary: 'Revoke a token',
    about,
    need: 'read',
    params: idParams,
    run: ({ person, params }) => revokeToken(database(), person.id, params.id),
  }),
];
