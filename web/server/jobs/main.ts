// A worker process. Any number of them, on any machines, work on one database; see docs/operations.
import { setPriority } from 'node:os';
import { openDatabase } from '../db/client';
import { migrations, newest } from '../db/migrate';
import { faultOf, log } from '../log';
import { watchOwned } from './fetch-owned';
import { watchInbox } from './inbox';
import { Worker } from './worker';

const url = process.env.VELVET_DATABASE;
if (!url) throw new Error('VELVET_DATABASE is not set: start workers with npm run worker.');
const { db, pool } = openDatabase(url, 6);
const worker = new Worker(db, (text) => log.info(text));

// whoever works at a page goes first
setPriority(15);

let stopping = false;
const watches: (() => void)[] = [];
const stop = (): void => {
  stopping = true;
  for (const unwatch of watches) unwatch();
  worker.stop();
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);

/** How often a worker looks whether its database has become of its release. */
const LOOK_MS = 3000;

/** A worker on tables of another release would write nonsense: it waits. */
async function waitForRelease(): Promise<void> {
  const wanted = migrations().at(-1)?.at ?? 0;
  for (let told = ''; !stopping; ) {
    const why = await newest(pool).then(
      (there) => (there === wanted ? '' : there < wanted ? 'is of an older release' : 'is of a newer release'),
      (error) => `cannot be reached (${faultOf(error).code ?? 'unknown'})`,
    );
    if (why === '') return;
    if (why !== told) log.warn(`the database ${why}: this worker waits`);
    told = why;
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
  }
}

await waitForRelease();
if (!stopping) {
  if (process.env.VELVET_INBOX) watches.push(watchInbox(db, process.env.VELVET_INBOX));
  watches.push(watchOwned(db));
  await worker.run();
}
await pool.end();
process.exit(0);
