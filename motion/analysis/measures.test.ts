import fc from 'fast-check';
import { measureBody } from '../body/body';
import { MotionError } from '../errors';
import { mirror } from '../mirror/mirror';
import type { Motion } from '../motion/motion';
import { hold, resample, trim } from '../motion/timing';
import { restPose } from '../rig/rig';
import { buildRig, party, posedRig, wander } from '../test/bodies';
import { moveRoots } from '../tune/place';
import { clipDistance, DESCRIPTOR_WIDTH, describeClip, describePose, poseDistance, rhythm } from './descriptor';
import { findDuplicate } from './duplicates';
import { readFacts } from './facts';
import { scoreFit } from './fit-score';
import { fitProfile, movingParts, sketchFit } from './fit-sketch';
import { sketchFromBytes, sketchToBytes } from './fit-sketch-bytes';
import { findHolds, holdTracks, palmPoint } from './holds';
import {
  type Contacts,
  findContacts,
  isSole,
  plantHeights,
  sideOfPart,
  slowSpans,
  soleTracks,
  speedOf,
} from './plants';
import {
  FEATURE_POINTS,
  FEATURE_WIDTH,
  frameDistance,
  MIRROR_POINT,
  mirrorFeatures,
  poseFeatures,
} from './pose-features';
import { describePoses, MOST_POSES, POSE_RECORD, poseCount, poseRecord, supportAt } from './poses';

const rig = buildRig();
const who = party(rig);
const body = measureBody(rig, who.map);
const n = rig.names.length;
const at = (name: string): number => rig.names.indexOf(name);
const motion = wander(rig, 90, 5);
const features = (m: Motion, p = who) => poseFeatures(p, m);

/** A body that stands, and per frame whatever is done to its hips and legs. */
function standing(
  frames: number,
  edit: (f: number, turns: Float32Array, place: Float32Array) => void = () => undefined,
  fps = 60,
): Motion {
  const turns = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) {
    turns.set(rig.restR, 4 * n * f);
    const place = Float32Array.from(rig.restT.subarray(0, 3));
    edit(f, turns, place);
    values.set(place, 3 * f);
  }
  return { fps, frameCount: frames, turns, places: [{ joint: 0, values }], numbers: [], scales: [], steps: [] };
}
const raiseLeg = (turns: Float32Array, f: number, leg: string, degrees: number): void => {
  const half = (degrees * Math.PI) / 360;
  turns.set([-Math.sin(half), 0, 0, Math.cos(half)], 4 * (f * n + at(leg)));
};

describe('pose features', () => {
  test('do not change with place, heading, size or the rig’s axes', () => {
    const own = features(motion);
    fc.assert(
      fc.property(
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        (x, turn) => {
          const moved = features(moveRoots(who, motion, [x, 0, -x], turn));
          for (const f of [0, 40, 89]) expect(frameDistance(own, f, moved, f)).toBeLessThan(1e-6);
        },
      ),
      { numRuns: 25 },
    );
    const small = posedRig(90, 0.6);
    const smaller: Motion = {
      ...motion,
      places: [{ joint: 0, values: motion.places[0]!.values.map((v) => 0.6 * v) }],
    };
    expect(frameDistance(own, 30, features(smaller, party(small)), 30)).toBeLessThan(1e-5);
  });

  test('mirrored twice are themselves; every point has its partner', () => {
    const own = features(motion);
    const twice = mirrorFeatures(mirrorFeatures(own));
    own.values.forEach((x, i) => expect(twice.values[i]!).toBeCloseTo(x, 6));
    MIRROR_POINT.forEach((other, k) => {
      expect(MIRROR_POINT[other]).toBe(k);
      const [a, b] = [FEATURE_POINTS[k]![0], FEATURE_POINTS[other]![0]];
      expect(a.replace(/[LR]$/, '')).toBe(b.replace(/[LR]$/, ''));
    });
  });

  test('the mirrored motion has the mirrored features', () => {
    const a = mirrorFeatures(features(motion));
    const b = features(mirror(rig, who.map, motion));
    for (const f of [0, 33, 80]) expect(frameDistance(a, f, b, f)).toBeLessThan(1e-6);
  });
});

describe('descriptors', () => {
  test('are bytes of a fixed number, nearest to themselves', () => {
    const own = describeClip(features(motion));
    expect(own).toHaveLength(DESCRIPTOR_WIDTH);
    expect(clipDistance(own, own)).toBe(0);
    const others = [1, 2, 3, 4].map((seed) => describeClip(features(wander(rig, 90, seed))));
    for (const o of others) {
      expect(clipDistance(own, o)).toBeGreaterThan(0);
      expect(clipDistance(o, own)).toBe(clipDistance(own, o));
    }
  });

  test('hardly change with the rate, and keep to the triangle', () => {
    const own = describeClip(features(motion));
    expect(clipDistance(own, describeClip(features(resample(rig, motion, 30))))).toBeLessThan(0.02);
    const [a, b, c] = [1, 2, 3].map((seed) => describeClip(features(wander(rig, 60, seed)))) as [
      Int8Array,
      Int8Array,
      Int8Array,
    ];
    expect(clipDistance(a, c)).toBeLessThanOrEqual(clipDistance(a, b) + clipDistance(b, c) + 1e-9);
  });

  test('what is no descriptor is refused', () => {
    expect(() => clipDistance(new Int8Array(3), new Int8Array(3))).toThrow(MotionError);
  });

  test('a pose is nearest to its own frame', () => {
    const own = features(motion);
    const wanted = describePose(own, 42);
    const distances = Array.from({ length: 90 }, (_, f) => poseDistance(wanted, describePose(own, f)));
    expect(distances.indexOf(Math.min(...distances))).toBe(42);
  });

  test('a beat of the hips is found at its rate; where there is none nothing is', () => {
    for (const hz of [0.8, 1.5, 2.2]) {
      const bobbing = standing(240, (f, _, place) => {
        place[1] = place[1]! + 0.03 * Math.sin((2 * Math.PI * hz * f) / 60);
      });
      expect(rhythm(features(bobbing))).toBeCloseTo(hz, 0);
    }
    expect(rhythm(features(standing(240)))).toBe(0);
    expect(rhythm(features(standing(10)))).toBe(0);
  });
});

describe('near duplicates', () => {
  const own = features(motion);
  test('the same at another rate, trimmed, mirrored, elsewhere', () => {
    expect(findDuplicate(own, features(resample(rig, motion, 30)))).toMatchObject({ kind: 'same', mirrored: false });
    expect(findDuplicate(own, features(trim(rig, motion, 20, 75)))).toMatchObject({ kind: 'part' });
    expect(findDuplicate(own, features(trim(rig, motion, 20, 75)))!.offset).toBeCloseTo(20 / 60, 1);
    expect(findDuplicate(own, features(mirror(rig, who.map, motion)))).toMatchObject({ mirrored: true });
    expect(findDuplicate(own, features(moveRoots(who, motion, [3, 0, 1], 1)))).toMatchObject({ kind: 'same' });
  });
  test('of two stances that hardly move only the one that goes the same little way is a part', () => {
    const sway = (phase: number): Motion =>
      standing(120, (f, turns) => raiseLeg(turns, f, 'LeftLeg', 0.7 + 0.7 * Math.sin(f / 9 + phase)));
    const stance = features(sway(0));
    expect(findDuplicate(stance, features(trim(rig, sway(0), 25, 95)))).toMatchObject({ kind: 'part' });
    const other = standing(71, (f, turns) => raiseLeg(turns, f, 'RightLeg', 0.7 + 0.7 * Math.cos(f / 5)));
    expect(findDuplicate(stance, features(other))).toBeUndefined();
  });
  test('others are not, nor is what is too short to say', () => {
    expect(findDuplicate(own, features(wander(rig, 90, 6)))).toBeUndefined();
    expect(findDuplicate(own, features(trim(rig, motion, 0, 9)))).toBeUndefined();
  });
});

describe('speed and slow stretches', () => {
  test('an even pace is told as it is, also at the ends', () => {
    const track = Float64Array.from({ length: 300 }, (_, i) => (i % 3 === 2 ? Math.floor(i / 3) * 0.02 : 0));
    for (const s of speedOf(track, 60)) expect(s).toBeCloseTo(1.2, 6);
  });

  test('stretches never overlap, lie within the track, and hold every slow frame', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 120 }), (values) => {
        const speed = Float64Array.from(values);
        const spans = slowSpans(speed, 1, 60);
        let last = -1;
        for (const { start, end } of spans) {
          expect(start).toBeGreaterThan(last);
          expect(end).toBeGreaterThanOrEqual(start);
          last = end;
        }
        speed.forEach((s, f) => {
          if (s < 0.16) expect(spans.some((x) => x.start <= f && x.end >= f)).toBe(true);
        });
      }),
    );
  });
});

describe('plants', () => {
  const contacts = (m: Motion): Contacts => findContacts(soleTracks(rig, m, body), m.fps, body.leg);

  test('a body that stands plants heels and balls from first to last', () => {
    const { plants, floor } = contacts(standing(60));
    expect(plants.map((p) => [p.part, p.start, p.end])).toEqual([
      ['heelL', 0, 59],
      ['ballL', 0, 59],
      ['heelR', 0, 59],
      ['ballR', 0, 59],
    ]);
    expect(floor).toBeCloseTo(body.floor, 2);
  });

  test('a leg that is lifted is free meanwhile', () => {
    const lifted = standing(90, (f, r) => {
      if (f >= 30 && f < 60) raiseLeg(r, f, 'LeftUpLeg', 40 * Math.sin((Math.PI * (f - 30)) / 30));
    });
    const { plants } = contacts(lifted);
    for (const p of plants.filter((x) => x.part.endsWith('L'))) expect(p.end < 36 || p.start > 53).toBe(true);
    expect(plants.filter((x) => x.part.endsWith('R')).every((p) => p.start === 0 && p.end === 89)).toBe(true);
  });

  test('a body in the air or gliding over the ground plants nothing', () => {
    const gliding = standing(60, (f, _, place) => {
      place[2] = 0.04 * f;
    });
    expect(contacts(gliding).plants).toEqual([]);
    const falling = standing(60, (f, _, place) => {
      place[1] = place[1]! + 2 - 0.03 * f;
    });
    expect(contacts(falling).plants).toEqual([]);
  });

  test('on a step above the ground they have its height, scaled', () => {
    const step = standing(120, (f, _, place) => {
      const t = Math.min(1, Math.max(0, (f - 50) / 10));
      place[1] = place[1]! + 0.3 * t * t * (3 - 2 * t);
    });
    const tracks = soleTracks(rig, step, body);
    const found = findContacts(tracks, 60, body.leg);
    const heights = plantHeights(tracks, found, body.leg, 2);
    found.plants.forEach((p, i) => expect(heights[i]!).toBeCloseTo(p.start > 50 ? 0.6 : 0, 1));
    expect(found.plants.some((p) => p.start > 50)).toBe(true);
  });

  test('noise tears no plant apart', () => {
    let seed = 7;
    const random = (): number => {
      seed = (seed * 16807) % 2147483647;
      return seed / 2147483647 - 0.5;
    };
    const trembling = standing(
      240,
      (f, r, place) => {
        for (let k = 0; k < 3; k++) place[k] = place[k]! + 0.006 * random();
        raiseLeg(r, f, 'LeftUpLeg', 1.2 * random());
        raiseLeg(r, f, 'RightUpLeg', 1.2 * random());
      },
      120,
    );
    for (const part of ['heelL', 'heelR'] as const) {
      const own = contacts(trembling).plants.filter((p) => p.part === part);
      expect(own).toHaveLength(1);
      expect(own[0]!.end - own[0]!.start).toBeGreaterThan(220);
    }
  });

  test('stand on no ground that lies under another stand: a step down, however short, is lower ground', () => {
    const high = standing(600);
    const down = (by: number): Motion => ({
      ...high,
      places: high.places.map((t) => ({
        ...t,
        values: t.values.map((y, k) => (k % 3 === 1 ? y - by * Math.min(1, Math.max(0, (k / 3 - 560) / 20)) : y)),
      })),
    });
    const floorOf = (m: Motion): number => findContacts(soleTracks(rig, m, body), 60, body.leg).floor;
    const before = floorOf(high);
    expect(before - floorOf(down(0.4))).toBeCloseTo(0.4, 2);
    // soles of captures sink by so much
    expect(floorOf(down(0.03))).toBeCloseTo(before, 2);
  });

  test('without legs or frames there are none', () => {
    expect(findContacts({}, 60, 1).plants).toEqual([]);
    expect(findContacts(soleTracks(rig, standing(5), body), 60, 0).plants).toEqual([]);
    expect([isSole('heelL'), isSole('handL'), sideOfPart('kneeR'), sideOfPart('seat')]).toEqual([
      true,
      false,
      'R',
      undefined,
    ]);
  });
});

describe('hands, knees and seats', () => {
  const rest = restPose(rig);
  test('a palm lies in the hand, ahead of the wrist', () => {
    const palm = palmPoint(rig, who, 'L', rest);
    expect(palm[0]!).toBeGreaterThan(0.04);
    expect(palm[0]!).toBeLessThan(0.18);
  });

  test('who stands holds neither hands nor knees and does not sit', () => {
    const m = standing(90);
    const tracks = holdTracks(who, m, body, rest);
    expect(findHolds(tracks, [soleTracks(rig, m, body).heelL!], 60, body.leg, 0)).toEqual([]);
  });

  test('hips that rest low behind the feet sit; just as low over the feet they do not', () => {
    const low = (z: number): Motion =>
      standing(90, (_, r, place) => {
        place[1] = 0.5;
        place[2] = z;
        for (const side of ['Left', 'Right']) {
          r.set([-Math.SQRT1_2, 0, 0, Math.SQRT1_2], 4 * (_ * n + at(`${side}UpLeg`)));
          r.set([Math.SQRT1_2, 0, 0, Math.SQRT1_2], 4 * (_ * n + at(`${side}Leg`)));
        }
      });
    const seats = (m: Motion): number =>
      findHolds(
        holdTracks(who, m, body, rest),
        [soleTracks(rig, m, body).heelL!, soleTracks(rig, m, body).heelR!],
        60,
        body.leg,
        0,
      ).filter((p) => p.part === 'seat').length;
    expect(seats(low(0))).toBe(1);
    expect(findHolds(holdTracks(who, standing(90), body, rest), [], 60, 0, 0)).toEqual([]);
  });
});

describe('facts', () => {
  test('of stillness: nothing moves, everything is in place', () => {
    const { facts } = readFacts(rig, who.map, standing(60));
    expect(facts).toMatchObject({
      frameCount: 60,
      fps: 60,
      movingJoints: 0,
      travelM: 0,
      inPlace: true,
      loops: false,
      steps: 0,
      parts: [],
    });
    expect(facts.support).toEqual({ left: 1, right: 1, any: 1 });
    expect(facts.bothFeet).toBe(1);
  });

  test('turning round is told with its side and sum', () => {
    const turning = standing(121, (f, r) => {
      const a = (Math.PI * f) / 120;
      r.set([0, Math.sin(a / 2), 0, Math.cos(a / 2)], 4 * (f * n));
    });
    const { facts } = readFacts(rig, who.map, turning);
    expect(facts.turnDeg).toBeCloseTo(180, 0);
    expect(facts.turningDeg).toBeCloseTo(180, 0);
    const { facts: back } = readFacts(rig, who.map, mirror(rig, who.map, turning));
    expect(back.turnDeg).toBeCloseTo(-180, 0);
  });

  test('steps are touch-downs, and tempo counts them', () => {
    const stepping = standing(240, (f, r) => {
      const side = Math.floor(f / 30) % 2 === 0 ? 'LeftUpLeg' : 'RightUpLeg';
      raiseLeg(r, f, side, 35 * Math.sin((Math.PI * (f % 30)) / 30) ** 2);
    });
    const { facts } = readFacts(rig, who.map, stepping);
    expect(facts.steps).toBeGreaterThanOrEqual(6);
    expect(facts.steps).toBeLessThanOrEqual(8);
    expect(facts.tempo).toBeGreaterThan(80);
  });

  test('parts that move are named, the others not', () => {
    const nodding = standing(60, (f, r) => {
      const a = 0.3 * Math.sin(f / 6);
      r.set([Math.sin(a / 2), 0, 0, Math.cos(a / 2)], 4 * (f * n + at('Head')));
    });
    expect(movingParts(who, nodding)).toEqual(['head']);
    expect(
      movingParts(who, {
        ...nodding,
        numbers: [{ name: 'smile', values: Float32Array.from({ length: 60 }, (_, f) => f / 60) }],
      }),
    ).toEqual(['head', 'face']);
  });
});

describe('fit scores', () => {
  const profile = fitProfile(who);
  const sketch = sketchFit(who, standing(60));

  test('a motion fits its own body without a word against it', () => {
    expect(scoreFit(sketch, profile)).toMatchObject({ score: 100, reasons: [] });
  });

  test('what a body lacks is told, the weightiest first', () => {
    const moving = sketchFit(who, motion);
    const without = (...parts: string[]) => ({
      ...profile,
      parts: new Set([...profile.parts].filter((p) => !parts.includes(p))),
    });
    const legless = scoreFit(moving, without('legs', 'neck'));
    expect(legless.score).toBeLessThan(60);
    expect(legless.reasons[0]).toMatch(/no legs/);
    expect(legless.reasons.length).toBeGreaterThan(1);
    expect(scoreFit(moving, without('arms')).score).toBeLessThan(scoreFit(moving, profile).score);
  });

  test('a sketch comes back from its bytes within a millimetre and a hair, with the same score', () => {
    for (const m of [motion, standing(60), wander(rig, 30, 2)]) {
      const own = sketchFit(who, m);
      const bytes = sketchToBytes(own);
      expect(bytes.length).toBeLessThan(6000);
      const back = sketchFromBytes(bytes);
      expect(back.moves).toEqual(own.moves);
      expect(back.plants.map((p) => p.part)).toEqual(own.plants.map((p) => p.part));
      own.moments.forEach((x, i) => expect(Math.abs(back.moments[i]! - x)).toBeLessThan(0.0006));
      expect(Math.abs(scoreFit(back, profile).score - scoreFit(own, profile).score)).toBeLessThanOrEqual(1);
    }
  });

  test('bytes that hold no sketch are refused, whatever they are', () => {
    const good = sketchToBytes(sketch);
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        try {
          sketchFromBytes(bytes);
        } catch (error) {
          expect(error).toBeInstanceOf(MotionError);
        }
      }),
    );
    for (const cut of [0, 10, 23, good.length - 1])
      expect(() => sketchFromBytes(good.slice(0, cut))).toThrow(MotionError);
    const wrongPart = good.slice();
    wrongPart[24] = 200;
    expect(() => sketchFromBytes(wrongPart)).toThrow(MotionError);
  });
});

test('a motion with its ends held is found within, not taken for another', () => {
  const held = features(hold(rig, motion, 0, 30));
  expect(findDuplicate(features(motion), held)).toMatchObject({ mirrored: false });
  expect(features(motion).values).toHaveLength(90 * FEATURE_WIDTH);
});

describe('poses for search', () => {
  const own = features(motion);
  const contacts = findContacts(soleTracks(rig, motion, body), motion.fps, body.leg);
  const records = (bytes: Uint8Array) =>
    Array.from({ length: poseCount(bytes) }, (_, k) => {
      const at = bytes.slice(POSE_RECORD * k, POSE_RECORD * (k + 1));
      return { frame: at[0]! + 256 * at[1]!, support: at[2]!, pose: new Int8Array(at.slice(3).buffer) };
    });

  test('are in order, at most sixteen, and no two alike', () => {
    const kept = records(describePoses(own, contacts));
    expect(kept.length).toBeGreaterThan(3);
    expect(kept.length).toBeLessThanOrEqual(MOST_POSES);
    kept.forEach((r, i) => {
      if (i > 0) expect(r.frame).toBeGreaterThan(kept[i - 1]!.frame);
      for (const other of kept.slice(0, i)) expect(poseDistance(r.pose, other.pose)).toBeGreaterThan(0.05);
    });
  });

  test('of stillness are one', () => {
    const still = standing(60);
    expect(poseCount(describePoses(features(still), findContacts(soleTracks(rig, still, body), 60, body.leg)))).toBe(1);
  });

  test('every frame of the motion is near to one of them', () => {
    const kept = records(describePoses(own, contacts));
    for (let f = 0; f < 90; f += 7) {
      const wanted = poseRecord(own, contacts, f);
      const pose = new Int8Array(wanted.slice(3).buffer);
      expect(Math.min(...kept.map((r) => poseDistance(pose, r.pose)))).toBeLessThan(0.35);
    }
  });

  test('say on which feet the body stands', () => {
    const on = (...parts: string[]): Contacts => ({
      floor: 0,
      plants: parts.map((part) => ({ part: part as never, start: 2, end: 5 })),
    });
    expect([
      supportAt(on(), 3),
      supportAt(on('heelL'), 3),
      supportAt(on('ballR'), 3),
      supportAt(on('ballL', 'heelR'), 3),
    ]).toEqual([0, 1, 2, 3]);
    expect(supportAt(on('heelL'), 6)).toBe(0);
    expect(supportAt(on('handL'), 3)).toBe(0);
  });

  test('bytes that are no whole records are refused', () => {
    expect(() => poseCount(new Uint8Array(POSE_RECORD + 1))).toThrow(MotionError);
    expect(poseCount(new Uint8Array(0))).toBe(0);
  });
});
