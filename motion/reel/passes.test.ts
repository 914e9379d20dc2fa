import { standIn } from '../body/stand-in';
import { guessBodyMap } from '../bodymap/guess';
import { correct } from '../layer/correct';
import { turnOffsetAt } from '../layer/offsets';
import { axisAngleQuat, mulQuat } from '../math/quat';
import { PoseReader, restMotion, worldPositions } from '../motion/motion';
import { hold } from '../motion/timing';
import { posedRig } from '../test/bodies';
import { underRoot } from '../test/variants';
import type { ReelMember } from './document';
import { ReelEvaluator } from './evaluate';
import { labelInLane, levelInLane, setLevels } from './levels';
import { jointsOfPart, type Pass, partTurns, writePass } from './passes';

const rig = standIn('A', 1.7);
const party = { rig, map: guessBodyMap(rig) };
const still = hold(rig, restMotion(rig, 30), 0, 59);
const MEMBER: ReelMember = { id: 'm', castId: 'c', order: 1, muted: false, base: [], overlays: [], keys: [] };
const yaw = (degrees: number): [number, number, number, number] => {
  const q = [0, 0, 0, 1];
  axisAngleQuat(q, 0, 0, 1, 0, (degrees * Math.PI) / 180);
  return q as [number, number, number, number];
};
const degreesOf = (q: readonly number[]): number => (2 * Math.asin(q[1]!) * 180) / Math.PI;
const pass = (more: Partial<Pass>): Pass => ({ turns: [], numbers: [], labels: [], ...more });

describe('turns of a part by a pad', () => {
  /** Where the face looks after a pad's turns: ahead, to the left, up. */
  function gaze(p: typeof party, at: [number, number]): number[] {
    const turned = partTurns(p, 'head', at);
    const motion = correct(
      p,
      restMotion(p.rig, 30),
      turned.map(({ joint, turn }) => ({ joint: p.rig.names[joint]!, keys: [{ frame: 0, turn }] })),
    );
    const head = jointsOfPart(p.map, 'head').at(-1)!;
    const [a, b] = [new PoseReader(p.rig, restMotion(p.rig, 30)).at(0).r, new PoseReader(p.rig, motion).at(0).r].map(
      (r) => [...r.subarray(4 * head, 4 * head + 4)],
    );
    const [x, y, z, w] = [-a![0]!, -a![1]!, -a![2]!, a![3]!];
    const [p1, q, r, s] = b!;
    const d = [
      s! * x + p1! * w + q! * z - r! * y,
      s! * y - p1! * z + q! * w + r! * x,
      s! * z + p1! * y - q! * x + r! * w,
      s! * w - p1! * x - q! * y - r! * z,
    ];
    // +Z turned by the difference in the world
    return [
      2 * (d[0]! * d[2]! + d[3]! * d[1]!),
      2 * (d[1]! * d[2]! - d[3]! * d[0]!),
      1 - 2 * (d[0]! ** 2 + d[1]! ** 2),
    ];
  }

  test('the middle is rest; to the right of the picture is the body’s left, up is up', () => {
    expect(gaze(party, [0, 0])[2]).toBeCloseTo(1, 6);
    expect(gaze(party, [1, 0])[0]).toBeGreaterThan(0.9);
    expect(gaze(party, [-1, 0])[0]).toBeLessThan(-0.9);
    expect(gaze(party, [0, 1])[1]).toBeGreaterThan(0.7);
  });

  test.each([
    ['level', posedRig(90)],
    ['hanging', posedRig(5)],
  ])('an arm that is %s at rest is raised from the side, and swung ahead', (_, own) => {
    const who = { rig: own, map: guessBodyMap(own) };
    const n = own.names.length;
    const [upper, hand] = ['LeftArm', 'LeftHand'].map((x) => own.names.indexOf(x)) as [number, number];
    const at = (pad: readonly [number, number]): number[] => {
      const rest = restMotion(own, 1);
      const turns = rest.turns.slice();
      for (const { joint, turn } of partTurns(who, 'armL', pad)) mulQuat(turns, 4 * joint, turns, 4 * joint, turn, 0);
      const p = worldPositions(own, { ...rest, turns }).subarray(0, 3 * n);
      return [0, 1, 2].map((k) => p[3 * hand + k]! - p[3 * upper + k]!);
    };
    const rest = at([0, 0]);
    expect(at([0, 0.5])[1]! - rest[1]!).toBeGreaterThan(0.15);
    expect(at([1, 0])[2]! - rest[2]!).toBeGreaterThan(0.4);
    expect(at([-1, 0])[2]! - rest[2]!).toBeLessThan(-0.4);
    // the other arm is its mirror image
    const other = partTurns(who, 'armR', [0, 0.5]);
    expect(other.map((t) => own.names[t.joint])).toEqual(['RightArm']);
  });

  test('also where the hips hang from a root in an armature', () => {
    const under = underRoot({ rig, motion: restMotion(rig, 30) }).rig;
    const other = { rig: under, map: guessBodyMap(under) };
    expect(gaze(other, [1, 0])[0]).toBeCloseTo(gaze(party, [1, 0])[0]!, 5);
  });
});

describe('writing a pass', () => {
  const head = rig.names[jointsOfPart(party.map, 'head').at(-1)!]!;
  const ramp = Array.from({ length: 21 }, (_, i) => ({ frame: 20 + i, turn: yaw(2 * i) }));
  const written = writePass(MEMBER, pass({ turns: [{ joint: head, samples: ramp }] }), 20, 40);
  const track = written.keys[0]! as {
    joint: string;
    keys: { frame: number; turn?: [number, number, number, number] }[];
  };

  test('keys follow the hand and are few; before and behind it nothing is turned', () => {
    expect(track.keys.length).toBeLessThan(8);
    for (const f of [20, 27, 33, 40]) expect(degreesOf(turnOffsetAt(track.keys, f))).toBeCloseTo(2 * (f - 20), 0);
    for (const f of [0, 15, 45, 100]) expect(degreesOf(turnOffsetAt(track.keys, f))).toBeCloseTo(0, 6);
  });

  test('only what is armed is written: other joints, numbers and labels stay as they were, to the object', () => {
    const before: ReelMember = {
      ...MEMBER,
      keys: [{ joint: rig.names[0]!, keys: [{ frame: 0, turn: yaw(5) }] }],
      numbers: [{ name: 'smile', keys: [{ frame: 3, value: 0.5 }] }],
      labels: [{ name: 'eye', keys: [{ frame: 4, label: 'shut' }] }],
    };
    const after = writePass(before, pass({ turns: [{ joint: head, samples: ramp }] }), 20, 40);
    expect(after.keys[0]).toBe(before.keys[0]);
    expect(after.numbers).toEqual(before.numbers);
    expect(after.labels).toEqual(before.labels);
    expect(after.base).toBe(before.base);
  });

  test('a second pass takes the place of the first between its punches, and nowhere else', () => {
    const second = Array.from({ length: 5 }, (_, i) => ({ frame: 28 + i, turn: yaw(-30) }));
    const twice = writePass(written, pass({ turns: [{ joint: head, samples: second }] }), 28, 32);
    const keys = (twice.keys[0] as typeof track).keys;
    expect(degreesOf(turnOffsetAt(keys, 30))).toBeCloseTo(-30, 3);
    for (const f of [20, 22, 38, 40, 60])
      expect(degreesOf(turnOffsetAt(keys, f))).toBeCloseTo(degreesOf(turnOffsetAt(track.keys, f)), 3);
    expect(keys.map((k) => k.frame)).toEqual([...keys.map((k) => k.frame)].sort((a, b) => a - b));
  });

  test('numbers are thinned within a hair, and let go behind the pass', () => {
    const samples = Array.from({ length: 31 }, (_, i) => ({ frame: 10 + i, value: Math.sin((Math.PI * i) / 30) }));
    const [lane] = writePass(MEMBER, pass({ numbers: [{ name: 'smile', samples }] }), 10, 40).numbers!;
    expect(lane!.keys.length).toBeLessThan(18);
    for (const { frame, value } of samples) expect(Math.abs(levelInLane(lane!, frame)! - value)).toBeLessThan(0.011);
    expect([levelInLane(lane!, 9), levelInLane(lane!, 41)]).toEqual([null, null]);
  });

  test('labels are kept where they change, and what showed behind the pass shows on', () => {
    const before: ReelMember = { ...MEMBER, labels: [{ name: 'eye', keys: [{ frame: 0, label: 'wide' }] }] };
    const samples = [20, 21, 22, 23].map((frame) => ({ frame, label: frame < 22 ? 'half' : 'shut' }));
    const [lane] = writePass(before, pass({ labels: [{ name: 'eye', samples }] }), 20, 23).labels!;
    expect(lane!.keys).toEqual([
      { frame: 0, label: 'wide' },
      { frame: 20, label: 'half' },
      { frame: 22, label: 'shut' },
      { frame: 24, label: 'wide' },
    ]);
  });
});

describe('numbers and labels over a motion', () => {
  const beneath = {
    ...still,
    numbers: [{ name: 'smile', values: new Float32Array(60).fill(0.2) }],
    steps: [{ name: 'eye', labels: ['open', 'shut'], values: new Uint16Array(60).fill(1) }],
  };

  test('count between their keys; where they let go, what lies beneath counts again', () => {
    const out = setLevels(
      beneath,
      [
        {
          name: 'smile',
          keys: [
            { frame: 10, value: 0 },
            { frame: 20, value: 1 },
            { frame: 30, value: null },
          ],
        },
      ],
      [
        {
          name: 'eye',
          keys: [
            { frame: 5, label: 'half' },
            { frame: 8, label: null },
            { frame: 50, label: 'open' },
          ],
        },
      ],
    );
    const smile = out.numbers[0]!.values;
    expect([smile[9], smile[15], smile[25], smile[30]].map((x) => x!.toFixed(2))).toEqual([
      '0.20',
      '0.50',
      '1.00',
      '0.20',
    ]);
    const eye = out.steps[0]!;
    expect([4, 5, 7, 8, 49, 50, 59].map((f) => eye.labels[eye.values[f]!])).toEqual([
      'shut',
      'half',
      'half',
      'shut',
      'shut',
      'open',
      'open',
    ]);
    expect(beneath.steps[0]!.labels).toEqual(['open', 'shut']);
    expect(labelInLane({ name: 'eye', keys: [{ frame: 5, label: 'half' }] }, 4)).toBeNull();
  });

  test('are part of what a member of a reel does', () => {
    const evaluator = new ReelEvaluator(party, 30);
    const member = { ...MEMBER, numbers: [{ name: 'blink', keys: [{ frame: 2, value: 1 }] }] };
    const done = evaluator.evaluate(member, 10, () => undefined);
    expect([...done.motion.numbers[0]!.values]).toEqual([0, 0, 1, 1, 1, 1, 1, 1, 1, 1]);
    expect(evaluator.evaluate({ ...MEMBER }, 10, () => undefined).motion.numbers).toEqual([]);
  });
});
