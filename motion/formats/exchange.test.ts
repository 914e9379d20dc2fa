import { type Node, WebIO } from '@gltf-transform/core';
import { guessBodyMap } from '../bodymap/guess';
import { largestError } from '../codec/error';
import { MotionError } from '../errors';
import { rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { skeletonsOf, takeMotion, takeSkeleton } from '../motion/skeletons';
import { resample } from '../motion/timing';
import { buildRig, PLAIN, wander, withOddAxes } from '../test/bodies';
import { writeBvh } from './bvh-write';
import { writeCsv } from './csv-write';
import { readGltf } from './gltf-read';
import { writeGlb, writeScene } from './gltf-write';
import { importFile } from './import';
import { applyKeys, KEY_CURVES, keyCount, reduceKeys } from './key-reduce';
import { motionFromJson, motionToJson } from './motion-json';

const rig = withOddAxes(buildRig());
const motion: Motion = {
  ...wander(rig, 60, 3),
  numbers: [{ name: 'smile', values: Float32Array.from({ length: 60 }, (_, f) => f / 60) }],
};

describe('CSV', () => {
  test('a row a frame: world places and turns', () => {
    const lines = writeCsv(rig, motion).trimEnd().split('\r\n');
    expect(lines.length).toBe(61);
    const head = lines[0]!.split(',');
    const row = lines[31]!.split(',').map(Number);
    const hand = rig.names.indexOf('LeftHand');
    const { p, r } = new PoseReader(rig, motion).at(30);
    expect(row[head.indexOf('LeftHand.y')]).toBeCloseTo(p[3 * hand + 1]!, 5);
    expect(row[head.indexOf('LeftHand.qw')]).toBeCloseTo(r[4 * hand + 3]!, 5);
    expect(row[head.indexOf('smile')]).toBeCloseTo(0.5, 5);
    expect(row[1]).toBeCloseTo(0.5, 6);
  });

  test('names are quoted, and none can pass for a formula', () => {
    const odd = { ...rig, names: rig.names.map((n, j) => (j === 0 ? '=HIPS(1),"x"' : n)) };
    expect(writeCsv(odd, motion, { turns: false }).split('\r\n')[0]).toContain(`"'=HIPS(1),""x"".x"`);
  });
});

/** A motion file as somebody might have damaged it. */
interface Loose {
  clips: { turns: unknown[] }[];
}

describe('motion JSON', () => {
  test('comes back as it went', () => {
    const map = guessBodyMap(rig);
    const back = motionFromJson(JSON.parse(JSON.stringify(motionToJson(rig, [{ name: 'a', motion }], map))));
    expect(back.rig.names).toEqual(rig.names);
    expect(back.clips[0]!.name).toBe('a');
    expect(largestError(rig, motion, back.clips[0]!.motion)).toBeLessThan(1e-5);
    expect(back.clips[0]!.motion.numbers[0]!.values[30]).toBeCloseTo(0.5, 6);
    expect(back.map!.slots.handL!.joint).toBe(map.slots.handL!.joint);
  });

  test('sizes, labels and what lies between frames come back, through the one door, too', async () => {
    const full: Motion = {
      ...motion,
      places: motion.places.map((t) => ({ ...t, between: 'curve' })),
      scales: [{ joint: 2, values: Float32Array.from({ length: 180 }, (_, i) => 1 + (i % 3) / 4) }],
      numbers: [{ ...motion.numbers[0]!, between: 'hold' }],
      steps: [{ name: 'eye', labels: ['open', 'shut'], values: Uint16Array.from({ length: 60 }, (_, f) => f % 2) }],
    };
    const text = JSON.stringify(motionToJson(rig, [{ name: 'a', motion: full }]));
    const back = motionFromJson(JSON.parse(text)).clips[0]!.motion;
    expect([back.scales, back.steps]).toEqual([full.scales, full.steps]);
    expect([back.places[0]!.between, back.numbers[0]!.between]).toEqual(['curve', 'hold']);
    const file = await importFile(new TextEncoder().encode(text), 'a.json');
    expect(file.clips[0]!.motion.steps).toEqual(full.steps);
    for (const [bad, why] of [
      [text.replace('"shows":[0,1', '"shows":[0,2'), /label that it does not have/],
      [text.replace('"hold"', '"leap"'), /line, curve, hold/],
      [text.replace('"shows":[0,', '"shows":['), /59 labels; 60/],
    ] as const)
      expect(() => motionFromJson(JSON.parse(bad))).toThrow(why);
  });

  test('is told from glTF and taken in through the one door', async () => {
    const text = JSON.stringify(motionToJson(rig, [{ name: 'a', motion }]));
    const file = await importFile(new TextEncoder().encode(text), 'a.json');
    expect([file.format, file.clips.length]).toEqual(['json', 1]);
  });

  const good = (): Loose => JSON.parse(JSON.stringify(motionToJson(rig, [{ name: 'a', motion }])));
  test.each([
    ['another format', (j: Loose) => ({ ...j, format: 'x' }), /"format"/],
    ['another version', (j: Loose) => ({ ...j, version: 9 }), /Version 9/],
    ['no clips', (j: Loose) => ({ ...j, clips: 5 }), /not a list/],
    ['too few rows', (j: Loose) => ({ ...j, clips: [{ ...j.clips[0], turns: [] }] }), /0 rows; 60 are needed/],
    [
      'a hole in a row',
      (j: Loose) => ({ ...j, clips: [{ ...j.clips[0], turns: j.clips[0]!.turns.map(() => [null]) }] }),
      /numbers/,
    ],
    ['a joint that is not there', (j: Loose) => ({ ...j, clips: [{ ...j.clips[0], places: { Wing: [] } }] }), /not/],
    ['a rate of 0', (j: Loose) => ({ ...j, clips: [{ ...j.clips[0], fps: 0 }] }), /frame rate/],
    ['no object at all', () => [], /object/],
  ])('%s is refused in words', (_, change, message) => {
    expect(() => motionFromJson(change(good()))).toThrow(MotionError);
    expect(() => motionFromJson(change(good()))).toThrow(message);
  });
});

describe('key reduction', () => {
  const slow = wander(rig, 240, 3, 120, 0.3);

  test.each([0.0005, 0.005, 0.03])('within %f m for every point, and far fewer keys', (tolerance) => {
    const counts = KEY_CURVES.map((curves) => {
      const keys = reduceKeys(rig, slow, tolerance, curves);
      expect(largestError(rig, slow, applyKeys(rig, slow, keys))).toBeLessThanOrEqual(tolerance);
      const { kept, of } = keyCount(keys, slow);
      expect(kept / of).toBeLessThan(tolerance < 0.001 ? 0.4 : 0.2);
      return kept;
    });
    const [straight, smooth] = counts as [number, number];
    expect(smooth).toBeLessThan(straight);
  });

  test('keys themselves are what the motion has, first and last among them', () => {
    for (const curves of KEY_CURVES) {
      const keys = reduceKeys(rig, slow, 0.01, curves);
      const got = applyKeys(rig, slow, keys);
      const n = rig.names.length;
      keys.turns.forEach((list, j) => {
        expect([list[0], list.at(-1)]).toEqual([0, slow.frameCount - 1]);
        const at = (m: Motion, f: number): number[] => [...m.turns.subarray(4 * (f * n + j), 4 * (f * n + j) + 4)];
        for (const f of list) expect(at(got, f)).toEqual(at(slow, f));
      });
    }
  });

  test('curves go into a file as cubic splines, and another reader has the motion within the tolerance', async () => {
    const bytes = await writeGlb({
      rig,
      clips: [{ name: 'a', motion: slow }],
      keyTolerance: 0.002,
      keyCurves: 'smooth',
    });
    const document = await new WebIO().readBinary(bytes);
    const samplers = document.getRoot().listAnimations()[0]!.listSamplers();
    expect(samplers.filter((s) => s.getInterpolation() === 'CUBICSPLINE').length).toBeGreaterThan(
      0.8 * samplers.length,
    );
    const { clips } = await readGltf(bytes);
    const back = clips[0]!.motion;
    expect([back.fps, back.frameCount]).toEqual([slow.fps, slow.frameCount]);
    expect(largestError(rig, slow, back)).toBeLessThan(0.0021);
  });

  test('a GLB written so is smaller and reads back within the tolerance', async () => {
    const slow = wander(rig, 120, 3, 60, 0.3);
    const whole = await writeGlb({ rig, clips: [{ name: 'a', motion: slow }] });
    const few = await writeGlb({ rig, clips: [{ name: 'a', motion: slow }], keyTolerance: 0.002 });
    expect(few.length).toBeLessThan(0.7 * whole.length);
    const back = (await readGltf(few)).clips[0]!.motion;
    // whatever rate the reader takes, the same moments show the same body
    const again = resample(rig, back, 60);
    expect(again.frameCount).toBe(slow.frameCount);
    expect(largestError(rig, slow, again)).toBeLessThan(0.004);
    expect(() => reduceKeys(rig, slow, 0)).toThrow(/tolerance/);
  });
});

describe('a scene of several bodies', () => {
  const one = wander(rig, 20, 1, 30);
  const other = wander(rig, 20, 2, 30);
  const shots = Array.from({ length: 20 }, (_, f) => ({
    eye: [Math.sin(f / 5), 1.5, 3] as const,
    target: [0, 1, 0] as const,
    fov: 40,
  }));

  test('each is read back by itself, under a node of its name, and all play in one animation', async () => {
    const bytes = await writeScene({
      name: 'Fog bell',
      bodies: [
        { name: 'Ines', rig, motion: one },
        { name: 'Pip', rig, motion: other },
      ],
      cameras: [{ name: 'quay', shots }],
      fps: 30,
    });
    const root = (await new WebIO().readBinary(bytes)).getRoot();
    expect(root.listAnimations().map((a) => a.getName())).toEqual(['Fog bell']);
    expect(
      root
        .getDefaultScene()!
        .listChildren()
        .map((n) => n.getName()),
    ).toEqual(['Ines', 'Pip', 'quay']);
    // beneath each the whole body, doing what it does
    for (const [i, motion] of [one, other].entries()) {
      const body = root.getDefaultScene()!.listChildren()[i]!;
      const nodes = [...new Set(flatNodes(body))].filter((n) => rig.names.includes(n.getName()));
      expect(nodes.map((n) => n.getName()).sort()).toEqual([...rig.names].sort());
      const hand = rig.names.indexOf('LeftForeArm');
      const channel = root
        .listAnimations()[0]!
        .listChannels()
        .find((c) => nodes.includes(c.getTargetNode()!) && c.getTargetNode()!.getName() === 'LeftForeArm')!;
      const got = channel.getSampler()!.getOutput()!.getElement(7, []);
      const due = [...motion.turns.subarray(4 * (7 * rig.names.length + hand), 4 * (7 * rig.names.length + hand) + 4)];
      got.forEach((x, k) => {
        expect(x).toBeCloseTo(due[k]!, 5);
      });
    }
  });

  test('a camera looks at what it looked at', async () => {
    const bytes = await writeScene({ name: 'x', bodies: [], cameras: [{ name: 'quay', shots }], fps: 30 });
    const root = (await new WebIO().readBinary(bytes)).getRoot();
    const camera = root.listCameras()[0]!;
    expect(camera.getYFov()).toBeCloseTo((40 * Math.PI) / 180, 6);
    const [place, turn] = root
      .listAnimations()[0]!
      .listSamplers()
      .map((s) => s.getOutput()!);
    for (const f of [0, 9, 19]) {
      const eye = place!.getElement(f, []);
      const ahead = [0, 0, 0];
      rotate3(ahead, 0, turn!.getElement(f, []), 0, [0, 0, -1], 0);
      const way = shots[f]!.target.map((x, k) => x - eye[k]!);
      const far = Math.hypot(...way);
      ahead.forEach((x, k) => {
        expect(x).toBeCloseTo(way[k]! / far, 5);
      });
      const up = [0, 0, 0];
      rotate3(up, 0, turn!.getElement(f, []), 0, [0, 1, 0], 0);
      expect(up[1]).toBeGreaterThan(0.5);
    }
  });

  function flatNodes(node: Node): Node[] {
    return [node, ...node.listChildren().flatMap(flatNodes)];
  }
});

describe('several skeletons in one file', () => {
  const two = buildRig([
    ...PLAIN,
    ...PLAIN.map(
      ([name, parent, x, y, z]) => [`B${name}`, parent === null ? null : `B${parent}`, x + 2, y, z] as const,
    ),
  ]);
  const both = wander(two, 20, 1);

  test('each is named, and one can be chosen', async () => {
    expect(skeletonsOf(two).map((s) => s.name)).toEqual(['Hips', 'BHips']);
    const bytes = new TextEncoder().encode(
      writeBvh(two, {
        ...both,
        places: [...both.places, { joint: PLAIN.length, values: both.places[0]!.values }],
      }),
    );
    const all = await importFile(bytes, 'two.bvh');
    expect(all.warnings.join(' ')).toContain('2 skeletons');
    const second = await importFile(bytes, 'two.bvh', { choose: 2 });
    expect(second.rig.names[0]).toBe('BHips');
    expect(second.rig.names.length).toBe(PLAIN.length);
    await expect(importFile(bytes, 'two.bvh', { choose: 3 })).rejects.toThrow(/number 3/);
  });

  test('a skeleton taken alone moves as it did', () => {
    const taken = takeSkeleton(two, PLAIN.length);
    const own = takeMotion(taken, both, two.names.length);
    const a = new PoseReader(two, both).at(13).p;
    const b = new PoseReader(taken.rig, own).at(13).p;
    expect(b[30]).toBeCloseTo(a[3 * PLAIN.length + 30]!, 5);
  });
});
