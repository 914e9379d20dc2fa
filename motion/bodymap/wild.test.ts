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
