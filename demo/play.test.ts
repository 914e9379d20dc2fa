import {
  guessBodyMap,
  type Motion,
  mixCycles,
  type Party,
  Player,
  type PlayGraph,
  type Playing,
  PoseReader,
  reportOf,
  resample,
  retarget,
} from '../motion/index';
import { seamOf } from '../motion/join/seam';
import { apart, underRoot } from '../motion/test/variants';
import { seeded } from './random';
import { performAll } from './world';

const NAMES = ['Waiting for the tide', 'Deck walk', 'Quay run', 'Wave to shore'];
const { actor, performances } = performAll((s) => NAMES.includes(s.name));
const rig = actor.rig;
const self: Party = { rig, map: guessBodyMap(rig) };
const motionOf = (name: string): Motion => performances.find((p) => p.score.name === name)!.motion;
const FPS = 60;

const state = (id: string, content: PlayGraph['states'][number]['content'], repeats: boolean) => ({
  id,
  name: id,
  at: [0, 0] as const,
  content,
  speed: 1,
  repeats,
});
const input = (id: string, kind: 'hold' | 'press' | 'number') => ({
  id,
  name: id,
  kind,
  key: '',
  lessKey: '',
  pad: -1,
  min: 0,
  max: 1,
});
const GRAPH: PlayGraph = {
  fps: FPS,
  start: 'idle',
  inputs: [input('go', 'hold'), input('wave', 'press'), input('speed', 'number')],
  states: [
    state('idle', { kind: 'item', itemId: 'Waiting for the tide' }, true),
    state(
      'go',
      {
        kind: 'mix',
        input: 'speed',
        items: [
          { value: 0, itemId: 'Deck walk' },
          { value: 1, itemId: 'Quay run' },
        ],
      },
      true,
    ),
    state('wave', { kind: 'item', itemId: 'Wave to shore' }, false),
  ],
  ways: [
    {
      id: 'off',
      from: 'idle',
      to: 'go',
      when: [{ kind: 'held', input: 'go', held: true }],
      join: { kind: 'decay', frames: 18, meet: 'hips' },
      entry: 'alike',
    },
    {
      id: 'halt',
      from: 'go',
      to: 'idle',
      when: [{ kind: 'held', input: 'go', held: false }],
      join: { kind: 'decay', frames: 18, meet: 'hips' },
      entry: 'start',
    },
    {
      id: 'greet',
      from: null,
      to: 'wave',
      when: [{ kind: 'pressed', input: 'wave' }],
      join: { kind: 'crossfade', frames: 15, meet: 'hips' },
      entry: 'start',
    },
    {
      id: 'done',
      from: 'wave',
      to: 'idle',
      when: [{ kind: 'ended' }],
      join: { kind: 'crossfade', frames: 15, meet: 'hips' },
      entry: 'start',
    },
  ],
};
const NOTHING = { held: new Set<string>(), pressed: new Set<string>(), numbers: new Map<string, number>() };
const pressing = (id: string) => ({ ...NOTHING, pressed: new Set([id]) });
const holding = (id: string, speed = 0) => ({ ...NOTHING, held: new Set([id]), numbers: new Map([['speed', speed]]) });

/** Goes on by so many frames; the last one. */
function on(player: Player, frames: number, inputs: Parameters<Player['step']>[0] = NOTHING): Playing {
  let at = player.step(inputs);
  for (let f = 1; f < frames; f++) at = player.step({ ...inputs, pressed: new Set() });
  return at;
}

const slipOf = (party: Party, m: Motion): number =>
  reportOf(retarget(party, m, party, { plants: false })).slip.meanPercentLegPerPlantSecond;

describe('a cycle between two cycles', () => {
  const [walk, run] = [resample(rig, motionOf('Deck walk'), FPS), resample(rig, motionOf('Quay run'), FPS)];

  test('is either at the ends', () => {
    expect(mixCycles(self, walk, run, 0)).toBe(walk);
    expect(mixCycles(self, walk, run, 1)).toBe(run);
  });

  test.each([0.25, 0.5, 0.75])('of %s comes round, stands on its feet and goes at a pace between', (w) => {
    const mix = mixCycles(self, walk, run, w);
    const seam = seamOf(self, mix);
    expect([seam.angleDeg < 1, seam.distancePercentLeg < 1]).toEqual([true, true]);
    expect(slipOf(self, mix)).toBeLessThan(1);
    const pace = (m: Motion): number => {
      const reader = new PoseReader(rig, m);
      const from = Float64Array.from(reader.at(0).p.subarray(0, 3));
      const to = reader.at(m.frameCount - 1).p;
      return (Math.hypot(to[0]! - from[0]!, to[2]! - from[2]!) * FPS) / (m.frameCount - 1);
    };
    const [slow, fast] = [pace(walk), pace(run)];
    expect(pace(mix)).toBeGreaterThan(slow + 0.1 * (fast - slow));
    expect(pace(mix)).toBeLessThan(fast - 0.1 * (fast - slow));
  });

  test('is the same where the hips hang from a root', () => {
    const [a, b] = [walk, run].map((motion) => underRoot({ rig, motion }));
    const other: Party = { rig: a!.rig, map: guessBodyMap(a!.rig) };
    const mixed = { rig: a!.rig, motion: mixCycles(other, a!.motion, b!.motion, 0.5) };
    expect(apart(mixed, underRoot({ rig, motion: mixCycles(self, walk, run, 0.5) }))).toBeLessThan(0.01);
  });
});

describe('a play-through', () => {
  test('begins a join in the frame in which its key is pressed', () => {
    const player = new Player(self, GRAPH, motionOf);
    expect(on(player, 40)).toMatchObject({ state: 'idle', way: null });
    expect(player.step(holding('go'))).toMatchObject({ state: 'go', way: 'off' });
    expect(on(player, 60, holding('go'))).toMatchObject({ state: 'go', way: null });
    expect(player.step({ ...holding('go'), pressed: new Set(['wave']) })).toMatchObject({
      state: 'wave',
      way: 'greet',
    });
  });

  test('a press that comes too early waits a moment, and only a moment', () => {
    const slow: PlayGraph = {
      ...GRAPH,
      ways: GRAPH.ways.map((w) =>
        w.id === 'greet' ? { ...w, when: [...w.when, { kind: 'after', seconds: 0.5 }] } : w,
      ),
    };
    const early = new Player(self, slow, motionOf);
    on(early, 20);
    expect(on(early, 20, pressing('wave')).state).toBe('wave');
    const tooEarly = new Player(self, slow, motionOf);
    expect(on(tooEarly, 40, pressing('wave')).state).toBe('idle');
  });

  test('what plays once goes on at its end; what repeats goes on for ever', () => {
    const player = new Player(self, GRAPH, motionOf);
    on(player, 10);
    const length = Math.round((motionOf('Wave to shore').frameCount / 30) * FPS);
    expect(on(player, length - 20, pressing('wave')).state).toBe('wave');
    expect(on(player, 20).state).toBe('idle');
    const walker = new Player(self, GRAPH, motionOf);
    const a = on(walker, 100, holding('go'));
    const before = new PoseReader(rig, a.motion).at(a.frame).p[2]!;
    const b = on(walker, 3000, holding('go'));
    const after = new PoseReader(rig, b.motion).at(b.frame).p[2]!;
    expect(after - before).toBeGreaterThan(10);
    // what lies behind is forgotten
    expect(b.motion.frameCount).toBeLessThan(1200);
  });

  test('ten thousand frames of any keys: nothing jumps, nobody is stuck', () => {
    const player = new Player(self, GRAPH, motionOf);
    const random = seeded(3);
    const n = rig.names.length;
    let [go, speed] = [false, 0];
    let before: Float64Array | undefined;
    let fastest = 0;
    const seen = new Map<string, number>();
    let since = 0;
    let longest = 0;
    let last = '';
    for (let f = 0; f < 10_000; f++) {
      if (random() < 0.02) go = !go;
      if (random() < 0.03) speed = random();
      const pressed = new Set(random() < 0.01 ? ['wave'] : []);
      const at = player.step({ held: new Set(go ? ['go'] : []), pressed, numbers: new Map([['speed', speed]]) });
      seen.set(at.state, (seen.get(at.state) ?? 0) + 1);
      since = at.state === last ? since + 1 : 0;
      last = at.state;
      longest = Math.max(longest, since);
      const { p } = new PoseReader(rig, at.motion).at(at.frame);
      if (before)
        for (let j = 0; j < n; j++)
          fastest = Math.max(
            fastest,
            Math.hypot(
              p[3 * j]! - before[3 * j]!,
              p[3 * j + 1]! - before[3 * j + 1]!,
              p[3 * j + 2]! - before[3 * j + 2]!,
            ),
          );
      before = Float64Array.from(p);
    }
    expect([...seen.keys()].sort()).toEqual(['go', 'idle', 'wave']);
    expect(longest).toBeLessThan(1500);
    // hands of the run go at 8 m/s or so; a jump would be a step of more than twice that
    expect(fastest * FPS).toBeLessThan(14);
  });

  test('everything can be worked out beforehand', () => {
    const player = new Player(self, GRAPH, motionOf);
    const shares = [...player.prepare()];
    expect(shares.at(-1)).toBe(1);
    expect(shares.length).toBe(15);
    expect(on(player, 5).state).toBe('idle');
  });
});
