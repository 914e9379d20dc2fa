import { WAY_DEFAULTS, type Way } from '../../../motion/index';
import type { PlayContent } from '../../documents/play';

/**
 * Somebody who waits, walks and runs by a number, and waves: an example to play with and to take apart.
 * @param idOf an item by its name
 */
export function demoPlay(castId: string, idOf: (name: string) => string): PlayContent {
  const state = { speed: 1, repeats: true };
  const joins: Pick<Way, 'join'> = { join: { kind: 'decay', frames: 18, meet: 'hips' } };
  const fades: Pick<Way, 'join'> = { join: { kind: 'crossfade', frames: 15, meet: 'hips' } };
  return {
    name: 'On deck',
    castId,
    fps: 60,
    start: 'waiting',
    inputs: [
      { id: 'go', name: 'Go', kind: 'hold', key: 'KeyW', lessKey: '', pad: 0, min: 0, max: 1 },
      { id: 'wave', name: 'Wave', kind: 'press', key: 'KeyE', lessKey: '', pad: 2, min: 0, max: 1 },
      { id: 'pace', name: 'Pace', kind: 'number', key: 'ArrowUp', lessKey: 'ArrowDown', pad: 1, min: 0, max: 1 },
    ],
    states: [
      {
        ...state,
        id: 'waiting',
        name: 'Waiting',
        at: [40, 60],
        content: { kind: 'item', itemId: idOf('Waiting for the tide') },
      },
      {
        ...state,
        id: 'going',
        name: 'Walk to run',
        at: [360, 60],
        content: {
          kind: 'mix',
          input: 'pace',
          items: [
            { value: 0, itemId: idOf('Deck walk') },
            { value: 1, itemId: idOf('Quay run') },
          ],
        },
      },
      {
        ...state,
        id: 'waving',
        name: 'Wave to shore',
        at: [200, 200],
        repeats: false,
        content: { kind: 'item', itemId: idOf('Wave to shore') },
      },
    ],
    ways: [
      {
        ...WAY_DEFAULTS,
        ...joins,
        id: 'set-off',
        from: 'waiting',
        to: 'going',
        when: [{ kind: 'held', input: 'go', held: true }],
        entry: 'alike',
      },
      {
        ...WAY_DEFAULTS,
        ...joins,
        id: 'halt',
        from: 'going',
        to: 'waiting',
        when: [{ kind: 'held', input: 'go', held: false }],
      },
      {
        ...WAY_DEFAULTS,
        ...fades,
        id: 'greet',
        from: 'waiting',
        to: 'waving',
        when: [{ kind: 'pressed', input: 'wave' }],
      },
      { ...WAY_DEFAULTS, ...fades, id: 'done', from: 'waving', to: 'waiting', when: [{ kind: 'ended' }] },
    ],
  };
}
