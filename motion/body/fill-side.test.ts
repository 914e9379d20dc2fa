import { type BodyMap, jointOf, mirrorSlot, sideOfSlot } from '../bodymap/slots';
import { buildRig, PLAIN, party, withOddAxes } from '../test/bodies';
import { fillSide } from './fill-side';

const without = (map: BodyMap, side: 'L' | 'R'): BodyMap => ({
  ...map,
  slots: Object.fromEntries(
    Object.entries(map.slots).map(([slot, e]) =>
      sideOfSlot(slot) === side ? [slot, { joint: -1, state: 'missing' as const, why: '' }] : [slot, e],
    ),
  ),
});

test.each([
  ['told apart by names', buildRig()],
  ['told apart by place alone', buildRig(PLAIN, (n) => `j${PLAIN.findIndex(([p]) => p === n)}`)],
  ['with odd axes', withOddAxes(buildRig())],
])('one side is filled from the other, %s', (_, rig) => {
  const { map } = party(buildRig());
  for (const from of ['L', 'R'] as const) {
    const half = without(map, from === 'L' ? 'R' : 'L');
    const done = fillSide(rig, half, from);
    expect(done.missing).toEqual([]);
    for (const slot of Object.keys(map.slots))
      expect([slot, jointOf(done.map, slot)]).toEqual([slot, jointOf(map, slot)]);
    expect(done.filled.every((s) => sideOfSlot(s) !== from)).toBe(true);
  }
});

test('what is sure or empty on purpose stays, and what has no partner is named', () => {
  const rig = buildRig(PLAIN.filter(([n]) => n !== 'RightToe') as never);
  const { map } = party(rig);
  const half = without(map, 'R');
  const set: BodyMap = {
    ...half,
    slots: {
      ...half.slots,
      handR: { joint: rig.names.indexOf('Head'), state: 'sure', why: 'by hand' },
      footR: { joint: -1, state: 'empty', why: 'on purpose' },
    },
  };
  const done = fillSide(rig, set, 'L');
  expect(done.map.slots.handR).toEqual(set.slots.handR);
  expect(done.map.slots.footR).toEqual(set.slots.footR);
  expect(done.missing).toEqual(['toesR']);
});

test('a slot that is empty on purpose is so on the other side too', () => {
  const rig = buildRig();
  const { map } = party(rig);
  const half = without(map, 'R');
  const set = { ...half, slots: { ...half.slots, toesL: { joint: -1, state: 'empty' as const, why: '' } } };
  const done = fillSide(rig, set, 'L');
  expect(done.map.slots[mirrorSlot('toesL')]!.state).toBe('empty');
});
