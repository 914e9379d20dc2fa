import { eq, sql } from 'drizzle-orm';
import { refuse } from '../http';
import { newId } from '../ids';
import { testDatabase, type World } from '../test/world';
import type { Transaction } from './client';
import { uploads } from './schema';
import { transact } from './transact';

let w: World;
const rows = [newId(), newId()].map((hash) => hash.padEnd(64, '0'));
beforeAll(async () => {
  w = await testDatabase();
  await w.db.insert(uploads).values(rows.map((hash) => ({ hash, bytes: Buffer.alloc(0) })));
});
afterAll(() => w.close());

const size = async (hash: string): Promise<number> =>
  (await w.db.select().from(uploads).where(eq(uploads.hash, hash)))[0]!.bytes.length;
const add = (tx: Transaction, hash: string, n: number): Promise<unknown> =>
  tx
    .update(uploads)
    .set({ bytes: sql`concat(${uploads.bytes}, ${'.'.repeat(n)})` })
    .where(eq(uploads.hash, hash));

/** Two that each hold what the other wants next, the first time they run. */
function crossed(run: typeof transact): Promise<PromiseSettledResult<void>[]> {
  let both = 0;
  let meet = (): void => undefined;
  const met = new Promise<void>((done) => {
    meet = done;
  });
  const one = (first: string, second: string) =>
    run(w.db, async (tx) => {
      await add(tx, first, 1);
      if (++both >= 2) meet();
      await met;
      await add(tx, second, 10);
    });
  return Promise.allSettled([one(rows[0]!, rows[1]!), one(rows[1]!, rows[0]!)]);
}

test('two that wait for each other are both written, each once', async () => {
  expect((await crossed(transact)).map((r) => r.status)).toEqual(['fulfilled', 'fulfilled']);
  expect(await Promise.all(rows.map(size))).toEqual([11, 11]);
});

test('where nobody tries anew, one is given up, and whoever asked is told to try again', async () => {
  const ends = await crossed((db, work) => db.transaction(work));
  const broken = ends.find((r) => r.status === 'rejected')!;
  const answer = refuse(broken.reason);
  expect([answer.status, answer.headers.get('retry-after'), (await answer.json()).code]).toEqual([503, '5', 'busy']);
});

test('what fails for another reason fails at once', async () => {
  let runs = 0;
  await expect(
    transact(w.db, async () => {
      runs++;
      throw new Error('no');
    }),
  ).rejects.toThrow('no');
  expect(runs).toBe(1);
});
