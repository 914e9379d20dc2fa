import { MotionError } from '@velvet-reel/motion';
import type { NextRequest } from 'next/server';
import { z } from 'zod';
import type { Person } from './auth/person';
import { whoAsks } from './auth/session';
import { bearerOf } from './auth/tokens';
import { databaseAway, deadlocked, diskFull } from './db/away';
import { Refusal } from './errors';
import { newId } from './ids';
import { faultOf, log } from './log';
import type { Need } from './services/rights';

interface Rules<P, Q, B> {
  need: Need;
  params?: z.ZodType<P>;
  query?: z.ZodType<Q>;
  body?: z.ZodType<B>;
}

interface Asked<P, Q, B> {
  request: NextRequest;
  person: Person;
  params: P;
  query: Q;
  body: B;
}

type Context = { params: Promise<Record<string, string>> };

/**
 * The four things a route handler does: who is it, is the input valid, call a service, answer.
 * A returned Response goes out as it is; anything else as JSON.
 */
export function route<P = unknown, Q = unknown, B = unknown>(
  rules: Rules<P, Q, B>,
  run: (asked: Asked<P, Q, B>) => Promise<unknown>,
) {
  return async (request: NextRequest, context: Context): Promise<Response> => {
    try {
      checkOrigin(request);
      const person = await whoAsks(rules.need, request.headers);
      const params = (rules.params ? rules.params.parse(await context.params) : undefined) as P;
      const query = (
        rules.query ? rules.query.parse(Object.fromEntries(request.nextUrl.searchParams)) : undefined
      ) as Q;
      const body = (rules.body ? rules.body.parse(await readJson(request)) : undefined) as B;
      const answer = await run({ request, person, params, query, body });
      return answer instanceof Response ? answer : Response.json(answer ?? { ok: true });
    } catch (error) {
      return refuse(error, aboutOf(request));
    }
  };
}

/** An answer of ours with the cookies that the account package has set, and others. */
export function answerWith(signed: Response, body: object = { ok: true }, ...cookies: string[]): Response {
  const headers = new Headers({ 'content-type': 'application/json' });
  for (const cookie of [...signed.headers.getSetCookie(), ...cookies]) headers.append('set-cookie', cookie);
  return new Response(JSON.stringify(body), { headers });
}

const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/** Names under which the application is reached besides those of this machine: VELVET_HOSTS, commas between. */
const otherHosts = (): string[] => (process.env.VELVET_HOSTS ?? '').split(',').map((h) => h.trim().toLowerCase());

/** Only pages of this very server may ask, and only under a name of its own, so no other site can act in a person's name. */
export function checkOrigin(request: NextRequest): void {
  const host = (request.headers.get('host') ?? '').toLowerCase();
  if (!LOOPBACK.test(host) && (host === '' || !otherHosts().includes(host)))
    throw new Refusal(403, 'wrong-host', 'The application does not answer to this host name; see VELVET_HOSTS.');
  if (request.method === 'GET' || request.method === 'HEAD') return;
  // a program that shows a token sends no cookies that a strange page could misuse
  if (bearerOf(request.headers) !== undefined) return;
  const origin = request.headers.get('origin');
  if (!origin || !URL.canParse(origin) || new URL(origin).host !== host)
    throw new Refusal(403, 'wrong-origin', 'The request came from another page.');
}

const MAX_JSON = 4_000_000;

export async function readJson(request: NextRequest): Promise<unknown> {
  if (Number(request.headers.get('content-length') ?? 0) > MAX_JSON) throw tooLarge();
  // a request need not say how large it is
  const chunks: Uint8Array[] = [];
  let size = 0;
  try {
    for await (const chunk of (request.body ?? []) as AsyncIterable<Uint8Array>) {
      size += chunk.length;
      if (size > MAX_JSON) throw tooLarge();
      chunks.push(chunk);
    }
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw new Refusal(400, 'broken-off', 'The request broke off before it was complete.');
  }
  try {
    return JSON.parse(Buffer.concat(chunks).toString('utf8'));
  } catch {
    throw new Refusal(400, 'not-json', 'The request is not valid JSON.');
  }
}
const tooLarge = (): Refusal =>
  new Refusal(413, 'too-large', `The request is too large: at most ${MAX_JSON / 1_000_000} MB are accepted.`);

/** What people may be told of an error that is not answered but written down for them. The rest goes to the log. */
export function sentenceOf(error: unknown): string {
  if (error instanceof Refusal) return error.message;
  if (error instanceof MotionError) return error.sentence();
  log.error(faultOf(error), 'unexpected');
  return 'Something went wrong on the server. Its log has the details.';
}

/** Which request it is about. */
export interface About {
  /** Told to whoever asked and written into the log, so that one finds the other. */
  readonly request: string;
  readonly method: string;
  /** The address as a pattern: what stood in it is nobody's business. */
  readonly route: string;
}

/** What the log says of a request to one of a handful of addresses. */
export const aboutOf = (request: NextRequest): About => ({
  request: newId(),
  method: request.method,
  route: request.nextUrl.pathname,
});

/** Answers with why something was not done. */
export function refuse(error: unknown, about?: About): Response {
  const answer = (status: number, code: string, message: string, details?: Record<string, unknown>): Response =>
    Response.json(
      { code, message, ...(details && { details }) },
      {
        status,
        headers: { ...(about && { 'x-request-id': about.request }), ...(status === 503 && { 'retry-after': '5' }) },
      },
    );
  if (error instanceof Refusal) return answer(error.status, error.code, error.message, error.details);
  if (error instanceof MotionError) return answer(422, error.code, error.sentence());
  if (error instanceof z.ZodError) {
    const first = error.issues[0];
    return answer(400, 'invalid', `${first?.path.join('.') || 'The request'}: ${first?.message ?? 'not valid'}`);
  }
  if (diskFull(error)) {
    log.error({ ...about, ...faultOf(error) }, 'disk full');
    return answer(
      507,
      'disk-full',
      'The library’s disk is full, so nothing was saved. Everything stored before is safe.',
    );
  }
  if (databaseAway(error)) {
    log.warn({ ...about, ...faultOf(error) }, 'database away');
    return answer(
      503,
      'database-away',
      'The library cannot be reached just now. Your work is kept; try again in a moment.',
    );
  }
  if (deadlocked(error)) {
    log.warn({ ...about, ...faultOf(error) }, 'deadlock');
    return answer(
      503,
      'busy',
      'Others were changing the same things just then. Nothing was saved; try again in a moment.',
    );
  }
  log.error({ ...about, ...faultOf(error) }, 'unexpected');
  return answer(
    500,
    'unexpected',
    `Something went wrong on the server. Its log has the details${about ? `, under ${about.request}` : ''}.`,
  );
}

export const idParam = z.object({ id: z.string().regex(/^[\w-]{1,16}$/) });
export const hashParam = z.object({ hash: z.string().regex(/^[0-9a-f]{64}$/) });

/** Bytes that never change under their address. */
export const immutable = (bytes: Uint8Array, mime: string): Response =>
  new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: {
      'content-type': mime,
      'cache-control': 'private, max-age=31536000, immutable',
      'x-content-type-options': 'nosniff',
    },
  });

/** A file to keep; the name is made safe for the header. */
export function download(bytes: Uint8Array, name: string, mime: string): Response {
  const plain = name.replace(/[^\w .()-]+/g, '_').slice(0, 120);
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: {
      'content-type': mime,
      'content-disposition': `attachment; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(name)}`,
      'cache-control': 'no-store',
      'x-content-type-options': 'nosniff',
    },
  });
}
