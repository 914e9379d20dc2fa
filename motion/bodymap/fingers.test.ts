import { buildRig, PLAIN } from '../test/bodies';
import { guessBodyMap } from './guess';
import { FINGERS, jointOf } from './slots';

type Spec = (typeof PLAIN)[number][];
/** Across the palm: metres from the wrist outwards and forwards, and the bone's length. */
const AT: Record<string, [out: number, forward: number, bone: number]> = {
  thumb: [0.03, 0.04, 0.03],
  index: [0.09, 0.03, 0.032],
  middle: [0.095, 0.005, 0.035],
  ring: [0.09, -0.02, 0.032],
  pinky: [0.082, -0.042, 0.026],
};

/** The plain body with these fingers of three joints on both hands, in an order that says nothing. */
function withFingers(fingers: readonly string[], name: (finger: string, i: number, side: string) => string) {
  const extra: Spec = [];
  for (const [side, hand, s] of [
    ['Left', 'LeftHand', 1],
    ['Right', 'RightHand', -1],
  ] as const)
    for (const finger of [...fingers].reverse()) {
      const [out, forward, bone] = AT[finger]!;
      for (let i = 1; i <= 3; i++)
        extra.push([
          name(finger, i, side),
          i === 1 ? hand : name(finger, i - 1, side),
          s * (0.7 + out + (i - 1) * bone),
          1.4,
          forward,
        ]);
    }
  return buildRig([...PLAIN, ...extra]);
}
const nameless = (finger: string, i: number, side: string): string =>
  `${side}Chain${FINGERS.indexOf(finger as (typeof FINGERS)[number])}x${i}`;
const named = (finger: string, i: number, side: string): string => `${side}_${finger}_${i}`;

test.each([
  [['middle']],
  [['thumb', 'middle']],
  [['thumb', 'index', 'middle']],
  [['thumb', 'index', 'middle', 'pinky']],
  [[...FINGERS]],
])('fingers without names are told by their place: %j', (fingers) => {
  const rig = withFingers(fingers, nameless);
  const map = guessBodyMap(rig);
  for (const [letter, side] of [
    ['L', 'Left'],
    ['R', 'Right'],
  ] as const)
    for (const finger of fingers)
      for (let i = 1; i <= 3; i++) {
        const slot = `${finger}${i}${letter}`;
        expect([slot, rig.names[jointOf(map, slot)]]).toEqual([slot, nameless(finger, i, side)]);
        expect(map.slots[slot]!.state).toBe('guessed');
      }
});

test('names that speak are believed and said so', () => {
  const rig = withFingers([...FINGERS], named);
  const map = guessBodyMap(rig);
  for (const finger of FINGERS) {
    expect(rig.names[jointOf(map, `${finger}2R`)]).toBe(named(finger, 2, 'Right'));
    expect(map.slots[`${finger}2R`]).toMatchObject({ state: 'sure', why: `its name says ${finger}` });
  }
});

test('a tool in the hand is no finger', () => {
  const rig = withFingers([...FINGERS], nameless);
  const plain = guessBodyMap(rig);
  const spec: Spec = rig.names.map((name, j) => {
    const at = [0, 0, 0];
    for (let k = j; k >= 0; k = rig.parents[k]!) for (let c = 0; c < 3; c++) at[c]! += rig.restT[3 * k + c]!;
    const p = rig.parents[j]!;
    return [name, p < 0 ? null : rig.names[p]!, at[0]!, at[1]!, at[2]!];
  });
  const armed = buildRig([
    ...spec,
    ['Boathook', 'LeftHand', 0.72, 1.4, 0.02],
    ['BoathookTop', 'Boathook', 0.72, 2.6, 0.02],
  ]);
  const map = guessBodyMap(armed);
  for (const finger of FINGERS) expect(jointOf(map, `${finger}1L`)).toBe(jointOf(plain, `${finger}1L`));
});
