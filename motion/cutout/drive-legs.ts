import { isSole, type Plant, sideOfPart } from '../analysis/plants';
import { smoothCourse } from '../math/smooth-course';
import { smoothstep } from '../math/vec';
import { addEased, envelope } from '../retarget/envelope';
import type { WorldAngles } from './drive-angles';
import type { FlatBody, FlatLeg } from './flat';
import { type Bound, kneeAsSeen } from './knee-as-seen';
import type { Seen } from './seen';

/** A plant on the cut-out: a point of a foot that stays on a spot of the picture. */
export interface FlatPlant {
  readonly part: Plant['part'];
  readonly start: number;
  readonly end: number;
  /** Metres, in the plane. */
  readonly spot: readonly [number, number];
}

export interface LegOptions {
  /** Metres of the figure for each metre of the performer. */
  readonly scale: number;
  readonly travel: boolean;
  /** Height of the ground under the performer, metres. */
  readonly floor: number;
  readonly plants: readonly Plant[];
  /** Height of every plant above that ground, metres of the performer. */
  readonly heights: readonly number[];
  /** Shortest that a bone is drawn. */
  readonly least: number;
  /** Feet are held, and kept above the ground; else everything is as it is carried over. */
  readonly hold: boolean;
}

/** Turns and lengths of one leg: F numbers each; joints −1 where it has none. */
export interface DrivenLeg {
  readonly thigh: number;
  readonly shin: number;
  readonly foot: number;
  readonly thighAngle: Float64Array;
  readonly shinAngle: Float64Array;
  readonly footAngle: Float64Array;
  readonly thighLength: Float32Array;
  readonly shinLength: Float32Array;
}

export interface PlacedLegs {
  /** Place of the hips' joint, 2 F numbers, metres. */
  readonly hips: Float64Array;
  readonly legs: readonly DrivenLeg[];
  readonly plants: readonly FlatPlant[];
  readonly reach: { readonly max: number; readonly frame: number };
}

/** A foot's course: where its ankle shall be and how it is turned. */
interface FootCourse {
  readonly leg: FlatLeg;
  /** Carried over: 2 F and F. */
  readonly ankle: Float64Array;
  readonly turn: Float64Array;
  /** To be reached: 2 F and F. */
  readonly goal: Float64Array;
  readonly goalTurn: Float64Array;
  /** 0 free, 1 heel, 2 ball, 3 both. */
  readonly held: Uint8Array;
  readonly plants: FlatPlant[];
}

/** A foot goes to its stand and away from it within this time, seconds. */
const EASE_S = 0.12;
const CUTOFF_HZ = 4.5;
/** A standing foot tips no farther about its end, radians. */
const MOST_TIPPED = 1.3;
/** Share of the leg's length up to which a standing leg stretches. */
const STRAIGHT = 0.999;
/** How much shorter than seen a leg may be drawn so that its knee keeps its bend. */
const GIVE = 0.88;

/**
 * Puts the hips and both legs so that feet that stand stay on their spots in the plane: spots from the carried-over motion,
 * hips where the standing legs keep their directions best (smoothed), knees by two-bone solves.
 */
export function placeLegs(
  flat: FlatBody,
  seen: Seen,
  world: WorldAngles,
  flips: Int8Array,
  options: LegOptions,
): PlacedLegs {
  const n = seen.frameCount;
  const hips = carriedHips(flat, seen, world, flips, options);
  const courses = flat.legs.map((leg) => courseOf(flat, seen, world, flips, hips, leg, options));
  settle(hips, courses, seen.fps);
  comeWithin(flat, world, flips, hips, courses, seen.fps);
  const legs: DrivenLeg[] = [];
  let max = 0;
  let frame = 0;
  for (const course of courses) {
    const { leg, missed } = bend(flat, world, flips, hips, course, options.least / 2);
    legs.push(leg);
    for (let f = 0; f < n; f++)
      if (course.held[f] && missed[f]! > max) {
        max = missed[f]!;
        frame = f;
      }
  }
  return { hips, legs, plants: courses.flatMap((c) => c.plants), reach: { max, frame } };
}

const turned = (angle: number, x: number, y: number): [number, number] => {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return [c * x - s * y, s * x + c * y];
};

/** From the hips' joint to a hip joint in a frame, in the figure's own left and right. */
function hipOffset(flat: FlatBody, world: WorldAngles, joint: number, f: number): [number, number] {
  const [a, b] = [3 * joint, 3 * flat.hips];
  return turned(
    world.angle[flat.hips]![f]!,
    flat.places[a]! - flat.places[b]!,
    flat.places[a + 1]! - flat.places[b + 1]!,
  );
}

/** The hips over the performer's scaled path. */
function carriedHips(
  flat: FlatBody,
  seen: Seen,
  world: WorldAngles,
  flips: Int8Array,
  { scale, travel, floor }: LegOptions,
): Float64Array {
  const n = seen.frameCount;
  const out = new Float64Array(2 * n);
  const track = seen.at.hips!;
  for (let f = 0; f < n; f++) {
    let [ox, oy] = [0, 0];
    for (const leg of flat.legs) {
      const [x, y] = hipOffset(flat, world, leg.thigh.joint, f);
      ox += x / flat.legs.length;
      oy += y / flat.legs.length;
    }
    out[2 * f] = (travel ? scale * seen.way[f]! : 0) - flips[f]! * ox;
    const height = scale * (track[3 * f + 1]! - floor);
    // without legs the hips keep the height at which they were drawn
    out[2 * f + 1] =
      flat.legs.length > 0 ? height - oy : flat.places[3 * flat.hips + 1]! + scale * (track[3 * f + 1]! - track[1]!);
  }
  return out;
}

/** From hip joint to ankle as the directions say, in the figure's own left and right. */
function legVector(world: WorldAngles, leg: FlatLeg, f: number): [number, number] {
  const part = (bone: FlatLeg['thigh']): [number, number] => {
    const by = bone.length * (world.length.get(bone.joint)?.[f] ?? 1);
    return turned(world.angle[bone.joint]![f]!, by * bone.x, by * bone.y);
  };
  const [x, y] = part(leg.thigh);
  if (!leg.shin) return [x, y];
  const [u, v] = part(leg.shin);
  return [x + u, y + v];
}

function courseOf(
  flat: FlatBody,
  seen: Seen,
  world: WorldAngles,
  flips: Int8Array,
  hips: Float64Array,
  leg: FlatLeg,
  options: LegOptions,
): FootCourse {
  const n = seen.frameCount;
  const { foot } = leg;
  const ankle = new Float64Array(2 * n);
  const turn = foot.joint >= 0 ? world.angle[foot.joint]!.slice() : new Float64Array(n);
  for (let f = 0; f < n; f++) {
    const [ox, oy] = hipOffset(flat, world, leg.thigh.joint, f);
    const [lx, ly] = legVector(world, leg, f);
    ankle[2 * f] = hips[2 * f]! + flips[f]! * (ox + lx);
    ankle[2 * f + 1] = hips[2 * f + 1]! + oy + ly;
  }
  const held = new Uint8Array(n);
  const height = new Float64Array(n);
  options.plants.forEach((plant, i) => {
    if (!isSole(plant.part) || sideOfPart(plant.part) !== leg.side) return;
    for (let f = Math.max(0, plant.start); f <= Math.min(n - 1, plant.end); f++) {
      held[f]! |= plant.part.startsWith('heel') ? 1 : 2;
      height[f] = options.scale * (options.heights[i] ?? 0);
    }
  });
  const goal = ankle.slice();
  const goalTurn = turn.slice();
  const plants: FlatPlant[] = [];
  const ease = Math.max(1, Math.round(EASE_S * seen.fps));
  for (let start = 0; start < n; start++) {
    if (!held[start]) continue;
    let end = start;
    // a figure that turns over in mid-stand stands anew
    while (end + 1 < n && held[end + 1] && flips[end + 1] === flips[start] && height[end + 1] === height[start]) end++;
    stand(start, end);
    start = end;
  }
  function course(): FootCourse {
    return { leg, ankle, turn, goal, goalTurn, held, plants };
  }
  function stand(start: number, end: number): void {
    const flip = flips[start]!;
    const forward = Math.sign(foot.ball[0] - foot.heel[0]);
    // (1) how the foot is turned: flat while both ends stand, about the end that stands otherwise
    const flats: number[] = [];
    for (let f = start; f <= end; f++) if (held[f] === 3) flats.push(f);
    for (let f = start; f <= end; f++) {
      if (held[f] === 3 || forward === 0) {
        goalTurn[f] = 0;
        continue;
      }
      // the free end is in the air, not in the ground, and no higher than the leg has it: a larger foot tips less
      const most = Math.min(MOST_TIPPED, tipTo(ankle[2 * f + 1]! - height[f]!, held[f] === 1 ? foot.heel : foot.ball));
      const by = turn[f]! * forward;
      const free = held[f] === 1 ? Math.min(most, Math.max(0, by)) : Math.max(-most, Math.min(0, by));
      const near = flats.length > 0 ? Math.min(...flats.map((g) => Math.abs(g - f))) : ease;
      goalTurn[f] = forward * free * smoothstep(near / ease);
    }
    // (2) where it stands: where the carried-over foot is on average while it stands
    const point = (f: number): readonly [number, number] => (held[f] === 1 ? foot.heel : foot.ball);
    let sum = 0;
    const counted = flats.length > 0 ? flats : Array.from({ length: end - start + 1 }, (_, i) => start + i);
    for (const f of counted) {
      const [x] = turned(goalTurn[f]!, ...point(f));
      sum += ankle[2 * f]! + flip * (x + (foot.ball[0] - point(f)[0]));
    }
    const ball = sum / counted.length;
    const heel = ball - flip * (foot.ball[0] - foot.heel[0]);
    const ground = height[start]!;
    for (let f = start; f <= end; f++) {
      const on = point(f);
      const [x, y] = turned(goalTurn[f]!, ...on);
      goal[2 * f] = (on === foot.heel ? heel : ball) - flip * x;
      // both points lie on the sole: where they do not, the lower one stands
      goal[2 * f + 1] = ground - y;
    }
    for (const [bit, part, spot] of [
      [1, 'heel', heel],
      [2, 'ball', ball],
    ] as const) {
      for (let f = start; f <= end; f++) {
        if (!(held[f]! & bit)) continue;
        const from = f;
        while (f + 1 <= end && held[f + 1]! & bit) f++;
        plants.push({ part: `${part}${leg.side}`, start: from, end: f, spot: [spot, ground] });
      }
    }
  }
  if (options.hold) between(course(), seen.fps);
  return course();
}

/** By how much a foot tips about a point of its sole until its ankle is at a height above it, radians; 0 where it is when flat. */
function tipTo(height: number, [x, y]: readonly [number, number]): number {
  const lever = Math.hypot(x, y);
  return Math.max(0, Math.asin(Math.min(1, Math.max(-1, height / lever))) - Math.atan2(-y, Math.abs(x)));
}

/** Free feet go on from where they stood to where they will stand: what was changed at either end passes over in between. */
function between({ leg, ankle, turn, goal, goalTurn, held }: FootCourse, fps: number): void {
  const n = held.length;
  const ease = Math.max(1, Math.round(1.5 * EASE_S * fps));
  for (let f = 0; f < n; f++) {
    if (held[f]) continue;
    const from = f - 1;
    let to = f;
    while (to < n && !held[to]) to++;
    for (let g = f; g < to; g++) {
      const t = from < 0 ? 1 : to >= n ? 0 : smoothstep((g - from) / (to - from));
      for (let k = 0; k < 2; k++) {
        const a = from >= 0 ? goal[2 * from + k]! - ankle[2 * from + k]! : 0;
        const b = to < n ? goal[2 * to + k]! - ankle[2 * to + k]! : 0;
        goal[2 * g + k] = ankle[2 * g + k]! + (from < 0 ? b : to >= n ? a : (1 - t) * a + t * b);
      }
      const out = from >= 0 ? (goalTurn[from]! - turn[from]!) * (1 - smoothstep((g - from) / ease)) : 0;
      const into = to < n ? (goalTurn[to]! - turn[to]!) * (1 - smoothstep((to - g) / ease)) : 0;
      goalTurn[g] = turn[g]! + out + into;
      // no swinging foot goes through the ground
      const low = Math.min(turned(goalTurn[g]!, ...leg.foot.heel)[1], turned(goalTurn[g]!, ...leg.foot.ball)[1]);
      goal[2 * g + 1] = Math.max(goal[2 * g + 1]!, -low);
    }
    f = to;
  }
}

/** Moves the hips to where standing legs keep their directions best. */
function settle(hips: Float64Array, courses: readonly FootCourse[], fps: number): void {
  const n = hips.length / 2;
  const wanted = new Float64Array(2 * n);
  const weights = new Float64Array(n);
  const ramp = Math.max(1, Math.round(EASE_S * fps));
  const near = courses.map(({ held }) => nearness(held, ramp));
  for (let f = 0; f < n; f++) {
    let sum = 0;
    courses.forEach(({ goal, ankle }, i) => {
      const w = near[i]![f]!;
      sum += w;
      for (let k = 0; k < 2; k++) wanted[2 * f + k] = wanted[2 * f + k]! + w * (goal[2 * f + k]! - ankle[2 * f + k]!);
    });
    if (sum <= 0) continue;
    for (let k = 0; k < 2; k++) wanted[2 * f + k] = wanted[2 * f + k]! / sum;
    weights[f] = Math.min(1, sum);
  }
  if (weights.every((w) => w === 0)) return;
  const course = smoothCourse(wanted, weights, 2, CUTOFF_HZ, fps);
  for (let i = 0; i < hips.length; i++) hips[i] = hips[i]! + course[i]!;
}

/** 1 while something holds, falling to 0 within some frames about it. */
function nearness(held: Uint8Array, ramp: number): Float64Array {
  const n = held.length;
  const away = new Float64Array(n).fill(ramp);
  for (let f = 0; f < n; f++) away[f] = held[f] ? 0 : Math.min(ramp, (away[f - 1] ?? ramp) + 1);
  for (let f = n - 1; f >= 0; f--) if (!held[f]) away[f] = Math.min(away[f]!, (away[f + 1] ?? ramp) + 1);
  return away.map((d) => 1 - smoothstep(d / ramp));
}

/** How often the hips are drawn towards feet that they cannot reach, one foot after the other. */
const ROUNDS = 8;

/** Draws the hips, smoothly, to where standing legs reach: down first, aside where that is not enough. */
function comeWithin(
  flat: FlatBody,
  world: WorldAngles,
  flips: Int8Array,
  hips: Float64Array,
  courses: readonly FootCourse[],
  fps: number,
): void {
  const n = hips.length / 2;
  const w = Math.max(1, Math.round(EASE_S * fps));
  const needs = courses.map(({ leg, goal, held }) => {
    const full = STRAIGHT * (leg.thigh.length + (leg.shin?.length ?? 0));
    return (f: number, by: readonly [number, number]): readonly [number, number, number] | undefined => {
      if (!held[f]) return undefined;
      const [ox, oy] = hipOffset(flat, world, leg.thigh.joint, f);
      return [
        hips[2 * f]! + by[0] + flips[f]! * ox - goal[2 * f]!,
        hips[2 * f + 1]! + by[1] + oy - goal[2 * f + 1]!,
        full,
      ];
    };
  });
  // (1) down
  const down = new Float64Array(n);
  for (const need of needs)
    for (let f = 0; f < n; f++) {
      const at = need(f, [0, 0]);
      if (at) down[f] = Math.max(down[f]!, Math.min(at[1], at[1] - Math.sqrt(Math.max(0, at[2] ** 2 - at[0] ** 2))));
    }
  if (down.some((d) => d > 0)) {
    const eased = envelope(down, w);
    for (let f = 0; f < n; f++) hips[2 * f + 1] = hips[2 * f + 1]! - Math.max(0, eased[f]!);
  }
  // (2) whatever is left
  const left = new Float64Array(3 * n);
  let any = false;
  for (let f = 0; f < n; f++) {
    const by: [number, number] = [0, 0];
    for (let round = 0; round < ROUNDS; round++)
      for (const need of needs) {
        const at = need(f, by);
        const far = at ? Math.hypot(at[0], at[1]) : 0;
        if (!at || far <= at[2]) continue;
        const share = (far - at[2]) / far;
        by[0] -= share * at[0];
        by[1] -= share * at[1];
        any = true;
      }
    left.set(by, 3 * f);
  }
  if (!any) return;
  const total = new Float64Array(3 * n);
  addEased(total, left, w);
  for (let f = 0; f < n; f++) {
    hips[2 * f] = hips[2 * f]! + total[3 * f]!;
    hips[2 * f + 1] = hips[2 * f + 1]! + total[3 * f + 1]!;
  }
}

function bend(
  flat: FlatBody,
  world: WorldAngles,
  flips: Int8Array,
  hips: Float64Array,
  { leg, goal, goalTurn }: FootCourse,
  least: number,
): { leg: DrivenLeg; missed: Float64Array } {
  const n = flips.length;
  const { thigh, shin } = leg;
  const thighAngle = world.angle[thigh.joint]!.slice();
  const shinAngle = shin ? world.angle[shin.joint]!.slice() : new Float64Array(n);
  const thighLength = new Float32Array(n).fill(1);
  const shinLength = new Float32Array(n).fill(1);
  const missed = new Float64Array(n);
  const rest = Math.atan2(thigh.y, thigh.x);
  const restShin = shin ? Math.atan2(shin.y, shin.x) : 0;
  const side = kneeSides(flat, world, leg);
  let bent = side[0]!;
  const continued = (track: Float64Array, f: number, value: number): number =>
    value + 2 * Math.PI * Math.round((track[f]! - value) / (2 * Math.PI));
  for (let f = 0; f < n; f++) {
    const [ox, oy] = hipOffset(flat, world, thigh.joint, f);
    const gx = flips[f]! * (goal[2 * f]! - hips[2 * f]!) - ox;
    const gy = goal[2 * f + 1]! - hips[2 * f + 1]! - oy;
    let [dx, dy] = [gx, gy];
    const far = Math.hypot(dx, dy);
    const towards = Math.atan2(dy, dx);
    const [s1, s2] = [world.length.get(thigh.joint)?.[f] ?? 1, shin ? (world.length.get(shin.joint)?.[f] ?? 1) : 1];
    if (!shin) {
      const by = least < 0.5 ? Math.max(Math.max(least, GIVE * s1), Math.min(1, far / thigh.length)) : 1;
      thighAngle[f] = continued(thighAngle, f, towards - rest);
      thighLength[f] = by;
      missed[f] = Math.abs(far - by * thigh.length);
      continue;
    }
    let knee: readonly [number, number] | undefined;
    let [a, b] = [s1 * thigh.length, s2 * shin.length];
    if (least < 0.5) {
      const one = turned(world.angle[thigh.joint]![f]!, thigh.x, thigh.y);
      const two = turned(world.angle[shin.joint]![f]!, shin.x, shin.y);
      const bound = (share: number, length: number): Bound => ({
        seen: share * length,
        low: Math.max(GIVE * share, Math.min(share, least)) * length,
        high: length,
      });
      const [upper, lower] = [bound(s1, thigh.length), bound(s2, shin.length)];
      knee = kneeAsSeen([dx, dy], one, two, upper, lower);
      const across = dx * knee[1] - dy * knee[0];
      [a, b] = [Math.hypot(...knee), Math.hypot(dx - knee[0], dy - knee[1])];
      if (Math.abs(across) > TELLS * a * far) bent = across > 0 ? -1 : 1;
      // too long for where it should end, a leg that is seen straight bends; one that is folded is drawn shorter
      const straight = 1 - smoothstep(((a + b) / (far || 1e-9) - 1.02) / 0.15);
      if (b < lower.low && straight > 0) {
        knee = undefined;
        b += straight * (lower.low - b);
      } else if (b > shin.length) {
        knee = undefined;
        [a, b] = [Math.max(a, Math.min(thigh.length, far - shin.length)), shin.length];
      }
    }
    if (!knee) {
      // where the hips are close to the foot, the longer bone is what is seen shorter
      if (far < Math.abs(a - b)) {
        if (a > b) a = b + far;
        else b = a + far;
      }
      const d = Math.min(Math.max(far, Math.abs(a - b) + 1e-9), a + b);
      const alpha = Math.acos(Math.max(-1, Math.min(1, (a * a + d * d - b * b) / (2 * a * d || 1))));
      const first = towards - (least < 0.5 ? bent : side[f]!) * alpha;
      knee = [a * Math.cos(first), a * Math.sin(first)];
      [dx, dy] = [d * Math.cos(towards), d * Math.sin(towards)];
    }
    b = Math.min(shin.length, Math.hypot(dx - knee[0], dy - knee[1]));
    const second = Math.atan2(dy - knee[1], dx - knee[0]);
    missed[f] = Math.hypot(gx - knee[0] - b * Math.cos(second), gy - knee[1] - b * Math.sin(second));
    thighAngle[f] = continued(thighAngle, f, Math.atan2(knee[1], knee[0]) - rest);
    shinAngle[f] = continued(shinAngle, f, second - restShin);
    thighLength[f] = Math.hypot(...knee) / thigh.length;
    shinLength[f] = b / shin.length;
  }
  return {
    leg: {
      thigh: thigh.joint,
      shin: shin?.joint ?? -1,
      foot: leg.foot.joint,
      thighAngle,
      shinAngle,
      footAngle: goalTurn,
      thighLength,
      shinLength,
    },
    missed,
  };
}

/** A knee this far beside the line from hip to ankle, as a sine, says to which side it is bent. */
const TELLS = 0.03;

/**
 * To which side of the line from hip to ankle the knee lies, as the performer's is seen to: −1 forwards for a figure that faces
 * right. A leg that is seen straight at first bends forwards in a profile and outwards from the front.
 */
function kneeSides(flat: FlatBody, world: WorldAngles, leg: FlatLeg): Float64Array {
  const { thigh, shin } = leg;
  const n = world.angle[thigh.joint]!.length;
  const out = new Float64Array(n);
  if (!shin) return out;
  const outward =
    flat.faces !== 0 ? flat.faces : Math.sign(flat.places[3 * thigh.joint]! - flat.places[3 * flat.hips]!) || 1;
  const cross = new Float64Array(n);
  for (let f = 0; f < n; f++) {
    const [ax, ay] = turned(world.angle[thigh.joint]![f]!, thigh.x, thigh.y);
    const [bx, by] = turned(world.angle[shin.joint]![f]!, shin.x, shin.y);
    cross[f] = ax * by - ay * bx;
  }
  let now = cross[0]! > 0.06 ? 1 : cross[0]! < -0.06 ? -1 : -outward;
  for (let f = 0; f < n; f++) {
    if (cross[f]! * now < -0.03) now = -now;
    out[f] = now;
  }
  return out;
}
