import { guessBodyMap } from '../motion/index';
import { buildBody } from './body-spec';
import { CAST } from './cast';
import { HOUSE_NAMES, mirroredNames, renamed, withExtras } from './rig-variants';

/** Every cast member's rig as it might come from somebody else. */
function* variants() {
  for (const member of CAST) {
    const body = buildBody(member.spec, member.seed);
    const truth = new Map([...body.truth].map(([slot, name]) => [slot, body.rig.names.indexOf(name)]));
    for (const house of HOUSE_NAMES) {
      const plain = renamed(body.rig, truth, house);
      yield plain;
      yield withExtras(plain, 3);
      yield withExtras(plain, 7);
      // without side marks in the names there is nothing to swap
      if (!['unnamed', 'numbers only', 'norwegian'].includes(house)) yield mirroredNames(plain);
    }
  }
}

test('rigs nobody prepared: 95 of 100 slots right, and never a wrong one called sure', () => {
  let due = 0;
  let right = 0;
  const sureButWrong: string[] = [];
  for (const { name, rig, truth } of variants()) {
    const map = guessBodyMap(rig);
    for (const [slot, joint] of truth) {
      due++;
      if (map.slots[slot]?.joint === joint) right++;
    }
    for (const [slot, entry] of Object.entries(map.slots))
      if (entry.state === 'sure' && entry.joint >= 0 && truth.get(slot) !== entry.joint)
        sureButWrong.push(`${name}: ${slot} = ${rig.names[entry.joint]}`);
  }
  expect(sureButWrong).toEqual([]);
  expect(right / due).toBeGreaterThan(0.95);
});

test('every slot says why', () => {
  for (const { rig } of variants())
    for (const entry of Object.values(guessBodyMap(rig).slots)) expect(entry.why.length).toBeGreaterThan(3);
});
