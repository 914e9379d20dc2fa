import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createOTP } from '@better-auth/utils/otp';
import { eq } from 'drizzle-orm';
import { NextRequest } from 'next/server';
import { identityServer, STAFF } from '../../../cli/identity/server';
import { GET as back } from '../../app/api/auth/callback/[provider]/route';
import { GET as door, POST as enter } from '../../app/api/session/route';
import { audit, invitations, people, sessions } from '../db/schema';
import { testDatabase, type World } from '../test/world';
import { addPerson, changePerson } from './accounts';
import { accept, invite, listInvitations, readInvitation, withdraw } from './invitations';
import { beginFactor, endFactor, tryCode } from './second-factor';
import { whyNotIn } from './studio';

const ADDRESS = 'http://127.0.0.1:3000';
let w: World;
let studio: Server;
const own = { name: 'Pim', email: 'pim.own@saltmarsh.example', password: 'the ebb runs out' };

beforeAll(async () => {
  w = await testDatabase();
  (globalThis as { velvetDatabase?: unknown }).velvetDatabase = { db: w.db };
  studio = await identityServer({ client: 'velvet-reel', secret: 'of the studio' });
  await new Promise<void>((done) => studio.listen(0, '127.0.0.1', done));
  Object.assign(process.env, {
    VELVET_SESSION: 'a-secret-of-these-tests-that-is-long-enough',
    VELVET_ADDRESS: ADDRESS,
    VELVET_OIDC_ISSUER: `http://127.0.0.1:${(studio.address() as AddressInfo).port}`,
    VELVET_OIDC_CLIENT: 'velvet-reel',
    VELVET_OIDC_SECRET: 'of the studio',
    VELVET_OIDC_NAME: 'Saltmarsh accounts',
    VELVET_OIDC_ROLE: 'animator',
  });
});
afterAll(async () => {
  studio.closeAllConnections();
  studio.close();
  await w.close();
});

const ask = (body: unknown, cookies = ''): Promise<Response> =>
  enter(
    new NextRequest(`${ADDRESS}/api/session`, {
      method: 'POST',
      body: JSON.stringify(body),
      headers: { host: '127.0.0.1:3000', origin: ADDRESS, 'content-type': 'application/json', cookie: cookies },
    }),
  );
const cookiesOf = (answer: Response): string =>
  answer.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
const whoIs = async (cookies: string): Promise<string | undefined> => {
  const request = new NextRequest(`${ADDRESS}/api/session`, { headers: { host: '127.0.0.1:3000', cookie: cookies } });
  return ((await (await door(request)).json()) as { me: { email: string } | null }).me?.email;
};

describe('invitations', () => {
  test('a link tells who invites, makes one account in its role, and no second one', async () => {
    const { code } = await invite(w.db, w.person, { name: 'Pim', role: 'animator', days: 7 });
    const [row] = await w.db.select().from(invitations);
    expect(JSON.stringify(row)).not.toContain(code);
    const told = await ask({ invitation: code });
    expect(await told.json()).toEqual({ name: 'Pim', role: 'animator', by: w.person.name });
    const came = await ask({ invited: { ...own, code } });
    expect(came.status).toBe(200);
    expect(await whoIs(cookiesOf(came))).toBe(own.email);
    const [pim] = await w.db.select().from(people).where(eq(people.email, own.email));
    expect(pim!.role).toBe('animator');
    expect(await listInvitations(w.db)).toEqual([]);
    const again = await ask({ invited: { ...own, email: 'other@saltmarsh.example', code } });
    expect(again.status).toBe(404);
  });

  test('two who follow one link at once make one account', async () => {
    const { code } = await invite(w.db, w.person, { name: 'Twice', role: 'viewer', days: 1 });
    const done = await Promise.allSettled(
      ['a', 'b'].map((x) => accept(w.db, code, { ...own, email: `twice-${x}@saltmarsh.example` })),
    );
    expect(done.map((d) => d.status).sort()).toEqual(['fulfilled', 'rejected']);
  });

  test('one that was taken back, has ended, or comes from somebody who is admin no more, holds for nobody', async () => {
    const gone = await invite(w.db, w.person, { name: 'Gone', role: 'admin', days: 7 });
    await withdraw(w.db, w.person, gone.id);
    const late = await invite(w.db, w.person, { name: 'Late', role: 'admin', days: 7 });
    await w.db
      .update(invitations)
      .set({ expiresAt: new Date(Date.now() - 1000) })
      .where(eq(invitations.id, late.id));
    for (const { code } of [gone, late, { code: 'made up' }])
      await expect(readInvitation(w.db, code)).rejects.toMatchObject({ code: 'no-invitation' });
    const former = await w.somebody('admin', 'Former admin');
    const theirs = await invite(w.db, former, { name: 'Back door', role: 'admin', days: 7 });
    await changePerson(w.db, w.person, former.id, { role: 'viewer' });
    await expect(accept(w.db, theirs.code, { ...own, email: 'x@saltmarsh.example' })).rejects.toMatchObject({
      code: 'no-invitation',
    });
  });
});

describe('a code at sign-in', () => {
  const email = 'bram.coded@saltmarsh.example';
  const password = 'a bell in the fog';
  let secret: string;
  let codes: string[];
  const now = (): Promise<string> => createOTP(secret, { digits: 6, period: 30 }).totp();
  const headersOf = (cookies: string): Headers => new Headers({ cookie: cookies });

  test('is asked for once a first one was right, not before', async () => {
    const { id } = await addPerson(w.db, { name: 'Bram', email, password, role: 'viewer' }, null);
    const [bram] = await w.db.select().from(people).where(eq(people.id, id));
    const cookies = cookiesOf(await ask({ email, password }));
    await expect(beginFactor(bram!, 'not the bell', headersOf(cookies))).rejects.toMatchObject({ code: 'wrong' });
    const setup = await beginFactor(bram!, password, headersOf(cookies));
    secret = decodeSecret(new URL(setup.uri).searchParams.get('secret')!);
    codes = setup.codes;
    expect(codes).toHaveLength(10);
    expect(await (await ask({ email, password })).json()).toEqual({ ok: true });
    await expect(tryCode('000000', headersOf(cookies))).rejects.toMatchObject({ code: 'wrong-code' });
    await tryCode(await now(), headersOf(cookies));
    const asked = await ask({ email, password });
    expect(await asked.clone().json()).toEqual({ ok: true, factor: true });
    expect(await whoIs(cookiesOf(asked))).toBeUndefined();
  });

  test('lets in after the password, and one that was kept does so once', async () => {
    const first = cookiesOf(await ask({ email, password }));
    expect((await ask({ factor: '123' }, first)).status).toBe(401);
    const came = await ask({ factor: await now() }, first);
    expect(await whoIs(cookiesOf(came))).toBe(email);
    // the password's part serves once
    expect((await ask({ factor: await now() }, first)).status).toBe(401);
    for (const status of [200, 401]) {
      const again = cookiesOf(await ask({ email, password }));
      expect((await ask({ factor: codes[0] }, again)).status).toBe(status);
    }
    expect((await ask({ factor: await now() })).status).toBe(401);
  });

  test('goes on after the installation has got a new secret', async () => {
    const former = process.env.VELVET_SESSION!;
    const kept = globalThis as { velvetAuth?: unknown };
    process.env.VELVET_SESSION = 'the secret of the next year, long enough';
    process.env.VELVET_SESSION_FORMER = former;
    delete kept.velvetAuth;
    const first = cookiesOf(await ask({ email, password }));
    expect(await whoIs(cookiesOf(await ask({ factor: await now() }, first)))).toBe(email);
  });

  test('an admin can turn it off for somebody, and so can oneself with the password', async () => {
    const [bram] = await w.db.select().from(people).where(eq(people.email, email));
    await changePerson(w.db, w.person, bram!.id, { secondFactor: false });
    const cookies = cookiesOf(await ask({ email, password }));
    expect(await whoIs(cookies)).toBe(email);
    const setup = await beginFactor(bram!, password, headersOf(cookies));
    secret = decodeSecret(new URL(setup.uri).searchParams.get('secret')!);
    const on = cookiesOf(await tryCode(await now(), headersOf(cookies)));
    await expect(endFactor(w.db, bram!, 'wrong', headersOf(on))).rejects.toMatchObject({ code: 'wrong' });
    await endFactor(w.db, bram!, password, headersOf(on));
    expect(await (await ask({ email, password })).json()).toEqual({ ok: true });
  });
});

describe('by the studio’s account', () => {
  /** From our page to the provider and back, as a browser goes. */
  async function come(as: string): Promise<{ page: string; cookies: string; answer: Response }> {
    const begun = await ask({ studio: true });
    const { url } = (await begun.json()) as { url: string };
    const there = await fetch(`${url}&as=${encodeURIComponent(as)}`, { redirect: 'manual' });
    const home = there.headers.get('location')!;
    expect(home).toContain(`${ADDRESS}/api/auth/callback/studio?`);
    const answer = await back(new NextRequest(home, { headers: { host: '127.0.0.1:3000', cookie: cookiesOf(begun) } }));
    return { page: await answer.clone().text(), cookies: cookiesOf(answer), answer };
  }

  test('the way is offered under its name, and goes off with state, nonce and proof key', async () => {
    const told = (await (
      await door(new NextRequest(`${ADDRESS}/api/session`, { headers: { host: '127.0.0.1:3000' } }))
    ).json()) as { studio: string };
    expect(told.studio).toBe('Saltmarsh accounts');
    const { url } = (await (await ask({ studio: true })).json()) as { url: string };
    const sent = new URL(url).searchParams;
    for (const name of ['state', 'nonce', 'code_challenge']) expect(sent.get(name)!.length).toBeGreaterThan(20);
    expect(sent.get('code_challenge_method')).toBe('S256');
  });

  test('a newcomer gets an account in the role that is set, and comes in', async () => {
    const { page, cookies } = await come(STAFF[1].email);
    expect(page).toContain('url=/library"');
    expect(await whoIs(cookies)).toBe(STAFF[1].email);
    const [made] = await w.db.select().from(people).where(eq(people.email, STAFF[1].email));
    expect(made).toMatchObject({ name: 'Pim Harker', role: 'animator' });
  });

  test('who has an account under the address, confirmed by the provider, keeps it with its role', async () => {
    const { id } = await addPerson(
      w.db,
      { name: 'Noor', email: STAFF[0].email, password: 'a rope and a cleat', role: 'librarian' },
      null,
    );
    const { cookies } = await come(STAFF[0].email);
    expect(await whoIs(cookies)).toBe(STAFF[0].email);
    const rows = await w.db.select().from(people).where(eq(people.email, STAFF[0].email));
    expect(rows).toMatchObject([{ id, role: 'librarian' }]);
    const seen = await w.db.select().from(audit).where(eq(audit.personId, id));
    expect(seen.map((e) => e.about)).toContain(`${STAFF[0].email}, by Saltmarsh accounts`);
  });

  test('an address that the provider does not confirm takes nobody’s account', async () => {
    await addPerson(w.db, { name: 'Bram', email: STAFF[2].email, password: 'a rope and a cleat', role: 'admin' }, null);
    const { page, cookies } = await come(STAFF[2].email);
    expect(decodeURIComponent(page)).toContain('is not confirmed by Saltmarsh accounts');
    expect(await whoIs(cookies)).toBeUndefined();
  });

  test('who has left does not come in this way either, and who turns back is told so', async () => {
    const [pim] = await w.db.select().from(people).where(eq(people.email, STAFF[1].email));
    await changePerson(w.db, w.person, pim!.id, { left: true });
    const { page, cookies } = await come(STAFF[1].email);
    expect(decodeURIComponent(page)).toContain('Ask an admin');
    expect(await whoIs(cookies)).toBeUndefined();
    expect(decodeURIComponent((await come('nobody')).page)).toContain('without signing in');
  });

  test('an answer that this browser did not ask for is not taken', async () => {
    const { url } = (await (await ask({ studio: true })).json()) as { url: string };
    const there = await fetch(`${url}&as=${STAFF[0].email}`, { redirect: 'manual' });
    const before = (await w.db.select().from(sessions)).length;
    const answer = await back(new NextRequest(there.headers.get('location')!, { headers: { host: '127.0.0.1:3000' } }));
    expect(decodeURIComponent(await answer.text())).toContain(whyNotIn('state_mismatch'));
    expect((await w.db.select().from(sessions)).length).toBe(before);
  });
});

/** The text of a secret that an otpauth address gives in base 32. */
function decodeSecret(base32: string): string {
  let bits = '';
  for (const c of base32.replace(/=+$/, ''))
    bits += 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567'.indexOf(c).toString(2).padStart(5, '0');
  return Buffer.from(bits.match(/.{8}/g)!.map((b) => Number.parseInt(b, 2))).toString('utf8');
}
