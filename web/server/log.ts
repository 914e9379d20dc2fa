import { DrizzleQueryError } from 'drizzle-orm';
import pino from 'pino';

/** One JSON object a line, on standard error. Nothing that people typed, uploaded or keep secret belongs into it. */
export const log = pino(
  { base: undefined, timestamp: pino.stdTimeFunctions.isoTime, level: process.env.VELVET_LOG ?? 'info' },
  pino.destination({ fd: 2, sync: true }),
);

interface Fault {
  error: string;
  /** What the system or the database calls it. */
  code?: string;
  /** What kind of query on which table. */
  query?: string;
  /** The words of an error of our own. */
  message?: string;
  at?: string;
}

/** "select sessions": what a query does, without what it says. */
export const nameOfQuery = (sql: string): string => {
  const verb = /^\s*(\w+)/.exec(sql)?.[1]?.toLowerCase() ?? '?';
  const table = /(?:from|into|update|table|join)\s+[`"]?(\w+)/i.exec(sql)?.[1] ?? '?';
  return `${verb} ${table}`;
};

/**
 * What the log says of an error: never the values of a query, which its message spells out, nor the database's own words,
 * which quote them.
 */
export function faultOf(error: unknown): Fault {
  if (!(error instanceof Error)) return { error: typeof error };
  let code: unknown;
  let query: string | undefined;
  let quotes = false;
  for (let e: unknown = error; e instanceof Error; e = e.cause) {
    const { code: own, sqlState, sql } = e as { code?: unknown; sqlState?: unknown; sql?: unknown };
    code ??= own;
    if (e instanceof DrizzleQueryError) query ??= nameOfQuery(e.query);
    else if (typeof sql === 'string') query ??= nameOfQuery(sql);
    quotes ||= e instanceof DrizzleQueryError || sqlState !== undefined;
  }
  const at = (error.stack ?? '')
    .split('\n')
    .filter((line) => line.startsWith('    at '))
    .slice(0, 4)
    .map((line) => line.trim())
    .join(' ');
  return {
    error: error.name,
    ...(typeof code === 'string' && { code }),
    ...(query !== undefined && { query }),
    ...(!quotes && { message: error.message.slice(0, 300) }),
    ...(at !== '' && { at }),
  };
}
