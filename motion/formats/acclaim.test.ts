import { MotionError } from '../errors';
import { PoseReader } from '../motion/motion';
import { amc, asf, BONES, bytes } from '../test/acclaim';
import { readAmc } from './amc-read';
import { readAsf } from './asf-read';
import { importFile } from './import';

describe('ASF', () => {
  test('bones start where their parents end, in file units', () => {
    const { rig, bones } = readAsf(asf());
    expect(rig.names.length).toBe(BONES.length + 1);
    const tibia = rig.names.indexOf('ltibia');
    expect(rig.names[rig.parents[tibia]!]).toBe('lfemur');
    expect(rig.restT[3 * tibia + 1]).toBeCloseTo(-7 / 0.45, 4);
    expect(bones[tibia]!.dof).toBe('X');
    expect(rig.tips[3 * rig.names.indexOf('lhand')]).toBeCloseTo(1 / 0.45, 4);
  });

  test.each([
    ['empty', () => new Uint8Array(), /empty/],
    ['another format', () => bytes('HIERARCHY'), /:version/],
    [
      'a bone that is never ended',
      () => asf((t) => t.slice(0, t.indexOf(':hierarchy')).replace(/ {2}end\n$/, '')),
      /never ended/,
    ],
    [
      'a length that is no number',
      () => asf((t) => t.replace('length 7\n', 'length long\n')),
      /"long" is not a number/,
    ],
    [
      'a child that is no bone',
      () => asf((t) => t.replace('root lhipjoint', 'root lhipjoint tail')),
      /"tail", which is not a bone/,
    ],
    ['a bone with two parents', () => asf((t) => t.replace('    thorax ', '    thorax lfemur ')), /has two parents/],
    ['an unknown degree of freedom', () => asf((t) => t.replace('dof rx\n', 'dof rq\n')), /degree of freedom/],
    ['no bones', () => bytes(':version 1\n:root\n'), /no bones/],
  ])('%s is refused in words', (_, make, message) => {
    expect(() => readAsf(make())).toThrow(MotionError);
    expect(() => readAsf(make())).toThrow(message);
  });
});

describe('AMC', () => {
  const skeleton = readAsf(asf());

  test('a turn acts about the bone’s own axes', () => {
    // the axis frame of the femur is turned 20° about z: its x turn swings the leg about that tilted axis
    const motion = readAmc(amc(['root 0 17 0 0 0 0', 'root 0 17 0 0 0 0\nlfemur 90 0 0']), skeleton);
    const j = skeleton.rig.names.indexOf('lfemur');
    const knee = skeleton.rig.names.indexOf('ltibia');
    const { p } = new PoseReader(skeleton.rig, motion).at(1);
    const d = [0, 1, 2].map((k) => (p[3 * knee + k]! - p[3 * j + k]!) * (0.45 / 7));
    // (0,−1,0) turned 90° about (cos 20°, sin 20°, 0)
    const [c, s] = [Math.cos(Math.PI / 9), Math.sin(Math.PI / 9)];
    const expected = [c * -s, s * -s, -c];
    d.forEach((x, k) => {
      expect(x).toBeCloseTo(expected[k]!, 4);
    });
    expect(motion.places[0]!.values[1]).toBeCloseTo(17 / 0.45, 3);
  });

  test('the pair comes in through the one door: metres, upright, mapped', async () => {
    const file = await importFile(amc(['root 0 17 0 0 0 0', 'root 0 17 1 0 0 0']), 'walk.amc', { skeleton: asf() });
    expect([file.format, file.clips[0]!.name, file.clips[0]!.motion.fps]).toEqual(['amc', 'walk', 120]);
    expect(file.heightM).toBeGreaterThan(1.2);
    expect(file.heightM).toBeLessThan(2.2);
    expect(file.rig.found.upAxis).toBe('+Y');
    expect(file.rig.names[file.map.slots.shinL!.joint]).toBe('ltibia');
    expect(file.rig.names[file.map.slots.forearmR!.joint]).toBe('rradius');
    await expect(importFile(amc(['root 0 0 0 0 0 0']), 'walk.amc')).rejects.toThrow(/ASF/);
  });

  test.each([
    ['no frames', bytes(':DEGREES\n'), /no frames/],
    ['a bone before the first frame', bytes('root 0 0 0 0 0 0\n1\n'), /before the first frame/],
    ['a bone that is not there', amc(['root 0 0 0 0 0 0\nwing 1']), /"wing"/],
    ['too few numbers', amc(['root 0 0 0 0 0']), /5 numbers; it needs 6/],
    ['NaN', amc(['root 0 0 0 0 0 NaN']), /"NaN" is not a number/],
  ])('%s is refused in words', (_, data, message) => {
    expect(() => readAmc(data, skeleton)).toThrow(message);
  });
});
