import { Spent } from './spent';

test('who has had threads for long gives way, and has the same right again after a pause', () => {
  let now = 0;
  const spent = new Spent(() => now);
  expect(spent.much('teo')).toBe(false);
  for (let i = 0; i < 4; i++) {
    now += 1_000;
    spent.add('teo', 1_000);
  }
  expect(spent.much('teo')).toBe(true);
  expect(spent.much('bram')).toBe(false);
  now += 10_000;
  expect(spent.much('teo')).toBe(false);
});

test('many short orders over a long time are not much', () => {
  let now = 0;
  const spent = new Spent(() => now);
  for (let i = 0; i < 500; i++) {
    now += 500;
    spent.add('bram', 50);
    expect(spent.much('bram')).toBe(false);
  }
});

test('one long order is', () => {
  const spent = new Spent(() => 0);
  spent.add('noor', 3_001);
  expect(spent.much('noor')).toBe(true);
});
