import type { people } from '../db/schema';

export type Person = typeof people.$inferSelect;
