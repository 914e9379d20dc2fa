import { verifyPassword } from 'better-auth/crypto';
import { eq } from 'drizzle-orm';
import { accounts, apiTokens, people, sessions } from '../db/schema';
import { newId } from '../ids';
import { limitFailures, limitRate } from '../limits';
import { can } from '../services/rights';
import { testDatabase, type World } from '../test/world';
import { addPerson, changePerson, listPeople, newPerson, nobodyYet } from './accounts';
import { listTokens, makeToken, personOfToken, revokeToken } from './tokens';

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
    expect((await ask(token))!.id).toBe(w.person.id);
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
    expect((await ask(token))!.name).toBe('Gone');
    await changePerson(w.db, w.person, gone.id, { left: true });
    await expect(ask(token)).rejects.toMatchObject({ status: 401 });
  });
});

test('only failures count where failures are limited', async () => {
  const fail = (): Promise<never> => Promise.reject(new Error('wrong'));
  for (let i = 0; i < 5; i++) expect(await limitFailures('door', 'a', 2, 60, async () => i)).toBe(i);
  for (let i = 0; i < 2; i++) await expect(limitFailures('door', 'a', 2, 60, fail)).rejects.toThrow('wrong');
  await expect(limitFailures('door', 'a', 2, 60, async () => 1)).rejects.toMatchObject({ status: 429 });
  expect(await limitFailures('door', 'b', 2, 60, async () => 1)).toBe(1);
});

test('more than so many in so many seconds is refused with the time to wait, each key for itself', async () => {
  for (let i = 0; i < 3; i++) await limitRate('test', 'a', 3, 60);
  await expect(limitRate('test', 'a', 3, 60)).rejects.toMatchObject({
    status: 429,
    details: { waitS: expect.any(Number) },
  });
  await limitRate('test', 'b', 3, 60);
});
