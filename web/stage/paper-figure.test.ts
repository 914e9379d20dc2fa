import { paperOrder } from './paper-figure';

test('what lies nearer is drawn after what lies farther, whole, and before what lies on top of everything', () => {
  expect(paperOrder(2, 0)).toBeGreaterThan(paperOrder(2.01, 0));
  expect(paperOrder(60, 0)).toBeGreaterThan(paperOrder(60.01, 9));
  // a hundred sheets of one lie between it and the next
  const sheet = paperOrder(1.003, 0) - paperOrder(1.003, 1);
  expect(sheet).toBeGreaterThan(90e-12);
  for (const depth of [-3, 0, 100]) {
    expect(paperOrder(depth, 20)).toBeGreaterThan(1);
    expect(paperOrder(depth, 0)).toBeLessThan(2);
  }
});

test('in one plane they keep the order in which they are listed', () => {
  expect(paperOrder(3.0001, 0)).toBe(paperOrder(2.9999, 0));
  expect(paperOrder(3, 0)).toBeGreaterThan(paperOrder(3, 1));
});
