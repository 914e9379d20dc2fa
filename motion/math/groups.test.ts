import { Groups } from './groups';

test('what is joined has one name, the first one’s, however it came together', () => {
  const groups = new Groups(6);
  groups.join(0, 1);
  groups.join(2, 3);
  groups.join(3, 1);
  expect([0, 1, 2, 3].map((i) => groups.nameOf(i))).toEqual([2, 2, 2, 2]);
  expect([4, 5].map((i) => groups.nameOf(i))).toEqual([4, 5]);
  groups.join(5, 5);
  expect(groups.nameOf(5)).toBe(5);
});

test('a long row of joins is walked once', () => {
  const count = 200_000;
  const groups = new Groups(count);
  for (let i = 1; i < count; i++) groups.join(i, i - 1);
  expect(groups.nameOf(0)).toBe(count - 1);
  expect(new Set(Array.from({ length: count }, (_, i) => groups.nameOf(i))).size).toBe(1);
});
