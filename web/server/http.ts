import { MotionError } from '@velvet-reel/motion';
import type { NextRequest } from 'next/server';
import { z } from 'zod';
import { type Person, whoAsks } from './auth/session';
import { Refusal } from './errors';

interface Rules<P, Q, B> {
  need: 'read' | 'change';
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
      const person = await whoAsks(rules.need);
      const params = (rules.params ? rules.params.parse(await context.params) : undefined) as P;
      const query = (
        rules.query ? rules.query.parse(Object.fromEntries(request.nextUrl.searchParams)) : undefined
      ) as Q;
      const body = (rules.body ? rules.body.parse(await readJson(request)) : undefined) as B;
      const answer = await run({ request, person, params, query, body });
      return answer instanceof Response ? answer : Response.json(answer ?? { ok: true });
    } catch (error) {
      return refuse(error);
    }
  };
}

const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/** Only pages of this very server may ask, and only under a loopback name, so no other site can act in a person's name. */
export function checkOrigin(request: NextRequest): void {
  const host = request.headers.get('host') ?? '';
  if (!LOOPBACK.test(host)) throw new Refusal(403, 'wrong-host', 'The application answers on this machine only.');
  if (request.method === 'GET' || request.method === 'HEAD') return;
  const origin = request.headers.get('origin');
  if (!origin || new URL(origin).host !== host)
    throw new Refusal(403, 'wrong-origin', 'The request came from another page.');
}

const MAX_JSON = 4_000_000;

async function readJson(request: NextRequest): Promise<unknown> {
  if (Number(request.headers.get('content-length') ?? 0) > MAX_JSON)
    throw new Refusal(413, 'too-large', 'The request is too large.');
  try {
    return await request.json();
  } catch {
    throw new Refusal(400, 'not-json', 'The request is no JSON.');
  }
}

export function refuse(error: unknown): Response {
  const answer = (status: number, code: string, message: string): Response =>
    Response.json({ code, message }, { status });
  if (error instanceof Refusal) return answer(error.status, error.code, error.message);
  if (error instanceof MotionError) return answer(422, error.code, error.sentence());
  if (error instanceof z.ZodError) {
    const first = error.issues[0];
    return answer(400, 'invalid', `${first?.path.join('.') || 'The request'}: ${first?.message ?? 'not valid'}`);
  }
  console.error(
    'unexpected',
    (error as Error)?.name,
    (error as Error)?.message,
    (error as Error)?.stack?.split('\n').slice(1, 4).join(' '),
  );
  return answer(500, 'unexpected', 'Something went wrong inside. The log has the details.');
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
