import { PLAY, type PlayContent } from '@/documents/play';
import { asPlay } from '@/documents/play-schema';
import {
  asMix,
  changeState,
  keyName,
  movedWay,
  whenWords,
  withInput,
  withoutInput,
  withoutState,
  withState,
  withWay,
} from './play-edits';

const EMPTY: PlayContent = { ...PLAY.empty, name: 'Test', castId: null };
const item = (id: string, kind = 'cycle') => ({ id, name: `Item ${id}`, kind });

/** Two states, the first a cycle and the second a clip. */
function two(): { play: PlayContent; a: string; b: string } {
  const first = withState(EMPTY, item('walk'));
  const second = withState(first.content, item('wave', 'clip'));
  return { play: second.content, a: first.id, b: second.id };
}

describe('edits of a play-through', () => {
  test('the first state is where it begins, and no two lie on one another', () => {
    const { play, a } = two();
    expect(play.start).toBe(a);
    expect(play.states.map((s) => s.repeats)).toEqual([true, false]);
    expect(play.states[0]!.at).not.toEqual(play.states[1]!.at);
    expect(asPlay(play)).toEqual(play);
  });

  test('removing a state takes its ways, and the beginning moves on', () => {
    const { play, a, b } = two();
    const there = withWay(play, a, b);
    const back = withWay(there.content, b, a);
    const left = withoutState(back.content, a);
    expect([left.states.length, left.ways, left.start]).toEqual([1, [], b]);
  });

  test('a way out of what plays once waits for its end, out of a cycle for a press or some seconds', () => {
    const { play, a, b } = two();
    expect(withWay(play, b, a).content.ways[0]!.when).toEqual([{ kind: 'ended' }]);
    expect(withWay(play, a, b).content.ways[0]!.when).toEqual([{ kind: 'after', seconds: 2 }]);
    const { content, id } = withInput(play, 'press');
    expect(withWay(content, a, b).content.ways[0]!.when).toEqual([{ kind: 'pressed', input: id }]);
  });

  test('inputs get keys that are free; without one, its conditions are gone', () => {
    const { play, a, b } = two();
    const one = withInput(play, 'press');
    const other = withInput(one.content, 'press');
    expect(new Set(other.content.inputs.map((i) => i.key)).size).toBe(2);
    const way = withWay(one.content, a, b);
    expect(whenWords(way.content.ways[0]!, way.content.inputs)).toBe('Press 1 pressed');
    const gone = withoutInput(way.content, one.id);
    expect(whenWords(gone.ways[0]!, gone.inputs)).toBe('at the end');
  });

  test('an item becomes a mix by a number, and one again', () => {
    const { play, a } = two();
    const mixed = asMix(play, a, true);
    const state = mixed.states.find((s) => s.id === a)!;
    expect(state.content).toMatchObject({ kind: 'mix', items: [{ value: 0, itemId: 'walk' }] });
    expect(mixed.inputs.map((i) => i.kind)).toEqual(['number']);
    expect(asPlay(mixed)).toEqual(mixed);
    expect(asMix(mixed, a, false).states.find((s) => s.id === a)!.content).toEqual({ kind: 'item', itemId: 'walk' });
  });

  test('ways are asked in an order that can be changed', () => {
    const { play, a, b } = two();
    const first = withWay(play, a, b);
    const second = withWay(first.content, b, a);
    expect(movedWay(second.content, second.id, -1).ways.map((w) => w.id)).toEqual([second.id, first.id]);
    expect(movedWay(second.content, first.id, -1)).toBe(second.content);
    expect(changeState(second.content, a, { speed: 2 }).states.find((s) => s.id === a)!.speed).toBe(2);
  });

  test('keys are told as people know them', () => {
    expect(['KeyW', 'ArrowUp', 'Digit3', 'Space'].map(keyName)).toEqual(['W', '↑', '3', 'Space']);
  });
});
