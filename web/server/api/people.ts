import { z } from 'zod';
import {
  apiToken,
  auditEntry,
  invitation,
  newInvitation,
  newQuota,
  newToken,
  person,
  ROLES,
  sessionRow,
  storage,
} from '../../contract';
import { addPerson, changeOwnPassword, changePerson, listPeople, newPassword, newPerson } from '../auth/accounts';
import { invite, listInvitations, withdraw } from '../auth/invitations';
import { beginFactor, endFactor, tryCode } from '../auth/second-factor';
import { endSessions, listSessions } from '../auth/sessions';
import { listTokens, makeToken, revokeToken } from '../auth/tokens';
import { database } from '../db/client';
import { auditLines, noteAudit, readAudit } from '../services/audit';
import { choosePerformer } from '../services/cast';
import { readStorage, setQuota } from '../services/quotas';
import { can } from '../services/rights';
import { type Endpoint, endpoint, id, idParams } from './endpoint';

const about = 'People';

const auditQuery = z.object({
  before: z.coerce.number().int().positive().optional().describe('Older than the entry of this number'),
  person: id.optional(),
  what: z.string().max(40).optional(),
});

/** An answer of ours with the session that the account package set. */
export function withCookiesOf(answer: Response): Response {
  const headers = new Headers({ 'content-type': 'application/json' });
  for (const cookie of answer.headers.getSetCookie()) headers.append('set-cookie', cookie);
  return new Response('{"ok":true}', { headers });
}

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
      return can(me, 'govern') ? all : all.map((p) => ({ ...p, email: null, secondFactor: null }));
    },
  }),
  endpoint({
    method: 'POST',
    path: '/people',
    summary: 'Make an account',
    about,
    need: 'govern',
    sessionOnly: true,
    body: newPerson,
    answer: z.object({ id: z.string() }),
    run: ({ person, body }) => addPerson(database(), body, person),
  }),
  endpoint({
    method: 'PATCH',
    path: '/people/{id}',
    summary: 'Change an account: name, role, password, whether it can sign in, no more codes',
    about,
    need: 'govern',
    sessionOnly: true,
    params: idParams,
    body: z.object({
      name: z.string().trim().min(1).max(120).optional(),
      role: z.enum(ROLES).optional(),
      left: z.boolean().optional(),
      password: newPassword.optional(),
      secondFactor: z.literal(false).optional().describe('No code is asked for any longer'),
    }),
    run: ({ person, params, body }) => changePerson(database(), person, params.id, body),
  }),
  endpoint({
    method: 'GET',
    path: '/invitations',
    summary: 'Invitations that nobody has used yet',
    about,
    need: 'govern',
    sessionOnly: true,
    answer: z.array(invitation),
    run: () => listInvitations(database()),
  }),
  endpoint({
    method: 'POST',
    path: '/invitations',
    summary: 'Invite somebody; the code of the link is told only once',
    about,
    need: 'govern',
    sessionOnly: true,
    body: newInvitation,
    answer: z.object({ id: z.string(), code: z.string() }),
    run: ({ person: me, body }) => invite(database(), me, body),
  }),
  endpoint({
    method: 'DELETE',
    path: '/invitations/{id}',
    summary: 'Take an invitation back',
    about,
    need: 'govern',
    sessionOnly: true,
    params: idParams,
    run: ({ person: me, params }) => withdraw(database(), me, params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/me/second-factor',
    summary: 'Whether a code is asked for when you sign in',
    about,
    need: 'read',
    sessionOnly: true,
    answer: z.object({ on: z.boolean() }),
    run: async ({ person: me }) => ({ on: me.twoFactorEnabled }),
  }),
  endpoint({
    method: 'POST',
    path: '/me/second-factor',
    summary: 'Begin to set up codes; they are asked for once a first one was confirmed',
    about,
    need: 'read',
    sessionOnly: true,
    body: z.object({ password: z.string().max(200) }),
    answer: z.object({ uri: z.string(), codes: z.array(z.string()) }),
    run: ({ request, person: me, body }) => beginFactor(me, body.password, request.headers),
  }),
  endpoint({
    method: 'PUT',
    path: '/me/second-factor',
    summary: 'Confirm a first code: from then on they are asked for',
    about,
    need: 'read',
    sessionOnly: true,
    body: z.object({ code: z.string().max(40) }),
    run: async ({ request, person: me, body }) => {
      const answer = await tryCode(body.code, request.headers);
      await noteAudit(database(), me.id, 'account changed', `${me.name}: a code at sign-in`);
      return withCookiesOf(answer);
    },
  }),
  endpoint({
    method: 'DELETE',
    path: '/me/second-factor',
    summary: 'Ask for codes no more',
    about,
    need: 'read',
    sessionOnly: true,
    body: z.object({ password: z.string().max(200) }),
    run: async ({ request, person: me, body }) =>
      withCookiesOf(await endFactor(database(), me, body.password, request.headers)),
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
    sessionOnly: true,
    answer: z.array(apiToken),
    run: ({ person }) => listTokens(database(), person.id),
  }),
  endpoint({
    method: 'POST',
    path: '/tokens',
    summary: 'Make a token; its text is shown only once',
    about,
    need: 'read',
    sessionOnly: true,
    body: newToken,
    answer: z.object({ id: z.string(), token: z.string() }),
    run: ({ person, body }) => makeToken(database(), person.id, body.name, body),
  }),
  endpoint({
    method: 'DELETE',
    path: '/tokens/{id}',
    summary: 'Revoke a token',
    about,
    need: 'read',
    sessionOnly: true,
    params: idParams,
    run: ({ person, params }) => revokeToken(database(), person.id, params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/people/{id}/tokens',
    summary: 'Someone’s tokens',
    about,
    need: 'govern',
    sessionOnly: true,
    params: idParams,
    answer: z.array(apiToken),
    run: ({ params }) => listTokens(database(), params.id),
  }),
  endpoint({
    method: 'DELETE',
    path: '/people/{id}/tokens/{token}',
    summary: 'Revoke someone’s token',
    about,
    need: 'govern',
    sessionOnly: true,
    params: z.object({ id, token: id }),
    run: ({ person: me, params }) => revokeToken(database(), params.id, params.token, me.id),
  }),
  endpoint({
    method: 'PUT',
    path: '/me/password',
    summary: 'Change your own password; you are signed out everywhere else, and your tokens end',
    about,
    need: 'read',
    sessionOnly: true,
    body: z.object({ old: z.string().max(200), password: newPassword }),
    run: ({ request, person: me, body }) => changeOwnPassword(database(), me, body.old, body.password, request.headers),
  }),
  endpoint({
    method: 'GET',
    path: '/me/sessions',
    summary: 'Where you are signed in',
    about,
    need: 'read',
    sessionOnly: true,
    answer: z.array(sessionRow),
    run: ({ request, person: me }) => listSessions(database(), me.id, request.headers),
  }),
  endpoint({
    method: 'DELETE',
    path: '/me/sessions',
    summary: 'Sign out everywhere else',
    about,
    need: 'read',
    sessionOnly: true,
    run: ({ request, person: me }) => endSessions(database(), me.id, request.headers, null),
  }),
  endpoint({
    method: 'DELETE',
    path: '/me/sessions/{session}',
    summary: 'Sign out in one place',
    about,
    need: 'read',
    sessionOnly: true,
    params: z.object({ session: id }),
    run: ({ request, person: me, params }) => endSessions(database(), me.id, request.headers, params.session),
  }),
  endpoint({
    method: 'GET',
    path: '/storage',
    summary: 'How much is stored and may be: by everybody for admins, by yourself else',
    about,
    need: 'read',
    answer: storage,
    run: ({ person: me }) => readStorage(database(), me),
  }),
  endpoint({
    method: 'PUT',
    path: '/storage',
    summary: 'Set a quota for the library or for each person, or take it away',
    about,
    need: 'govern',
    sessionOnly: true,
    body: newQuota,
    run: ({ person: me, body }) => setQuota(database(), me, body),
  }),
  endpoint({
    method: 'GET',
    path: '/audit',
    summary: 'The audit log: sign-ins, keys, rights, exports, deletions; newest first',
    about,
    need: 'govern',
    sessionOnly: true,
    query: auditQuery.extend({ limit: z.coerce.number().int().min(1).max(1000).optional() }),
    answer: z.array(auditEntry),
    run: ({ query: { person: personId, ...more } }) => readAudit(database(), { ...more, personId }),
  }),
  endpoint({
    method: 'GET',
    path: '/audit/lines',
    summary: 'The whole audit log as JSON lines',
    about,
    need: 'govern',
    sessionOnly: true,
    query: auditQuery,
    file: 'application/x-ndjson',
    run: async ({ query: { person: personId, ...more } }) =>
      new Response(auditLines(database(), { ...more, personId }), {
        headers: {
          'content-type': 'application/x-ndjson',
          'content-disposition': 'attachment; filename="velvet reel audit.jsonl"',
          'cache-control': 'no-store',
        },
      }),
  }),
];
