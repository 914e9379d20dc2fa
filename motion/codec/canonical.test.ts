import type { Motion } from '../motion/motion';
import { buildRig, wander } from '../test/bodies';
import { canonicalBytes } from './canonical';

describe('canonical bytes', () => {
  const motion: Motion = {
    ...wander(buildRig(), 30),
    numbers: [{ name: 'jaw', values: new Float32Array(30).fill(0.5) }],
    steps: [{ name: 'eye', labels: ['open', 'shut'], values: new Uint16Array(30) }],
  };
  const same = (other: Motion): boolean => Buffer.compare(canonicalBytes(motion), canonicalBytes(other)) === 0;

  test('are the same for the same motion, whatever signs its turns have and however its arrays came about', () => {
    expect(same({ ...motion, turns: motion.turns.map((x) => -x) })).toBe(true);
    expect(
      same({ ...motion, places: motion.places.map((t) => ({ ...t, between: 'line', values: t.values.slice() })) }),
    ).toBe(true);
  });

  test.each<[string, Motion]>([
    ['a turn', { ...motion, turns: motion.turns.map((x, i) => (i === 400 ? x + 1e-3 : x)) }],
    [
      'a place',
      {
        ...motion,
        places: motion.places.map((t) => ({ ...t, values: t.values.map((x, i) => (i === 4 ? x + 1e-4 : x)) })),
      },
    ],
    ['the rate', { ...motion, fps: 59.94 }],
    ['a name', { ...motion, numbers: [{ ...motion.numbers[0]!, name: 'lid' }] }],
    ['a label', { ...motion, steps: [{ ...motion.steps[0]!, labels: ['open', 'half'] }] }],
    ['what shows', { ...motion, steps: [{ ...motion.steps[0]!, values: new Uint16Array(30).fill(1, 12) }] }],
    ['what lies between frames', { ...motion, numbers: [{ ...motion.numbers[0]!, between: 'hold' }] }],
  ])('tell %s that is another', (_, other) => {
    expect(same(other)).toBe(false);
  });
});
