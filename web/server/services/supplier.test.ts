import { count, eq } from 'drizzle-orm';
import { Catalogue } from '../../../cli/supplier/takes';
import { secretFor } from '../auth/secret';
import { items, supplierLinks } from '../db/schema';
import { Worker } from '../jobs/worker';
import { SupplierClient } from '../supplier/client';
import { openSupplier, SUPPLIER_KEY, type TestSupplier } from '../test/supplier';
import { testDatabase, type World } from '../test/world';
import { folderByPath } from './folders';
import { getItem } from './items';
import { getJob, listParts, steerJob } from './jobs';
import { memberIds } from './packs';
import { restrictFolder } from './rights';
import {
  fetchOwned,
  fetchOwnedIfWished,
  fetchReissues,
  fetchTakes,
  linkAccount,
  offeredPacks,
  offers,
  reissues,
  setByItself,
  supplierStateOf,
  unlinkAccount,
} from './supplier';
import { listVersions } from './versions';

const KEY = SUPPLIER_KEY;
const COUNT = 14;
const catalogue = new Catalogue(COUNT);

let w: World;
let supplier: TestSupplier;
/** A supplier of its own for each test. */
const open = async (credits = 400, percent = 0): Promise<void> => {
  supplier = await openSupplier(catalogue, credits, percent);
};
const shut = (): void => supplier.close();

const work = async (name = 'w1'): Promise<void> => {
  const worker = new Worker(w.db, () => undefined, name);
  while (await worker.step());
};
const price = (...ids: string[]): number => ids.reduce((a, id) => a + catalogue.find(id)!.price, 0);
const fetch = (takes: string[], folder = '') => fetchTakes(w.db, w.person, { takes, price: price(...takes), folder });
const howMany = async (): Promise<number> => (await w.db.select({ n: count() }).from(items))[0]!.n;

beforeAll(async () => {
  w = await testDatabase();
});
beforeEach(() => open());
afterEach(shut);
afterAll(() => w.close());

describe('the linked account', () => {
  test('is linked by its key, which is kept sealed, and forgotten when asked', async () => {
    expect(await supplierStateOf(w.db)).toMatchObject({ state: 'unlinked', name: 'A supplier', account: null });
    await expect(linkAccount(w.db, w.person, 'another key')).rejects.toMatchObject({ status: 403 });
    await linkAccount(w.db, w.person, KEY);
    expect(await supplierStateOf(w.db)).toMatchObject({ state: 'linked', account: { credits: 400, owned: 0 } });
    const [row] = await w.db.select().from(supplierLinks);
    expect(row!.sealedKey).not.toContain(KEY);
    expect(secretFor('supplier key')).not.toBe('');
    await unlinkAccount(w.db, w.person);
    expect((await supplierStateOf(w.db)).state).toBe('unlinked');
    await expect(fetch(['take-1'])).rejects.toMatchObject({ status: 409, code: 'not-linked' });
  });

  test('a supplier that is away is said to be, and its catalogue is refused in a sentence', async () => {
    shut();
    expect((await supplierStateOf(w.db)).state).toBe('away');
    await expect(offers(w.db, {})).rejects.toMatchObject({ status: 502, message: expect.stringMatching(/try again/) });
  });
});

describe('browsing', () => {
  test('narrows by words, tag and pack, page by page', async () => {
    const all = await offers(w.db, {});
    expect([all.total, all.takes.length, all.pages]).toEqual([COUNT, COUNT, 1]);
    const rope = await offers(w.db, { q: 'rope' });
    expect(rope.total).toBeGreaterThan(0);
    expect(rope.takes.every((t) => /rope/i.test(`${t.name} ${t.note} ${t.tags}`))).toBe(true);
    const tag = rope.tags[0]!;
    expect((await offers(w.db, { q: 'rope', tag: tag.name })).total).toBe(tag.count);
    const [pack] = await offeredPacks(w.db);
    expect((await offers(w.db, { pack: pack!.id })).takes.map((t) => t.id)).toEqual(pack!.takes);
    await expect(offers(w.db, { pack: 'pack-99' })).rejects.toMatchObject({ status: 422 });
  });

  test('a preview is short and a strip is a picture, whatever goes wrong on the way', async () => {
    shut();
    await open(400, 40);
    const client = new SupplierClient(process.env.VELVET_SUPPLIER!, undefined, 20);
    const text = new TextDecoder().decode(await client.preview('take-1'));
    expect(Number(/Frames:\s*(\d+)/.exec(text)![1])).toBeLessThanOrEqual(31);
    for (let i = 0; i < 6; i++)
      expect((await client.strip('take-2')).subarray(1, 4)).toEqual(new Uint8Array([80, 78, 71]));
  });
});

describe('fetching', () => {
  beforeEach(() => linkAccount(w.db, w.person, KEY));

  test('what is bought comes in with its tags, note and origin, and is not bought or brought in again', async () => {
    const job = await fetch(['take-1', 'take-2'], 'Bought');
    await work();
    const parts = await listParts(w.db, job.id);
    expect(parts.map((p) => p.state)).toEqual(['done', 'done']);
    const item = await getItem(w.db, (parts[0]!.result as { items: { id: string }[] }).items[0]!.id);
    const take = catalogue.find('take-1')!;
    expect(item).toMatchObject({
      name: take.name,
      note: take.note,
      source: 'A supplier',
      provenance: { how: 'intake', supplier: { name: 'A supplier', take: 'take-1', issue: 1 } },
    });
    expect(item.tags).toEqual(expect.arrayContaining([...take.tags]));
    expect(supplier.ledger.credits).toBe(400 - price('take-1', 'take-2'));
    const n = await howMany();
    await expect(fetch(['take-1'])).rejects.toMatchObject({ status: 409, code: 'price-changed' });
    await fetchTakes(w.db, w.person, { takes: ['take-1'], price: 0, folder: '' });
    await work();
    expect(await howMany()).toBe(n);
    expect(supplier.ledger.charges.length).toBe(2);
    const [seen] = (await offers(w.db, {})).takes;
    expect(seen).toMatchObject({ owned: true, onTheWay: false, item: { name: take.name, issue: 1, binned: false } });
  });

  test('nothing is bought for another price, nor with too few credits', async () => {
    await expect(fetchTakes(w.db, w.person, { takes: ['take-3'], price: 1, folder: '' })).rejects.toMatchObject({
      status: 409,
      message: expect.stringContaining(`${price('take-3')} credits`),
    });
    shut();
    await open(2);
    await linkAccount(w.db, w.person, KEY);
    await expect(fetch(['take-3'])).rejects.toMatchObject({ status: 422, code: 'too-few-credits' });
    expect(supplier.ledger.credits).toBe(2);
  });

  test('a pack costs its own price and becomes a pack here', async () => {
    const pack = (await offeredPacks(w.db))[2]!;
    await fetchTakes(w.db, w.person, { pack: pack.id, price: pack.price, folder: '' });
    await Promise.all([work('a'), work('b')]);
    expect(supplier.ledger.charges.map((c) => [c.for, c.credits])).toEqual([[pack.id, pack.price]]);
    const made = await w.db.select().from(items).where(eq(items.kind, 'pack'));
    const own = made.filter((p) => p.name === pack.name);
    expect(own.length).toBe(1);
    expect((await memberIds(w.db, own[0]!.id)).length).toBe(pack.takes.length);
  });

  test('with a fifth of all answers broken and two workers, nothing is paid twice, doubled or lost', async () => {
    shut();
    await open(2000, 20);
    await linkAccount(w.db, w.person, KEY).catch(() => linkAccount(w.db, w.person, KEY));
    // some of the shortest: what is tried is the fetching
    const ids = [...catalogue.takes]
      .sort((a, b) => a.seconds * a.fps - b.seconds * b.fps)
      .slice(0, 7)
      .map((t) => t.id);
    const n = await howMany();
    let job: { id: string } | undefined;
    while (!job) job = await fetch(ids).catch(() => undefined);
    // the same takes in a second job, as from an impatient colleague
    let second: { id: string } | undefined;
    while (!second)
      second = await fetchOwned(w.db, w.person)
        .catch(() => undefined)
        .then((j) => j ?? { id: '' });
    await Promise.all([work('a'), work('b')]);
    for (let again = 0; again < 3 && (await getJob(w.db, job.id)).counts.refused > 0; again++) {
      await steerJob(w.db, w.person, job.id, 'retry');
      await work();
    }
    expect((await getJob(w.db, job.id)).counts).toMatchObject({ done: ids.length, refused: 0 });
    expect(await howMany()).toBe(n + ids.length);
    expect(supplier.ledger.charges.length).toBe(ids.length);
    expect(supplier.ledger.credits).toBe(2000 - price(...ids));
  });

  test('what is owned comes in with one action, or by itself where that is wished', async () => {
    supplier.ledger.own('gift', ['take-7', 'take-8'], 0);
    expect(await supplierStateOf(w.db)).toMatchObject({ waiting: 2, byItself: false });
    expect(await fetchOwnedIfWished(w.db)).toBeUndefined();
    await setByItself(w.db, true);
    expect(await fetchOwnedIfWished(w.db)).toBeDefined();
    // on its way already
    expect(await fetchOwned(w.db, w.person)).toBeUndefined();
    await work();
    expect(await supplierStateOf(w.db)).toMatchObject({ waiting: 0, byItself: true });
    expect(supplier.ledger.credits).toBe(400);
  });

  test('what was destroyed here can be fetched again', async () => {
    await fetch(['take-9']);
    await work();
    const mine = (await offers(w.db, {})).takes.find((t) => t.id === 'take-9')!.item!;
    await w.db.delete(items).where(eq(items.id, mine.id));
    expect((await supplierStateOf(w.db)).waiting).toBe(1);
    await fetchOwned(w.db, w.person);
    await work();
    expect((await supplierStateOf(w.db)).waiting).toBe(0);
  });
});

describe('a corrected issue', () => {
  beforeEach(() => linkAccount(w.db, w.person, KEY));

  test('is told with what changed and who uses the old one, and becomes the next version', async () => {
    await fetch(['take-5']);
    await work();
    const here = (await offers(w.db, {})).takes.find((t) => t.id === 'take-5')!.item!;
    const old = await getItem(w.db, here.id);
    supplier.ledger.issueAnew('take-5', 'The shake is gone.');
    supplier.ledger.issueAnew('take-5', 'The last step is whole.');
    expect((await supplierStateOf(w.db)).reissued).toBe(1);
    expect(await reissues(w.db)).toEqual([
      {
        take: 'take-5',
        item: { id: here.id, name: here.name },
        from: 1,
        to: 3,
        changes: ['The shake is gone.', 'The last step is whole.'],
        changedHere: false,
        usedBy: [],
      },
    ]);
    await fetchReissues(w.db, w.person, ['take-5']);
    await work();
    const now = await getItem(w.db, here.id);
    expect(now.version).toBe(2);
    expect(now.motionHash).not.toBe(old.motionHash);
    expect((await listVersions(w.db, here.id))[0]!.note).toBe('Issue 3: The last step is whole.');
    expect(await reissues(w.db)).toEqual([]);
    expect(supplier.ledger.charges.length).toBe(1);
  });

  test('nobody brings one into a folder that is closed to them', async () => {
    await fetch(['take-10'], 'Shut');
    await work();
    const folder = (await folderByPath(w.db, 'Shut', w.person))!;
    await restrictFolder(w.db, w.person, folder, { restricted: true });
    const animator = await w.somebody('animator');
    supplier.ledger.issueAnew('take-10', 'Better.');
    const job = await fetchReissues(w.db, animator, ['take-10']);
    await work();
    const [part] = await listParts(w.db, job.id);
    expect(part).toMatchObject({ state: 'refused', message: expect.stringContaining('Shut') });
    const here = (await offers(w.db, {})).takes.find((t) => t.id === 'take-10')!.item!;
    expect((await getItem(w.db, here.id)).version).toBe(1);
  });
});
