import { APIError } from 'better-auth/api';
import { eq } from 'drizzle-orm';
import type { NextRequest } from 'next/server';
import { z } from 'zod';
import { addPerson, auth, behindHttps, newPerson, nobodyYet } from '@/server/auth/accounts';
import { DEMO_PEOPLE, demoClosed, demoPassword, inDemo, wantsDemo } from '@/server/auth/demo-people';
import { attemptsKey, deviceCookie } from '@/server/auth/device';
import { accept, readInvitation } from '@/server/auth/invitations';
import { tryCode } from '@/server/auth/second-factor';
import { whoAsks } from '@/server/auth/session';
import { isSetupCode } from '@/server/auth/setup-code';
import { STUDIO, studioName } from '@/server/auth/studio';
import { database } from '@/server/db/client';
import { people } from '@/server/db/schema';
import { Refusal } from '@/server/errors';
import { aboutOf, answerWith, checkOrigin, readJson, refuse } from '@/server/http';
import { sha256 } from '@/server/ids';
import { limitFailures } from '@/server/limits';
import { noteAudit } from '@/server/services/audit';

export const dynamic = 'force-dynamic';

/** Who is signed in; for a stranger, how to come in. */
export async function GET(request: NextRequest): Promise<Response> {
  try {
    checkOrigin(request);
    const person = await whoAsks('read', request.headers).catch((error) => {
      if (error instanceof Refusal && error.status === 401) return undefined;
      throw error;
    });
    if (person) {
      const { id, name, role, email, performerId } = person;
      return Response.json({ me: { id, name, role, email, performerId }, world: inDemo() ? 'demo' : 'own' });
    }
    return Response.json({
      me: null,
      demo: inDemo() ? DEMO_PEOPLE : [],
      first: await nobodyYet(database()),
      studio: studioName() ?? null,
    });
  } catch (error) {
    return refuse(error, aboutOf(request));
  }
}

const signIn = z.union([
  z.object({ demo: z.email() }),
  z.object({ email: z.email().max(190), password: z.string().min(1).max(200) }),
  z.object({ first: newPerson.omit({ role: true }).extend({ code: z.string().max(40) }) }),
  z.object({ invited: newPerson.omit({ role: true }).extend({ code: z.string().max(80) }) }),
]);
/** Steps on the way in that end with an answer of their own. */
const step = z.union([
  z.object({ invitation: z.string().max(80) }),
  z.object({ factor: z.string().min(1).max(40) }),
  z.object({ studio: z.literal(true) }),
]);

/**
 * Signs in: with address and password, and a code where one is asked for, as one of the demo world, as the first person of an
 * empty library, or by an invitation. The way by a studio's provider begins here and ends at its own address.
 */
export async function POST(request: NextRequest): Promise<Response> {
  try {
    checkOrigin(request);
    const asked = z.union([signIn, step]).parse(await readJson(request));
    if ('invitation' in asked) return Response.json(await readInvitation(database(), asked.invitation));
    if ('factor' in asked) return await finishWithCode(request, asked.factor);
    if ('studio' in asked) return await goToStudio(request);
    const wish = asked;
    let given: { email: string; password: string };
    if ('demo' in wish) {
      const why = wantsDemo() ? demoClosed() : 'this is not the demo world';
      if (why !== null) throw new Refusal(403, 'no-demo', `The demo accounts are closed: ${why}.`);
      if (!DEMO_PEOPLE.some((p) => p.email === wish.demo))
        throw new Refusal(403, 'no-demo', 'This is not a demo account.');
      given = { email: wish.demo, password: demoPassword(wish.demo) };
    } else if ('first' in wish) {
      if (!(await nobodyYet(database()))) throw new Refusal(403, 'not-first', 'The first account already exists.');
      const { code, ...first } = wish.first;
      await limitFailures(database(), sha256('first account'), 10, 300, async () => {
        if (!isSetupCode(code))
          throw new Refusal(
            403,
            'wrong-code',
            'The set-up code is wrong. It is shown where the application was started, and by npm run code.',
          );
      });
      await addPerson(database(), { ...first, role: 'admin' }, null);
      given = first;
    } else if ('invited' in wish) {
      const { code, ...invited } = wish.invited;
      // no count of failures: nobody guesses a code of 24 random bytes, and a count would let strangers shut the door
      await accept(database(), code, invited);
      given = invited;
    } else {
      given = wish;
    }
    const email = given.email.toLowerCase();
    const key = attemptsKey(email, request.headers.get('cookie'));
    const answer = await limitFailures(database(), key, 10, 300, async () => {
      const tried = await auth()
        .api.signInEmail({
          body: { email, password: given.password, rememberMe: true },
          headers: request.headers,
          asResponse: true,
        })
        .catch((error) => {
          if (error instanceof APIError) throw new Refusal(401, 'wrong', WRONG);
          throw error;
        });
      if (!tried.ok) throw new Refusal(401, 'wrong', WRONG);
      return tried;
    }).catch(async (error) => {
      if (error instanceof Refusal) await noteAudit(database(), null, 'sign-in failed', email);
      throw error;
    });
    const told = (await answer.clone().json()) as { twoFactorRedirect?: boolean };
    if (told.twoFactorRedirect) return answerWith(answer, { ok: true, factor: true });
    return await comeIn(answer, email);
  } catch (error) {
    return refuse(error, aboutOf(request));
  }
}

/** Somebody is in: written down, and this browser is known from now on. */
async function comeIn(signed: Response, email: string): Promise<Response> {
  const [who] = await database().select({ id: people.id }).from(people).where(eq(people.email, email));
  await noteAudit(database(), who?.id ?? null, 'signed in', email);
  return answerWith(signed, { ok: true }, deviceCookie(email, behindHttps()));
}

async function finishWithCode(request: NextRequest, code: string): Promise<Response> {
  const signed = await tryCode(code, request.headers);
  const { user } = (await signed.clone().json()) as { user: { email: string } };
  return comeIn(signed, user.email);
}

/** Where to go to sign in with the studio's provider; the way back is at /api/auth/callback. */
async function goToStudio(request: NextRequest): Promise<Response> {
  if (!studioName()) throw new Refusal(404, 'no-studio', 'No studio account is set up here.');
  const begun = await auth().api.signInSocial({
    body: { provider: STUDIO, callbackURL: '/library', errorCallbackURL: '/library', disableRedirect: true },
    headers: request.headers,
    asResponse: true,
  });
  const { url } = (await begun.clone().json()) as { url?: string };
  if (!begun.ok || !url)
    throw new Refusal(
      502,
      'studio-away',
      `${studioName()} cannot be reached now. Try again, or sign in with a password.`,
    );
  return answerWith(begun, { url });
}

const WRONG = 'The address or the password is wrong. Check both, or ask an admin for a new password.';

/** Signs out. */
export async function DELETE(request: NextRequest): Promise<Response> {
  try {
    checkOrigin(request);
    const person = await whoAsks('read', request.headers, true).catch(() => undefined);
    if (person) await noteAudit(database(), person.id, 'signed out', person.email ?? person.name);
    const answer = await auth().api.signOut({ headers: request.headers, asResponse: true });
    return answerWith(answer);
  } catch (error) {
    return refuse(error, aboutOf(request));
  }
}
