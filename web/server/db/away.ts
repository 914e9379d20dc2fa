const AWAY = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'ER_SERVER_SHUTDOWN',
  'ER_CON_COUNT_ERROR',
]);

/** Whether the database could not be reached, or went away in mid-work. */
export function databaseAway(error: unknown): boolean {
  for (let e = error as { code?: unknown; cause?: unknown } | undefined; e; e = e.cause as typeof e)
    if (AWAY.has(String(e.code))) return true;
  return false;
}

const FULL = new Set(['ENOSPC', 'ER_DISK_FULL', 'ER_RECORD_FILE_FULL', 'ER_DISK_FULL_NOWAIT']);

/** Whether there was no room for what was to be written. */
export function diskFull(error: unknown): boolean {
  for (let e = error as { code?: unknown; cause?: unknown } | undefined; e; e = e.cause as typeof e)
    if (FULL.has(String(e.code))) return true;
  return false;
}

/** Whether two transactions waited for each other, and this one was given up so that the other could go on. */
export function deadlocked(error: unknown): boolean {
  for (let e = error as { code?: unknown; cause?: unknown } | undefined; e; e = e.cause as typeof e)
    if (e.code === 'ER_LOCK_DEADLOCK') return true;
  return false;
}
