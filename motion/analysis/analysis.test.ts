import { MotionError } from '../errors';
import { PoseReader } from '../motion/motion';
import { party, posedRig, wander } from '../test/bodies';
import { readFacts } from './facts';
import { makeStrip } from './strip';
import { stripFromBytes, stripToBytes } from './strip-bytes';
import { StripPoser } from './strip-poser';

const { rig, map } = party(posedRig(45, 1, true));
const motion = wander(rig, 200);

describe('strip', () => {
  const { contacts } = readFacts(rig, map, motion);
  const strip = makeStrip(rig, map, motion, contacts.plants, contacts.floor);

  test('is a few kilobytes and comes back whole', () => {
    const bytes = stripToBytes(strip);
    expect(bytes.length).toBeLessThan(8000);
    const back = stripFromBytes(bytes);
    expect([...back.frames]).toEqual([...strip.frames]);
    expect(back.poses).toEqual(strip.poses);
    expect(back.plants).toEqual(strip.plants);
    back.turns.forEach((x, i) => {
      const whole = strip.turns.subarray(i - (i % 4), i - (i % 4) + 4);
      const other = back.turns.subarray(i - (i % 4), i - (i % 4) + 4);
      const dot = whole.reduce((sum, w, k) => sum + w * other[k]!, 0);
      expect(Math.abs(dot)).toBeGreaterThan(0.99998);
      expect(Number.isFinite(x)).toBe(true);
    });
  });

  test('put on its own rig it stands as the motion does', () => {
    const poser = new StripPoser(rig, map);
    const reader = new PoseReader(rig, motion);
    for (const s of strip.poses) {
      const drawn = poser.at(strip, s).p.slice();
      const real = reader.at(strip.frames[s]!).p;
      const hand = rig.names.indexOf('LeftHand');
      const hips = rig.names.indexOf('LeftUpLeg');
      const heading = (p: Float64Array): number =>
        Math.hypot(p[3 * hand]! - p[3 * hips]!, p[3 * hand + 2]! - p[3 * hips + 2]!);
      expect(heading(drawn)).toBeCloseTo(heading(real), 1);
      expect(drawn[3 * hand + 1]! - drawn[3 * hips + 1]!).toBeCloseTo(real[3 * hand + 1]! - real[3 * hips + 1]!, 1);
    }
  });

  test('put on a smaller body it is smaller', () => {
    const small = party(posedRig(90, 0.5));
    const head = (poser: StripPoser): number => poser.at(strip, 10).p[3 * rig.names.indexOf('Head') + 1]!;
    expect(head(new StripPoser(small.rig, small.map)) / head(new StripPoser(rig, map))).toBeCloseTo(0.5, 1);
  });

  test.each([
    ['nothing', new Uint8Array(0)],
    ['a cut strip', stripToBytes(strip).slice(0, 500)],
    ['other bytes', new Uint8Array(400).fill(7)],
  ])('refuses %s', (_, bytes) => {
    expect(() => stripFromBytes(bytes)).toThrow(MotionError);
  });

  test('a pose is a strip of one', () => {
    const pose = makeStrip(rig, map, wander(rig, 1), [], 0);
    expect(pose.poses).toEqual([0]);
    expect(stripFromBytes(stripToBytes(pose)).frameCount).toBe(1);
  });
});

describe('facts', () => {
  test('duration, travel and moving joints', () => {
    const { facts } = readFacts(rig, map, motion);
    expect(facts.durationS).toBeCloseTo(199 / 60, 6);
    expect(facts.travelM).toBeCloseTo((0.8 * 199) / 60, 1);
    expect(facts.inPlace).toBe(false);
    expect(facts.movingJoints).toBe(rig.names.length);
    expect(facts.loops).toBe(false);
  });

  test('a motion that comes back to its start loops', () => {
    const back = wander(rig, 100);
    const n = 4 * rig.names.length;
    back.turns.copyWithin(99 * n, 0, n);
    expect(readFacts(rig, map, back).facts.loops).toBe(true);
  });

  test('a motion that holds still moves nothing and does not loop', () => {
    const still = { ...wander(rig, 50), turns: new Float32Array(50 * 4 * rig.names.length) };
    for (let f = 0; f < 50; f++) still.turns.set(rig.restR, f * 4 * rig.names.length);
    const { facts } = readFacts(rig, map, still);
    expect(facts.movingJoints).toBe(0);
    expect(facts.loops).toBe(false);
  });
});
