import { sampleTable } from '@velvet-reel/motion';
import { axesOf, dotsOf, missing, timeColumn } from './columns';

/** A row of a body with three joints, the first at the floor: x y z of each. */
const JOINTS = [
  [0, 0, 0.1],
  [0.2, 1, 0],
  [-0.3, 1.8, 0],
] as const;
const sampleOf = (row: (f: number) => readonly number[], head?: string) =>
  sampleTable(
    new TextEncoder().encode(
      [...(head ? [head] : []), ...Array.from({ length: 5 }, (_, f) => row(f).join(','))].join('\n'),
    ),
  );

test('joints stand side by side, or all x first; the column of time belongs to none', () => {
  const beside = sampleOf((f) => [f / 30, ...JOINTS.flat()]);
  expect(timeColumn(beside)).toBe(1);
  const dots = dotsOf(beside, 'together', 1);
  expect(dots.map((d) => d.columns)).toEqual([
    [2, 3, 4],
    [5, 6, 7],
    [8, 9, 10],
  ]);
  expect(dots[1]!.places[3]).toEqual([0.2, 1, 0]);
  const apart = sampleOf((f) => [f / 30, ...[0, 1, 2].flatMap((k) => JOINTS.map((j) => j[k]!))]);
  expect(dotsOf(apart, 'apart', 1)[1]).toMatchObject({ columns: [3, 6, 9], label: 'columns 3, 6 and 9' });
  expect(dotsOf(apart, 'apart', 1).map((d) => d.places[0])).toEqual(JOINTS);
});

test('a first column that rises is time only where it is one too many', () => {
  expect(timeColumn(sampleOf((f) => [f, ...JOINTS.flat().slice(1)]))).toBeUndefined();
  expect(timeColumn(sampleOf((f) => [-f, ...JOINTS.flat()]))).toBeUndefined();
  expect(timeColumn(sampleOf(() => [...JOINTS.flat(), 0], 'a,b,c,d,e,f,g,h,i,time'))).toBe(10);
});

test('headings that name joints are kept', () => {
  const named = sampleOf(() => JOINTS.flat(), 'p.x,p.y,p.z,q.x,q.y,q.z,r.x,r.y,r.z');
  expect(dotsOf(named, 'apart', undefined).map((d) => d.label)).toEqual(['p', 'q', 'r']);
});

test('up is where a body is tallest', () => {
  const dots = dotsOf(
    sampleOf(() => JOINTS.flat()),
    'together',
    undefined,
  );
  expect(axesOf(dots, 0)).toEqual({ up: 1, across: 0, ahead: 2 });
});

test('what still lacks is said', () => {
  expect(missing({ head: 1 })).toMatch(/hips are needed/);
  expect(missing({ thighL: 1, thighR: 2 })).toBe('A body needs 4 more joints.');
  expect(missing({ hips: 0, thighL: 1, thighR: 2, shinL: 3, shinR: 4 })).toBe('A body needs 1 more joint.');
  expect(missing({ hips: 0, thighL: 1, thighR: 2, shinL: 3, shinR: 4, head: 5 })).toBeUndefined();
});
