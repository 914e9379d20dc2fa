import { findPairing, guessBodyMap, jointOf, mapFaults, readinessOf, restPose, stanceOf } from '../index';
import { buildRig } from '../test/bodies';
import { fourLegged, legsAndSpineAreSiblings, walking } from '../test/variants';
import { wildBody } from '../test/wild';
import { isMarkerCloud } from './stance';

test('bodies of other trees, names, axes, proportions and helpers: nearly every slot is right, and nothing wrong is sure', () => {
  let [due, right] = [0, 0];
  const wrong: string[] = [];
  for (let seed = 2001; seed <= 2300; seed++) {
    const { rig, truth } = wildBody(seed);
    const map = guessBodyMap(rig);
    for (const [slot, joint] of truth) {
      due++;
      if (map.slots[slot]?.joint === joint) right++;
    }
    for (const [slot, e] of Object.entries(map.slots))
      if (e.state === 'sure' && e.joint >= 0 && truth.get(slot) !== e.joint && !/Twist/.test(slot))
        wrong.push(`${seed} ${slot} ${rig.names[e.joint]}`);
    if (stanceOf(map, restPose(rig)) !== 'upright') wrong.push(`${seed} stands ${stanceOf(map, restPose(rig))}`);
    for (const fault of mapFaults(rig, map)) wrong.push(`${seed} ${fault.text}`);
  }
  expect(wrong).toEqual([]);
  expect(due).toBeGreaterThan(6000);
  expect(right / due).toBeGreaterThanOrEqual(0.98);
});

test('hips that carry the legs alone are a fault, with the names of both joints', () => {
  const { rig } = legsAndSpineAreSiblings(walking(2));
  const map = guessBodyMap(rig);
  expect(mapFaults(rig, map)).toEqual([]);
  const legs = rig.parents[jointOf(map, 'thighL')]!;
  expect(legs).not.toBe(jointOf(map, 'hips'));
  const given = { ...map, slots: { ...map.slots, hips: { ...map.slots.hips!, joint: legs } } };
  const [fault] = mapFaults(rig, given);
  expect(fault).toMatchObject({ slot: 'hips', joint: rig.names[legs] });
  expect(fault!.text).toContain('does not carry');
});

describe('what is no body on two legs says so', () => {
  const said = (rig: ReturnType<typeof fourLegged>): string[] => {
    const map = guessBodyMap(rig);
    return readinessOf(rig, map, findPairing(rig, map), 'other', false).map((r) => r.text);
  };

  test('four legs', () => {
    const rig = fourLegged();
    expect(stanceOf(guessBodyMap(rig), restPose(rig))).toBe('four-legged');
    expect(said(rig)).toContain('It walks on four legs');
    expect(said(wildBody(7).rig)).not.toContain('It walks on four legs');
  });

  test('a grazing animal whose forelegs seem short, since their last bones are taken for hands and paws', () => {
    const at = (name: string, parent: string | null, x: number, y: number, z: number) =>
      [name, parent, x, y, z] as const;
    for (const [hind, fore] of [
      ['r_leg', 'f_leg'],
      ['limb_a', 'limb_b'],
    ]) {
      const rig = buildRig([
        at('main', null, 0, 1.5, -0.5),
        at('back1', 'main', 0, 1.5, 0),
        at('back2', 'back1', 0, 1.55, 0.45),
        at('long_neck', 'back2', 0, 1.9, 0.7),
        at('head', 'long_neck', 0, 2.4, 0.9),
        ...(['left', 'right'] as const).flatMap((side) => {
          const s = side === 'left' ? 0.2 : -0.2;
          const leg = (name: string, from: string, z: number) => [
            at(`${side}_${name}_top`, from, s, 1.4, z),
            at(`${side}_${name}_mid`, `${side}_${name}_top`, s, 0.95, z + 0.06),
            at(`${side}_${name}_low`, `${side}_${name}_mid`, s, 0.45, z - 0.05),
            at(`${side}_${name}_end`, `${side}_${name}_low`, s, 0.08, z),
          ];
          return [...leg(hind!, 'main', -0.5), ...leg(fore!, 'back2', 0.5)];
        }),
      ]);
      const map = guessBodyMap(rig);
      expect(stanceOf(map, restPose(rig))).toBe('four-legged');
      expect(rig.names[jointOf(map, 'thighL')]).toContain(hind);
      expect(rig.names[jointOf(map, 'upperArmL')]).toContain(fore);
    }
  });

  test('markers of a capture', () => {
    const cloud = buildRig(
      Array.from(
        { length: 20 },
        (_, i) => [`M${i}`, i === 0 ? null : 'M0', Math.sin(12.9 * i), 0.1 * i, Math.cos(7.7 * i)] as const,
      ) as never,
    );
    expect(isMarkerCloud(cloud)).toBe(true);
    expect(said(cloud)[0]).toBe('These are markers, not a skeleton');
    expect(guessBodyMap(cloud).warnings.join(' ')).toContain('markers');
    expect(isMarkerCloud(wildBody(7).rig)).toBe(false);
  });
});
