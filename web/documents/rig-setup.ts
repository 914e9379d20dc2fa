import type { BodyMapJson, Limits } from '@velvet-reel/motion';
import type { Cells, DocumentKind } from './cells';

/** What people set for a rig, beside what was read from its file: the body map, and what is set by hand. */
export interface RigSetup {
  readonly slots: BodyMapJson['slots'];
  /** Stands in for the bind pose when limbs are matched; null: the bind pose. */
  readonly match: { readonly turns: readonly number[]; readonly how: string } | null;
  /** Joint limits by slot; null: the common body's. */
  readonly limits: Limits | null;
  /** Left and right partners by joint name; null: those found. */
  readonly pairs: readonly (readonly [string, string])[] | null;
  readonly sets: readonly { readonly name: string; readonly joints: readonly string[] }[];
}

/** What is set by hand for a rig besides its body map. */
export type RigSetting = Partial<Omit<RigSetup, 'slots'>>;

const below = (cells: Cells, prefix: string): [string, unknown][] =>
  Object.entries(cells).flatMap(([cell, value]) =>
    cell.startsWith(prefix) ? [[cell.slice(prefix.length), value] as [string, unknown]] : [],
  );

/** Every slot is a cell, and every limit and every joint set: two people at two of them do not meet. */
export const RIG_SETUP: DocumentKind<RigSetup> = {
  empty: { slots: {}, match: null, limits: null, pairs: null, sets: [] },

  split: ({ slots, match, limits, pairs, sets }) => ({
    ...Object.fromEntries(Object.entries(slots).map(([slot, entry]) => [`slot/${slot}`, entry])),
    ...(match && { match }),
    ...(limits && { 'own limits': true }),
    ...Object.fromEntries(Object.entries(limits ?? {}).map(([slot, limit]) => [`limit/${slot}`, limit])),
    ...(pairs && { pairs }),
    ...Object.fromEntries(sets.map(({ name, joints }) => [`set/${name}`, joints])),
  }),

  join: (cells) => ({
    slots: Object.fromEntries(below(cells, 'slot/')) as RigSetup['slots'],
    match: (cells.match as RigSetup['match'] | undefined) ?? null,
    limits: cells['own limits'] === true ? (Object.fromEntries(below(cells, 'limit/')) as Limits) : null,
    pairs: (cells.pairs as RigSetup['pairs'] | undefined) ?? null,
    sets: below(cells, 'set/').map(([name, joints]) => ({ name, joints: joints as string[] })),
  }),
};
