import { buildRig, party, posedRig, withOddAxes } from '../test/bodies';
import { mapFaults } from './faults';
import { type BodyMap, withSlot } from './slots';

const rig = buildRig();
const { map } = party(rig);
const at = (name: string): number => rig.names.indexOf(name);
const faults = (m: BodyMap) => mapFaults(rig, m).map((f) => [f.slot, f.joint]);

test('a right map has no fault, however the arms hang and the axes stand', () => {
  for (const body of [rig, posedRig(10), posedRig(45, 0.6, true), withOddAxes(rig)]) {
    const own = party(body);
    expect(mapFaults(own.rig, own.map)).toEqual([]);
  }
});

test('a forearm of the other arm does not hang from its upper arm', () => {
  expect(faults(withSlot(map, 'forearmL', at('RightForeArm')))).toEqual([
    ['forearmL', 'RightForeArm'],
    ['handL', 'LeftHand'],
  ]);
});

test('two limbs that were exchanged lie on the other side, told at every part', () => {
  let swapped: BodyMap = map;
  const slots = { ...map.slots };
  for (const part of ['thigh', 'shin', 'foot', 'toes'])
    [slots[`${part}L`], slots[`${part}R`]] = [map.slots[`${part}R`]!, map.slots[`${part}L`]!];
  swapped = { ...map, slots };
  const found = mapFaults(rig, swapped);
  expect(found).toHaveLength(8);
  expect(found.every((f) => f.text.includes('other side'))).toBe(true);
});

test('what is missing is no fault; what hangs further down is held against the last part that is there', () => {
  const without = { ...map, slots: { ...map.slots, forearmL: { joint: -1, state: 'empty' as const, why: '' } } };
  expect(faults(without)).toEqual([]);
  expect(faults(withSlot(without, 'handL', at('LeftFoot')))).toContainEqual(['handL', 'LeftFoot']);
});
