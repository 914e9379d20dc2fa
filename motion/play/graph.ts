import { MotionError } from '../errors';
import type { Meet } from '../join/meet';

// A play-through as people edit it: states that show items, ways between them, and what is pressed to take a way.

/** What a state shows: one item, or a mix of cycles by a number. */
export type PlayContent =
  | { readonly kind: 'item'; readonly itemId: string }
  | {
      readonly kind: 'mix';
      /** The number that mixes. */
      readonly input: string;
      /** Cycles in rising order of the number at which each plays alone. */
      readonly items: readonly { readonly value: number; readonly itemId: string }[];
    };

export interface PlayState {
  readonly id: string;
  readonly name: string;
  /** Where it lies on the board. */
  readonly at: readonly [x: number, y: number];
  readonly content: PlayContent;
  readonly speed: number;
  /** Goes round and round; holds its last frame otherwise. */
  readonly repeats: boolean;
}

/**
 * hold: is or is not held down. press: happens, and stays for a moment until a way uses it. number: goes up and down within
 * its bounds.
 */
export type InputKind = 'hold' | 'press' | 'number';

export interface PlayInput {
  readonly id: string;
  readonly name: string;
  readonly kind: InputKind;
  /** Key of the keyboard, as browsers name it (KeyboardEvent.code); of a number, the one that raises it. */
  readonly key: string;
  /** The key that lowers a number. */
  readonly lessKey: string;
  /** Button of a gamepad in the standard layout; of a number, its axis. −1: none. */
  readonly pad: number;
  readonly min: number;
  readonly max: number;
}

export type Condition =
  | { readonly kind: 'held'; readonly input: string; readonly held: boolean }
  | { readonly kind: 'pressed'; readonly input: string }
  | { readonly kind: 'above' | 'below'; readonly input: string; readonly value: number }
  /** The item, or a lap of it, comes to its end. */
  | { readonly kind: 'ended' }
  /** So long in the state. */
  | { readonly kind: 'after'; readonly seconds: number };

export interface Way {
  readonly id: string;
  /** The state it leaves; null: any but the one it leads to. */
  readonly from: string | null;
  readonly to: string;
  /** All of them at once. */
  readonly when: readonly Condition[];
  readonly join: {
    readonly kind: 'cut' | 'crossfade' | 'decay';
    /** Frames of the play-through. */
    readonly frames: number;
    readonly meet: Meet;
  };
  /** Where the next state begins: its first frame, the same share of its lap, or the frame that is most alike. */
  readonly entry: 'start' | 'phase' | 'alike';
}

export interface PlayGraph {
  readonly fps: number;
  readonly start: string;
  readonly inputs: readonly PlayInput[];
  readonly states: readonly PlayState[];
  /** Those before others are asked first. */
  readonly ways: readonly Way[];
}

export const WAY_DEFAULTS: Omit<Way, 'id' | 'from' | 'to'> = {
  when: [{ kind: 'ended' }],
  join: { kind: 'decay', frames: 12, meet: 'hips' },
  entry: 'start',
};

/** Items that a state shows. */
export const itemsOf = ({ content }: PlayState): string[] =>
  content.kind === 'item' ? [content.itemId] : content.items.map((i) => i.itemId);

/** What is wrong with a play-through, by the state, way or input it is about. */
export interface PlayFault {
  readonly code: 'no-start' | 'lost' | 'dead-end' | 'unreached' | 'never' | 'empty';
  readonly about: string;
  readonly words: string;
}

/**
 * Looks a play-through over without playing it. A state that nothing leads out of is told, since whoever plays would be stuck
 * there; so are states that nothing leads to, and ways whose state or input is gone.
 */
export function lookOver(graph: PlayGraph): PlayFault[] {
  const faults: PlayFault[] = [];
  const states = new Map(graph.states.map((s) => [s.id, s]));
  const inputs = new Map(graph.inputs.map((i) => [i.id, i]));
  if (!states.has(graph.start))
    faults.push({ code: 'no-start', about: '', words: 'No state is the first one: choose where it begins.' });
  for (const w of graph.ways) {
    if (!states.has(w.to) || (w.from !== null && !states.has(w.from)))
      faults.push({ code: 'lost', about: w.id, words: 'A way leads from or to a state that is gone.' });
    for (const c of w.when) {
      if ('input' in c && !inputs.has(c.input))
        faults.push({ code: 'lost', about: w.id, words: 'A way asks for an input that is gone.' });
      const input = 'input' in c ? inputs.get(c.input) : undefined;
      if (input && ((c.kind === 'above' && c.value >= input.max) || (c.kind === 'below' && c.value <= input.min)))
        faults.push({
          code: 'never',
          about: w.id,
          words: `A way waits for ${input.name} to be ${c.kind} ${c.value}, which it never is.`,
        });
    }
  }
  for (const s of graph.states) {
    if (!graph.ways.some((w) => w.to !== s.id && states.has(w.to) && (w.from === s.id || w.from === null)))
      if (graph.states.length > 1)
        faults.push({ code: 'dead-end', about: s.id, words: `Nothing leads out of ${s.name}.` });
    if (s.content.kind === 'mix' && (s.content.items.length < 2 || !inputs.has(s.content.input)))
      faults.push({
        code: 'empty',
        about: s.id,
        words: `${s.name} needs a number and at least two cycles to mix.`,
      });
  }
  const reached = new Set<string>();
  const visit = (id: string): void => {
    if (reached.has(id) || !states.has(id)) return;
    reached.add(id);
    for (const w of graph.ways) if (w.from === id || w.from === null) visit(w.to);
  };
  visit(graph.start);
  if (states.has(graph.start))
    for (const s of graph.states)
      if (!reached.has(s.id)) faults.push({ code: 'unreached', about: s.id, words: `Nothing leads to ${s.name}.` });
  return faults;
}

/** @throws MotionError 'bad-argument' for a play-through that cannot begin */
export function assertPlayable(graph: PlayGraph): void {
  if (!graph.states.some((s) => s.id === graph.start))
    throw new MotionError('bad-argument', 'The play-through has no first state: add one, and choose where it begins.');
}

/** The same play-through with other items: what is not among them stays. @param items old id → new id */
export function withItems(graph: PlayGraph, items: ReadonlyMap<string, string>): PlayGraph {
  const to = (id: string): string => items.get(id) ?? id;
  return {
    ...graph,
    states: graph.states.map((s) => ({
      ...s,
      content:
        s.content.kind === 'item'
          ? { ...s.content, itemId: to(s.content.itemId) }
          : { ...s.content, items: s.content.items.map((i) => ({ ...i, itemId: to(i.itemId) })) },
    })),
  };
}
