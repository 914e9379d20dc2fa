import { changeItem } from '../services/edits';
import { addJob, steerJob } from '../services/jobs';
import { bePresent } from '../services/presence';
import { testDatabase, type World } from '../test/world';
import { hub, type LiveEvent } from './hub';

let w: World;
/** What a server process keeps for itself; here it ends with the tests. */
const kept = globalThis as { velvetDatabase?: unknown; velvetCatalogue?: unknown };
beforeAll(async () => {
  w = await testDatabase();
  kept.velvetDatabase = { db: w.db };
  kept.velvetCatalogue = w.library;
});
afterAll(() => w.close());

/** Listens until something is told that fits. */
function listen() {
  const told: LiveEvent[] = [];
  const stop = hub().listen((e) => told.push(e));
  const until = async <T extends LiveEvent['type']>(
    type: T,
    fits: (e: Extract<LiveEvent, { type: T }>) => boolean,
  ): Promise<Extract<LiveEvent, { type: T }>> => {
    for (let i = 0; i < 200; i++) {
      const found = told.find((e) => e.type === type && fits(e as never));
      if (found) return found as never;
      await new Promise((r) => setTimeout(r, 50));
    }
    throw new Error(`nothing of the kind was told: ${JSON.stringify(told).slice(0, 400)}`);
  };
  return { told, stop, until };
}

test('what somebody does is told to everybody who listens, and to nobody who has stopped', async () => {
  const id = await w.bring(1, 'Told walk');
  const [a, b] = [listen(), listen()];
  b.stop();
  const before = b.told.length;
  await changeItem(w.db, w.person, id, { note: 'wet' });
  const { changes } = await a.until('changes', (e) => e.changes.some((c) => c.subjectId === id && c.action === 'edit'));
  expect(changes.at(-1)).toMatchObject({ subject: 'item', personId: w.personId });
  expect(b.told).toHaveLength(before);
  a.stop();
});

test('a page that opens just after something was done is told that, too', async () => {
  const id = await w.bring(2, 'Just before');
  const page = listen();
  await page.until('changes', (e) => e.changes.some((c) => c.subjectId === id));
  page.stop();
});

test('jobs are told while they go on and once more when they have ended', async () => {
  const page = listen();
  const { id } = await addJob(w.db, w.person, {
    kind: 'intake',
    title: 'Told job',
    order: {},
    parts: [{ name: 'x', state: 'waiting', payload: {} }],
  });
  await page.until('jobs', (e) => e.jobs.some((j) => j.id === id && j.state === 'queued'));
  await steerJob(w.db, w.person, id, 'cancel');
  await page.until('jobs', (e) => e.jobs.some((j) => j.id === id && j.state === 'cancelled'));
  page.stop();
});

test('who is here is told, also to whoever comes later', async () => {
  const id = await w.bring(3, 'Looked at');
  await bePresent(w.db, w.personId, 'client000001', id);
  const page = listen();
  const { present } = await page.until('present', (e) => e.present.some((p) => p.subjectId === id));
  expect(present[0]).toMatchObject({ name: 'Test Person', clientId: 'client000001' });
  page.stop();
});
