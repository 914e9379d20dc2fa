// Bodies from markers: captures that nobody here made, with 42 markers on them, 1 mm noise, a tenth lost in gaps of up to half a
// second, five swaps, no labels. Joints are compared with the true ones over the whole take.
import { importFile, jointOf, PoseReader, writeTrc } from '../motion/index';
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
      const [a, b] = [new PoseReader(party.rig, motion), new PoseReader(solved.rig, solved.clips[0]!.motion)];
      const there = [...LIMBS, ...TRUNK].filter((s) => jointOf(party.map, s) >= 0 && jointOf(solved.map, s) >= 0);
      unmapped += LIMBS.length + TRUNK.length - there.length;
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
      limbs += mean(LIMBS) / TAKES;
      trunk += mean(TRUNK) / TAKES;
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
      turned += sum / count / TAKES;
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
