import { setTimeout } from 'node:timers/promises';
import type { NextRequest } from 'next/server';
import { z } from 'zod';
import type { Person } from '../auth/person';
import { whoAsks } from '../auth/session';
import { database } from '../db/client';
import { Refusal } from '../errors';
import { checkOrigin, readJson, refuse } from '../http';
import { newId, sha256 } from '../ids';
import { limitRate } from '../limits';
import { hiddenFrom } from '../services/hidden';
import type { Need } from '../services/rights';
import { inTurnOf, onBehalfOf } from '../threads/pool';

export type Method = 'GET' | 'POST' | 'PATCH' | 'PUT' | 'DELETE';

export interface Asked<P, Q, B> {
  request: NextRequest;
  person: Person;
  params: P;
  query: Q;
  body: B;
}

export interface Endpoint<P = unknown, Q = unknown, B = unknown> {
  method: Method;
  /** "/items/{id}": what stands in braces is checked by `params`. */
  path: string;
  /** One line for the document. */
  summary: string;
  /** Heading in the document. */
  about: string;
  need: Need;
  params?: z.ZodType<P>;
  query?: z.ZodType<Q>;
  body?: z.ZodType<B>;
  /** It reads and computes much: each person has one of these under way at a time. */
  heavy?: boolean;
  /** Only for people at the page, not with a token. */
  sessionOnly?: boolean;
  /** A form with files instead of JSON. */
  form?: boolean;
  /** What comes back; left out where it is a file or nothing. */
  answer?: z.ZodType;
  /** Media type of a file that comes back. */
  file?: string;
  run: (asked: Asked<P, Q, B>) => Promise<unknown>;
}

/** Keeps the types of one endpoint together; the list forgets them. */
export const endpoint = <P = undefined, Q = undefined, B = undefined>(e: Endpoint<P, Q, B>): Endpoint =>
  e as unknown as Endpoint;

export const id = z.string().regex(/^[\w-]{1,16}$/, 'not an id');
export const idParams = z.object({ id });
export const hashParams = z.object({ hash: z.string().regex(/^[0-9a-f]{64}$/, 'not a hash') });
export const yes = z.enum(['0', '1', 'true', 'false']).transform((x) => x === '1' || x === 'true');

/** The endpoint for an address, with what stands in its braces. */
export function match(
  endpoints: readonly Endpoint[],
  method: string,
  segments: readonly string[],
): { endpoint: Endpoint; params: Record<string, string> } | 'method' | undefined {
  let known = false;
  for (const e of endpoints) {
    const wanted = e.path.split('/').filter(Boolean);
    if (wanted.length !== segments.length) continue;
    const params: Record<string, string> = {};
    const fits = wanted.every((w, i) => {
      if (!w.startsWith('{')) return w === segments[i];
      params[w.slice(1, -1)] = segments[i]!;
      return true;
    });
    if (!fits) continue;
    if (e.method === method) return { endpoint: e, params };
    known = true;
  }
  return known ? 'method' : undefined;
}

/** Requests a minute, by token and by person. */
const TOKEN_RATE = 600;
const PERSON_RATE = 6000;
/** How long a request beyond a limit waits for its refusal, milliseconds. */
export const HELD_MS = 1000;

/** The four things an endpoint does: who is it, is the input valid, call a service, answer. */
export async function serve(
  endpoints: readonly Endpoint[],
  request: NextRequest,
  segments: readonly string[],
): Promise<Response> {
  let route = '';
  try {
    checkOrigin(request);
    const found = match(endpoints, request.method === 'HEAD' ? 'GET' : request.method, segments);
    if (found === undefined) throw new Refusal(404, 'no-such-address', 'Page not found.');
    if (found === 'method')
      throw new Refusal(405, 'wrong-method', `${request.method} is not supported at this address.`);
    const { endpoint: e } = found;
    route = e.path;
    const person = await whoAsks(e.need, request.headers, e.sessionOnly);
    const token = request.headers.get('authorization');
    if (token !== null) await limitRate('token', sha256(token), TOKEN_RATE, 60);
    await limitRate('person', person.id, PERSON_RATE, 60);
    const params = e.params ? e.params.parse(found.params) : undefined;
    const query = e.query ? e.query.parse(Object.fromEntries(request.nextUrl.searchParams)) : undefined;
    const body = e.body && !e.form ? e.body.parse(await readJson(request)) : undefined;
    const hidden = await hiddenFrom(database(), person);
    hidden?.demand(params, query, body);
    const behalf = e.heavy ? inTurnOf : onBehalfOf;
    // what somebody asked to be kept is kept, though they have left meanwhile
    const { signal } = e.need === 'read' ? request : new AbortController();
    const answer = await behalf(person.id, signal, () => e.run({ request, person, params, query, body }));
    if (answer instanceof Response) return answer;
    return Response.json((hidden ? hidden.sift(answer) : answer) ?? { ok: true });
  } catch (error) {
    // refused after a pause: asking again and again without one would slow everybody else down
    if (error instanceof Refusal && error.status === 429)
      await setTimeout(HELD_MS, undefined, { signal: request.signal }).catch(() => undefined);
    // nobody waits for the answer any more
    if (request.signal.aborted) return new Response(null, { status: 499 });
    return refuse(error, { request: newId(), method: request.method, route });
  }
}
