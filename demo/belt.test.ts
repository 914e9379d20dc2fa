import {
  carriedBy,
  carrierOf,
  findBelt,
  findContacts,
  guessBodyMap,
  jointOf,
  type Motion,
  measureBody,
  type Party,
  PoseReader,
  pickFrames,
  readFacts,
  reportOf,
  retarget,
  soleTracks,
  suggestWords,
  unrolled,
  withRoot,
} from '../motion/index';
import { buildBody } from './body-spec';
import { CAST } from './cast';
import { performAll } from './world';

const GAITS = ['Deck walk', 'Quay run', 'Backing off from the winch'];
const { actor, performances } = performAll((s) => [...GAITS, 'Mopping the deck', 'Stirring the pot'].includes(s.name));
const performer: Party = { rig: actor.rig, map: guessBodyMap(actor.rig) };
const body = measureBody(performer.rig, performer.map);
const hips = carrierOf(performer.rig, performer.map);
const motionOf = (name: string): Motion => performances.find((p) => p.score.name === name)!.motion;

interface Ground {
  readonly x: number;
  readonly z: number;
}

/** How fast a motion goes over the ground from its first to its last frame, metres a second. */
function speedOf({ rig }: Party, motion: Motion, joint: number): Ground {
  const reader = new PoseReader(rig, motion);
  const at = (f: number): number[] => [...reader.at(f).p.slice(3 * joint, 3 * joint + 3)];
  const [a, b] = [at(0), at(motion.frameCount - 1)];
  const s = (motion.frameCount - 1) / motion.fps;
  return { x: (b[0]! - a[0]!) / s, z: (b[2]! - a[2]!) / s };
}

/** The same on the spot: what it travels is taken out at one pace. */
function onTheSpot(name: string): { travelling: Motion; spot: Motion; speed: Ground } {
  const travelling = motionOf(name);
  const speed = speedOf(performer, travelling, hips);
  return { travelling, speed, spot: carriedBy(performer.rig, travelling, hips, speed, -1) };
}

describe.each(GAITS)('%s on the spot', (name) => {
  const { travelling, spot, speed } = onTheSpot(name);

  test('the belt passes as fast as it went, and the other way', () => {
    const belt = findBelt(performer.rig, spot, body, hips)!;
    expect(Math.hypot(belt.x + speed.x, belt.z + speed.z)).toBeLessThan(0.1 * Math.hypot(speed.x, speed.z));
    expect(findBelt(performer.rig, travelling, body, hips)).toBeUndefined();
  });

  test('is called what it is called when it travels', () => {
    const words = (motion: Motion): string[] => suggestWords(performer, motion).words.map((w) => w.word);
    expect(words(spot).sort()).toEqual(words(travelling).sort());
  });

  test('has the steps and the support that it has when it travels', () => {
    const factsOf = (motion: Motion) => readFacts(performer.rig, performer.map, motion).facts;
    const [still, gone] = [factsOf(spot), factsOf(travelling)];
    expect(still.inPlace).toBe(true);
    expect(Math.abs(still.steps - gone.steps)).toBeLessThanOrEqual(2);
    expect(Math.abs(still.support.any - gone.support.any)).toBeLessThan(0.15);
  });

  test.each(['Big Tove', 'Skerry'])('on %s stays on the spot, its feet steady on their belt', (who) => {
    const member = CAST.find((m) => m.name === who)!;
    const target = buildBody(member.spec, member.seed);
    const done = retarget(performer, spot, target);
    const belt = done.belts!.target;
    expect(reportOf(done).slip.meanPercentLegPerPlantSecond).toBeLessThan(0.1);
    const drift = speedOf(target, done.motion, done.plan.carrier);
    expect(Math.hypot(drift.x, drift.z)).toBeLessThan(0.1 * Math.hypot(belt.x, belt.z));
    // measured from the motion alone: while a foot is held it goes with the belt
    const carried = carriedBy(target.rig, done.motion, done.plan.carrier, belt, -1);
    const tracks = soleTracks(target.rig, carried, measureBody(target.rig, target.map));
    const found = findContacts(tracks, carried.fps, measureBody(target.rig, target.map).leg).plants;
    const whole = findContacts(soleTracks(performer.rig, travelling, body), travelling.fps, body.leg).plants;
    expect(found.length).toBeGreaterThan(0.6 * whole.length);
  });
});

test('what only sways or works on a spot has no belt', () => {
  for (const name of ['Mopping the deck', 'Stirring the pot'])
    expect(findBelt(performer.rig, motionOf(name), body, hips)).toBeUndefined();
});

test('nothing is taken along where the body must not travel or feet are not held', () => {
  const { spot } = onTheSpot('Deck walk');
  expect(retarget(performer, spot, performer, { travel: 'none' }).belts).toBeUndefined();
  expect(retarget(performer, spot, performer, { plants: false }).belts).toBeUndefined();
});

test('a root joint above the hips changes nothing', () => {
  const { spot } = onTheSpot('Deck walk');
  const under = withRoot(performer.rig, spot);
  const above: Party = { rig: under.rig, map: guessBodyMap(under.rig) };
  const belt = findBelt(
    under.rig,
    under.motion,
    measureBody(under.rig, above.map),
    carrierOf(under.rig, above.map, undefined),
  );
  expect(belt!.z).toBeCloseTo(findBelt(performer.rig, spot, body, hips)!.z, 3);
});

/** Frames after which the legs of a walk are where they were at first. */
function cycleOf({ turns }: Motion): number {
  const n = performer.rig.names.length;
  const legs = ['thighL', 'thighR', 'shinL'].map((slot) => jointOf(performer.map, slot));
  const off = (f: number): number =>
    legs.reduce((sum, j) => {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += turns[4 * j + k]! * turns[4 * (f * n + j) + k]!;
      return sum + 1 - Math.abs(dot);
    }, 0);
  let best = 20;
  for (let f = 20; f < 90; f++) if (off(f) < off(best)) best = f;
  return best;
}

test('one cycle of a walk is read as it goes round, with or without its first frame at the end', () => {
  const walk = motionOf('Deck walk');
  const period = cycleOf(walk);
  for (const length of [period, period + 1]) {
    const cycle = pickFrames(
      performer.rig,
      walk,
      Float64Array.from({ length }, (_, f) => f),
    );
    const { motion, beltSpeed } = unrolled(performer, cycle, body);
    expect(beltSpeed).toBe(0);
    expect(motion.frameCount).toBeGreaterThan(2.5 * walk.fps);
    expect(suggestWords(performer, cycle).words.map((w) => w.word)).toContain('walk');
    // no jump where one lap passes into the next
    const reader = new PoseReader(performer.rig, motion);
    const steps: number[] = [];
    let last = reader.at(0).p[3 * hips + 2]!;
    for (let f = 1; f < motion.frameCount; f++) {
      const z = reader.at(f).p[3 * hips + 2]!;
      steps.push(z - last);
      last = z;
    }
    expect(Math.max(...steps)).toBeLessThan(2 * (steps.reduce((a, b) => a + b, 0) / steps.length));
  }
});
