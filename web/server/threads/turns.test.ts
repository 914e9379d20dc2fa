import { Turns } from './turns';

const later = <T>(): { promise: Promise<T>; resolve: (x: T) => void; reject: (e: Error) => void } => {
  let resolve!: (x: T) => void;
  let reject!: (e: Error) => void;
  const promise = new Promise<T>((a, b) => {
    resolve = a;
    reject = b;
  });
  return { promise, resolve, reject };
};
const soon = (): Promise<void> => new Promise((r) => setImmediate(r));

test('one person’s orders run one after another, beside everybody else’s', async () => {
  const turns = new Turns();
  const begun: string[] = [];
  const first = later<string>();
  const order = (name: string, work: Promise<string>) => () => {
    begun.push(name);
    return work;
  };
  const a = turns.take('a', undefined, order('a1', first.promise));
  const second = turns.take('a', undefined, order('a2', Promise.resolve('second')));
  const other = turns.take('b', undefined, order('b1', Promise.resolve('other')));
  expect(await other).toBe('other');
  expect(begun).toEqual(['a1', 'b1']);
  first.reject(new Error('broken'));
  await expect(a).rejects.toThrow('broken');
  // what failed holds nobody up
  expect(await second).toBe('second');
});

test('what is given up while it waits never begins', async () => {
  const turns = new Turns();
  const first = later<number>();
  const one = turns.take('a', undefined, () => first.promise);
  const stop = new AbortController();
  let begun = false;
  const two = turns.take('a', stop.signal, async () => {
    begun = true;
  });
  const refused = expect(two).rejects.toMatchObject({ name: 'AbortError' });
  stop.abort();
  first.resolve(1);
  expect(await one).toBe(1);
  await refused;
  expect(begun).toBe(false);
});

test('so many may wait and no more; when they are done there is room again', async () => {
  const turns = new Turns();
  const gate = later<number>();
  const all = Array.from({ length: 20 }, () => turns.take('a', undefined, () => gate.promise));
  await expect(turns.take('a', undefined, async () => 0)).rejects.toMatchObject({ status: 429, code: 'too-many' });
  expect(await turns.take('b', undefined, async () => 5)).toBe(5);
  gate.resolve(1);
  await Promise.all(all);
  await soon();
  expect(await turns.take('a', undefined, async () => 7)).toBe(7);
});
