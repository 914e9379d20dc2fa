import { eq } from 'drizzle-orm';
import type { NextRequest } from 'next/server';
import { auth, behindHttps } from '@/server/auth/accounts';
import { deviceCookie } from '@/server/auth/device';
import { studioName, whyNotIn } from '@/server/auth/studio';
import { database } from '@/server/db/client';
import { people } from '@/server/db/schema';
import { aboutOf, refuse } from '@/server/http';
import { noteAudit } from '@/server/services/audit';

export const dynamic = 'force-dynamic';

/**
 * The way back from a studio's provider. The account package checks everything; where somebody is in, a page of our own goes on
 * to the library: cookies that no other site's link may use are not sent along with a redirect that began there.
 */
export async function GET(request: NextRequest): Promise<Response> {
  try {
    if (!studioName()) return new Response('Not found', { status: 404 });
    const done = await auth().handler(request);
    const failed = new URL(done.headers.get('location') ?? '/library', request.nextUrl).searchParams.get('error');
    const cookies = done.headers.getSetCookie();
    const person = failed ? undefined : await personOf(request, cookies);
    const headers = new Headers({ 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' });
    if (!person) {
      await noteAudit(database(), null, 'sign-in failed', `by ${studioName()}: ${failed ?? 'nobody came'}`);
      return page(headers, `/library#why=${encodeURIComponent(whyNotIn(failed ?? 'no-account'))}`);
    }
    for (const cookie of cookies) headers.append('set-cookie', cookie);
    await noteAudit(database(), person.id, 'signed in', `${person.email}, by ${studioName()}`);
    headers.append('set-cookie', deviceCookie(person.email, behindHttps()));
    return page(headers, '/library');
  } catch (error) {
    return refuse(error, aboutOf(request));
  }
}

/** Whose session these cookies begin; nobody where that person has left. */
async function personOf(request: NextRequest, cookies: string[]): Promise<{ id: string; email: string } | undefined> {
  const headers = new Headers(request.headers);
  headers.set('cookie', cookies.map((c) => c.split(';')[0]).join('; '));
  const user = (await auth().api.getSession({ headers }))?.user;
  if (!user) return undefined;
  const [person] = await database().select({ leftAt: people.leftAt }).from(people).where(eq(people.id, user.id));
  return person?.leftAt === null ? user : undefined;
}

const page = (headers: Headers, to: string): Response =>
  new Response(
    `<!doctype html><html lang="en"><title>Velvet Reel</title><meta http-equiv="refresh" content="0;url=${to}"><p><a href="${to}">To the library</a></p></html>`,
    { headers },
  );
