import { NO_EDITS } from '@velvet-reel/motion';
import { Quaternion, Vector3 } from 'three';
import { heldKey, pulledKey, withKey } from './held';

const HAND = { handle: 'handL' } as const;
const edits = {
  ...NO_EDITS,
  frames: 41,
  corrections: [
    {
      handle: 'handL' as const,
      keys: [
        { frame: 10, move: [0, 0, 0] as const },
        { frame: 20, move: [0.2, 0, 0] as const, turn: [0, 0, Math.sin(0.5), Math.cos(0.5)] as const },
      ],
    },
  ],
};

test('between two keys a pull begins with what lies between', () => {
  expect(heldKey(edits.corrections, HAND, 15).move[0]).toBeCloseTo(0.1, 6);
  expect(2 * Math.asin(heldKey(edits.corrections, HAND, 15).turn[2])).toBeCloseTo(0.5, 5);
  expect(heldKey(edits.corrections, HAND, 40).move).toEqual([0.2, 0, 0]);
  expect(heldKey(edits.corrections, { handle: 'hips' }, 15)).toEqual({ move: [0, 0, 0], turn: [0, 0, 0, 1] });
});

test('a move is added to the offset it began with, its turn stays', () => {
  const start = heldKey(edits.corrections, HAND, 20);
  const key = pulledKey(start, { move: [0, 0.1, 0], turn: [0, 0, 0, 1], from: [0, 0, 0, 1] }, 'move', HAND);
  expect(key.move).toEqual([0.2, 0.1, 0]);
  expect(key.turn).toEqual(start.turn);
});

test('a turn in the world becomes one in the joint’s own frame, so that the joint ends where it was dragged', () => {
  const parent = new Quaternion().setFromAxisAngle(new Vector3(1, 2, 0.5).normalize(), 1.1);
  const before = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), 0.4);
  const world = parent.clone().multiply(before);
  const drag = new Quaternion().setFromAxisAngle(new Vector3(0.3, -1, 2).normalize(), 0.7);
  const key = pulledKey(
    { move: [0, 0, 0], turn: before.toArray() as [number, number, number, number] },
    {
      move: [0, 0, 0],
      turn: drag.toArray() as [number, number, number, number],
      from: world.toArray() as [number, number, number, number],
    },
    'turn',
    { joint: 'LeftHand' },
  );
  const ends = parent.clone().multiply(new Quaternion(...key.turn!));
  expect(Math.abs(ends.dot(drag.clone().multiply(world)))).toBeCloseTo(1, 6);
});

test('keys are set in order, replaced at their frame, and taken away with their track', () => {
  const one = withKey([], HAND, 20, { move: [1, 0, 0] });
  const two = withKey(one, HAND, 5, { move: [2, 0, 0] });
  expect(two[0]!.keys.map((k) => k.frame)).toEqual([5, 20]);
  const again = withKey(two, HAND, 5, { move: [3, 0, 0] });
  expect(again[0]!.keys[0]).toEqual({ frame: 5, move: [3, 0, 0] });
  expect(withKey(withKey(again, HAND, 5, undefined), HAND, 20, undefined)).toEqual([]);
  expect(withKey(two, { joint: 'Head' }, 1, { turn: [0, 0, 0, 1] })).toHaveLength(2);
});
