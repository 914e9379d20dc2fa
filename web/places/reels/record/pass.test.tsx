import { guessBodyMap, standIn } from '@velvet-reel/motion';
import { rigView } from '@/stage/rig-view';
import { rigAnswer } from '@/test/rigs';
import { levelOf, passOf } from './use-pass';
import { labelTargets, padChoices } from './what';

const rig = standIn('A', 1.7);
const party = { rig, map: guessBodyMap(rig) };
const seen = [
  { frame: 4, at: [0, 0] as const, label: null },
  { frame: 5, at: [1, 0.5] as const, label: 'shut' },
];

describe('what was done by hand, as a pass', () => {
  test('a part becomes turns of its joints, and nothing else', () => {
    const pass = passOf(party, { pad: { kind: 'part', part: 'head' }, labels: null }, seen);
    expect(pass.turns.map((t) => t.joint)).toEqual(['neck1', 'head'].filter((j) => rig.names.includes(j)));
    expect(pass.turns[0]!.samples.map((s) => s.frame)).toEqual([4, 5]);
    expect([pass.numbers, pass.labels]).toEqual([[], []]);
  });

  test('a number goes up with the pad, from nothing at its lower edge to all at its upper', () => {
    expect([levelOf([0, -1]), levelOf([0.7, 0]), levelOf([0, 1]), levelOf([0, 4])]).toEqual([0, 0.5, 1, 1]);
    const pass = passOf(party, { pad: { kind: 'number', name: 'smile' }, labels: null }, seen);
    expect(pass.numbers).toEqual([
      {
        name: 'smile',
        samples: [
          { frame: 4, value: 0.5 },
          { frame: 5, value: 0.75 },
        ],
      },
    ]);
  });

  test('labels count from the first key that was pressed', () => {
    const labels = { name: 'eye', words: 'drawings of eye', labels: ['open', 'shut'] };
    const pass = passOf(party, { pad: null, labels }, seen);
    expect(pass.labels).toEqual([{ name: 'eye', samples: [{ frame: 5, label: 'shut' }] }]);
  });
});

test('a body offers its head, its trunk, its arms and its numbers, and nothing to be drawn otherwise', () => {
  const view = rigView(rigAnswer());
  expect(padChoices(view, ['smile']).map((c) => c.value)).toEqual([
    'nothing',
    'head',
    'trunk',
    'armL',
    'armR',
    'number smile',
  ]);
  expect(labelTargets(view.cutout)).toEqual([]);
});
