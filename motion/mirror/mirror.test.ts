import fc from 'fast-check';
import { findContacts, soleTracks } from '../analysis/plants';
import { measureBody } from '../body/body';
import { findPairing, mirrorTrouble } from '../body/pairing';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { largestError } from '../codec/error';
import { cutoutFromSvg } from '../cutout/assemble';
import { driveCutout } from '../cutout/drive';
import { angleBetweenQuats } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import { asSkeleton } from '../rig/flat';
import { buildRig, PLAIN, posedRig, wander, withOddAxes } from '../test/bodies';
import { paperFigure, paperTraits } from '../test/paper';
import { walking } from '../test/variants';
import { mirror } from './mirror';

const rigs = { plain: buildRig(), 'odd axes': withOddAxes(buildRig()), 'A pose, odd': posedRig(40, 1, true) };

describe('pairing', () => {
  test.each(Object.entries(rigs))('%s: every joint is paired or in the centre', (_, rig) => {
    const pairing = findPairing(rig, guessBodyMap(rig));
    expect(pairing.unpaired).toEqual([]);
    for (const { left, right } of pairing.pairs)
      expect(rig.names[right]).toBe(rig.names[left]!.replace('Left', 'Right'));
    expect(pairing.centre.map((j) => rig.names[j])).toContain('Hips');
    expect(2 * pairing.pairs.length + pairing.centre.length).toBe(rig.names.length);
  });

  test('joints that no slot knows are paired by name, or by place where names say nothing; the odd one is listed', () => {
    const rig = buildRig([
      ...PLAIN,
      ['pouch_l', 'Hips', 0.15, 0.9, 0.05],
      ['pouch_r', 'Hips', -0.15, 0.9, 0.05],
      ['knob a', 'Spine2', 0.1, 1.3, 0.1],
      ['knob b', 'Spine2', -0.1, 1.3, 0.1],
      ['lantern', 'Hips', 0.3, 0.9, 0],
    ]);
    const pairing = findPairing(rig, guessBodyMap(rig));
    const by = (name: string) => pairing.pairs.find((p) => rig.names[p.left] === name)?.by;
    expect([by('pouch_l'), by('knob a')]).toEqual(['name', 'place']);
    expect(pairing.unpaired.map((j) => rig.names[j])).toEqual(['lantern']);
  });

  test('a rig of one side says why it cannot be mirrored', () => {
    const rig = buildRig(PLAIN.filter(([n]) => !n.startsWith('Right')));
    const map = guessBodyMap(rig);
    const pairing = findPairing(rig, map);
    expect(mirrorTrouble(map, pairing)).toMatch(/side/);
    expect(() => mirror(rig, map, wander(rig, 3))).toThrow(/side/);
  });
});

describe('mirror', () => {
  test.each(Object.entries(rigs))('%s: twice is the motion itself', (_, rig) => {
    const map = guessBodyMap(rig);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 50 }), fc.constantFrom('start', 'world' as const), (seed, plane) => {
        const motion = wander(rig, 20, seed);
        const back = mirror(rig, map, mirror(rig, map, motion, { plane }), { plane });
        let worst = 0;
        for (let o = 0; o < motion.turns.length; o += 4)
          worst = Math.max(worst, angleBetweenQuats(motion.turns, o, back.turns, o));
        // float32 turns, twice written
        expect((worst * 180) / Math.PI).toBeLessThan(1e-4);
        expect(largestError(rig, motion, back)).toBeLessThan(2e-6);
      }),
      { numRuns: 20 },
    );
  });

  test.each(Object.entries(rigs))('%s: joints stand where a mirror shows their partners', (_, rig) => {
    const map = guessBodyMap(rig);
    const { partner } = findPairing(rig, map);
    const motion = wander(rig, 30, 4);
    const done = mirror(rig, map, motion, { plane: 'world' });
    const a = new PoseReader(rig, motion);
    const b = new PoseReader(rig, done);
    for (const f of [0, 11, 29]) {
      const pa = a.at(f).p.slice();
      const pb = b.at(f).p;
      for (let j = 0; j < partner.length; j++) {
        const p = partner[j]!;
        expect(pb[3 * j]).toBeCloseTo(-pa[3 * p]!, 4);
        expect(pb[3 * j + 1]).toBeCloseTo(pa[3 * p + 1]!, 4);
        expect(pb[3 * j + 2]).toBeCloseTo(pa[3 * p + 2]!, 4);
      }
    }
  });

  test('one side onto the other leaves the source side and the centre alone, and makes both sides alike', () => {
    const rig = withOddAxes(buildRig());
    const map = guessBodyMap(rig);
    const motion = wander(rig, 10, 2);
    const done = mirror(rig, map, motion, { mode: 'leftToRight' });
    const n = rig.names.length;
    rig.names.forEach((name, j) => {
      if (name.startsWith('Right')) return;
      for (let f = 0; f < 10; f++)
        expect(angleBetweenQuats(motion.turns, 4 * (f * n + j), done.turns, 4 * (f * n + j))).toBe(0);
    });
    // now a mirror changes nothing in the limbs: local turns of both sides agree
    const again = mirror(rig, map, done, { mode: 'rightToLeft' });
    expect(largestError(rig, done, again)).toBeLessThan(1e-5);
    expect(largestError(rig, motion, done)).toBeGreaterThan(0.05);
  });

  test('plants change sides, and the start stays in place', () => {
    const rig = buildRig();
    const map = guessBodyMap(rig);
    const body = measureBody(rig, map);
    const n = rig.names.length;
    const thigh = rig.names.indexOf('LeftUpLeg');
    const frames = 60;
    const turns = new Float32Array(4 * n * frames);
    for (let f = 0; f < frames; f++) {
      turns.set(rig.restR, 4 * n * f);
      // the left leg swings, the right one stands
      const angle = 0.6 * Math.sin(f / 5);
      turns.set([Math.sin(angle / 2), 0, 0, Math.cos(angle / 2)], 4 * (n * f + thigh));
    }
    const motion = { fps: 60, frameCount: frames, turns, places: [], numbers: [], scales: [], steps: [] };
    const parts = (m: typeof motion) =>
      new Set(findContacts(soleTracks(rig, m, body), 60, body.leg).plants.map((p) => p.part.slice(-1)));
    expect(parts(motion)).toEqual(new Set(['R']));
    const done = mirror(rig, map, motion) as typeof motion;
    expect(parts(done)).toEqual(new Set(['L']));
  });

  test('face shapes with a side change places, others stay', () => {
    const rig = buildRig();
    const one = Float32Array.of(1);
    const two = Float32Array.of(2);
    const motion = {
      ...wander(rig, 1),
      numbers: [
        { name: 'blink_L', values: one },
        { name: 'blink_R', values: two },
        { name: 'smile', values: one },
      ],
    };
    const map = guessBodyMap(rig);
    expect(mirror(rig, map, motion).numbers.map((s) => s.values[0])).toEqual([2, 1, 1]);
    expect(mirror(rig, map, motion, { mode: 'leftToRight' }).numbers.map((s) => s.values[0])).toEqual([1, 1, 1]);
  });
});

describe('of paper', () => {
  const walk = walking();
  const made = (facing: 'front' | 'right') => {
    const svg = paperFigure(paperTraits(4, { facing, language: 'plain', depth: false, nested: false })).svg;
    const figure = cutoutFromSvg(new TextEncoder().encode(svg));
    const driven = driveCutout({ rig: walk.rig, map: guessBodyMap(walk.rig) }, walk.motion, figure, { swing: false });
    const there = (motion: Motion): Motion =>
      mirror(asSkeleton(figure.rig), figure.map, motion, { cutout: figure.rig });
    const way = (motion: Motion, slot: string, f: number): [number, number, number] => {
      const frames = new PlaneReader(figure.rig, motion).read(f / motion.fps);
      const o = 6 * jointOf(figure.map, slot);
      return [Math.atan2(frames[o + 1]!, frames[o]!), frames[o + 4]!, frames[o + 5]!];
    };
    return { motion: driven.motion, there, way };
  };

  test('in profile the other leg does what one did, and the way goes on as it went', () => {
    const { motion, there, way } = made('right');
    const mirrored = there(motion);
    for (const f of [0, 20, 45, 90]) {
      for (const [own, other] of [
        ['thighL', 'thighR'],
        ['shinR', 'shinL'],
        ['forearmL', 'forearmR'],
      ] as const)
        expect(way(mirrored, own, f)[0]).toBeCloseTo(way(motion, other, f)[0], 4);
      way(mirrored, 'hips', f).forEach((x, k) => expect(x).toBeCloseTo(way(motion, 'hips', f)[k]!, 4));
    }
    there(mirrored).turns.forEach((x, i) => expect(Math.abs(x - motion.turns[i]!)).toBeLessThan(1e-5));
  });

  test('from the front both sides change places in the picture', () => {
    const { motion, there, way } = made('front');
    const mirrored = there(motion);
    const rest = way(motion, 'hips', 0)[1];
    for (const f of [0, 20, 45]) {
      expect(way(mirrored, 'thighL', f)[0] + way(motion, 'thighR', f)[0]).toBeCloseTo(
        way(mirrored, 'thighL', 0)[0] + way(motion, 'thighR', 0)[0],
        2,
      );
      expect(way(mirrored, 'hips', f)[1] - rest).toBeCloseTo(rest - way(motion, 'hips', f)[1], 4);
    }
  });
});
