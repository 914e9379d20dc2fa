import type { Plant, PlantPart } from '../analysis/plants';
import { steadiness } from '../analysis/steadiness';
import type { Party } from '../body/party';
import { mapFaults } from '../bodymap/faults';
import { stanceOf } from '../bodymap/stance';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { measureCrossings } from './crossing';
import { measureLimits } from './limits';
import type { RetargetPlan } from './plan';
import { type BodyMeasure, measureWhole } from './report-body';
import { type GroundMeasure, measureGround } from './report-feet';
import { measureHands } from './report-hands';
import { type Directions, directions, findUnmapped } from './report-limbs';
import { type StretchMeasure, skinStretch } from './report-skin';
import { standingBody } from './stand-on-ends';
import { type Trouble, type TroubleFact, told } from './trouble';

/** One measured fault over time, a number a frame, and the value from which it counts as trouble. */
export interface Lane {
  readonly name: string;
  readonly unit: string;
  readonly values: Float32Array;
  readonly limit: number;
}

/** Everything measured on a finished fitting; figures as QUALITY defines them. */
export interface Report {
  readonly frames: number;
  readonly slip: {
    readonly maxCm: number;
    readonly maxPercentLeg: number;
    readonly meanPercentLegPerPlantSecond: number;
  };
  readonly floor: { readonly maxDepthCm: number };
  readonly hover: { readonly maxCm: number; readonly maxPercentLeg: number };
  readonly reach: { readonly maxCm: number; readonly handsCm: number };
  readonly direction: Directions;
  /** Angular accelerations of the result against the source's: 1 is as smooth. */
  readonly jitter: { readonly ratio: number };
  readonly snap: { readonly ratio: number; readonly frame: number; readonly part: string };
  readonly limits: {
    readonly maxDeg: number;
    readonly part: string;
    /** The same beyond what the source does. */
    readonly beyondDeg: number;
  };
  readonly crossing: { readonly maxCm: number };
  /** Hands that hold one thing: how far their distance is off. */
  readonly hands: { readonly apartCm: number };
  /** The trunk against the source's, parts of one body that have come apart, and how many of head and limbs a cut-out lacks. */
  readonly body: { readonly trunkDeg: number; readonly apartPercent: number; readonly lacking?: number };
  /** Largest stretch of the skin, 1 as at rest; where a mesh is known. */
  readonly skin: { readonly stretch: number };
  readonly plants: readonly Plant[];
  readonly unmapped: { readonly source: readonly string[]; readonly target: readonly string[] };
  readonly warnings: readonly string[];
  readonly lanes: readonly Lane[];
  readonly troubles: readonly Trouble[];
}

/** What the solve itself knows. */
export interface Solved {
  readonly heights: readonly number[];
  readonly reach: { readonly max: number; readonly frame: number };
  readonly handReach: { readonly max: number; readonly frame: number };
  /** How far a held foot or a hand with a goal stays away from it, per frame, metres. */
  readonly short?: Float32Array | undefined;
}

/** Measures a solved fitting on its own forward kinematics, as a stranger would. */
export function measure(
  plan: RetargetPlan,
  source: Motion,
  result: Motion,
  plants: readonly Plant[],
  solved: Solved,
): Report {
  const { target } = plan;
  const { leg } = standingBody(plan);
  const ground = measureGround(plan, result, plants, solved.heights);
  const direction = directions(plan, source, result);
  const unmapped = findUnmapped(plan, source);
  const [before, after] = [steadiness(plan.source, source), steadiness(target, result)];
  const snap = before.snap > 0 ? after.snap / before.snap : 1;
  // what is told to people is told against what can be seen
  const seen = Math.max(STILL_SNAP, before.snap);
  const limits = measureLimits(target, result);
  const own = measureLimits(plan.source, source);
  const crossing = measureCrossings(plan.source, source, target, result, plan.source.radii ?? {}, target.radii ?? {});
  const hands = measureHands(plan, source, result);
  const worstLimit = limits.parts[0];
  const whole = measureWhole(plan, source, result);
  const skin = target.edges && skinStretch(target.rig, target.map, result, target.edges);
  const troubles = [
    ...stanceTroubles(plan),
    ...bodyTroubles(plan, whole, skin),
    ...wrongSlots(plan),
    ...groundTroubles(plan, ground, plants, solved),
    ...limbTroubles(plan, { snap: after.snap / seen, after, limits, own, crossing, hands }),
    ...mapTroubles(unmapped),
  ];
  return {
    frames: result.frameCount,
    slip: {
      maxCm: ground.maxNet * 100,
      maxPercentLeg: leg > 0 ? (100 * ground.maxNet) / leg : 0,
      meanPercentLegPerPlantSecond: leg > 0 && ground.seconds > 0 ? (100 * ground.path) / leg / ground.seconds : 0,
    },
    floor: { maxDepthCm: ground.maxDepth.value * 100 },
    hover: {
      maxCm: ground.maxHover.value * 100,
      maxPercentLeg: leg > 0 ? (100 * ground.maxHover.value) / leg : 0,
    },
    reach: { maxCm: solved.reach.max * 100, handsCm: solved.handReach.max * 100 },
    direction: direction.summary,
    jitter: { ratio: before.jitter > 0 ? after.jitter / before.jitter : 1 },
    snap: { ratio: snap, frame: after.snapFrame, part: after.snapSlot },
    limits: {
      maxDeg: worstLimit?.degrees ?? 0,
      part: worstLimit?.slot ?? '',
      beyondDeg: limits.parts.reduce(
        (most, part) => Math.max(most, part.degrees - (own.parts.find((p) => p.slot === part.slot)?.degrees ?? 0)),
        0,
      ),
    },
    crossing: { maxCm: (crossing.crossings[0]?.depth ?? 0) * 100 },
    hands: { apartCm: hands.apart * 100 },
    body: { trunkDeg: whole.trunkDeg, apartPercent: 100 * whole.apart },
    skin: { stretch: skin?.max ?? 1 },
    plants,
    unmapped: { source: unmapped.source, target: unmapped.target },
    warnings: legWarnings(plan),
    lanes: [
      { name: 'trunk and head', unit: '°', values: whole.lane, limit: TRUNK_OFF },
      { name: 'parts apart', unit: '%', values: scaled(whole.apartLane, 100), limit: 100 * APART },
      ...(skin
        ? [
            {
              name: 'skin stretch',
              unit: '%',
              values: skin.lane.map((x) => 100 * (x - 1)),
              limit: 100 * (STRETCHED - 1),
            },
          ]
        : []),
      { name: 'sole slip L', unit: 'cm', values: ground.slipL, limit: leg },
      { name: 'sole slip R', unit: 'cm', values: ground.slipR, limit: leg },
      { name: 'below floor', unit: 'cm', values: ground.depth, limit: 0.5 * leg },
      {
        name: 'reach',
        unit: 'cm',
        values: scaled(solved.short ?? new Float32Array(result.frameCount), 100),
        limit: 0.5,
      },
      { name: 'knee snap', unit: '×', values: scaled(after.knees, 1 / seen), limit: 1.5 },
      { name: 'elbow snap', unit: '×', values: scaled(after.elbows, 1 / seen), limit: 1.5 },
      {
        name: 'sudden moves',
        unit: '×',
        values: scaled(after.limbs, 1 / Math.max(STILL_SNAP, largest(before.limbs))),
        limit: 2,
      },
      { name: 'direction', unit: '°', values: direction.lane, limit: DIRECTION_OFF },
      { name: 'joint limits', unit: '°', values: limits.lane, limit: 8 },
      { name: 'crossing', unit: 'cm', values: crossing.lane.map((x) => 100 * x), limit: 2 },
    ],
    troubles: troubles.map(told),
  };
}

const scaled = (values: Float32Array, by: number): Float32Array => values.map((x) => x * by);

/** Accelerations are told against the largest of the source; below this, °/s², nothing of it can be seen. */
const STILL_SNAP = 400;
const largest = (values: Float32Array): number => values.reduce((m, x) => Math.max(m, x), 0);

function legWarnings(plan: RetargetPlan): string[] {
  const out: string[] = [];
  if (plan.source.body.leg === 0) out.push('The source has no legs that could be mapped; travel was taken as it is.');
  if (plan.stiff.some((part) => part.kind === 'leg'))
    out.push(
      'Each leg of the target is a single joint: the lower foot is kept on the ground, and no plants were held.',
    );
  else if (plan.target.body.leg === 0) out.push('The target has no legs that could be mapped; no plants were held.');
  const arms = ['L', 'R'].filter((s) => (plan.target.map.slots[`upperArm${s}`]?.joint ?? -1) < 0);
  if (arms.length === 1)
    out.push(`The target has no ${arms[0] === 'L' ? 'left' : 'right'} arm; that arm's motion is not carried over.`);
  if (arms.length === 2) out.push("The target has no arms that could be mapped; the arms' motion is not carried over.");
  return out;
}

function groundTroubles(
  plan: RetargetPlan,
  ground: GroundMeasure,
  plants: readonly Plant[],
  solved: Solved,
): TroubleFact[] {
  const out: TroubleFact[] = [];
  const { leg } = standingBody(plan);
  plants.forEach((plant, i) => {
    const move = ground.moves[i]!;
    if (!(move > 0.01 * leg)) return;
    out.push({
      kind: 'slip',
      frame: plant.end,
      joint: jointName(plan, plant.part),
      parts: [plant.part],
      amount: 100 * move,
      unit: 'cm',
    });
  });
  if (ground.maxDepth.value > 0.005 * leg)
    out.push({
      kind: 'floor',
      frame: ground.maxDepth.frame,
      joint: jointName(plan, 'heelL'),
      parts: ['footL', 'footR'],
      amount: 100 * ground.maxDepth.value,
      unit: 'cm',
    });
  if (ground.maxHover.value > 0.01 * leg)
    out.push({
      kind: 'hover',
      frame: ground.maxHover.frame,
      joint: jointName(plan, ground.maxHover.part),
      parts: [ground.maxHover.part],
      amount: 100 * ground.maxHover.value,
      unit: 'cm',
    });
  if (solved.reach.max > 0.005)
    out.push({
      kind: 'reach',
      frame: solved.reach.frame,
      joint: jointName(plan, 'heelL'),
      parts: ['footL', 'footR'],
      amount: 100 * solved.reach.max,
      unit: 'cm',
    });
  if (solved.handReach.max > 0.01)
    out.push({
      kind: 'reach',
      frame: solved.handReach.frame,
      joint: jointName(plan, 'handL'),
      parts: ['handL', 'handR'],
      amount: 100 * solved.handReach.max,
      unit: 'cm',
    });
  return out;
}

function limbTroubles(
  plan: RetargetPlan,
  m: {
    snap: number;
    after: ReturnType<typeof steadiness>;
    limits: ReturnType<typeof measureLimits>;
    own: ReturnType<typeof measureLimits>;
    crossing: ReturnType<typeof measureCrossings>;
    hands: ReturnType<typeof measureHands>;
  },
): TroubleFact[] {
  const out: TroubleFact[] = [];
  const joint = (slot: string): string => plan.target.rig.names[plan.target.map.slots[slot]?.joint ?? 0]!;
  if (m.snap > 1.5)
    out.push({
      kind: 'snap',
      frame: m.after.snapFrame,
      joint: joint(m.after.snapSlot),
      parts: [m.after.snapSlot],
      amount: m.snap,
      unit: '×',
    });
  for (const part of m.limits.parts.slice(0, 3)) {
    // what the source does too is the performer's, not the fitting's
    const its = m.own.parts.find((p) => p.slot === part.slot)?.degrees ?? 0;
    if (part.degrees - its > 8)
      out.push({
        kind: 'limit',
        frame: part.frame,
        joint: part.joint,
        parts: [part.slot],
        amount: part.degrees,
        unit: '°',
      });
  }
  for (const c of m.crossing.crossings.slice(0, 3)) {
    if (c.depth < 0.02) continue;
    out.push({
      kind: 'crossing',
      frame: c.frame,
      joint: joint(c.parts[0]),
      parts: c.parts,
      amount: 100 * c.depth,
      unit: 'cm',
    });
  }
  if (m.hands.apart > 0.05)
    out.push({
      kind: 'hands',
      frame: m.hands.frame,
      joint: joint('handL'),
      parts: ['handL', 'handR'],
      amount: 100 * m.hands.apart,
      unit: 'cm',
    });
  return out;
}

/** From here on the trunk lies elsewhere than the source's, degrees; parts are apart, as a share; skin is torn. */
const TRUNK_OFF = 20;
export const DIRECTION_OFF = 15;
const APART = 0.15;
const STRETCHED = 2;

/** What spoils the whole picture: a trunk that lies elsewhere, a body torn apart, skin left behind. */
function bodyTroubles(plan: RetargetPlan, whole: BodyMeasure, skin: StretchMeasure | undefined): TroubleFact[] {
  const out: TroubleFact[] = [];
  const { rig, map } = plan.target;
  const joint = (slot: string): string => rig.names[Math.max(0, map.slots[slot]?.joint ?? 0)]!;
  if (whole.apart > APART)
    out.push({
      kind: 'body',
      frame: whole.apartFrame,
      joint: joint('hips'),
      parts: whole.apartParts,
      amount: 100 * whole.apart,
      unit: '%',
    });
  if (whole.trunkDeg > TRUNK_OFF)
    out.push({
      kind: 'body',
      frame: whole.trunkFrame,
      joint: joint(whole.trunkPart === 'head' ? 'head' : 'hips'),
      parts: [whole.trunkPart],
      amount: whole.trunkDeg,
      unit: '°',
    });
  if (skin && skin.max > STRETCHED)
    out.push({
      kind: 'skin',
      frame: skin.frame,
      joint: rig.names[skin.joint] ?? '',
      parts: [],
      names: [rig.names[skin.joint] ?? 'a joint'],
      amount: skin.max,
      unit: '×',
    });
  return out;
}

/** Bodies that stand differently: a motion on two legs does not suit one that goes on four. */
function stanceTroubles(plan: RetargetPlan): TroubleFact[] {
  const [theirs, own] = [plan.source, plan.target].map((p) => stanceOf(p.map, p.pose ?? restPose(p.rig)));
  if (theirs === own || theirs === 'unknown' || own === 'unknown') return [];
  return [
    {
      kind: 'stance',
      frame: 0,
      joint: plan.target.rig.names[0]!,
      parts: [own === 'four-legged' ? 'forelegs' : 'arms'],
      amount: 0,
      unit: '',
    },
  ];
}

/** Slots whose joint cannot be right, on either side. */
function wrongSlots(plan: RetargetPlan): TroubleFact[] {
  return [
    ['source', plan.source],
    ['target', plan.target],
  ].flatMap(([side, party]) => {
    const { rig, map, pose } = party as Party;
    return mapFaults(rig, map, pose).map(
      (f): TroubleFact => ({
        kind: 'map',
        frame: 0,
        joint: f.joint,
        parts: [side as string],
        names: [f.text],
        amount: 0,
        unit: '',
      }),
    );
  });
}

function mapTroubles(unmapped: ReturnType<typeof findUnmapped>): TroubleFact[] {
  const out: TroubleFact[] = [];
  if (unmapped.still.length > 0)
    out.push({
      kind: 'still',
      frame: 0,
      joint: unmapped.still[0]!,
      parts: [],
      names: unmapped.still,
      amount: 0,
      unit: '',
    });
  if (unmapped.moving.length > 0)
    out.push({
      kind: 'unpaired',
      frame: 0,
      joint: unmapped.moving[0]!,
      parts: [],
      names: unmapped.moving,
      amount: 0,
      unit: '',
    });
  return out;
}

function jointName(plan: RetargetPlan, part: PlantPart): string {
  const side = part.endsWith('L') ? 'L' : 'R';
  const slot =
    part === 'seat' ? 'hips' : part.startsWith('hand') ? part : part.startsWith('knee') ? `shin${side}` : `foot${side}`;
  return plan.target.rig.names[plan.target.map.slots[slot]?.joint ?? 0]!;
}
