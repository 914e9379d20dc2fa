import { type PlayInput, type PlayState, WAY_DEFAULTS, type Way } from '@velvet-reel/motion';
import type { PlayContent } from '@/documents/play';

// What can be done to a play-through, as pure functions from content to content.

export const newId = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(8)), (x) => (x % 36).toString(36)).join('');

/** A box on the board, and how far apart new ones are put. */
export const BOX = { width: 150, height: 46 } as const;
const STEP = { x: 210, y: 90 } as const;
const COLUMNS = 4;

/** The first free place of the board, row by row. */
function freePlace(states: readonly PlayState[]): [number, number] {
  for (let i = 0; ; i++) {
    const at: [number, number] = [30 + STEP.x * (i % COLUMNS), 30 + STEP.y * Math.floor(i / COLUMNS)];
    if (!states.some((s) => Math.abs(s.at[0] - at[0]) < BOX.width && Math.abs(s.at[1] - at[1]) < BOX.height)) return at;
  }
}

/** With a state that shows an item; the first one is where it begins. */
export function withState(
  play: PlayContent,
  item: { readonly id: string; readonly name: string; readonly kind: string },
): { content: PlayContent; id: string } {
  const id = newId();
  const state: PlayState = {
    id,
    name: item.name.slice(0, 120),
    at: freePlace(play.states),
    content: { kind: 'item', itemId: item.id },
    speed: 1,
    repeats: item.kind === 'cycle',
  };
  const start = play.states.some((s) => s.id === play.start) ? play.start : id;
  return { id, content: { ...play, start, states: [...play.states, state] } };
}

/** Without a state and without the ways from and to it. */
export function withoutState(play: PlayContent, id: string): PlayContent {
  const states = play.states.filter((s) => s.id !== id);
  return {
    ...play,
    start: play.start === id ? (states[0]?.id ?? '') : play.start,
    states,
    ways: play.ways.filter((w) => w.from !== id && w.to !== id),
  };
}

export const changeState = (play: PlayContent, id: string, change: Partial<PlayState>): PlayContent => ({
  ...play,
  states: play.states.map((s) => (s.id === id ? { ...s, ...change } : s)),
});

/** With a way between two states; it waits for the end until it is told otherwise. */
export function withWay(play: PlayContent, from: string | null, to: string): { content: PlayContent; id: string } {
  const id = newId();
  const source = play.states.find((s) => s.id === from);
  // what goes round has no end to wait for: a press is asked for where there is one
  const press = play.inputs.find((i) => i.kind === 'press');
  const when: Way['when'] =
    source && !source.repeats
      ? [{ kind: 'ended' }]
      : press
        ? [{ kind: 'pressed', input: press.id }]
        : [{ kind: 'after', seconds: 2 }];
  return { id, content: { ...play, ways: [...play.ways, { ...WAY_DEFAULTS, id, from, to, when }] } };
}

export const changeWay = (play: PlayContent, id: string, change: Partial<Way>): PlayContent => ({
  ...play,
  ways: play.ways.map((w) => (w.id === id ? { ...w, ...change } : w)),
});

export const withoutWay = (play: PlayContent, id: string): PlayContent => ({
  ...play,
  ways: play.ways.filter((w) => w.id !== id),
});

/** A way asked before or after its neighbours. */
export function movedWay(play: PlayContent, id: string, by: -1 | 1): PlayContent {
  const i = play.ways.findIndex((w) => w.id === id);
  const j = i + by;
  if (i < 0 || j < 0 || j >= play.ways.length) return play;
  const ways = [...play.ways];
  [ways[i], ways[j]] = [ways[j]!, ways[i]!];
  return { ...play, ways };
}

const KEYS = ['KeyW', 'KeyE', 'KeyR', 'KeyF', 'KeyC', 'KeyV', 'KeyG', 'KeyT'];

/** With an input of a kind, on a key that is free. */
export function withInput(play: PlayContent, kind: PlayInput['kind']): { content: PlayContent; id: string } {
  const id = newId();
  const taken = new Set(play.inputs.flatMap((i) => [i.key, i.lessKey]));
  const word = { hold: 'Hold', press: 'Press', number: 'Number' }[kind];
  const input: PlayInput = {
    id,
    name: `${word} ${play.inputs.filter((i) => i.kind === kind).length + 1}`,
    kind,
    key: kind === 'number' ? 'ArrowUp' : (KEYS.find((k) => !taken.has(k)) ?? ''),
    lessKey: kind === 'number' ? 'ArrowDown' : '',
    pad: -1,
    min: 0,
    max: 1,
  };
  return { id, content: { ...play, inputs: [...play.inputs, input] } };
}

export const changeInput = (play: PlayContent, id: string, change: Partial<PlayInput>): PlayContent => ({
  ...play,
  inputs: play.inputs.map((i) => (i.id === id ? { ...i, ...change } : i)),
});

/** Without an input: conditions that asked for it are gone, and a way that is left with none waits for the end. */
export function withoutInput(play: PlayContent, id: string): PlayContent {
  return {
    ...play,
    inputs: play.inputs.filter((i) => i.id !== id),
    ways: play.ways.map((w) => {
      const when = w.when.filter((c) => !('input' in c && c.input === id));
      return when.length === w.when.length ? w : { ...w, when: when.length > 0 ? when : [{ kind: 'ended' }] };
    }),
  };
}

/** A mix by a number in place of one item, or the other way round. */
export function asMix(play: PlayContent, id: string, mixed: boolean): PlayContent {
  const state = play.states.find((s) => s.id === id);
  if (!state) return play;
  if (!mixed) {
    const first = state.content.kind === 'mix' ? state.content.items[0]?.itemId : undefined;
    return first ? changeState(play, id, { content: { kind: 'item', itemId: first } }) : play;
  }
  if (state.content.kind === 'mix') return play;
  const known = play.inputs.find((i) => i.kind === 'number');
  const made = known ? { content: play, id: known.id } : withInput(play, 'number');
  const input = made.content.inputs.find((i) => i.id === made.id)!;
  return changeState(made.content, id, {
    repeats: true,
    content: { kind: 'mix', input: input.id, items: [{ value: input.min, itemId: state.content.itemId }] },
  });
}

const KEY_NAMES: Record<string, string> = {
  ArrowUp: '↑',
  ArrowDown: '↓',
  ArrowLeft: '←',
  ArrowRight: '→',
  Space: 'Space',
};

/** A key as people know it. */
export const keyName = (code: string): string => KEY_NAMES[code] ?? code.replace(/^(Key|Digit)/, '');

/** When a way is taken, in words. */
export function whenWords(way: Way, inputs: readonly PlayInput[]): string {
  const name = (id: string): string => inputs.find((i) => i.id === id)?.name ?? 'an input that is gone';
  if (way.when.length === 0) return 'never';
  return way.when
    .map((c) => {
      switch (c.kind) {
        case 'held':
          return `${name(c.input)} ${c.held ? 'held' : 'let go'}`;
        case 'pressed':
          return `${name(c.input)} pressed`;
        case 'above':
        case 'below':
          return `${name(c.input)} ${c.kind} ${c.value}`;
        case 'ended':
          return 'at the end';
        default:
          return `after ${c.seconds} s`;
      }
    })
    .join(' and ');
}
