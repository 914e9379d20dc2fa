import { eq } from 'drizzle-orm';
import { NextRequest } from 'next/server';
import { files, motions } from '../db/schema';
import { readUpload } from '../files/upload';
import { testDatabase, type World } from '../test/world';
import { readAudit } from './audit';
import { newIntake, openIntake } from './intake-jobs';
import { demandQuota, readStorage, setQuota } from './quotas';

let w: World;
beforeAll(async () => {
  w = await testDatabase();
  (globalThis as { velvetDatabase?: unknown }).velvetDatabase = { db: w.db };
  await w.bring(1, 'Haul');
  await w.bring(2, 'Coil');
});
afterAll(() => w.close());

const form = (bytes: number): NextRequest => {
  const data = new FormData();
  data.set('file', new Blob([new Uint8Array(bytes)]), 'take.bvh');
  return new NextRequest('http://127.0.0.1/x', {
    method: 'POST',
    body: data,
    headers: { 'content-length': String(bytes) },
  });
};

test('what is stored is added up: of all for an admin, of oneself for others', async () => {
  const rows = await w.db.select().from(motions);
  for (const { size, packed } of rows) expect(size).toBe(packed.length);
  for (const { size, bytes } of await w.db.select().from(files)) expect(size).toBe(bytes.length);
  const own = rows.reduce((sum, m) => sum + m.size, 0);
  const all = await readStorage(w.db, w.person);
  expect(all.library).toEqual({ used: own, most: null });
  expect(all.people[0]).toMatchObject({ id: w.personId, used: own, most: null });
  const viewer = await w.somebody('viewer');
  expect((await readStorage(w.db, viewer)).people).toEqual([{ id: viewer.id, name: viewer.name, used: 0, most: null }]);
});

test('each person may store so much: one who has reached it is told, others go on', async () => {
  const { people } = await readStorage(w.db, w.person);
  const used = people.find((p) => p.id === w.personId)!.used;
  await setQuota(w.db, w.person, { of: 'person', bytes: used + 1000 });
  await demandQuota(w.db, w.person, 900);
  await expect(demandQuota(w.db, w.person, 1100)).rejects.toMatchObject({ status: 507, code: 'quota' });
  await expect(readUpload(form(1100), w.person)).rejects.toMatchObject({ code: 'quota' });
  const other = await w.somebody('animator');
  await demandQuota(w.db, other, 900);
  expect((await readUpload(form(900), other)).bytes).toHaveLength(900);
});

test('an import that would go beyond it is refused before its files are sent', async () => {
  const wish = (bytes: number) => newIntake.parse({ title: 'Many', files: [{ name: 'a.bvh', bytes }] });
  await expect(openIntake(w.db, w.person, wish(5000))).rejects.toMatchObject({ code: 'quota' });
  await openIntake(w.db, w.person, wish(500));
});

test('the library’s quota holds for everybody; taken away, nothing is asked; all of it is written down', async () => {
  const other = await w.somebody('animator', 'Another');
  const { library } = await readStorage(w.db, w.person);
  await setQuota(w.db, w.person, { of: 'library', bytes: library.used + 10 });
  await expect(demandQuota(w.db, other, 20)).rejects.toThrow('The library may hold');
  for (const whose of ['library', 'person'] as const) await setQuota(w.db, w.person, { of: whose, bytes: null });
  await demandQuota(w.db, w.person, 1e15);
  expect((await readAudit(w.db, { what: 'quota set' })).map((e) => e.about)).toHaveLength(4);
});

test('the same motion again costs nothing more', async () => {
  const before = await readStorage(w.db, w.person);
  const [motion] = await w.db.select().from(motions);
  await w.db.insert(motions).ignore().values(motion!);
  await w.bring(1, 'Haul again');
  const after = await readStorage(w.db, w.person);
  expect(after.library.used).toBe(before.library.used);
  expect(after.people.find((p) => p.id === w.personId)!.used).toBe(
    before.people.find((p) => p.id === w.personId)!.used,
  );
  expect((await w.db.select().from(motions).where(eq(motions.hash, motion!.hash))).length).toBe(1);
});
