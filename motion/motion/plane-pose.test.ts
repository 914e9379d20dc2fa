import { unpackMotion } from '../codec/decode';
import { packMotion } from '../codec/encode';
import { motionFromJson, motionToJson } from '../formats/motion-json';
import { assertRig } from '../rig/rig';
import { rigFromJson, rigToJson, skeletonFromJson } from '../rig/rig-json';
import { puppet, swing } from '../test/puppet';
import { assertMotion, PoseReader } from './motion';
import { PlaneReader } from './plane-pose';
import { resample, reverse, trim } from './timing';

const rig = puppet();
const motion = swing(rig);
const unscaled = { ...motion, scales: [] };
const grip = rig.parts.find((p) => p.name === 'forearm')!;

describe('a cut-out in its plane', () => {
  test('without scale its joints lie where those of a skeleton would', () => {
    const space = new PoseReader(rig, unscaled);
    const plane = new PlaneReader(rig, unscaled);
    for (const f of [0, 7, 33, 59]) {
      const { p } = space.at(f);
      const frames = plane.read(f / 24);
      for (let j = 0; j < rig.names.length; j++) {
        expect(frames[6 * j + 4]).toBeCloseTo(p[3 * j]!, 6);
        expect(frames[6 * j + 5]).toBeCloseTo(p[3 * j + 1]!, 6);
      }
    }
  });

  test('scale acts along the joint’s own axes and on all that hangs from it', () => {
    const plane = new PlaneReader(rig, motion);
    for (const f of [0, 15, 30.5, 59]) {
      const frames = plane.read(f / 24);
      const [shoulder, elbow] = [6, 12].map((o) => [frames[o + 4]!, frames[o + 5]!]);
      const stretch = 1 + f / 60;
      expect(Math.hypot(elbow![0]! - shoulder![0]!, elbow![1]! - shoulder![1]!)).toBeCloseTo(0.3 * stretch, 5);
    }
    // an upper arm twice as long and no wider: the forearm's frame is sheared with it
    const [a, b, c, d] = plane.read(30 / 24).subarray(12, 16);
    expect(a! * d! - b! * c!).toBeCloseTo(1.5, 5);
  });

  test('points of a part go with its joint', () => {
    const rest = new PlaneReader(rig, { ...unscaled, turns: rig.restR.slice(), frameCount: 1, places: [], steps: [] });
    rest.read(0);
    // the arm hangs from the shoulder at (0.2, 1.2): down 0.3 to the elbow, 0.25 on to the grip, which lies 2 cm to the right
    const [x, y] = rest.pointOf(grip, grip.attachments[0]!.at);
    expect([x, y].map((v) => v.toFixed(5))).toEqual(['0.22000', '0.65000']);
  });
});

describe('what serves any rig serves cut-outs', () => {
  test('tracks of every kind are checked, cut, turned round and resampled, labels exact', () => {
    assertMotion(rig, motion);
    const part = trim(rig, motion, 10, 40);
    expect([...part.steps[0]!.values]).toEqual([...motion.steps[0]!.values.subarray(10, 41)]);
    expect([...reverse(rig, part).steps[0]!.values]).toEqual([...part.steps[0]!.values].reverse());
    expect(new Set(resample(rig, motion, 60).steps[0]!.values)).toEqual(new Set([0, 1, 2]));
  });

  test('packed, its points stay within half a millimetre and its labels are the same', () => {
    const back = unpackMotion(packMotion(rig, motion));
    expect([...back.steps[0]!.values]).toEqual([...motion.steps[0]!.values]);
    const [a, b] = [new PlaneReader(rig, motion), new PlaneReader(rig, back)];
    let worst = 0;
    for (let f = 0; f < motion.frameCount; f++) {
      a.read(f / 24);
      b.read(f / 24);
      const [p, q] = [a.pointOf(grip, grip.attachments[0]!.at), b.pointOf(grip, grip.attachments[0]!.at)];
      worst = Math.max(worst, Math.hypot(p[0] - q[0], p[1] - q[1]));
    }
    // the arm is up to twice as long as what the bound was told for
    expect(worst).toBeLessThan(0.001);
  });

  test('rig and motion go through JSON', () => {
    const back = rigFromJson(JSON.parse(JSON.stringify(rigToJson(rig))));
    expect(back.kind === 'cutout' && back.parts).toEqual(rig.parts);
    expect(() => skeletonFromJson(rigToJson(rig))).toThrow('this is a cut-out');
    const whole = motionFromJson(JSON.parse(JSON.stringify(motionToJson(rig, [{ name: 'swing', motion }]))));
    expect(whole.rig.kind).toBe('cutout');
    expect(whole.clips[0]!.motion.steps).toEqual(motion.steps);
  });
});

describe('a cut-out that is not one', () => {
  const { joints, parts } = rigToJson(rig) as Extract<ReturnType<typeof rigToJson>, { kind: 'cutout' }>;
  /** The rig with one joint or part changed. */
  const spoil = (what: 'joints' | 'parts', at: number, change: object): unknown => ({
    ...rigToJson(rig),
    [what]: (what === 'joints' ? joints : parts).map((x, i) => (i === at ? { ...x, ...change } : x)),
  });
  test.each<[string, string, unknown]>([
    ['stands out of its plane', 'out of its plane', spoil('joints', 1, { place: [0, 0, 0.1] })],
    ['tilts out of its plane', 'out of its plane', spoil('joints', 3, { turn: [0.6, 0, 0, 0.8] })],
    ['has two parts of one name', 'Two parts', spoil('parts', 1, { name: 'trunk' })],
    ['hangs a part on nothing', 'joint 9', spoil('parts', 1, { joint: 9 })],
    ['shows nothing', 'no drawing', spoil('parts', 2, { drawings: [] })],
    ['has no pivot', '"coat" needs', spoil('parts', 3, { pivot: [1] })],
    ['has no parts', 'list of parts', { ...rigToJson(rig), parts: 3 }],
  ])('%s', (_, says, json) => {
    expect(() => rigFromJson(json)).toThrow(says);
  });

  test('a point that is no number', () => {
    const lost = rig.parts.map((p) => ({ ...p, pivot: [Number.NaN, 0] as const }));
    expect(() => assertRig({ ...rig, parts: lost })).toThrow('not two finite numbers');
  });
});
