import { takeStream } from './streams';

test('a person has so many places at the live stream; one that is left is free again, and counts once', () => {
  const leave = Array.from({ length: 20 }, () => takeStream('a'));
  expect(() => takeStream('a')).toThrow('20 pages');
  takeStream('b')();
  leave[0]!();
  leave[0]!();
  takeStream('a');
  expect(() => takeStream('a')).toThrow('20 pages');
});
