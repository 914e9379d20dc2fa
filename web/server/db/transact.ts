import { deadlocked } from './away';
import type { Database, Transaction } from './client';

/** So often a transaction that others stood in the way of is tried anew. */
const MOST_DEADLOCKS = 4;

/**
 * A transaction that is done anew where it and another one waited for each other and the database gave this one up:
 * nothing of it was written then. `work` may therefore run more than once and must do nothing outside the transaction.
 */
export async function transact<T>(
  db: Database,
  work: (tx: Transaction) => Promise<T>,
  settings?: Parameters<Database['transaction']>[1],
): Promise<T> {
  for (let again = 0; ; again++) {
    try {
      return await db.transaction(work, settings);
    } catch (error) {
      if (!deadlocked(error) || again >= MOST_DEADLOCKS) throw error;
    }
  }
}
