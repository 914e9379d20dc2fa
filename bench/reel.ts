// npm run bench:reel: joins, matches, bridges and evaluation of reels on every 3D body of the demo world.
import { buildBody } from '../demo/body-spec';
import { CAST } from '../demo/cast';
import { performAll } from '../demo/world';
import {
  applyKeys,
  checkJoin,
  findMatches,
  JOIN_DEFAULTS,
  type JoinCheck,
  type JoinKind,
  KEY_CURVES,
  keyCount,
  largestError,
  layLane,
  type Motion,
  type Party,
  PLACEMENT_DEFAULTS,
  type Placement,
  placeStretch,
  ReelEvaluator,
  type ReelMember,
  reduceKeys,
  resample,
  retarget,
  seeded,
  trim,
  worldPositions,
} from '../motion/index';
import { mixOnly } from '../motion/test/plain-crossfade';

const FPS = 30;
const { actor, performances } = performAll();
const standard: Party = { rig: actor.rig, map: actor.map };
const wanted = process.argv[2];
const bodies = CAST.slice(0, wanted === 'speed' || wanted === 'matches' || wanted === 'keys' ? 1 : undefined).flatMap(
  (member) => {
    if (!member.spec) return [];
    const { rig, map } = buildBody(member.spec, member.seed);
    const party: Party = { rig, map };
    const motions = performances.map(({ score, motion }) => ({
      name: score.name,
      motion: resample(rig, member === CAST[0] ? motion : retarget(standard, motion, party).motion, FPS),
    }));
    return [{ name: member.name, party, motions }];
  },
);

const quantile = (values: readonly number[], share: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(share * values.length))] ?? Number.NaN;
const three = (values: readonly number[]): string =>
  [0.5, 0.95, 1].map((s) => quantile(values, s).toFixed(2)).join(' / ');

/** Two motions can follow each other where a pair of frames is so alike, in % of the leg. */
const FOLLOWS = 20;

function joins(): void {
  const kinds: (JoinKind | 'plain')[] = ['plain', 'crossfade', 'decay', 'bridge'];
  for (const { name, party, motions } of bodies) {
    const found = new Map<string, { check: JoinCheck; pair: string }[]>(kinds.map((k) => [k, []]));
    let pairs = 0;
    for (const a of motions)
      for (const b of motions) {
        const match = findMatches(party, a.motion, b.motion, { count: 1 })[0];
        if (!match || match.apartPercentLeg > FOLLOWS || !match.sameFeet || match.a < 12) continue;
        pairs += 1;
        const rest = trim(party.rig, b.motion, match.b, b.motion.frameCount - 1);
        if (rest.frameCount < 14) continue;
        for (const kind of kinds) {
          const half = 5;
          const before = trim(
            party.rig,
            a.motion,
            0,
            Math.min(a.motion.frameCount - 1, match.a + (kind === 'crossfade' || kind === 'plain' ? half : 0)),
          );
          const begins = kind === 'crossfade' || kind === 'plain' ? Math.max(0, match.b - half) : match.b;
          const after = trim(party.rig, b.motion, begins, b.motion.frameCount - 1);
          const at = kind === 'bridge' ? match.a + 15 : match.a - (match.b - begins);
          if (at < 1) continue;
          const laid = [
            { motion: before, at: 0, join: JOIN_DEFAULTS },
            {
              motion: after,
              at,
              join: {
                ...JOIN_DEFAULTS,
                kind: kind === 'plain' ? ('crossfade' as const) : kind,
                frames: 2 * half,
                level: true,
              },
            },
          ];
          const frames = at + Math.min(after.frameCount, 90);
          const lane = kind === 'plain' ? mixOnly(party, laid, frames) : layLane(party, laid, frames);
          found.get(kind)!.push({ check: checkJoin(party, lane, lane.joins[0]!), pair: `${a.name} → ${b.name}` });
        }
      }
    console.log(`${name}: ${pairs} pairs that can follow each other; median / 95 % / most`);
    for (const [kind, list] of found) {
      const worst = list.reduce((m, x) => (x.check.slipPercentLeg > m.check.slipPercentLeg ? x : m));
      console.log(
        `  ${kind}: place ${three(list.map((x) => x.check.placePercentLeg))} % leg, facing ${three(list.map((x) => x.check.facingDeg))}°, step ${three(list.map((x) => x.check.stepRatio))} ×, slip ${three(list.map((x) => x.check.slipPercentLeg))} % leg/s, under the floor ${three(list.map((x) => x.check.floorCm))} cm; most slip: ${worst.pair}`,
      );
    }
  }
}

function matches(): void {
  const random = seeded(18);
  const { party, motions } = bodies[0]!;
  let near = 0;
  const total = 200;
  for (let i = 0; i < total; i++) {
    let source: Motion;
    do source = motions[Math.floor(random() * motions.length)]!.motion;
    while (source.frameCount < 100);
    const overlap = 20 + Math.floor(random() * 41);
    const begin = 20 + Math.floor(random() * (source.frameCount - overlap - 40));
    const a = trim(party.rig, source, 0, begin + overlap - 1);
    const b = trim(party.rig, source, begin, source.frameCount - 1);
    const match = findMatches(party, a, b, { count: 1 })[0];
    // a motion that repeats itself to the bit has more truths than one
    if (match && (Math.abs(match.a - match.b - begin) <= 1 || match.apartPercentLeg < 1e-6)) near += 1;
  }
  console.log(`found match: ${near} of ${total} within a frame of the truth`);
}

function bridges(): void {
  const random = seeded(45);
  for (const { name, party, motions } of bodies) {
    const apart: number[] = [];
    const slips: number[] = [];
    const floors: number[] = [];
    let worst = '';
    for (const { name: of, motion } of motions.filter((m) => /walk|run|turn|limp/i.test(m.name)))
      for (let i = 0; i < 8; i++) {
        const gap = 15 + Math.floor(random() * 31);
        if (motion.frameCount < gap + 60) continue;
        const s = 30 + Math.floor(random() * (motion.frameCount - gap - 60));
        const join = { ...JOIN_DEFAULTS, kind: 'bridge' as const, meet: 'world' as const };
        const lane = layLane(
          party,
          [
            { motion: trim(party.rig, motion, 0, s), at: 0, join },
            { motion: trim(party.rig, motion, s + gap + 1, motion.frameCount - 1), at: s + gap + 1, join },
          ],
          motion.frameCount,
        );
        const made = worldPositions(party.rig, lane.motion);
        const true_ = worldPositions(party.rig, motion);
        const n = party.rig.names.length;
        let tall = 0;
        let sum = 0;
        for (let f = s + 1; f <= s + gap; f++)
          for (let j = 0; j < n; j++) {
            const o = 3 * (f * n + j);
            tall = Math.max(tall, true_[o + 1]!);
            sum += Math.hypot(made[o]! - true_[o]!, made[o + 1]! - true_[o + 1]!, made[o + 2]! - true_[o + 2]!);
          }
        const error = (100 * sum) / (n * gap) / tall;
        if (error >= Math.max(0, ...apart)) worst = `${of}, ${gap} frames from ${s}`;
        apart.push(error);
        const check = checkJoin(party, lane, lane.joins[0]!);
        slips.push(check.slipPercentLeg);
        floors.push(check.floorCm);
      }
    console.log(
      `${name}: bridge over ${apart.length} gaps of 15 to 45 frames: ${three(apart)} % of height from what was cut out (most: ${worst}), slip ${three(slips)} % leg/s, under the floor ${three(floors)} cm`,
    );
  }
}

function speed(): void {
  const { party, motions } = bodies[0]!;
  const long = motions.filter((m) => m.motion.frameCount > 120).slice(0, 5);
  const frames = 3000;
  const each = frames / 5;
  const times = (motion: Motion): number => Math.ceil((each + 10) / (motion.frameCount - 1));
  const repeated = long.map(({ name, motion }) => ({ name, motion, repeats: times(motion) }));
  // the same, as items of their own that are played once
  const whole = repeated.map(({ name, motion, repeats }) => ({
    name,
    motion: placeStretch(party, motion, { ...PLACEMENT_DEFAULTS, repeats }, FPS),
    repeats: 1,
  }));
  for (const [how, items] of [
    ['played once', whole],
    ['repeated', repeated],
  ] as const)
    speedOf(party, how, items, frames);
}

interface Sample {
  readonly name: string;
  readonly motion: Motion;
  readonly repeats: number;
}

function speedOf(party: Party, how: string, items: readonly Sample[], frames: number): void {
  const base = items.map(
    ({ name, repeats }, i): Placement => ({
      ...PLACEMENT_DEFAULTS,
      id: `p${i}`,
      itemId: name,
      at: (i * frames) / items.length,
      repeats,
      mirrored: i % 2 === 1,
    }),
  );
  const overlay = (id: string, at: number, region: 'head' | 'left arm' | 'trunk', value: number) => ({
    ...base[0]!,
    id,
    at,
    mode: 'replace' as const,
    reference: 'first' as const,
    regions: [region],
    joints: [],
    strength: [
      { frame: 0, value: 0 },
      { frame: 10, value },
    ],
    holdFeet: true,
    order: at,
  });
  const member = (value: number): Pick<ReelMember, 'base' | 'overlays' | 'keys'> => ({
    base,
    overlays: [overlay('o0', 100, 'head', 1), overlay('o1', 900, 'left arm', 1), overlay('o2', 1800, 'trunk', value)],
    keys: Array.from({ length: 10 }, (_, t) => ({
      joint: party.rig.names[3 + t]!,
      keys: Array.from({ length: 20 }, (_, k) => ({
        frame: 150 * k,
        turn: [0.02 * Math.sin(k + t), 0, 0, 1] as const,
      })),
    })),
  });
  const of = (s: { itemId: string }) => items.find((m) => m.name === s.itemId)?.motion;
  const median = (run: () => void, times: number): number => {
    const all: number[] = [];
    for (let i = 0; i < times; i++) {
      const t = performance.now();
      run();
      all.push(performance.now() - t);
    }
    return quantile(all, 0.5);
  };
  for (let i = 0; i < 30; i++) new ReelEvaluator(party, FPS).evaluate(member(1), frames, of);
  const whole = median(() => new ReelEvaluator(party, FPS).evaluate(member(1), frames, of), 31);
  const kept = new ReelEvaluator(party, FPS);
  kept.evaluate(member(1), frames, of);
  let value = 0;
  const change = median(() => {
    value += 0.01;
    kept.evaluate(member(value), frames, of);
  }, 15);
  let at = 0;
  const move = median(() => {
    at = (at + 1) % 20;
    kept.evaluate({ ...member(1), base: base.map((p, i) => (i === 2 ? { ...p, at: p.at + at } : p)) }, frames, of);
  }, 9);
  const joints = party.rig.names.length;
  console.log(
    `evaluate ${frames} frames, ${joints} joints, 5 items ${how}, 3 overlays, 200 keys: ${whole.toFixed(0)} ms (${Math.round((1000 * frames) / whole).toLocaleString('en')} frames/s); strength changed ${change.toFixed(1)} ms; an item moved ${move.toFixed(1)} ms`,
  );
}

/** Keys that keep every point within a millimetre, against a key on every frame; motions as they were made, without noise. */
function keys(): void {
  const { rig } = actor;
  const clean = performances.filter(({ score }) => !/noisy|gaps|Two minutes/.test(score.name));
  for (const curves of KEY_CURVES) {
    const found = clean.map(({ score, motion }) => {
      const kept = reduceKeys(rig, motion, 0.001, curves);
      const { kept: count, of } = keyCount(kept, motion);
      return { name: score.name, share: count / of, off: largestError(rig, motion, applyKeys(rig, motion, kept)) };
    });
    const shares = found.map((f) => f.share);
    const most = found.reduce((a, b) => (b.share > a.share ? b : a));
    console.log(
      `keys within 1 mm, ${curves}: median ${(100 * quantile(shares, 0.5)).toFixed(1)} % of the frames' keys, ${found.filter((f) => f.share <= 0.25).length} of ${found.length} within 25 %, most ${(100 * most.share).toFixed(1)} % (${most.name}); off by ${(1000 * Math.max(...found.map((f) => f.off))).toFixed(2)} mm at most`,
    );
  }
}

for (const [name, run] of Object.entries({ speed, matches, bridges, joins, keys }))
  if (!wanted || wanted === name) run();
