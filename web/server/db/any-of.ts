import { type Column, type SQL, sql } from 'drizzle-orm';

/**
 * "column in (ids)" with all ids as one parameter, which the driver spells out and escapes: a page asks for a hundred ids
 * in several tables, and a parameter each costs more than the queries themselves. `ids` must not be empty.
 */
export const anyOf = (column: Column, ids: readonly string[]): SQL =>
  sql`${column} in (${sql.param(ids.length === 1 ? ids[0] : [...ids])})`;
