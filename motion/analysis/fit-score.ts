import { type FitProfile, type FitSketch, MOMENT_WIDTH, MOMENTS } from './fit-sketch';

/** How well a motion fits a character, without a solve. */
export interface FitScore {
  /** 0 to 100. */
  readonly score: number;
  /** What speaks against it, in words, the weightiest first; empty where nothing does. */
  readonly reasons: readonly string[];
  /** How far a foot would drift at most while it should stand, before plants are held: % of the leg. */
  readonly driftPercent: number;
  /** How far legs would be out of reach of their spots, % of the leg. */
  readonly reachPercent: number;
}

const COUNT = MOMENTS.length;
const MIDDLE = COUNT >> 1;
/** Share of a leg's length from which the body begins to give way. */
const NEARLY = 0.997;

/**
 * Scores a motion on a character from its sketch and the character's lengths: some microseconds, for ranking thousands.
 * Feet are placed by the source's limb directions with the target's lengths, as a transfer would; how far they drift during
 * a plant and how far the spots are out of reach is what a solve will have to put right.
 */
export function scoreFit(sketch: FitSketch, profile: FitProfile): FitScore {
  const reasons: { loss: number; text: string }[] = [];
  const take = (loss: number, text: string): void => {
    if (loss >= 1) reasons.push({ loss, text });
  };
  const legs = sketch.leg > 0 && profile.leg > 0;
  const { drift, reach } = legs ? legStrain(sketch, profile) : { drift: 0, reach: 0 };
  take(
    26 * (1 - Math.exp(-drift / 5)),
    `its legs have other proportions: feet would drift by ${drift.toFixed(1)} % of the leg, so knees bend to hold them`,
  );
  take(
    20 * (1 - Math.exp(-Math.max(0, reach - 0.3) / 1.5)),
    `some foot positions are up to ${reach.toFixed(1)} % of the leg out of reach, so the body shifts`,
  );
  if (sketch.moves.includes('legs') && !profile.parts.has('legs'))
    take(45, 'it has no legs, and the motion depends on them');
  if (sketch.moves.includes('arms') && !profile.parts.has('arms'))
    take(30, 'it lacks one or both arms, which the motion moves');
  if (sketch.moves.includes('fingers') && !profile.parts.has('fingers'))
    take(7, 'it has no fingers, which the motion moves');
  if (sketch.moves.includes('neck') && !profile.parts.has('neck')) take(2, 'it has no neck joint');
  if (sketch.moves.includes('collars') && !profile.parts.has('collars'))
    take(3, 'it has no collar bones, which the motion lifts');
  if (sketch.moves.includes('toes') && !profile.parts.has('toes')) take(2, 'it has no toes to roll over');
  if (sketch.moves.includes('face')) take(2, 'the motion has face shapes, which carry over only where names match');
  if (sketch.handsApart > 0 && sketch.arm > 0 && profile.arm > 0) {
    // both hands reach as the source's directions say, from shoulders of another width
    const scale = profile.arm / sketch.arm;
    const off = Math.abs(sketch.handsApart * (scale - 1));
    take(
      8 * (1 - Math.exp(-off / 0.12)),
      `both hands hold one thing and would end up about ${(100 * off).toFixed(0)} cm out of place: keep them together`,
    );
  }
  const armToLeg = profile.leg > 0 && sketch.leg > 0 ? profile.arm / profile.leg / (sketch.arm / sketch.leg || 1) : 1;
  if (sketch.handToHips < 0.45 && Math.abs(Math.log(armToLeg || 1)) > 0.15)
    take(
      8 * Math.min(1, Math.abs(Math.log(armToLeg)) * 2),
      'hands come near the hips, and this body’s arms and legs have other proportions',
    );
  if (sketch.handToHead < 0.35 && Math.abs(Math.log(armToLeg || 1)) > 0.15)
    take(6 * Math.min(1, Math.abs(Math.log(armToLeg)) * 2), 'hands come near the head and may miss it or run into it');
  reasons.sort((a, b) => b.loss - a.loss);
  const loss = reasons.reduce((s, r) => s + r.loss, 0);
  return {
    score: Math.max(0, Math.min(100, Math.round(100 - loss))),
    reasons: reasons.map((r) => r.text),
    driftPercent: drift,
    reachPercent: reach,
  };
}

// scratch of legStrain: sole point and hip joint at each moment
const sole = new Float64Array(3 * COUNT);
const hip = new Float64Array(3 * COUNT);
const ankle = new Float64Array(3 * COUNT);

function legStrain(sketch: FitSketch, p: FitProfile): { drift: number; reach: number } {
  const m = sketch.moments;
  const scale = p.leg / sketch.leg;
  let drift = 0;
  let reach = 0;
  const full = p.thigh + p.shin;
  for (let i = 0; i < sketch.plants.length; i++) {
    const { part, height } = sketch.plants[i]!;
    const side = part.endsWith('L') ? p.halfHips : -p.halfHips;
    const [ahead, up] = part.startsWith('heel') ? p.heel : p.ball;
    for (let k = 0; k < COUNT; k++) {
      const o = (i * COUNT + k) * MOMENT_WIDTH;
      for (let c = 0; c < 3; c++) {
        const h = m[o + c]! * scale + side * m[o + 3 + c]!;
        const a = h + p.thigh * m[o + 6 + c]! + p.shin * m[o + 9 + c]!;
        hip[3 * k + c] = h;
        ankle[3 * k + c] = a;
        sole[3 * k + c] = a + ahead * m[o + 12 + c]! + up * m[o + 15 + c]!;
      }
    }
    for (let k = 1; k < COUNT; k++) {
      const dx = sole[3 * k]! - sole[0]!;
      const dz = sole[3 * k + 2]! - sole[2]!;
      drift = Math.max(drift, Math.sqrt(dx * dx + dz * dz));
    }
    // the spot is where the middle moment has it, at the plant's height
    const spotX = sole[3 * MIDDLE]!;
    const spotY = height * scale;
    const spotZ = sole[3 * MIDDLE + 2]!;
    for (let k = 0; k < COUNT; k++) {
      const dx = ankle[3 * k]! + spotX - sole[3 * k]! - hip[3 * k]!;
      const dy = ankle[3 * k + 1]! + spotY - sole[3 * k + 1]! - hip[3 * k + 1]!;
      const dz = ankle[3 * k + 2]! + spotZ - sole[3 * k + 2]! - hip[3 * k + 2]!;
      // a leg that is as straight in the pose carried over may stay so
      const ax = ankle[3 * k]! - hip[3 * k]!;
      const ay = ankle[3 * k + 1]! - hip[3 * k + 1]!;
      const az = ankle[3 * k + 2]! - hip[3 * k + 2]!;
      const now = Math.sqrt(ax * ax + ay * ay + az * az);
      reach = Math.max(
        reach,
        Math.sqrt(dx * dx + dy * dy + dz * dz) - Math.min(0.9995 * full, Math.max(NEARLY * full, now)),
      );
    }
  }
  return {
    drift: (100 * drift) / p.leg,
    reach: (100 * Math.max(0, reach)) / p.leg,
  };
}
