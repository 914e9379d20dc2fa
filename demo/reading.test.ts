import {
  clipDistance,
  describeClip,
  describePose,
  findContacts,
  findDuplicate,
  guessBodyMap,
  type Motion,
  measureBody,
  mirror,
  type Party,
  poseDistance,
  poseFeatures,
  readFacts,
  resample,
  retarget,
  soleTracks,
  suggestWords,
  tune,
} from '../motion/index';
import { buildBody } from './body-spec';
import { CAST } from './cast';
import { performAll } from './world';

const { actor, performances } = performAll();
const self: Party = { rig: actor.rig, map: guessBodyMap(actor.rig) };
const named = (name: string): Motion => performances.find((p) => p.score.name === name)!.motion;
/** All but the one that is as long as the rest together. */
const short = performances.filter((p) => p.motion.frameCount < 2000);
const featuresOf = (motion: Motion, party: Party = self) => {
  const body = measureBody(party.rig, party.map);
  const { floor } = findContacts(soleTracks(party.rig, motion, body), motion.fps, body.leg);
  return poseFeatures(party, motion, floor, Math.max(1, Math.round(motion.fps / 30)), body);
};

describe('words', () => {
  const count = (party: Party, from: typeof performances, onto: (m: Motion) => Motion) => {
    let [due, found, given, wrong] = [0, 0, 0, 0];
    for (const { score, motion } of from) {
      const words = suggestWords(party, onto(motion)).words.map((w) => w.word);
      due += score.words.length;
      found += score.words.filter((w) => words.includes(w)).length;
      given += words.length;
      wrong += words.filter((w) => !score.words.includes(w)).length;
    }
    return { found: found / due, wrong: wrong / given };
  };

  test('of the demo motions: at least 85 % of the true ones are found, at most 10 % are false', () => {
    const { found, wrong } = count(self, performances, (m) => m);
    expect(found).toBeGreaterThanOrEqual(0.85);
    expect(wrong).toBeLessThanOrEqual(0.1);
  });

  test.each(CAST.slice(1).map((c) => [c.name, c] as const))('hold on another body: %s', (_, member) => {
    const body = buildBody(member.spec, member.seed);
    const { found, wrong } = count(body, short, (m) => retarget(self, m, body).motion);
    expect(found).toBeGreaterThanOrEqual(0.75);
    expect(wrong).toBeLessThanOrEqual(0.15);
  });

  test('a seat and a stair are noticed at their height', () => {
    const seat = suggestWords(self, named('Sit on the bollard')).props.find((p) => p.kind === 'seat');
    expect(seat!.height).toBeGreaterThan(0.35);
    expect(seat!.height).toBeLessThan(0.5);
    const steps = suggestWords(self, named('Up the companionway')).props.find((p) => p.kind === 'steps');
    expect(steps!.size).toBeCloseTo(0.19, 1);
    expect(suggestWords(self, named('Deck walk')).props).toEqual([]);
  });
});

describe('facts', () => {
  test('turning, tempo, feet and noise are what the score says', () => {
    const left = readFacts(self.rig, self.map, named('Walk turning left')).facts;
    expect(left.turnDeg).toBeGreaterThan(80);
    expect(readFacts(self.rig, self.map, named('Walk turning right')).facts.turnDeg).toBeLessThan(-60);
    const walk = readFacts(self.rig, self.map, named('Deck walk')).facts;
    // two strides of 16/15 s: four steps
    expect(Math.abs(walk.tempo - 112)).toBeLessThan(4);
    expect([walk.inPlace, walk.loops]).toEqual([false, true]);
    expect(walk.bothFeet).toBeGreaterThan(0.1);
    expect(readFacts(self.rig, self.map, named('Quay run')).facts.noFoot).toBeGreaterThan(0.2);
    const noisy = readFacts(self.rig, self.map, named('Rope haul, noisy capture')).facts;
    const clean = readFacts(self.rig, self.map, named('Brace on swell')).facts;
    expect(noisy.noiseDeg).toBeGreaterThan(4 * clean.noiseDeg);
    expect(readFacts(self.rig, self.map, named('Telling a tale')).facts.parts).toContain('face');
  });
});

describe('near duplicates', () => {
  const features = performances.map((p) => ({ name: p.score.name, features: featuresOf(p.motion) }));

  test('resampled, trimmed and mirrored ones are all found', () => {
    for (const { score, motion } of performances) {
      const own = features.find((f) => f.name === score.name)!.features;
      const other = resample(self.rig, motion, motion.fps === 30 ? 48 : 30);
      expect([score.name, findDuplicate(own, featuresOf(other))?.kind]).toEqual([score.name, 'same']);
      expect([score.name, findDuplicate(own, featuresOf(mirror(self.rig, self.map, motion))) !== undefined]).toEqual([
        score.name,
        true,
      ]);
      const last = motion.frameCount - 1;
      const cut = tune(self, motion, [{ op: 'trim', start: Math.floor(last * 0.2), end: Math.floor(last * 0.8) }]);
      expect([score.name, findDuplicate(own, featuresOf(cut))?.kind]).toEqual([score.name, 'part']);
    }
  });

  test('no two demo motions are taken for one, but those made from one another', () => {
    const made = new Set([
      'Walk turning left|Walk turning left, with gaps',
      'Tarred rope haul|Rope haul, noisy capture',
    ]);
    const found: string[] = [];
    for (let i = 0; i < features.length; i++)
      for (let k = i + 1; k < features.length; k++)
        if (findDuplicate(features[i]!.features, features[k]!.features))
          found.push(`${features[i]!.name}|${features[k]!.name}`);
    expect(found.filter((x) => !made.has(x))).toEqual([]);
    expect(found).toContain('Walk turning left|Walk turning left, with gaps');
  });
});

describe('likeness', () => {
  test('a motion on another body is nearest to itself', () => {
    const body = buildBody(CAST[4]!.spec, CAST[4]!.seed);
    const own = short.map((p) => describeClip(featuresOf(p.motion)));
    let right = 0;
    for (const [i, p] of short.entries()) {
      const d = describeClip(featuresOf(retarget(self, p.motion, body).motion, body));
      const order = own.map((x, k) => ({ k, d: clipDistance(x, d) })).sort((a, b) => a.d - b.d);
      if (order.slice(0, 2).some((x) => x.k === i)) right++;
    }
    expect(right / short.length).toBeGreaterThan(0.9);
  });

  test('a pose finds its own frame', () => {
    const f = featuresOf(named('Walk turning left'));
    const pose = describePose(f, 37);
    const nearest = Array.from({ length: f.frameCount }, (_, i) => i).sort(
      (a, b) => poseDistance(pose, describePose(f, a)) - poseDistance(pose, describePose(f, b)),
    )[0];
    expect(nearest).toBe(37);
  });
});
