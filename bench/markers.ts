// Bodies from markers: captures that nobody here made, with 42 markers on them, 1 mm noise, a tenth lost in gaps of up to half a
// second, five swaps, no labels. Joints are compared with the true ones over the whole take.
import {
  type Imported,
  importFile,
  jointOf,
  type MarkerBody,
  type Motion,
  type Party,
  PoseReader,
  trim,
  writeTrc,
} from '../motion/index';
import { cleanMarkers } from '../motion/markers/clean';
import { rotate3 } from '../motion/math/quat';
import { rigidFit } from '../motion/math/rigid-fit';
import { type MarkerTraits, markersOn } from '../motion/test/marker-body';
import { openForeign } from './foreign-bodies';

const LIMBS = ['L', 'R'].flatMap((s) => ['upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot'].map((p) => p + s));
const TRUNK = ['hips', 'neck1', 'head'];
const BONES = ['L', 'R'].flatMap((s) =>
  [
    ['upperArm', 'forearm'],
    ['forearm', 'hand'],
    ['thigh', 'shin'],
    ['shin', 'foot'],
  ].map(([a, b]) => [a + s, b + s] as const),
);
const TAKES = 5;
const SWAP_TAKES = 10;
/** A swap within a gap is found somewhere in it. */
const GAP_S = 0.55;

/** How far a solved take is from the true one: joints of limbs and trunk, cm; limbs, degrees; and how many joints are not there. */
function compared(party: Party, motion: Motion, solved: Pick<Imported, 'rig' | 'map'>, result: Motion) {
  const [a, b] = [new PoseReader(party.rig, motion), new PoseReader(solved.rig, result)];
  const there = [...LIMBS, ...TRUNK].filter((s) => jointOf(party.map, s) >= 0 && jointOf(solved.map, s) >= 0);
  const unmapped = LIMBS.length + TRUNK.length - there.length;
  // the solved body may stand turned and moved as a whole: its facing is not known beforehand
  const [from, to]: [number[], number[]] = [[], []];
  const step = Math.max(1, Math.floor(motion.frameCount / 200));
  for (let f = 0; f < motion.frameCount; f += step) {
    const [p, q] = [a.at(f).p, b.at(f).p];
    for (const slot of there)
      for (let k = 0; k < 3; k++) {
        to.push(p[3 * jointOf(party.map, slot) + k]!);
        from.push(q[3 * jointOf(solved.map, slot) + k]!);
      }
  }
  const fit = rigidFit(from, to, new Float64Array(from.length / 3).fill(1))!;
  const moved = new Float64Array(from.length);
  for (let i = 0; i < from.length; i += 3) {
    rotate3(moved, i, fit.turn, 0, from, i);
    for (let k = 0; k < 3; k++) moved[i + k]! += fit.shift[k]!;
  }
  const at = (list: ArrayLike<number>, frame: number, slot: string): number[] => {
    const o = 3 * (frame * there.length + there.indexOf(slot));
    return [list[o]!, list[o + 1]!, list[o + 2]!];
  };
  const frames = from.length / 3 / there.length;
  const mean = (slots: readonly string[]): number => {
    const own = slots.filter((s) => there.includes(s));
    let sum = 0;
    for (let f = 0; f < frames; f++)
      for (const s of own) sum += Math.hypot(...at(moved, f, s).map((x, k) => x - at(to, f, s)[k]!));
    return (100 * sum) / (frames * Math.max(1, own.length));
  };
  let [sum, count] = [0, 0];
  for (let f = 0; f < frames; f++)
    for (const [s, e] of BONES) {
      if (!there.includes(s) || !there.includes(e)) continue;
      const way = (list: ArrayLike<number>): number[] => at(list, f, e).map((x, k) => x - at(list, f, s)[k]!);
      const [u, v] = [way(moved), way(to)];
      const cos = u.reduce((t, x, k) => t + x * v[k]!, 0) / (Math.hypot(...u) * Math.hypot(...v) || 1);
      sum += (Math.acos(Math.min(1, Math.max(-1, cos))) * 180) / Math.PI;
      count++;
    }
  return { limbs: mean(LIMBS), trunk: mean(TRUNK), turned: sum / count, unmapped };
}

const world = await openForeign();
const rows: Record<string, string | number>[] = [];
for (const { name, party, motion } of world.captures) {
  for (const layout of ['full', 'sparse'] as const) {
    let [limbs, trunk, turned, ms, unmapped] = [0, 0, 0, 0, 0];
    for (let seed = 1; seed <= TAKES; seed++) {
      const traits: MarkerTraits = { seed, noise: 0.001, lost: 0.1, swaps: 5, names: false, layout };
      const bytes = new TextEncoder().encode(writeTrc(markersOn(party.rig, party.map, motion, traits).markers));
      const start = performance.now();
      const solved = await importFile(bytes, 'take.trc');
      ms = Math.max(ms, performance.now() - start);
      const off = compared(party, motion, solved, solved.clips[0]!.motion);
      unmapped += off.unmapped;
      limbs += off.limbs / TAKES;
      trunk += off.trunk / TAKES;
      turned += off.turned / TAKES;
    }
    rows.push({
      take: name,
      markers: layout,
      frames: motion.frameCount,
      'limbs cm': Number(limbs.toFixed(2)),
      'hips, neck, head cm': Number(trunk.toFixed(2)),
      'limbs turned °': Number(turned.toFixed(2)),
      'without a joint': unmapped,
      'slowest ms': Math.round(ms),
    });
  }
}
console.table(rows);

let [found, all, wrong] = [0, 0, 0];
for (const { party, motion } of world.captures)
  for (let seed = 1; seed <= SWAP_TAKES; seed++) {
    const traits: MarkerTraits = { seed, noise: 0.001, lost: 0.1, swaps: 5, names: false };
    const { markers, swaps } = markersOn(party.rig, party.map, motion, traits);
    const told = cleanMarkers(markers).done.filter((d) => d.what === 'swap');
    for (const s of swaps) {
      const i = told.findIndex(
        (d) => Math.abs(d.frame - s.frame) <= GAP_S * motion.fps && new Set([...d.markers, s.a, s.b]).size === 2,
      );
      all++;
      if (i < 0) continue;
      found++;
      told.splice(i, 1);
    }
    wrong += told.length;
  }
console.log(`swaps: ${found} of ${all} found, ${wrong} told where there was none`);

// the body of a take's first half, and a second and a half of its other half on that body and by itself
const SHORT_S = 1.5;
const others: Record<string, string | number>[] = [];
for (const { name, party, motion } of world.captures) {
  const traits: MarkerTraits = { seed: 4, noise: 0.001, lost: 0.1, swaps: 2, names: false };
  const wearing = (m: Motion): Uint8Array =>
    new TextEncoder().encode(writeTrc(markersOn(party.rig, party.map, m, traits).markers));
  const half = motion.frameCount >> 1;
  const first = trim(party.rig, motion, 0, half - 1);
  const short = trim(party.rig, motion, half, Math.min(motion.frameCount, half + Math.round(SHORT_S * motion.fps)) - 1);
  const known = await importFile(wearing(first), 'first.trc');
  const tried = async (body?: MarkerBody): Promise<string> => {
    try {
      const solved = await importFile(wearing(short), 'short.trc', { body });
      const { limbs, unmapped } = compared(party, short, solved, solved.clips[0]!.motion);
      return unmapped > 0 ? `${unmapped} joints missing` : `${limbs.toFixed(2)} cm`;
    } catch (error) {
      return (error as Error).message;
    }
  };
  others.push({
    take: name,
    'first half': `${compared(party, first, known, known.clips[0]!.motion).limbs.toFixed(2)} cm`,
    'on its body': await tried(known.worn),
    'by itself': await tried(),
  });
}
console.table(others);
