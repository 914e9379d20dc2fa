import { many } from './counts';

test('one stands alone, none and several together, large numbers in groups', () => {
  expect([0, 1, 2, 1534].map((n) => many(n, 'item'))).toEqual(['0 items', '1 item', '2 items', '1,534 items']);
  expect([many(1, 'vertex', 'vertices'), many(13706, 'vertex', 'vertices')]).toEqual(['1 vertex', '13,706 vertices']);
});
