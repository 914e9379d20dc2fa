import { FINGERS, SIDES, type Side } from '../bodymap/slots';
import { type Mesh, weightDeviation } from '../rig/figure';
import { fingeredFlesh, gloveOf } from '../test/gloves';
import { findFingers } from './fingers';
import { MARK_SLOTS, type Marks } from './marks';
import { rigMesh, stoodUpright } from './rig-mesh';

const TALL = 1.75;
const body = fingeredFlesh(TALL);
const at = (slot: string): [number, number, number] => body.joints[slot]!;
const [left, right] = body.model.meshes.slice(-2) as [Mesh, Mesh];
const whole = { L: left, R: right };
const fingersOf = (side: Side, ...meshes: Parameters<typeof findFingers>[0][number][]) =>
  findFingers(meshes, at(`forearm${side}`), at(`hand${side}`))?.fingers;
const names = (found: ReturnType<typeof fingersOf>) => found?.map((f) => f.name);

describe('fingers by the shape of a hand', () => {
  test.each(SIDES)('all five are found and told apart, %s', (side) => {
    const found = fingersOf(side, whole[side])!;
    expect(names(found)).toEqual(FINGERS);
    for (const { name, joints } of found)
      joints.forEach((p, k) => {
        const off = Math.hypot(...p.map((x, i) => x - at(`${name}${k + 1}${side}`)[i]!));
        expect(off / TALL).toBeLessThan(name === 'thumb' ? 0.02 : 0.01);
      });
  });

  test('a hand of three fingers and a thumb has those that lie next to it', () => {
    expect(names(fingersOf('L', gloveOf(body.joints, 'L', TALL, ['pinky'])))).toEqual(FINGERS.slice(0, 4));
  });

  test.each([
    ['a fist', [...FINGERS]],
    ['a hand that shows its thumb alone', FINGERS.slice(1)],
    ['a hand without its thumb', ['thumb']],
  ])('%s shows none', (_, without) => {
    expect(fingersOf('L', gloveOf(body.joints, 'L', TALL, without))).toBeUndefined();
  });

  test('what lies beside the hand does not count', () => {
    const thigh = body.model.meshes.find((m) => m.name === 'around thighL')!;
    const by = at('handL').map((x, k) => x - at('shinL')[k]!);
    const beside = { ...thigh, positions: thigh.positions.map((x, i) => x + by[i % 3]! + (i % 3 === 2 ? 0.16 : 0)) };
    expect(names(fingersOf('L', beside, whole.L))).toEqual(FINGERS);
  });
});

describe('a skeleton with fingers', () => {
  const { model } = body;
  const { meshes } = model;
  const marks: Marks = Object.fromEntries(MARK_SLOTS.map((s) => [s, at(s)]));
  const rigged = rigMesh(model, marks);
  const glove = (of: typeof rigged, side: Side) => of.figure.meshes[meshes.indexOf(whole[side])]!;
  /** What moves the vertex of a glove that is nearest to a place, strongest first. */
  const movers = (of: typeof rigged, side: Side, place: readonly number[]): [string, number][] => {
    const { positions, joints, weights } = glove(of, side);
    let [near, least] = [0, Number.POSITIVE_INFINITY];
    for (let v = 0; v < positions.length / 3; v++) {
      const d = Math.hypot(...place.map((x, k) => x - positions[3 * v + k]!));
      if (d < least) [near, least] = [v, d];
    }
    return [0, 1, 2, 3]
      .map((k): [string, number] => [of.rig.names[joints[4 * near + k]!]!, weights[4 * near + k]!])
      .filter(([, w]) => w > 0)
      .sort((a, b) => b[1] - a[1]);
  };

  test('both hands get them, in their places of the common body', () => {
    expect(rigged.fingers).toEqual({ L: 5, R: 5 });
    for (const side of SIDES)
      for (const f of FINGERS)
        for (const k of [1, 2, 3])
          expect(rigged.rig.names[rigged.map.slots[`${f}${k}${side}` as 'index1L']?.joint ?? -1]).toBe(
            `${f}${k}${side}`,
          );
    expect(weightDeviation(rigged.figure)).toBeLessThan(1e-5);
  });

  test.each(SIDES)('each tip follows its own finger, and the wrist hardly any, %s', (side) => {
    for (const f of FINGERS) {
      const [joint, weight] = movers(rigged, side, rigged.tips[`${f}3${side}`]!)[0]!;
      expect(joint).toBe(`${f}3${side}`);
      expect(weight).toBeGreaterThan(0.8);
      // the middle of a bone is moved by its finger alone, however near the next one is
      const [a, b] = [rigged.places[`${f}2${side}`]!, rigged.places[`${f}3${side}`]!];
      for (const [name] of movers(
        rigged,
        side,
        a.map((x, k) => (x + b[k]!) / 2),
      ))
        expect(name).toMatch(RegExp(`^${f}`));
    }
    const atWrist = movers(rigged, side, at(`hand${side}`)).filter(([name]) => !/^(hand|forearm)/.test(name));
    expect(atWrist.reduce((sum, [, w]) => sum + w, 0)).toBeLessThan(0.05);
  });

  test('without a wish for fingers the hand moves all of it', () => {
    const plain = rigMesh(model, marks, { fingers: false });
    expect(plain.fingers).toEqual({ L: 0, R: 0 });
    expect(plain.rig.names).toHaveLength(22);
    expect(movers(plain, 'L', rigged.tips.index3L!)[0]![0]).toBe('handL');
  });

  test('they stand upright with the body', () => {
    const lying = meshes.map((m) => ({
      ...m,
      positions: m.positions.map((_, i, all) => 100 * all[i - (i % 3) + ((i + 1) % 3)]!),
    }));
    const turned = Object.fromEntries(
      Object.entries(marks).map(([slot, [x, y, z]]) => [slot, [100 * y, 100 * z, 100 * x]]),
    ) as Marks;
    const up = stoodUpright(rigMesh({ ...model, meshes: lying }, turned));
    const off = up.places.index2L!.map((x, k) => x - rigged.places.index2L![k]!);
    expect(Math.hypot(off[1]!, off[0]!)).toBeLessThan(0.02);
  });
});
