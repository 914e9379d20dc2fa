import { verifyPassword } from 'better-auth/crypto';
import { eq } from 'drizzle-orm';
import { accounts, apiTokens, people, sessions } from '../db/schema';
import { closeDemoAccounts } from '../demo/load';
import { newId } from '../ids';
import { limitFailures, limitRate } from '../limits';
import { addJob, getJob } from '../services/jobs';
import { can } from '../services/rights';
import { testDatabase, type World } from '../test/world';
import { addPerson, auth, changePerson, listPeople, newPassword, newPerson, nobodyYet } from './accounts';
import { DEMO_PEOPLE, demoClosed, demoPassword, inDemo } from './demo-people';
import { attemptsKey, deviceCookie } from './device';
import { seal, unseal } from './seal';
import { whoAsks } from './session';
import { isSetupCode, setupCode } from './setup-code';
import { bearerOf, listTokens, makeToken, personOfToken, revokeToken } from './tokens';

process.env.VELVET_SESSION ??= 'of these tests';
let w: World;
beforeAll(async () => {
  w = await testDatabase();
  // tokens are looked up in the database of this process
  (globalThis as { velvetDatabase?: unknown }).velvetDatabase = { db: w.db };
});
afterAll(() => w.close());

const noor = {
  name: 'Noor',
  email: 'Noor@Saltmarsh.Example',
  role: 'animator' as const,
  password: 'a long enough one',
};

describe('accounts', () => {
  test('are made once an address, with the password kept as a salted hash', async () => {
    expect(await nobodyYet(w.db)).toBe(true);
    const { id } = await addPerson(w.db, noor, null);
    expect(await nobodyYet(w.db)).toBe(false);
    const [account] = await w.db.select().from(accounts).where(eq(accounts.userId, id));
    expect(account!.password).not.toContain(noor.password);
    expect(await verifyPassword({ hash: account!.password!, password: noor.password })).toBe(true);
    expect(await verifyPassword({ hash: account!.password!, password: 'another' })).toBe(false);
    await expect(addPerson(w.db, { ...noor, email: 'noor@saltmarsh.example' }, null)).rejects.toMatchObject({
      code: 'email-taken',
    });
  });

  test.each([
    [{ ...noor, password: 'short' }, /at least 10/],
    [{ ...noor, email: 'nobody' }, /e-mail/],
    [{ ...noor, name: '  ' }, /name/],
  ])('%j is not taken', (person, why) => {
    const parsed = newPerson.safeParse(person);
    expect(parsed.success).toBe(false);
    expect(parsed.error!.issues[0]!.message).toMatch(why);
  });

  test('who has left is signed out everywhere; the last admin cannot go', async () => {
    const { id } = await addPerson(w.db, { ...noor, email: 'b@saltmarsh.example' }, null);
    await w.db
      .insert(sessions)
      .values({ id: newId(), userId: id, token: newId(), expiresAt: new Date(Date.now() + 1e6) });
    await changePerson(w.db, w.person, id, { left: true });
    expect(await w.db.select().from(sessions).where(eq(sessions.userId, id))).toEqual([]);
    expect((await listPeople(w.db)).find((p) => p.id === id)).toMatchObject({ left: true });
    await expect(changePerson(w.db, w.person, w.person.id, { role: 'viewer' })).rejects.toMatchObject({
      code: 'last-admin',
    });
    await expect(changePerson(w.db, w.person, w.person.id, { left: true })).rejects.toMatchObject({
      code: 'last-admin',
    });
    await changePerson(w.db, w.person, id, { left: false, role: 'admin' });
    await changePerson(w.db, w.person, w.person.id, { role: 'viewer' });
    expect((await w.db.select().from(people).where(eq(people.id, w.person.id)))[0]!.role).toBe('viewer');
    await changePerson(w.db, w.person, w.person.id, { role: 'admin' });
  });

  test.each([
    ['viewer', [true, false, false, false]],
    ['animator', [true, true, false, false]],
    ['librarian', [true, true, true, false]],
    ['admin', [true, true, true, true]],
  ] as const)('%s may read, change, curate, govern: %j', (role, expected) => {
    expect((['read', 'change', 'curate', 'govern'] as const).map((need) => can({ role }, need))).toEqual(expected);
  });
});

describe('tokens', () => {
  const ask = (token: string) => personOfToken(new Headers({ authorization: `Bearer ${token}` }));

  test('stand for their person until revoked; only their hashes are kept', async () => {
    const { id, token } = await makeToken(w.db, w.person.id, 'render farm');
    expect(token).toMatch(/^vr_[\w-]{40}$/);
    expect(JSON.stringify(await w.db.select().from(apiTokens))).not.toContain(token);
    expect((await ask(token))!.person.id).toBe(w.person.id);
    expect((await listTokens(w.db, w.person.id))[0]).toMatchObject({ name: 'render farm', starts: token.slice(0, 8) });
    expect((await listTokens(w.db, w.person.id))[0]!.lastUsedAt).toBeInstanceOf(Date);
    const other = await w.somebody('animator');
    await expect(revokeToken(w.db, other.id, id)).rejects.toMatchObject({ status: 404 });
    await revokeToken(w.db, w.person.id, id);
    await expect(ask(token)).rejects.toMatchObject({ status: 401 });
    expect(await listTokens(w.db, w.person.id)).toEqual([]);
  });

  test('made-up ones do not hold; none at all is another matter', async () => {
    await expect(ask('vr_made_up')).rejects.toMatchObject({ status: 401, code: 'bad-token' });
    expect(await personOfToken(new Headers())).toBeUndefined();
    expect(await personOfToken(new Headers({ authorization: 'Basic abc' }))).toBeUndefined();
  });

  test('of somebody who has left does not hold', async () => {
    const gone = await w.somebody('animator', 'Gone');
    const { token } = await makeToken(w.db, gone.id, 'old');
    expect((await ask(token))!.person.name).toBe('Gone');
    await changePerson(w.db, w.person, gone.id, { left: true });
    await expect(ask(token)).rejects.toMatchObject({ status: 401 });
    // nor when that person is back
    await changePerson(w.db, w.person, gone.id, { left: false });
    await expect(ask(token)).rejects.toMatchObject({ status: 401 });
  });

  test('whoever leaves takes their open jobs along', async () => {
    const gone = await w.somebody('animator', 'Gone with jobs');
    const parts = [{ name: 'x', state: 'ready' as const, payload: {} }];
    const { id } = await addJob(w.db, gone, { kind: 'fit', title: 'theirs', order: {}, parts });
    await changePerson(w.db, w.person, gone.id, { left: true });
    expect(await getJob(w.db, id)).toMatchObject({ state: 'cancelled', counts: { ready: 0, cancelled: 1 } });
  });

  test('end with the password, and after their time', async () => {
    const { id } = await addPerson(w.db, { ...noor, email: 'reset@saltmarsh.example' }, null);
    const { token } = await makeToken(w.db, id, 'old');
    await changePerson(w.db, w.person, id, { password: 'another long enough one' });
    await expect(ask(token)).rejects.toMatchObject({ status: 401 });
    const late = await makeToken(w.db, id, 'late', { days: 1 });
    expect((await ask(late.token))!.person.id).toBe(id);
    await w.db
      .update(apiTokens)
      .set({ expiresAt: new Date(Date.now() - 1000) })
      .where(eq(apiTokens.id, late.id));
    await expect(ask(late.token)).rejects.toMatchObject({ status: 401 });
  });

  test('are only for what they were made for, and never for accounts and other tokens', async () => {
    const { token } = await makeToken(w.db, w.person.id, 'display', { scope: 'read' });
    const headers = new Headers({ authorization: `Bearer ${token}` });
    expect((await whoAsks('read', headers)).id).toBe(w.person.id);
    await expect(whoAsks('change', headers)).rejects.toMatchObject({ status: 403, code: 'read-only-token' });
    const whole = await makeToken(w.db, w.person.id, 'farm');
    const all = new Headers({ authorization: `Bearer ${whole.token}` });
    expect((await whoAsks('govern', all)).id).toBe(w.person.id);
    await expect(whoAsks('govern', all, true)).rejects.toMatchObject({ status: 403, code: 'no-token' });
  });

  test.each(['Bearer a b', 'Bearer ', 'bearer', 'Bearer a\tb'])(
    '%j is no token, and no way around the origin',
    (given) => {
      expect(() => bearerOf(new Headers({ authorization: given }))).toThrow('not valid');
    },
  );
});

test('two admins who demote each other leave one', async () => {
  const a = await w.somebody('admin', 'First of two');
  const b = await w.somebody('admin', 'Second of two');
  const others = await w.db.select().from(people).where(eq(people.role, 'admin'));
  for (const p of others)
    if (p.id !== a.id && p.id !== b.id) await w.db.update(people).set({ role: 'viewer' }).where(eq(people.id, p.id));
  const done = await Promise.allSettled([
    changePerson(w.db, a, b.id, { role: 'viewer' }),
    changePerson(w.db, b, a.id, { role: 'viewer' }),
  ]);
  expect(done.filter((d) => d.status === 'fulfilled')).toHaveLength(1);
  expect(await w.db.select().from(people).where(eq(people.role, 'admin'))).toHaveLength(1);
  for (const p of others) await w.db.update(people).set({ role: 'admin' }).where(eq(people.id, p.id));
});

describe('passwords', () => {
  test.each([
    ['aaaaaaaaaaaa', /five different/],
    ['Password12345', /anyone would guess/],
    ['1234567890ab', /anyone would guess/],
  ])('%s is not taken', (password, why) => {
    expect(newPassword.safeParse(password).error!.issues[0]!.message).toMatch(why);
  });

  test('nor is one’s own name or address', async () => {
    for (const password of ['Winch.Ropeson1', 'winchropes@saltmarsh.example'])
      await expect(
        addPerson(w.db, { ...noor, name: 'Winch.Ropeson', email: 'winchropes@saltmarsh.example', password }, null),
      ).rejects.toMatchObject({ code: 'weak-password' });
  });
});

describe('the demo world', () => {
  const on = { VELVET_DEMO: '1' };
  test.each(['1', 'true', 'YES', 'on'])('%s asks for it', (value) => expect(inDemo({ VELVET_DEMO: value })).toBe(true));
  test.each(['0', 'false', 'off', 'no', '', ' ', undefined])('%s does not', (value) =>
    expect(inDemo({ VELVET_DEMO: value })).toBe(false),
  );
  test.each([
    [{ VELVET_HOSTS: 'reel.example' }, /VELVET_HOSTS/],
    [{ VELVET_HTTPS: '1' }, /HTTPS/],
    [{ VELVET_ADDRESS: 'https://reel.example' }, /HTTPS/],
    [{ VELVET_LISTEN: '0.0.0.0' }, /0\.0\.0\.0/],
  ])('%j closes its accounts', (more, why) => {
    expect(inDemo({ ...on, ...more })).toBe(false);
    expect(demoClosed({ ...on, ...more })).toMatch(why);
  });

  test('its people have passwords that the source does not tell, and none where it is not wanted', async () => {
    const [one] = DEMO_PEOPLE;
    const { id } = await addPerson(w.db, { ...one!, password: demoPassword(one!.email) }, null);
    const { token } = await makeToken(w.db, id, 'left over');
    await w.db
      .insert(sessions)
      .values({ id: newId(), userId: id, token: newId(), expiresAt: new Date(Date.now() + 1e6) });
    expect(demoPassword(one!.email)).not.toBe(demoPassword(DEMO_PEOPLE[1]!.email));
    await closeDemoAccounts(w.db);
    const [account] = await w.db.select().from(accounts).where(eq(accounts.userId, id));
    expect(await verifyPassword({ hash: account!.password!, password: demoPassword(one!.email) })).toBe(false);
    expect(await w.db.select().from(sessions).where(eq(sessions.userId, id))).toEqual([]);
    await expect(personOfToken(new Headers({ authorization: `Bearer ${token}` }))).rejects.toMatchObject({
      status: 401,
    });
  });
});

test('the set-up code is taken however it is typed, and no other is', () => {
  const code = setupCode();
  expect(code).toMatch(/^[A-Z0-9]{4}-[A-Z0-9]{4}$/);
  expect(isSetupCode(code.toLowerCase().replace('-', ' '))).toBe(true);
  for (const other of ['', 'AAAA-AAAA', code.slice(0, -1)]) expect(isSetupCode(other)).toBe(false);
});

test('attempts of strangers and of a browser that was signed in are counted apart', () => {
  const cookie = deviceCookie('noor@saltmarsh.example', true);
  expect(cookie).toMatch(/HttpOnly; SameSite=Strict; Secure$/);
  const own = cookie.split(';')[0]!;
  const stranger = attemptsKey('noor@saltmarsh.example', null);
  expect(attemptsKey('noor@saltmarsh.example', `a=b; ${own}`)).not.toBe(stranger);
  // made for another address, or made up
  expect(attemptsKey('ilse@saltmarsh.example', own)).toBe(attemptsKey('ilse@saltmarsh.example', null));
  expect(attemptsKey('noor@saltmarsh.example', 'velvet-device=abc.def')).toBe(stranger);
});

test('many at once get no more attempts than one after the other', async () => {
  let tried = 0;
  const fail = async (): Promise<never> => {
    tried++;
    throw new Error('wrong');
  };
  await Promise.allSettled(Array.from({ length: 40 }, () => limitFailures(w.db, 'c'.repeat(64), 10, 60, fail)));
  expect(tried).toBe(10);
});

test('only failures count where failures are limited', async () => {
  const fail = (): Promise<never> => Promise.reject(new Error('wrong'));
  for (let i = 0; i < 5; i++) expect(await limitFailures(w.db, 'a'.repeat(64), 2, 60, async () => i)).toBe(i);
  for (let i = 0; i < 2; i++) await expect(limitFailures(w.db, 'a'.repeat(64), 2, 60, fail)).rejects.toThrow('wrong');
  await expect(limitFailures(w.db, 'a'.repeat(64), 2, 60, async () => 1)).rejects.toMatchObject({ status: 429 });
  expect(await limitFailures(w.db, 'b'.repeat(64), 2, 60, async () => 1)).toBe(1);
});

test('more than so many in so many seconds is refused with the time to wait, each key for itself', async () => {
  for (let i = 0; i < 3; i++) await limitRate('test', 'a', 3, 60);
  await expect(limitRate('test', 'a', 3, 60)).rejects.toMatchObject({
    status: 429,
    details: { waitS: expect.any(Number) },
  });
  await limitRate('test', 'b', 3, 60);
});

describe('a new secret', () => {
  test('reads what the former one sealed, and what a stranger’s sealed it does not', () => {
    const before = { ...process.env };
    try {
      process.env.VELVET_SESSION = 'new';
      const now = seal('a trial', 'text');
      process.env.VELVET_SESSION = 'newest';
      expect(unseal('a trial', now)).toBeUndefined();
      process.env.VELVET_SESSION_FORMER = 'new older old';
      expect(unseal('a trial', now)).toBe('text');
      expect(unseal('another purpose', now)).toBeUndefined();
    } finally {
      process.env.VELVET_SESSION = before.VELVET_SESSION;
      if (before.VELVET_SESSION_FORMER === undefined) delete process.env.VELVET_SESSION_FORMER;
    }
  });
});

describe('the cookie of a session', () => {
  const mira = {
    name: 'Mira',
    email: 'mira@saltmarsh.example',
    role: 'animator' as const,
    password: 'a long enough one',
  };
  let id = '';
  let cookie = '';
  const asked = (text: string): Promise<{ name: string }> => whoAsks('read', new Headers({ cookie: text }));
  beforeEach(async () => {
    id = (await addPerson(w.db, { ...mira, email: `${newId()}@saltmarsh.example` }, null)).id;
    const { email } = (await w.db.select().from(people).where(eq(people.id, id)))[0]!;
    const answer = await auth().api.signInEmail({ body: { email: email!, password: mira.password }, asResponse: true });
    cookie = /velvet\.session_token=[^;]+/.exec(answer.headers.get('set-cookie')!)![0];
  });

  test('stands for its person, among other cookies too', async () => {
    expect((await asked(cookie)).name).toBe('Mira');
    expect((await asked(`theme=velvet; ${cookie}; other=1`)).name).toBe('Mira');
  });

  test.each([
    ['another token under the same signature', (c: string) => c.replace(/=(.)/, (_, x) => (x === 'a' ? '=b' : '=a'))],
    ['another signature', (c: string) => c.replace(/\.[^.]{4}([^.]+)$/, '.AAAA$1')],
    ['no signature', (c: string) => c.replace(/\.[^.]*$/, '')],
    ['a signature without a token', (c: string) => c.replace(/=.*\./, '=.')],
    ['nothing', () => 'velvet.session_token='],
  ])('with %s stands for nobody', async (_, change) => {
    await expect(asked(change(cookie))).rejects.toMatchObject({ status: 401 });
  });

  test('ends at once with the session, with its time, and with whoever leaves', async () => {
    const own = eq(sessions.userId, id);
    await w.db.update(people).set({ leftAt: new Date() }).where(eq(people.id, id));
    await expect(asked(cookie)).rejects.toMatchObject({ status: 401 });
    await w.db.update(people).set({ leftAt: null }).where(eq(people.id, id));
    await w.db
      .update(sessions)
      .set({ expiresAt: new Date(Date.now() - 1000) })
      .where(own);
    await expect(asked(cookie)).rejects.toMatchObject({ status: 401 });
  });

  test('is renewed when it is used a day later, and its role is the one of now', async () => {
    const soon = new Date(Date.now() + 24 * 3600 * 1000);
    await w.db.update(sessions).set({ expiresAt: soon }).where(eq(sessions.userId, id));
    await w.db.update(people).set({ role: 'viewer' }).where(eq(people.id, id));
    expect(await asked(cookie)).toMatchObject({ name: 'Mira', role: 'viewer' });
    const [session] = await w.db.select().from(sessions).where(eq(sessions.userId, id));
    expect(session!.expiresAt.getTime()).toBeGreaterThan(Date.now() + 29 * 24 * 3600 * 1000);
  });
});
