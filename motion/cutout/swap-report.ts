import type { BodyMap } from '../bodymap/slots';
import type { Motion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import type { Report } from '../retarget/report';
import { type TroubleFact, told } from '../retarget/trouble';
import type { CutoutRig } from '../rig/rig';
import { measureFlat, pointOn } from './flat';
import type { SwapReport } from './swap';
import { unlikeWords } from './swap-unlike';

const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`;

/** A swap in a few words, for people. */
export function swapWords(report: SwapReport): string[] {
  const list = (names: readonly string[]): string =>
    names.length > 4 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
  const { pairs, unpaired, corrections, breaks, missing, plants, airborne, unlike } = report;
  return [
    `${count(pairs.length, 'joint')} paired, ${pairs.filter((p) => p.by === 'map').length} of them by the body map`,
    unpaired.from.length > 0 && `moved before and left out: ${list(unpaired.from)}`,
    unpaired.to.length > 0 && `kept at rest: ${list(unpaired.to)}`,
    corrections.length > 0 && `${count(corrections.length, 'key')} that only closed a gap, taken out`,
    breaks.length > 0 && `${count(breaks.length, 'key')} off the joint on purpose, kept`,
    missing.length > 0 && `drawings that are not there: ${list(missing.map((m) => `${m.part} "${m.label}"`))}`,
    `${count(plants.length, 'stand')}, ${airborne.length === 0 ? 'never' : count(airborne.length, 'time')} in the air`,
    ...unlike.map(unlikeWords),
  ].filter((x): x is string => x !== false);
}

/** What people are told of a swap, in the form of any fitting's report. */
export function measureSwapped(rig: CutoutRig, map: BodyMap, motion: Motion, swap: SwapReport): Report {
  const flat = measureFlat(rig, map);
  const reader = new PlaneReader(rig, motion);
  const n = motion.frameCount;
  const slips = new Float32Array(n);
  const depths = new Float32Array(n);
  let slip = { value: 0, frame: 0, part: '' };
  for (let f = 0; f < n; f++) {
    const frames = reader.read(f / motion.fps);
    for (const { side, foot } of flat.legs) {
      if (foot.joint < 0) continue;
      const [heel, ball] = [pointOn(frames, foot.joint, foot.heel), pointOn(frames, foot.joint, foot.ball)];
      depths[f] = Math.max(depths[f]!, -Math.min(heel[1], ball[1]));
      const stand = swap.plants.find((p) => p.part === `ball${side}` && p.start <= f && f <= p.end);
      if (!stand) continue;
      slips[f] = Math.max(slips[f]!, Math.abs(ball[0] - stand.spot[0]));
      if (slips[f]! > slip.value) slip = { value: slips[f]!, frame: f, part: stand.part };
    }
  }
  const depth = depths.reduce((a, b) => Math.max(a, b), 0);
  const facts: TroubleFact[] = [
    ...(slip.value > 0.01
      ? [
          {
            kind: 'slip',
            frame: slip.frame,
            joint: '',
            parts: [slip.part],
            amount: 100 * slip.value,
            unit: 'cm',
          } as const,
        ]
      : []),
    ...(depth > 0.01
      ? [
          {
            kind: 'floor',
            frame: depths.indexOf(depth),
            joint: '',
            parts: [],
            amount: 100 * depth,
            unit: 'cm',
          } as const,
        ]
      : []),
    ...(swap.unpaired.from.length > 0
      ? [{ kind: 'unpaired', frame: 0, joint: '', parts: [], names: swap.unpaired.from, amount: 0, unit: '' } as const]
      : []),
  ];
  const leg = flat.leg || 1;
  return {
    frames: n,
    slip: { maxCm: 100 * slip.value, maxPercentLeg: (100 * slip.value) / leg, meanPercentLegPerPlantSecond: 0 },
    floor: { maxDepthCm: 100 * depth },
    hover: { maxCm: 0, maxPercentLeg: 0 },
    reach: { maxCm: 0, handsCm: 0 },
    direction: { meanDeg: 0, p95Deg: 0, maxDeg: 0 },
    jitter: { ratio: 1 },
    snap: { ratio: 1, frame: 0, part: '' },
    limits: { maxDeg: 0, part: '', beyondDeg: 0 },
    crossing: { maxCm: 0 },
    hands: { apartCm: 0 },
    body: { trunkDeg: 0, apartPercent: 0 },
    skin: { stretch: 1 },
    plants: swap.plants.map(({ part, start, end }) => ({ part, start, end })),
    unmapped: { source: swap.unpaired.from, target: swap.unpaired.to },
    warnings: swapWords(swap),
    lanes: [
      { name: 'planted foot moves', unit: 'cm', values: slips.map((x) => 100 * x), limit: 1 },
      { name: 'under the ground', unit: 'cm', values: depths.map((x) => 100 * Math.max(0, x)), limit: 1 },
    ],
    troubles: facts.map(told),
  };
}
