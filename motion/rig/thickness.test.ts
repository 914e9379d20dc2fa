import fc from 'fast-check';
import { radiiOf } from '../body/capsules';
import { buildRig, party } from '../test/bodies';
import type { Figure } from './figure';
import { restPose } from './rig';
import { measureThickness, skinFromJson, skinToJson } from './thickness';

const rig = buildRig();
const pose = restPose(rig);
const index = (name: string): number => rig.names.indexOf(name);

/** Tubes of skin around bones, each hanging from the joint that starts it. */
function tubes(...bones: readonly (readonly [from: string, to: string, radius: number])[]): Figure {
  const positions: number[] = [];
  const joints: number[] = [];
  const weights: number[] = [];
  for (const [from, to, radius] of bones) {
    for (let ring = 0; ring <= 20; ring++) {
      for (let i = 0; i < 12; i++) {
        const a = (i / 12) * 2 * Math.PI;
        const [p, q] = [3 * index(from), 3 * index(to)];
        const mix = (k: number): number => pose.p[p + k]! + (ring / 20) * (pose.p[q + k]! - pose.p[p + k]!);
        positions.push(mix(0) + radius * Math.sin(a), mix(1), mix(2) + radius * Math.cos(a));
        joints.push(index(from), index('Hips'), 0, 0);
        weights.push(0.8, 0.2, 0, 0);
      }
    }
  }
  return {
    meshes: [
      {
        name: 'tubes',
        positions: Float32Array.from(positions),
        normals: undefined,
        uvs: undefined,
        colors: undefined,
        joints: Uint16Array.from(joints),
        weights: Float32Array.from(weights),
        indices: new Uint32Array(0),
        material: 0,
        shapes: [],
      },
    ],
    materials: [],
    images: [],
  };
}

const leg = (thigh: number, shin: number): Figure =>
  tubes(['LeftUpLeg', 'LeftLeg', thigh], ['LeftLeg', 'LeftFoot', shin]);

test('the radius of limbs and what a knee rests on are read off the skin', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0.02, max: 0.15, noNaN: true }),
      fc.double({ min: 0.02, max: 0.15, noNaN: true }),
      (t, s) => {
        const skin = measureThickness(rig, leg(t, s));
        expect(skin.around[index('LeftUpLeg')]).toBeCloseTo(t, 3);
        expect(skin.around[index('LeftLeg')]).toBeCloseTo(s, 3);
        // bones lean a little: the front lies a few millimetres off
        expect(Math.abs(skin.ahead[index('LeftLeg')]! - Math.max(t, s))).toBeLessThan(0.005);
      },
    ),
    { numRuns: 20 },
  );
});

test('where no skin tells there is no thickness', () => {
  const skin = measureThickness(rig, leg(0.08, 0.06));
  expect(skin.around[index('RightLeg')]).toBe(0);
  const radii = radiiOf(party(rig), skin);
  expect(radii.kneeL).toBeCloseTo(0.08, 2);
  expect(radii.thighL).toBeCloseTo(0.08, 3);
  expect(radii.kneeR).toBeUndefined();
  expect(radii.thighR).toBeUndefined();
  expect(radiiOf(party(rig), measureThickness(rig, { meshes: [], materials: [], images: [] }))).toEqual({});
});

test('a trunk is as thick as most of its joints, whatever a belt does', () => {
  const skin = measureThickness(rig, tubes(['Hips', 'Spine', 0.3], ['Spine', 'Chest', 0.14], ['Chest', 'Neck', 0.15]));
  expect(radiiOf(party(rig), skin).trunk).toBeCloseTo(0.15, 2);
});

/** A ring of skin at each of some heights between two joints, its points joined by faces; which joint a point hangs from is said. */
function shell(
  heights: number,
  at: (ring: number, angle: number) => [number, number, number],
  owner: (p: number[]) => string,
): Figure {
  const around = 16;
  const positions: number[] = [];
  const joints: number[] = [];
  const weights: number[] = [];
  const faces: number[] = [];
  for (let ring = 0; ring < heights; ring++) {
    for (let i = 0; i < around; i++) {
      const p = at(ring / (heights - 1), (2 * Math.PI * i) / around);
      positions.push(...p);
      joints.push(index(owner(p)), 0, 0, 0);
      weights.push(1, 0, 0, 0);
      if (ring === 0) continue;
      const [a, b] = [ring * around + i, ring * around + ((i + 1) % around)];
      faces.push(a, b, a - around, b, b - around, a - around);
    }
  }
  const [mesh] = tubes().meshes;
  return {
    meshes: [
      {
        ...mesh!,
        positions: Float32Array.from(positions),
        joints: Uint16Array.from(joints),
        weights: Float32Array.from(weights),
        indices: Uint32Array.from(faces),
      },
    ],
    materials: [],
    images: [],
  };
}
const place = (name: string): number[] => [0, 1, 2].map((k) => pose.p[3 * index(name) + k]!);

test('a skirt says nothing of the legs in it, trousers do', () => {
  const [top, bottom] = [place('LeftUpLeg')[1]!, place('LeftFoot')[1]!];
  const knee = place('LeftLeg')[1]!;
  const leg = ([x, y]: number[]): string => `${x! >= 0 ? 'Left' : 'Right'}${y! > knee ? 'UpLeg' : 'Leg'}`;
  const skirt = measureThickness(
    rig,
    shell(30, (t, a) => [0.35 * Math.sin(a), top + t * (bottom - top), 0.35 * Math.cos(a)], leg),
  );
  for (const side of ['Left', 'Right'])
    for (const part of ['UpLeg', 'Leg']) {
      expect(skirt.around[index(side + part)]).toBe(0);
      expect(skirt.ahead[index(side + part)]).toBe(0);
    }
  const x = place('LeftUpLeg')[0]!;
  const trousers = measureThickness(
    rig,
    shell(30, (t, a) => [x + 0.09 * Math.sin(a), top + t * (bottom - top), 0.09 * Math.cos(a)], leg),
  );
  expect(Math.abs(trousers.around[index('LeftUpLeg')]! - 0.09)).toBeLessThan(0.02);
});

test('a wide sleeve hangs from an arm that is no thicker for it', () => {
  const [from, to] = [place('LeftForeArm'), place('LeftHand')];
  const sleeve = measureThickness(
    rig,
    shell(
      12,
      (t, a) => {
        const hangs = Math.cos(a) < -0.3 ? 0.35 : 0.04;
        return [from[0]! + t * (to[0]! - from[0]!), from[1]! + hangs * Math.cos(a), from[2]! + hangs * Math.sin(a)];
      },
      () => 'LeftForeArm',
    ),
  );
  expect(sleeve.around[index('LeftForeArm')]).toBeLessThan(0.08);
  expect(sleeve.around[index('LeftForeArm')]).toBeGreaterThan(0.03);
});

test('a few stray points of skin tell nothing', () => {
  const figure = leg(0.08, 0.06);
  const mesh = figure.meshes[0]!;
  const few = {
    ...mesh,
    positions: mesh.positions.slice(0, 15),
    joints: mesh.joints.slice(0, 20),
    weights: mesh.weights.slice(0, 20),
  };
  const skin = measureThickness(rig, { ...figure, meshes: [few] });
  expect([...skin.around, ...skin.ahead].every((x) => x === 0)).toBe(true);
});

test('goes through its stored form to a tenth of a millimetre', () => {
  const skin = measureThickness(rig, leg(0.0712345, 0.0598765));
  const back = skinFromJson(JSON.parse(JSON.stringify(skinToJson(skin))));
  skin.around.forEach((x, j) => {
    expect(Math.abs(back.around[j]! - x)).toBeLessThan(6e-5);
    expect(Math.abs(back.ahead[j]! - skin.ahead[j]!)).toBeLessThan(6e-5);
  });
});
