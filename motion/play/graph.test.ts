import { SaxesParser } from 'saxes';
import { assertPlayable, itemsOf, lookOver, type PlayGraph, WAY_DEFAULTS, type Way, withItems } from './graph';
import { writeScxml } from './scxml';

const state = (id: string, itemId = id): PlayGraph['states'][number] => ({
  id,
  name: `State ${id}`,
  at: [0, 0],
  content: { kind: 'item', itemId },
  speed: 1,
  repeats: true,
});
const way = (id: string, from: string | null, to: string, when: Way['when'] = [{ kind: 'ended' }]): Way => ({
  ...WAY_DEFAULTS,
  id,
  from,
  to,
  when,
});
const GRAPH: PlayGraph = {
  fps: 60,
  start: 'a',
  inputs: [
    { id: 'k', name: 'Jump <now>', kind: 'press', key: 'Space', lessKey: '', pad: 0, min: 0, max: 1 },
    { id: 'n', name: 'Speed', kind: 'number', key: 'ArrowUp', lessKey: 'ArrowDown', pad: 1, min: 0, max: 2 },
    { id: 'h', name: 'Speed', kind: 'hold', key: 'KeyW', lessKey: '', pad: -1, min: 0, max: 1 },
  ],
  states: [
    state('a'),
    state('b'),
    {
      ...state('m'),
      content: {
        kind: 'mix',
        input: 'n',
        items: [
          { value: 0, itemId: 'slow' },
          { value: 2, itemId: 'fast' },
        ],
      },
    },
  ],
  ways: [
    way('1', 'a', 'm', [
      { kind: 'above', input: 'n', value: 0.5 },
      { kind: 'held', input: 'h', held: false },
    ]),
    way('2', 'm', 'a', [{ kind: 'below', input: 'n', value: 0.5 }]),
    way('3', null, 'b', [{ kind: 'pressed', input: 'k' }]),
    way('4', 'b', 'a', [{ kind: 'ended' }, { kind: 'after', seconds: 1 }]),
  ],
};
const codes = (graph: PlayGraph): string[] => lookOver(graph).map((f) => `${f.code} ${f.about}`);

describe('looking a play-through over', () => {
  test('one that is whole has no faults', () => {
    expect(lookOver(GRAPH)).toEqual([]);
    expect(() => assertPlayable(GRAPH)).not.toThrow();
  });

  test('a state that nothing leads out of, and one that nothing leads to', () => {
    expect(codes({ ...GRAPH, ways: GRAPH.ways.filter((w) => w.id !== '4' && w.id !== '1') })).toEqual([
      'dead-end b',
      'unreached m',
    ]);
    // a single state is a loop, and enough
    expect(codes({ ...GRAPH, states: [state('a')], ways: [] })).toEqual([]);
  });

  test('states and inputs that are gone', () => {
    expect(codes({ ...GRAPH, inputs: GRAPH.inputs.filter((i) => i.id !== 'n') })).toEqual([
      'lost 1',
      'lost 2',
      'empty m',
    ]);
    expect(codes({ ...GRAPH, states: GRAPH.states.filter((s) => s.id !== 'b') })).toEqual(['lost 3', 'lost 4']);
    expect(codes({ ...GRAPH, start: 'gone' })).toEqual(['no-start ']);
    expect(() => assertPlayable({ ...GRAPH, start: 'gone' })).toThrow(/choose where it begins/);
  });

  test('numbers that are never reached', () => {
    const never: PlayGraph = {
      ...GRAPH,
      ways: [...GRAPH.ways, way('5', 'a', 'b', [{ kind: 'above', input: 'n', value: 2 }])],
    };
    expect(codes(never)).toEqual(['never 5']);
    expect(lookOver(never)[0]!.words).toContain('above 2');
  });
});

test('items are redirected, those of mixes too, and others stay', () => {
  const copy = withItems(
    GRAPH,
    new Map([
      ['a', 'a2'],
      ['fast', 'fast2'],
    ]),
  );
  expect(copy.states.flatMap(itemsOf)).toEqual(['a2', 'b', 'slow', 'fast2']);
  expect(GRAPH.states.flatMap(itemsOf)).toEqual(['a', 'b', 'slow', 'fast']);
  expect(copy.ways).toBe(GRAPH.ways);
});

describe('SCXML', () => {
  const xml = writeScxml(GRAPH, 'On “deck” & ashore', (id) => `clip ${id}'s`);

  /** Elements with their attributes, by an XML parser that knows nothing of states. */
  function elements(): { name: string; attributes: Record<string, string> }[] {
    const out: { name: string; attributes: Record<string, string> }[] = [];
    const parser = new SaxesParser({ xmlns: true });
    parser.on('error', (e) => {
      throw e;
    });
    parser.on('opentag', (t) =>
      out.push({
        name: t.local,
        attributes: Object.fromEntries(Object.entries(t.attributes).map(([k, a]) => [k, a.value])),
      }),
    );
    parser.write(xml).close();
    return out;
  }
  const all = elements();
  const of = (name: string) => all.filter((e) => e.name === name).map((e) => e.attributes);

  test('is well-formed XML with one initial state and a state each', () => {
    expect(of('scxml')[0]).toMatchObject({ initial: 'State_a', version: '1.0', name: 'On “deck” & ashore' });
    expect(of('state').map((s) => s.id)).toEqual(['State_a', 'State_b', 'State_m']);
  });

  test('inputs of one name are told apart; presses are events, the rest is data', () => {
    expect(of('data').map((d) => d.id)).toEqual(['Speed', 'Speed_2']);
    expect(of('transition').some((t) => t.event === 'press.Jump_now')).toBe(true);
  });

  test('ways keep their order, conditions and joins, and one from any state is in every other', () => {
    const transitions = of('transition');
    expect(transitions.map((t) => t.target)).toEqual(['State_m', 'State_b', 'State_a', 'State_a', 'State_b']);
    expect(transitions[0]).toMatchObject({
      cond: 'Speed > 0.5 && !Speed_2',
      'play:join': 'decay',
      'play:frames': '12',
    });
    expect(transitions[2]).toMatchObject({ event: 'clip.ended', cond: '_event.data.seconds >= 1' });
    const ids = new Set(of('state').map((s) => s.id));
    expect(transitions.every((t) => ids.has(t.target!))).toBe(true);
  });

  test('clips are named in quotes that hold', () => {
    expect(of('log').map((l) => l.expr)).toContain("'clip a\\'s'");
  });
});
