import type { JobKind } from '../../contract';
import type { Database, Transaction } from '../db/client';
import { runFetchPart } from './fetch-part';
import { linkCopies, runFitPart } from './fit-part';
import { runIntakePart } from './intake-part';
import type { Job, Part } from './queue';

/** How the parts of a kind of job are done. */
export interface Runner {
  /**
   * Does one part and ends it (see endPart), what it writes in the same transaction.
   * @throws Refusal for what cannot be done, however often it is tried
   */
  readonly run: (db: Database, job: Job, part: Part) => Promise<void>;
  /** What else a refused part is to others of its job, in the transaction that ends it. */
  readonly refused?: (tx: Transaction, job: Job, part: Part) => Promise<void>;
}

/** A new kind of job joins here. */
export const RUNNERS: Readonly<Record<JobKind, Runner>> = {
  intake: { run: runIntakePart },
  fetch: { run: runFetchPart },
  fit: { run: runFitPart, refused: (tx, job, part) => linkCopies(tx, job, part, null) },
};
