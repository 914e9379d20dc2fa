import { sql } from 'drizzle-orm';
import { type Database, database, openDatabase } from './client';

/** How long a replica may take to catch up with what is committed before the primary is read instead, seconds. */
const PATIENCE_S = 0.05;
/** A replica that did not answer is left alone for so long, milliseconds. */
const AWAY_MS = 5000;

/** A replica that is read as long as it has everything that the primary had when it was asked. */
export class Reads {
  private until = 0;

  constructor(
    private readonly primary: Database,
    private readonly replica: Database,
    private readonly log: (text: string) => void = () => undefined,
  ) {}

  /**
   * Runs queries that only read, at the replica where it has caught up, else at the primary: nobody misses their own change,
   * and nothing fails because a replica is away. What fails there for any reason is tried at the primary once more.
   */
  async run<T>(read: (db: Database) => Promise<T>): Promise<T> {
    if (Date.now() < this.until || !(await this.caughtUp())) return read(this.primary);
    try {
      return await read(this.replica);
    } catch {
      // a refusal comes again there, a fault of the replica does not
      return read(this.primary);
    }
  }

  private async caughtUp(): Promise<boolean> {
    const [at] = await rows<{ at: string | null }>(this.primary, sql`select @@gtid_binlog_pos as at`);
    // without a binary log nothing is replicated
    if (!at?.at) return false;
    try {
      const [there] = await rows<{ late: number | null }>(
        this.replica,
        sql`select master_gtid_wait(${at.at}, ${PATIENCE_S}) as late`,
      );
      return Number(there?.late) === 0;
    } catch (error) {
      this.until = Date.now() + AWAY_MS;
      const { cause, message } = error as Error;
      this.log(`the replica does not answer, the primary is read: ${(cause as Error | undefined)?.message ?? message}`);
      return false;
    }
  }
}

async function rows<T>(db: Database, query: ReturnType<typeof sql>): Promise<T[]> {
  const [found] = (await db.execute(query)) as unknown as [T[]];
  return found;
}

const kept = globalThis as { velvetReads?: Reads };

/** Runs what lists and searches read: at the replica that VELVET_READS names, where there is one. */
export function fromReads<T>(read: (db: Database) => Promise<T>): Promise<T> {
  const url = process.env.VELVET_READS;
  if (!url) return read(database());
  kept.velvetReads ??= new Reads(database(), openDatabase(url).db, (text) => console.warn(`velvet reel · ${text}`));
  return kept.velvetReads.run(read);
}
