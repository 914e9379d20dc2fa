// npm run bench: the core's figures, beside what a general-purpose library gives for the same work in the same run.
import { buildBody } from '../demo/body-spec';
import { CAST } from '../demo/cast';
import { performAll } from '../demo/world';
import {
  blendPoses,
  guessBodyMap,
  importFile,
  largestError,
  type Motion,
  meanPose,
  newLocalPose,
  type Party,
  PoseReader,
  PoseSampler,
  packMotion,
  planRetarget,
  readBvh,
  reportOf,
  resample,
  type SkeletonRig,
  solve,
  unpackMotion,
  writeBvh,
} from '../motion/index';
import { peerKinematics, peerParse, peerRetarget } from './peers';
import { per, type Row, table, thousands, time } from './timing';

/** The performer without fingers and with a few helpers: 31 joints, as capture systems give. */
function captureRig(): SkeletonRig {
  return buildBody({ ...CAST[0]!.spec, fingers: [2, 2, 0, 0, 0] }, 3).rig;
}

/** Repeats a motion until it has at least so many frames. */
function lengthen(motion: Motion, joints: number, frames: number): Motion {
  const times = Math.ceil(frames / motion.frameCount);
  const turns = new Float32Array(4 * joints * motion.frameCount * times);
  const places = motion.places.map((t) => ({
    joint: t.joint,
    values: new Float32Array(3 * motion.frameCount * times),
  }));
  for (let i = 0; i < times; i++) {
    turns.set(motion.turns, i * motion.turns.length);
    motion.places.forEach((t, k) => {
      places[k]!.values.set(t.values, i * t.values.length);
    });
  }
  return { ...motion, frameCount: motion.frameCount * times, turns, places };
}

const met = (x: boolean): 'yes' | 'no' => (x ? 'yes' : 'no');
const { actor, performances } = performAll();
const run = performances.find((p) => p.score.name === 'Quay run')!.motion;
const full: Party = { rig: actor.rig, map: guessBodyMap(actor.rig) };

// the 31-joint source: the same performance carried onto the smaller rig
const small = captureRig();
const capture: Party = { rig: small, map: guessBodyMap(small) };
const short = solve(planRetarget(full, capture), run, { plants: false }).motion;
const long = lengthen(short, small.names.length, 3000);

console.log(`Node ${process.version}, one core; medians of 7 runs after 3 to warm up`);

{
  const text = writeBvh(small, long);
  const bytes = new TextEncoder().encode(text);
  const mb = bytes.length / 1e6;
  const ours = time(() => readBvh(bytes));
  const peer = time(() => peerParse(text), { runs: 5, warm: 1 });
  table(`BVH, ${mb.toFixed(1)} MB, ${small.names.length} joints, ${long.frameCount} frames`, [
    ['parse to quaternions', `${per(mb, ours.median).toFixed(0)} MB/s`, '≥ 50 MB/s', met(per(mb, ours.median) >= 50)],
    ["three's BVHLoader", `${per(mb, peer.median).toFixed(1)} MB/s`, '', '–'],
    ['ratio', `${(peer.median / ours.median).toFixed(1)} ×`, '≥ 8 ×', met(peer.median / ours.median >= 8)],
  ]);
}

{
  const rig = buildBody({ ...CAST[0]!.spec, fingers: [3, 3, 2, 0, 0] }, 3).rig;
  const motion = lengthen(
    solve(planRetarget(full, { rig, map: guessBodyMap(rig) }), run, { plants: false }).motion,
    rig.names.length,
    3000,
  );
  const reader = new PoseReader(rig, motion);
  const ours = time(() => {
    for (let f = 0; f < motion.frameCount; f++) reader.at(f);
  });
  const peer = time(peerKinematics(rig, motion), { runs: 5, warm: 1 });
  table(`Forward kinematics, ${rig.names.length} joints`, [
    [
      'frames a second',
      thousands(per(motion.frameCount, ours.median)),
      '≥ 300 k',
      met(per(motion.frameCount, ours.median) >= 300_000),
    ],
    ["three's mixer", thousands(per(motion.frameCount, peer.median)), '', '–'],
    ['ratio', `${(peer.median / ours.median).toFixed(1)} ×`, '≥ 5 ×', met(peer.median / ours.median >= 5)],
  ]);
}

{
  const { rig } = actor;
  const sampler = new PoseSampler(rig, run);
  const [a, b, out] = [newLocalPose(rig), newLocalPose(rig), newLocalPose(rig)];
  sampler.read(a, 0.21);
  sampler.read(b, 0.47);
  const joints = rig.names.length;
  const rounds = 20_000;
  const blend = time(() => {
    for (let i = 0; i < rounds; i++) blendPoses(out, a, b, 0.3);
  });
  const four = [a, b, newLocalPose(rig), newLocalPose(rig)];
  sampler.read(four[2]!, 0.6);
  const mean = time(() => {
    for (let i = 0; i < rounds; i++) meanPose(out, four, [1, 2, 3, 0.5]);
  });
  const sample = time(() => {
    for (let i = 0; i < rounds; i++) sampler.read(out, (i * 0.0137) % 1);
  });
  const rate = (ms: number): number => per(rounds * joints, ms);
  table(`Poses of ${joints} joints, joints a second`, [
    ['blend of two', thousands(rate(blend.median)), '≥ 1000 k', met(rate(blend.median) >= 1e6)],
    ['mean of four', thousands(rate(mean.median)), '≥ 1000 k', met(rate(mean.median) >= 1e6)],
    ['sample between frames', thousands(rate(sample.median)), '≥ 1000 k', met(rate(sample.median) >= 1e6)],
  ]);
}

{
  const plan = planRetarget(capture, full);
  const free = time(() => solve(plan, long, { plants: false }));
  const held = time(() => solve(plan, long));
  const names = Object.fromEntries(actor.rig.names.map((n) => [n, small.names.includes(n) ? n : '']));
  const peer = time(peerRetarget({ rig: small, names, hip: 'Hips' }, short, actor.rig), { runs: 5, warm: 1 });
  const peerRate = per(short.frameCount, peer.median);
  const rows: Row[] = [
    [
      'turns only',
      thousands(per(long.frameCount, free.median)),
      '≥ 60 k',
      met(per(long.frameCount, free.median) >= 60_000),
    ],
    [
      'with plants',
      thousands(per(long.frameCount, held.median)),
      '≥ 20 k',
      met(per(long.frameCount, held.median) >= 20_000),
    ],
    ["three's retargetClip, no plants", thousands(peerRate), '', '–'],
    [
      'with plants against it',
      `${(per(long.frameCount, held.median) / peerRate).toFixed(1)} ×`,
      '≥ 5 ×',
      met(per(long.frameCount, held.median) / peerRate >= 5),
    ],
  ];
  table(`Retarget, ${small.names.length} → ${actor.rig.names.length} joints, frames a second`, rows);
}

{
  const rows: Row[] = [];
  for (const member of CAST) {
    const body = buildBody(member.spec, member.seed);
    const worst = { slip: 0, floor: 0, reach: 0, mean: 0, p95: 0, free: 0 };
    for (const { motion } of performances) {
      const report = reportOf(solve(planRetarget(full, body), motion));
      const free = reportOf(solve(planRetarget(full, body), motion, { plants: false }));
      const leg = planRetarget(full, body).target.body.leg;
      worst.slip = Math.max(worst.slip, report.slip.meanPercentLegPerPlantSecond);
      worst.floor = Math.max(worst.floor, report.floor.maxDepthCm / leg);
      worst.reach = Math.max(worst.reach, report.reach.maxCm);
      worst.mean = Math.max(worst.mean, report.direction.meanDeg);
      worst.p95 = Math.max(worst.p95, report.direction.p95Deg);
      worst.free = Math.max(worst.free, free.direction.meanDeg);
    }
    rows.push([`${member.name}: slip`, `${worst.slip.toFixed(4)} % leg/s`, '≤ 0.5', met(worst.slip <= 0.5)]);
    rows.push([`${member.name}: floor depth`, `${worst.floor.toFixed(4)} % leg`, '≤ 0.5', met(worst.floor <= 0.5)]);
    rows.push([
      `${member.name}: direction, plants`,
      `${worst.mean.toFixed(2)}° mean, ${worst.p95.toFixed(2)}° p95`,
      '≤ 3°, ≤ 8°',
      met(worst.mean <= 3 && worst.p95 <= 8),
    ]);
    rows.push([
      `${member.name}: direction, no plants`,
      `${worst.free.toExponential(1)}°`,
      '≤ 0.01°',
      met(worst.free <= 0.01),
    ]);
  }
  table('Retarget quality: the worst of all demo motions', rows);
  const same = solve(planRetarget(full, full), run, { plants: false }).motion;
  table('Identity', [
    [
      'largest departure of any point',
      `${largestError(actor.rig, run, same).toExponential(1)} m`,
      '≤ 9e-6 m',
      met(largestError(actor.rig, run, same) <= 9e-6),
    ],
  ]);
}

{
  const rows: Row[] = [];
  for (const { score, motion } of performances) {
    const packed = packMotion(actor.rig, motion);
    const raw = motion.turns.byteLength + motion.places.reduce((s, t) => s + t.values.byteLength, 0);
    const ratio = raw / packed.length;
    const goal = score.noise > 0 ? 7 : 10;
    rows.push([
      `${score.name}${score.noise > 0 ? ' (noisy)' : ''}, ${score.fps}/s`,
      `${ratio.toFixed(1)} : 1, ${(1000 * largestError(actor.rig, motion, unpackMotion(packed))).toFixed(3)} mm`,
      `≥ ${goal} : 1, ≤ 0.5 mm`,
      met(ratio >= goal),
    ]);
  }
  table(`Packing, ${actor.rig.names.length} joints, against float32`, rows);
  // without fingers, which hardly move and flatter the ratio
  const bare = resample(small, short, 120);
  const packed = packMotion(small, bare);
  const many = lengthen(bare, small.names.length, 6000);
  const big = packMotion(small, many);
  const encode = time(() => packMotion(small, bare), { runs: 5, warm: 1 });
  const decode = time(() => unpackMotion(big));
  table(`Packing, ${small.names.length} joints, noisy 120/s`, [
    [
      'bytes against float32',
      `${((bare.turns.byteLength + 12 * bare.frameCount) / packed.length).toFixed(1)} : 1`,
      '≥ 7 : 1',
      met((bare.turns.byteLength + 12 * bare.frameCount) / packed.length >= 7),
    ],
    ['encode, checked', `${thousands(per(bare.frameCount, encode.median))} frames/s`, '', '–'],
    ['decode', `${thousands(per(many.frameCount, decode.median))} frames/s`, '', '–'],
  ]);
}

{
  const bytes = new TextEncoder().encode(writeBvh(actor.rig, run));
  const start = performance.now();
  for (let i = 0; i < 5; i++) await importFile(bytes, 'run.bvh');
  console.log(
    `\nIntake of a ${run.frameCount}-frame take, whole reading with body map: ${((performance.now() - start) / 5).toFixed(0)} ms`,
  );
}
