import { jointOf } from '../bodymap/slots';
import { PoseReader } from '../motion/motion';
import { retarget } from '../retarget/retarget';
import { buildRig, party } from '../test/bodies';
import { walking } from '../test/variants';
import { writeCsv } from './csv-write';
import { importFile } from './import';
import { looksLikeJointTable, looksLikeNumbers, readJointTable, sampleTable, writeJointTable } from './joint-table';

const walk = walking(90);
const n = walk.rig.names.length;
/** World places of all joints, [frame][joint]. */
const places = Array.from({ length: 90 }, (_, f) => {
  const { p } = new PoseReader(walk.rig, walk.motion).at(f);
  return Array.from({ length: n }, (_, j) => [p[3 * j]!, p[3 * j + 1]!, p[3 * j + 2]!] as const);
});
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
type Point = readonly [number, number, number];

/** A table as somebody else writes it. */
function table(
  heading: (joint: string, axis: string) => string,
  {
    by = ',',
    names = walk.rig.names as readonly string[],
    as = (p: Point): Point => p,
    digits = 5,
    time = 'time',
    hole = (_f: number, _j: number): boolean => false,
  } = {},
): string {
  const number = (x: number): string => (by === ';' ? x.toFixed(digits).replace('.', ',') : x.toFixed(digits));
  const head = [...(time ? [time] : []), ...names.flatMap((name) => ['x', 'y', 'z'].map((a) => heading(name, a)))];
  const rows = places.map((row, f) =>
    [...(time ? [number(f / 60)] : []), ...row.flatMap((p, j) => (hole(f, j) ? ['', '', ''] : as(p).map(number)))].join(
      by,
    ),
  );
  return [head.join(by), ...rows].join('\r\n');
}

/** How far joints of what was read are from where they were, at most, metres, hips on hips. */
async function off(text: string, names: readonly string[] = walk.rig.names): Promise<number> {
  const read = await importFile(bytes(text), 'joints.csv');
  const { rig, clips } = read;
  const reader = new PoseReader(rig, clips[0]!.motion);
  expect(clips[0]!.motion.frameCount).toBe(90);
  let most = 0;
  for (let f = 0; f < 90; f += 7) {
    const { p } = reader.at(f);
    const hips = rig.names.indexOf(names[0]!);
    names.forEach((name, j) => {
      const i = rig.names.indexOf(name);
      // distances to the hips do not depend on how the table's axes lie
      const now = Math.hypot(...[0, 1, 2].map((k) => p[3 * i + k]! - p[3 * hips + k]!));
      const was = Math.hypot(...[0, 1, 2].map((k) => places[f]![j]![k]! - places[f]![0]![k]!));
      most = Math.max(most, Math.abs(now - was));
    });
  }
  return most;
}

describe('a table of joint places', () => {
  test.each([
    ['headed hip.x', table((j, a) => `${j}.${a}`)],
    ['headed hip_X', table((j, a) => `${j}_${a.toUpperCase()}`, { time: 'Time (s)' })],
    ['headed hip Position X', table((j, a) => `${j} Position ${a.toUpperCase()}`)],
    ['headed X hip', table((j, a) => `${a.toUpperCase()} ${j}`)],
    ['headed hipX, by tabs', table((j, a) => `${j}${a.toUpperCase()}`, { by: '\t' })],
    ['with decimal commas', table((j, a) => `${j}.${a}`, { by: ';' })],
    [
      'in millimetres, Z up',
      table((j, a) => `${j}.${a}`, { as: ([x, y, z]) => [1000 * x, -1000 * z, 1000 * y], digits: 2 }),
    ],
    ['with gaps', table((j, a) => `${j}.${a}`, { hole: (f, j) => j > 2 && (f + 3 * j) % 11 === 0 })],
    ['of names above axes', `,${walk.rig.names.map((x) => `${x},,`).join(',')}\n${table((_, a) => a.toUpperCase())}`],
  ])('%s is read as the body that it is of', async (_, text) => {
    expect(await off(text)).toBeLessThan(0.012);
  });

  test('as we write it, it comes back, faces and turns beside the places left aside', async () => {
    const text = writeCsv(walk.rig, walk.motion);
    expect(await off(text)).toBeLessThan(0.002);
    const { map, warnings, heightM } = await importFile(bytes(text), 'walk.csv');
    for (const slot of ['hips', 'handL', 'handR', 'footL', 'footR', 'head', 'thighL', 'forearmR'])
      expect([slot, jointOf(map, slot) >= 0]).toEqual([slot, true]);
    expect(warnings.filter((w) => /left out/.test(w))).toEqual([]);
    expect(heightM).toBeGreaterThan(1.2);
  });

  test('without hips and spine, under the names of a pose finder, it still drives a body', async () => {
    const called: Record<string, string> = {
      left_hip: 'LeftUpLeg',
      right_hip: 'RightUpLeg',
      left_knee: 'LeftLeg',
      right_knee: 'RightLeg',
      left_ankle: 'LeftFoot',
      right_ankle: 'RightFoot',
      left_shoulder: 'LeftArm',
      right_shoulder: 'RightArm',
      left_elbow: 'LeftForeArm',
      right_elbow: 'RightForeArm',
      left_wrist: 'LeftHand',
      right_wrist: 'RightHand',
      head: 'Head',
    };
    const from = Object.values(called).map((name) => walk.rig.names.indexOf(name));
    expect(from).not.toContain(-1);
    const text = [
      ['t', ...Object.keys(called).flatMap((j) => ['x', 'y', 'z'].map((a) => `${j}_${a}`))].join(','),
      ...places.map((row, f) => [f / 60, ...from.flatMap((j) => row[j]!)].map((x) => x.toFixed(4)).join(',')),
    ].join('\n');
    const read = await importFile(bytes(text), 'poses.csv');
    expect(read.warnings.join(' ')).toMatch(/midway between the thighs.*midway between the shoulders/);
    const target = party(buildRig());
    const done = retarget({ rig: read.rig, map: read.map }, read.clips[0]!.motion, target);
    const [a, b] = [new PoseReader(walk.rig, walk.motion), new PoseReader(target.rig, done.motion)];
    const way = ({ p }: { p: Float64Array }, names: readonly string[], one: string, two: string): number[] => {
      const [i, j] = [names.indexOf(one), names.indexOf(two)];
      const v = [0, 1, 2].map((k) => p[3 * j + k]! - p[3 * i + k]!);
      return v.map((x) => x / Math.hypot(...v));
    };
    for (const [one, two] of [
      ['LeftArm', 'LeftForeArm'],
      ['RightForeArm', 'RightHand'],
      ['LeftUpLeg', 'LeftLeg'],
      ['RightLeg', 'RightFoot'],
    ] as const) {
      let worst = 1;
      for (let f = 0; f < 90; f += 9) {
        const [u, v] = [way(a.at(f), walk.rig.names, one, two), way(b.at(f), target.rig.names, one, two)];
        worst = Math.min(
          worst,
          u.reduce((s, x, k) => s + x * v[k]!, 0),
        );
      }
      expect([one, worst > Math.cos((12 * Math.PI) / 180)]).toEqual([one, true]);
    }
  });

  test('columns can be told by number or heading, and the rate with them', async () => {
    const text = table(() => 'value', { time: '' }).replace(/^[^\r]*/, (head) =>
      head
        .split(',')
        .map((_, i) => `c${i + 1}`)
        .join(','),
    );
    const joints = Object.fromEntries(walk.rig.names.map((name, j) => [name, [3 * j + 1, `c${3 * j + 2}`, 3 * j + 3]]));
    const { clips, rig } = await importFile(bytes(text), 'odd.csv', { columns: { joints, fps: 48 } });
    expect([clips[0]!.motion.fps, rig.names.length]).toEqual([48, n]);
    expect(() => readJointTable(bytes(text), { joints: { hips: [1, 2, 999] }, fps: 48 })).toThrow('no column 999');
  });

  test.each([
    ['no rate', table((j, a) => `${j}.${a}`, { time: '' }), 'bad-structure'],
    ['a word for a number', table((j, a) => `${j}.${a}`).replace(/,(-?\d\.\d+),/, ',high,'), 'bad-number'],
    ['headings alone', table((j, a) => `${j}.${a}`).split('\r\n')[0]!, 'wrong-count'],
    ['prose', 'Dear colleague, the takes are on the other disk, sorry, the table is empty.', 'not-this-format'],
  ])('%s is refused with its kind', async (_, text, code) => {
    await expect(importFile(bytes(text), 'joints.csv')).rejects.toMatchObject({ code });
  });
});

describe('tables that nothing names', () => {
  const whole = readJointTable(bytes(table((j, a) => `${j}.${a}`)));
  const bare = table((j, a) => `${j}.${a}`)
    .split('\r\n')
    .slice(1)
    .join('\n');
  const byNumber = Object.fromEntries(walk.rig.names.map((name, j) => [name, [3 * j + 2, 3 * j + 3, 3 * j + 4]]));

  test('are known for numbers, and are neither a list of takes nor a table of joints', () => {
    expect(looksLikeNumbers(bare)).toBe(true);
    expect(looksLikeJointTable(bare)).toBe(false);
    expect(looksLikeNumbers(table((_, a) => `c ${a}`))).toBe(true);
    expect(looksLikeNumbers('file,what,who\na.bvh,walks,Ines\nb.bvh,runs,Tove\nc.bvh,sits,Pip\n')).toBe(false);
    expect(looksLikeNumbers('take,1,2\n3,4,5\n6,7,8\n9,1,2\n')).toBe(false);
  });

  test('are read where their columns are told by number, and not without', async () => {
    await expect(importFile(bytes(bare), 'bare.csv')).rejects.toThrow(/say which columns are which joints/);
    expect((await importFile(bytes(bare), 'bare.csv', { columns: { joints: byNumber, time: 1 } })).format).toBe('csv');
    const read = readJointTable(bytes(bare), { joints: byNumber, time: 1 });
    expect(read).toEqual(whole);
    expect(() => readJointTable(bytes(bare))).toThrow(/no line of headings/);
    expect(() => readJointTable(bytes(bare), { joints: { hips: [2, 3, 999] }, fps: 30 })).toThrow(/no column 999/);
  });

  test('show enough of themselves to be told apart', () => {
    const sample = sampleTable(bytes(bare));
    expect(sample.headings.slice(0, 3)).toEqual(['1', '2', '3']);
    expect(sample).toMatchObject({ rows: 90, time: -1, joints: {} });
    expect(sample.numbers[0]!.slice(1, 4).every((x, k) => Math.abs(x - places[0]![0]![k]!) < 1e-4)).toBe(true);
    const headed = sampleTable(bytes(table((j, a) => `${j}.${a}`, { hole: (f, j) => f === 0 && j === 1 })));
    expect(headed.time).toBe(0);
    expect(headed.joints[walk.rig.names[0]!]).toEqual([1, 2, 3]);
    expect(headed.numbers[0]!.slice(4, 7)).toEqual([Number.NaN, Number.NaN, Number.NaN]);
  });

  test('are handed on with headings that tell, gaps included', () => {
    const gaps = { ...whole, places: whole.places.map((x, i) => (i > 8 && i < 12 ? Number.NaN : x)) };
    const text = writeJointTable(gaps);
    expect(looksLikeJointTable(text)).toBe(true);
    const back = readJointTable(bytes(text));
    expect({ ...back, places: 0 }).toEqual({ ...gaps, places: 0 });
    expect(back.places.map((x) => x + 0)).toEqual(gaps.places.map((x) => x + 0));
  });
});
