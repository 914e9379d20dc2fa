import {
  importFile,
  type Motion,
  MotionError,
  makeStrip,
  measureThickness,
  motionToJson,
  packMotion,
  retarget,
  rigFromJson,
  rigToJson,
  seeded,
  stripFromBytes,
  stripToBytes,
  suggestWords,
  tune,
  unpackMotion,
  writeGlb,
} from '../index';
import { angleBetweenQuats, axisAngleQuat, mulQuat } from '../math/quat';
import { fillBetween } from '../retarget/envelope';
import type { Figure } from '../rig/figure';
import { buildRig, party, posedRig, wander } from './bodies';
import { walking } from './variants';

// Where input reaches the borders of what is held: what goes in comes out again, or a sentence says why not.

const rig = buildRig();
const n = rig.names.length;

describe('travel by speed', () => {
  const walk = walking();
  const small = party(posedRig(70, 0.6));
  const source = party(walk.rig);

  test('plants, importance and looks told in the source’s frames hold at the same moments of the result', () => {
    const told = retarget(source, walk.motion, source).plants;
    const done = retarget(source, walk.motion, small, {
      travel: 'speed',
      contacts: { plants: told, floor: 0 },
      hands: [{ hand: 'L', keep: 'head', weight: [{ frame: 119, weight: 1 }] }],
      look: [{ point: [0, 1, 5], weight: [{ frame: 119, weight: 1 }] }],
    });
    expect(done.motion.frameCount).toBeLessThan(119);
    const last = done.motion.frameCount - 1;
    done.plants.forEach((p, i) => {
      expect([p.part, p.end <= last, Number.isFinite(done.heights[i]!)]).toEqual([p.part, true, true]);
      expect(p.end / last).toBeCloseTo(told[i]!.end / 119, 1);
    });
  });
});

describe('spikes', () => {
  test.each([100, 180, 260])('a flip by %i degrees for one frame leaves nothing behind', (degrees) => {
    const clean = wander(rig, 60, 3, 60, 0.1);
    const bad = clean.turns.slice();
    const q = [0, 0, 0, 1];
    axisAngleQuat(q, 0, 0, 1, 0, (degrees * Math.PI) / 180);
    const at = 4 * (30 * n + 6);
    mulQuat(bad, at, bad, at, q, 0);
    // signs go on from the flipped frame, as a reader hands them over
    for (let f = 30; f < 60; f++) {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += bad[4 * (f * n + 6) + k]! * bad[4 * ((f - 1) * n + 6) + k]!;
      if (dot < 0) for (let k = 0; k < 4; k++) bad[4 * (f * n + 6) + k] = -bad[4 * (f * n + 6) + k]!;
    }
    const done = tune(party(rig), { ...clean, turns: bad }, [{ op: 'despike' }]);
    for (const f of [29, 30, 31])
      expect(angleBetweenQuats(done.turns, 4 * (f * n + 6), clean.turns, 4 * (f * n + 6))).toBeLessThan(0.05);
  });
});

describe('numbers that no file can hold', () => {
  const motion = wander(rig, 10, 1);

  test('a face shape that is not finite is refused where it comes in, and where it is packed', async () => {
    const json = JSON.stringify(
      motionToJson(rig, [
        { name: 'a', motion: { ...motion, numbers: [{ name: 'smile', values: new Float32Array(10) }] } },
      ]),
    );
    const bad = json.replace('"smile":[0', '"smile":[1e39');
    expect(bad === json).toBe(false);
    await expect(importFile(new TextEncoder().encode(bad), 'x.json')).rejects.toThrow(MotionError);
    const values = new Float32Array(10).fill(Number.POSITIVE_INFINITY);
    expect(() => packMotion(rig, { ...motion, numbers: [{ name: 'smile', values }] })).toThrow(/smile/);
    expect(() => packMotion(rig, { ...motion, numbers: [{ name: 'smile', values: new Float32Array(3) }] })).toThrow(
      /3 numbers; 10 frames need 10/,
    );
  });

  test('a way that reaches too far to be kept is refused, not kept wrong', () => {
    const far = (x: number): Motion => ({
      ...motion,
      places: [{ joint: 0, values: motion.places[0]!.values.map((v) => v + x) }],
    });
    for (const x of [0, 50, 1000]) {
      const back = unpackMotion(packMotion(rig, far(x)));
      for (let o = 0; o < 30; o++)
        expect(Math.abs(back.places[0]!.values[o]! - far(x).places[0]!.values[o]!)).toBeLessThan(6e-4);
    }
    expect(() => packMotion(rig, far(1e8))).toThrow(/too far from the origin/);
  });

  test('a parent that is none is told by its joint', () => {
    const json = rigToJson(rig);
    for (const parent of [65535, 2.7, -2, 5]) {
      const joints = json.joints.map((j, i) => (i === 3 ? { ...j, parent } : j));
      expect(() => rigFromJson({ ...json, joints })).toThrow(/Its parent is/);
    }
  });
});

describe('glTF', () => {
  test('sixty frames a second stay sixty when keys are left out, stated or not', async () => {
    const motion = walking(61).motion;
    const reduced = {
      ...motion,
      // half a second without any change, and a change between
      turns: Float32Array.from(motion.turns, (_, i) => motion.turns[Math.floor(i / (4 * n)) < 31 ? i % (4 * n) : i]!),
    };
    const glb = await writeGlb({ rig, clips: [{ name: 'a', motion: reduced }], keys: 0.001 } as never);
    expect((await importFile(glb, 'a.glb')).clips[0]!.motion.fps).toBe(60);
    const text = new TextDecoder('latin1').decode(glb).replace('"fps":60', '"fpx":60');
    const unstated = Uint8Array.from(text, (c) => c.charCodeAt(0));
    expect((await importFile(unstated, 'a.glb')).clips[0]!.motion.fps).toBe(60);
  });

  test('joints that a clip leaves alone stand as their nodes do, though the skin was bound otherwise', async () => {
    const bound = buildRig();
    const glb = await writeGlb({
      rig: bound,
      figure: tube(bound, 40),
      clips: [{ name: 'a', motion: wander(bound, 5, 1) }],
    });
    const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
    const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length)));
    const node = json.nodes.findIndex((x: { name?: string }) => x.name === 'LeftForeArm');
    const bent = [0, Math.SQRT1_2, 0, Math.SQRT1_2];
    json.nodes[node].rotation = bent;
    json.animations[0].channels = json.animations[0].channels.filter(
      (c: { target: { node: number } }) => c.target.node !== node,
    );
    const body = new TextEncoder().encode(JSON.stringify(json));
    const padded = new Uint8Array(Math.ceil(body.length / 4) * 4).fill(32);
    padded.set(body);
    const out = new Uint8Array(20 + padded.length + (glb.length - 20 - length));
    out.set(glb.subarray(0, 20));
    out.set(padded, 20);
    out.set(glb.subarray(20 + length), 20 + padded.length);
    const view = new DataView(out.buffer);
    view.setUint32(8, out.length, true);
    view.setUint32(12, padded.length, true);
    const file = await importFile(out, 'a.glb');
    const j = file.rig.names.indexOf('LeftForeArm');
    const { turns } = file.clips[0]!.motion;
    expect(angleBetweenQuats(turns, 4 * j, bent, 0)).toBeLessThan(1e-3);
    expect(angleBetweenQuats(file.rig.restR, 4 * j, [0, 0, 0, 1], 0)).toBeLessThan(1e-3);
  });
});

test('a strip of a long way comes back as long as it is', () => {
  const { motion } = walking(120);
  const far: Motion = {
    ...motion,
    places: [{ joint: 0, values: motion.places[0]!.values.map((v, i) => (i % 3 === 2 ? 100 * v : v)) }],
  };
  const strip = makeStrip(rig, party(rig).map, far, [], 0);
  const back = stripFromBytes(stripToBytes(strip));
  const most = Math.max(...strip.places);
  expect(most).toBeGreaterThan(70);
  strip.places.forEach((x, i) => {
    expect(Math.abs(back.places[i]! - x)).toBeLessThan(most / 30000);
  });
  // strips kept before stated no unit
  const old = stripToBytes(makeStrip(rig, party(rig).map, motion, [], 0));
  old[2] = 1;
  new DataView(old.buffer).setFloat32(20, 0, true);
  expect(stripFromBytes(old).places[5]).toBeCloseTo(makeStrip(rig, party(rig).map, motion, [], 0).places[5]!, 2);
});

test('between asked values the nearest holds and fades, in one pass over any length', () => {
  const random = seeded(5);
  const ask = Float64Array.from({ length: 400 }, () => (random() < 0.05 ? random() - 0.5 : Number.NaN));
  const known = [...ask.keys()].filter((f) => !Number.isNaN(ask[f]!));
  const expected = Array.from(ask, (x, f) => {
    if (!Number.isNaN(x)) return x;
    const best = known.reduce((a, b) => (Math.abs(b - f) < Math.abs(a - f) ? b : a), known[0]!);
    const t = Math.min(1, Math.abs(best - f) / 12);
    return ask[best]! * (1 - t * t * (3 - 2 * t));
  });
  fillBetween(ask, 12);
  ask.forEach((x, f) => {
    expect([f, Math.abs(x - expected[f]!) < 1e-12]).toEqual([f, true]);
  });
});

test('a joint that carries hundreds of thousands of skin points is measured as any other', () => {
  const skin = measureThickness(rig, tube(rig, 60_000));
  expect(skin.ahead.every(Number.isFinite)).toBe(true);
  expect(skin.held![rig.names.indexOf('LeftUpLeg')]).toBeCloseTo(1, 3);
});

test('nothing is read off a body that nobody knows', () => {
  const numbers = { ...rig, names: rig.names.map((_, j) => `p${j}`), parents: new Int16Array(n).fill(-1) };
  const still: Motion = { ...wander(rig, 30, 2), places: [] };
  expect(suggestWords(party(numbers), still).words).toEqual([]);
});

/** A tube of skin about the left thigh, of many points. */
function tube(of: typeof rig, rings: number): Figure {
  const joint = of.names.indexOf('LeftUpLeg');
  const count = 4 * rings;
  const positions = new Float32Array(3 * count);
  const joints = new Uint16Array(4 * count);
  const weights = new Float32Array(4 * count);
  for (let i = 0; i < count; i++) {
    const a = ((i % 4) / 4) * 2 * Math.PI;
    positions.set([0.09 + 0.06 * Math.sin(a), 0.5 + 0.4 * (Math.floor(i / 4) / rings), 0.06 * Math.cos(a)], 3 * i);
    joints[4 * i] = joint;
    weights[4 * i] = 1;
  }
  const indices = new Uint32Array(3 * (count - 2));
  for (let i = 0; i + 2 < count; i++) indices.set([i, i + 1, i + 2], 3 * i);
  const material = {
    name: 'm',
    color: [1, 1, 1, 1],
    roughness: 1,
    metallic: 0,
    doubleSided: false,
    image: -1,
  } as const;
  const mesh = { name: 'tube', positions, normals: undefined, uvs: undefined, colors: undefined, joints, weights };
  return { meshes: [{ ...mesh, indices, material: 0, shapes: [] }], materials: [material], images: [] };
}
