import { addPerson, changePerson } from '../auth/accounts';
import { makeToken, revokeToken } from '../auth/tokens';
import { audit } from '../db/schema';
import { testDatabase, type World } from '../test/world';
import { auditLines, readAudit } from './audit';
import { folderByPath } from './folders';
import { giveRight, restrictFolder, takeRight } from './rights';

let w: World;
beforeAll(async () => {
  w = await testDatabase();
});
afterAll(() => w.close());

test('accounts, keys and rights are written down, with who did it', async () => {
  const { db, person } = w;
  const { id } = await addPerson(
    db,
    { name: 'Noor', email: 'noor@ferry.example', role: 'animator', password: 'the tide is turning' },
    person,
  );
  await changePerson(db, person, id, { role: 'librarian', password: 'the tide has turned' });
  const key = await makeToken(db, id, 'farm', { scope: 'read', days: 3 });
  await revokeToken(db, id, key.id, person.id);
  const folder = (await folderByPath(db, 'Closed', person))!;
  await restrictFolder(db, person, folder, { restricted: true });
  await giveRight(db, person, folder, id);
  await takeRight(db, person, folder, id);
  const told = (await readAudit(db, {})).reverse().map((e) => [e.what, e.personName, e.about]);
  expect(told).toEqual([
    ['account made', 'Test Person', 'Noor, animator'],
    ['account changed', 'Test Person', 'Noor: role, password'],
    ['key made', 'Noor', 'farm, read, 3 days'],
    ['key revoked', 'Test Person', `of ${id}`],
    ['folder restricted', 'Test Person', 'Closed'],
    ['right given', 'Test Person', 'Noor, Closed'],
    ['right taken', 'Test Person', 'Noor, Closed'],
  ]);
  // what was set is not in it
  expect(JSON.stringify(told)).not.toContain('the tide');
});

test('it is searched, and read whole as lines, however long it is', async () => {
  const tries = Array.from(
    { length: 1200 },
    (_, i) => ({ personId: null, what: 'sign-in failed', about: `try ${i}` }) as const,
  );
  await w.db.insert(audit).values(tries);
  expect(await readAudit(w.db, { what: 'key made' })).toHaveLength(1);
  expect(await readAudit(w.db, { personId: w.personId, limit: 3 })).toHaveLength(3);
  const lines = (await new Response(auditLines(w.db, { what: 'sign-in failed' })).text()).trim().split('\n');
  expect(lines.map((l) => (JSON.parse(l) as { about: string }).about)).toEqual(
    Array.from({ length: 1200 }, (_, i) => `try ${1199 - i}`),
  );
});
