import { expect, test } from '@jest/globals';
import { pickFrom } from './contract';

const seen = [
  { joint: 0, x: 10, y: 10, z: 0.9 },
  { joint: 1, x: 10, y: 10, z: 0.5 },
  { joint: 2, x: 14, y: 10, z: 0.2 },
  { joint: 3, x: 10, y: 11, z: 1.2 },
  { joint: 4, x: 60, y: 10, z: 0.5 },
];
const picked = (x: number, y: number, within: number): number[] => pickFrom(seen, x, y, within).map((p) => p.joint);

test('the nearest joint is picked first, in front of what it hides; what is behind the eye or too far is not', () => {
  expect(picked(10, 10, 15)).toEqual([1, 0, 2]);
  expect(picked(14, 10, 15)).toEqual([2, 1, 0]);
  expect(picked(14, 10, 3)).toEqual([2]);
  expect(picked(300, 300, 15)).toEqual([]);
});
