import type { PlayGraph, PlayInput, PlayState, Way } from '@velvet-reel/motion';
import type { Cells, DocumentKind } from './cells';

/** A play-through under work: whose it is, and the graph. */
export interface PlayContent extends PlayGraph {
  readonly name: string;
  readonly castId: string | null;
}

// Every state, way and input is a cell of its own; ways keep their order by a number.

const byOrder = ([a, x]: [string, number], [b, y]: [string, number]): number => x - y || (a < b ? -1 : 1);

function listOf<T extends { readonly id: string }>(cells: Cells, kind: string): T[] {
  const found = new Map<string, T & { order?: number }>();
  for (const [cell, value] of Object.entries(cells))
    if (cell.startsWith(`${kind}/`)) {
      const id = cell.slice(kind.length + 1);
      found.set(id, { ...(value as T & { order?: number }), id });
    }
  return [...found]
    .map(([id, t]): [string, number] => [id, t.order ?? 0])
    .sort(byOrder)
    .map(([id]) => {
      const { order: _, ...thing } = found.get(id)!;
      return thing as unknown as T;
    });
}

const cellsOf = (kind: string, things: readonly { readonly id: string }[]): Cells =>
  Object.fromEntries(things.map(({ id, ...thing }, order) => [`${kind}/${id}`, { ...thing, order }]));

export const PLAY: DocumentKind<PlayContent> = {
  empty: { name: '', castId: null, fps: 60, start: '', inputs: [], states: [], ways: [] },

  split: ({ name, castId, fps, start, inputs, states, ways }) => ({
    name,
    ...(castId !== null && { castId }),
    fps,
    start,
    ...cellsOf('input', inputs),
    ...cellsOf('state', states),
    ...cellsOf('way', ways),
  }),

  join: (cells) => ({
    name: String(cells.name ?? ''),
    castId: (cells.castId as string | undefined) ?? null,
    fps: Number(cells.fps ?? PLAY.empty.fps),
    start: String(cells.start ?? ''),
    inputs: listOf<PlayInput>(cells, 'input'),
    states: listOf<PlayState>(cells, 'state'),
    ways: listOf<Way>(cells, 'way'),
  }),
};
