// A worker process. Any number of them, on any machines, work on one database; see docs/operations.
import { openDatabase } from '../db/client';
import { watchInbox } from './inbox';
import { Worker } from './worker';

const url = process.env.VELVET_DATABASE;
if (!url) throw new Error('VELVET_DATABASE is not set: start workers with npm run worker.');
const { db, pool } = openDatabase(url, 6);
const worker = new Worker(db, (text) => console.error(`velvet reel · ${text}`));
const unwatch = process.env.VELVET_INBOX ? watchInbox(db, process.env.VELVET_INBOX) : () => undefined;

const stop = (): void => {
  unwatch();
  worker.stop();
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
await worker.run();
await pool.end();
process.exit(0);
