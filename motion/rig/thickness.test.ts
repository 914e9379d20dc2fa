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
