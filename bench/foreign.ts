// npm run bench:foreign: every capture that nobody here made onto every body, measured by a judge that shares no code with the project.
import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildBody } from '../demo/body-spec';
import { breakings, reportBroken } from '../demo/broken';
import { CAST } from '../demo/cast';
import { buildFigure } from '../demo/figure';
import { rankCorrelation } from '../demo/rank';
import { performAll } from '../demo/world';
import {
  chainOf,
  guessBodyMap,
  jointOf,
  largestError,
  type Motion,
  measureThickness,
  type Party,
  packMotion,
  type Report,
  radiiOf,
  reportOf,
  restPose,
  retarget,
  type SkeletonRig,
  scoreReport,
  skinnedJoints,
  stanceOf,
  suggestWords,
  unpackMotion,
} from '../motion/index';
import { wildBody } from '../motion/test/wild';
import { openForeign, type Roles } from './foreign-bodies';
import { type AgainstOptimum, againstOptimum } from './optimum';
import { per, type Row, table, thousands, time } from './timing';

const met = (x: boolean): 'yes' | 'no' => (x ? 'yes' : 'no');
const world = await openForeign();
const judged = join(tmpdir(), 'velvet-reel-judged');

type Target = { readonly name: string; readonly foreign: boolean; readonly party: Party };

const cast: Target[] = CAST.map((m) => {
  const body = buildBody(m.spec, m.seed);
  const thickness = measureThickness(body.rig, buildFigure(body.rig, body.map, m.spec, m.look));
  const { edges } = thickness;
  const party = { ...body, radii: radiiOf(body, thickness), skinned: skinnedJoints(thickness), edges };
  return { name: m.name, foreign: false, party };
});
const foreign: Target[] = [
  ...world.characters.filter((c) => standing(c.party)).map((c) => ({ name: c.name, foreign: true, party: c.party })),
  ...skeletons(),
];

bodies();
packing();
await pairs();
words();
wild();
scores();

/** Whether a body stands on two legs. */
function standing({ rig, map }: Party): boolean {
  return stanceOf(map, restPose(rig)) === 'upright' && jointOf(map, 'head') >= 0;
}

/** One body of every skeleton that the captures use. */
function skeletons(): Target[] {
  const known = new Set<number>();
  return world.captures.flatMap(({ party }) => {
    const joints = party.rig.names.length;
    if (known.has(joints)) return [];
    known.add(joints);
    return [{ name: `skeleton of ${joints}`, foreign: true, party }];
  });
}

function bodies(): void {
  console.log('\nBodies as they were read');
  for (const { name, party, file } of [...world.captures, ...world.characters]) {
    const slots = Object.values(party.map.slots);
    const count = (state: string): number => slots.filter((s) => s.state === state).length;
    const hips = jointOf(party.map, 'hips');
    console.log(
      `  ${name.padEnd(14)} ${String(party.rig.names.length).padStart(3)} joints, ${stanceOf(party.map, restPose(party.rig)).padEnd(11)} ` +
        `${count('sure')} sure, ${count('guessed')} guessed, hips: ${hips < 0 ? '–' : party.rig.names[hips]}` +
        `${file.warnings.length > 0 ? ` (${file.warnings.length} notes)` : ''}`,
    );
  }
}

/** How small the captures become, and how quickly they come back. */
function packing(): void {
  const reach: Record<string, number> = { '01_01': 13.5, '01_03': 11, Boxing_Toes: 8.8 };
  table(
    'Packing the captures, against float32',
    world.captures.map(({ name, party: { rig }, motion }): Row => {
      const bytes = packMotion(rig, motion);
      const raw = [motion, ...motion.places].reduce(
        (sum, t) => sum + ('turns' in t ? t.turns : t.values).byteLength,
        0,
      );
      const read = time(() => unpackMotion(bytes), { runs: 15, warm: 5 });
      const error = 1000 * largestError(rig, motion, unpackMotion(bytes));
      const most = reach[name] ?? 8;
      return [
        `${name}, ${rig.names.length} joints`,
        `${(raw / bytes.length).toFixed(1)} : 1, ${error.toFixed(3)} mm, read ${thousands(per(motion.frameCount, read.median))} frames/s`,
        `≥ ${most} : 1, ≥ 200 k`,
        met(raw / bytes.length >= most && per(motion.frameCount, read.median) >= 200_000),
      ];
    }),
  );
}

/** The judge reads a rig and its frames from two files of plain numbers. */
function dump(path: string, rig: SkeletonRig, motion: Motion): void {
  const { names, parents, restT, restR } = rig;
  const head = {
    names,
    parents: [...parents],
    restT: [...restT],
    restR: [...restR],
    fps: motion.fps,
    frames: motion.frameCount,
    moves: motion.places.map((t) => t.joint),
  };
  writeFileSync(`${path}.json`, JSON.stringify(head));
  const raw = (v: Float32Array): Buffer => Buffer.from(v.buffer, v.byteOffset, v.byteLength);
  writeFileSync(`${path}.bin`, Buffer.concat([raw(motion.turns), ...motion.places.map((t) => raw(t.values))]));
}

/** The judge names parts by their joints; where it does not know a skeleton, our map tells them. */
function rolesOf({ map }: Party): Roles {
  const at = (slot: string): number => jointOf(map, slot);
  const neck = chainOf(map, 'neck')[0] ?? at('head');
  const roles: Roles = { hips: at('hips'), chest: chainOf(map, 'spine').at(-1) ?? at('hips'), neck, head: at('head') };
  const parts = { thigh: 'thigh', shin: 'shin', foot: 'foot', arm: 'upperArm', fore: 'forearm', hand: 'hand' };
  for (const s of ['L', 'R']) {
    for (const [role, slot] of Object.entries(parts)) roles[role + s] = at(slot + s);
    roles[`toe${s}`] = at(`toes${s}`) >= 0 ? at(`toes${s}`) : at(`foot${s}`);
  }
  return roles;
}

async function pairs(): Promise<void> {
  console.log(
    '\nEvery capture onto every body, defaults. By the judge: direction mean/p95 °, trunk °, sole slip % leg/s (source’s), floor % leg, hover p95 % leg, knee snap, jitter; by our own report: arms without plants °, crossing cm, skin ×, score; legs that stand, root mean square °, and at best frame by frame',
  );
  const of = { foreign: [] as Figures[], ours: [] as Figures[] };
  for (const capture of world.captures) {
    const source = await world.judge.load(capture.path);
    const roles = world.judge.rolesFor(source);
    for (const target of [...foreign, ...cast]) {
      if (target.party === capture.party) continue;
      const done = retarget(capture.party, capture.motion, target.party);
      const report = reportOf(done);
      const carried = retarget(capture.party, capture.motion, target.party, { plants: false });
      const free = reportOf(carried);
      dump(judged, target.party.rig, done.motion);
      const result = await world.judge.load(`${judged}.json`);
      let known: Roles;
      try {
        known = world.judge.rolesFor(result);
      } catch {
        known = rolesOf(target.party);
      }
      // the first frame of some captures is a pose for calibration
      const f0 = calibrated(capture.motion) ? 1 : 0;
      const told = { f0, restFloor: done.plan.target.body.floor };
      const j = world.judge.judge(source, roles, result, known, told);
      dump(judged, target.party.rig, carried.motion);
      const alone = world.judge.judge(source, roles, await world.judge.load(`${judged}.json`), known, told);
      const figures: Figures = {
        mean: j.dirAll.mean,
        p95: j.dirAll.p95,
        trunk: j.dir.trunk.mean,
        slip: j.slip.result,
        slipSource: j.slip.source,
        floor: j.floor.depthMax,
        hover: j.floor.hoverP95,
        knee: j.snap.knee.ratio,
        jitter: j.jitter.p999,
        jitterFree: alone.jitter.p999,
        free: free.direction.meanDeg,
        legs: againstOptimum(done, carried.motion),
        report,
        score: scoreReport(report),
      };
      of[target.foreign ? 'foreign' : 'ours'].push(figures);
      const n = (x: number, digits = 1): string => x.toFixed(digits).padStart(5);
      console.log(
        `  ${capture.name.padEnd(11)} → ${target.name.padEnd(14)} ${n(figures.mean)}/${n(figures.p95)}  ${n(figures.trunk)}  ` +
          `${n(figures.slip, 2)} (${n(figures.slipSource)})  ${n(figures.floor, 2)}  ${n(figures.hover, 2)}  ${n(figures.knee, 2)}  ` +
          `${n(figures.jitter, 2)}  ${n(figures.free, 2)}  ${n(report.crossing.maxCm)}  ${n(report.skin.stretch)}  ${figures.score}  ${n(figures.legs?.own ?? 0, 2)} (${n(figures.legs?.best ?? 0, 2).trim()})`,
      );
    }
  }
  reach('Onto foreign bodies, the worst pair', of.foreign);
  reach('Onto the cast, the worst pair', of.ours);
}

/** How much worse than the best; below half a degree both are as good as exact. */
function againstBest(legs: AgainstOptimum | undefined): number {
  return legs ? Math.max(0.5, legs.own) / Math.max(0.5, legs.best) : 1;
}

interface Figures {
  readonly mean: number;
  readonly p95: number;
  readonly trunk: number;
  readonly slip: number;
  readonly slipSource: number;
  readonly floor: number;
  readonly hover: number;
  readonly knee: number;
  readonly jitter: number;
  /** The same where directions alone are carried over: long arms on short legs tremble farther in legs. */
  readonly jitterFree: number;
  readonly free: number;
  readonly legs: AgainstOptimum | undefined;
  readonly report: Report;
  readonly score: number;
}

/** Whether the first frame jumps to where the second is. */
function calibrated({ turns, frameCount }: Motion): boolean {
  const n = turns.length / frameCount;
  const step = (f: number): number => {
    let most = 0;
    for (let i = 0; i < n; i += 4) {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += turns[f * n + i + k]! * turns[(f + 1) * n + i + k]!;
      most = Math.max(most, 1 - Math.abs(dot));
    }
    return most;
  };
  return frameCount > 3 && step(0) > 0.01 && step(0) > 20 * step(1);
}

function reach(title: string, all: readonly Figures[]): void {
  const worst = (of: (f: Figures) => number): number => Math.max(...all.map(of));
  const row = (what: string, of: (f: Figures) => number, most: number, unit: string, digits = 2): Row => {
    const value = worst(of);
    return [what, `${value.toFixed(digits)}${unit}`, `≤ ${most}${unit}`, met(value <= most)];
  };
  const mean = (of: (f: Figures) => number): string => (all.reduce((s, f) => s + of(f), 0) / all.length).toFixed(2);
  table(`${title}; on average ${mean((f) => f.mean)}° and ${mean((f) => f.p95)}° at the 95th percentile`, [
    row('direction, mean', (f) => f.mean, 2.5, '°'),
    row('direction, 95th percentile', (f) => f.p95, 8, '°'),
    row('legs that stand against the best', (f) => againstBest(f.legs), 1.5, ' ×'),
    row('trunk and head off the source’s', (f) => f.report.body.trunkDeg, 5, '°'),
    row('directions without plants', (f) => f.free, 0.5, '°'),
    row('sole slip', (f) => f.slip, 0.1, ' % leg/s'),
    row('floor depth', (f) => f.floor, 0.1, ' % leg'),
    row('hover, 95th percentile', (f) => f.hover, 0.3, ' % leg'),
    row('limbs into one another', (f) => f.report.crossing.maxCm, 1.5, ' cm'),
    row('knee snap', (f) => f.knee, 1.2, ' ×'),
    row('jitter', (f) => f.jitter, 1.2, ' ×'),
    row('jitter against directions alone', (f) => f.jitter / Math.max(1, f.jitterFree), 1.2, ' ×'),
    row('snap by our own measure', (f) => f.report.snap.ratio, 1.2, ' ×'),
    row('skin stretch', (f) => f.report.skin.stretch, 1.5, ' ×'),
    row('parts come apart', (f) => f.report.body.apartPercent, 1, ' %'),
  ]);
}

function words(): void {
  console.log('\nWords for the captures');
  for (const { name, party, motion } of world.captures) {
    const found = suggestWords(party, motion).words;
    console.log(`  ${name.padEnd(14)} ${found.map((w) => `${w.word} ${w.confidence.toFixed(2)}`).join(', ') || '–'}`);
  }
}

/** Bodies made at random: other trees, names, axes, proportions, helpers. */
function wild(): void {
  let [due, right, sure] = [0, 0, 0];
  const count = 1000;
  for (let seed = 1; seed <= count; seed++) {
    const { rig, truth } = wildBody(seed);
    const { slots } = guessBodyMap(rig);
    for (const [slot, joint] of truth) {
      due++;
      if (slots[slot]?.joint === joint) right++;
    }
    for (const [slot, e] of Object.entries(slots))
      if (e.state === 'sure' && e.joint >= 0 && truth.get(slot) !== e.joint && !/Twist/.test(slot)) sure++;
  }
  table(`Body maps of ${count} bodies made at random`, [
    ['slots right', `${((100 * right) / due).toFixed(2)} %`, '≥ 98 %', met(right / due >= 0.98)],
    ['wrong and sure', String(sure), '0', met(sure === 0)],
  ]);
}

/** Forty results spoilt on purpose: does the score put them in the order of the marks an eye gave? */
function scores(): void {
  const { actor, performances } = performAll((s) => ['Quay run', 'Counting crates', 'Deck walk'].includes(s.name));
  const self: Party = { rig: actor.rig, map: guessBodyMap(actor.rig) };
  const rows = performances.map(({ score: { name }, motion }, i): Row => {
    const target = cast[(2 * i) % cast.length]!;
    const done = retarget(self, motion, target.party);
    const all = breakings(done).map(({ mark, result }) => ({ mark, score: scoreReport(reportBroken(done, result)) }));
    const r = rankCorrelation(
      all.map((x) => x.mark),
      all.map((x) => x.score),
    );
    const broken = Math.max(...all.filter((x) => x.mark <= 15).map((x) => x.score));
    return [
      `${name} on ${target.name}; broken ones score at most ${broken}`,
      r.toFixed(3),
      '≥ 0.95',
      met(r >= 0.95 && broken <= 40),
    ];
  });
  table('Score against forty marks, rank correlation', rows);
}
