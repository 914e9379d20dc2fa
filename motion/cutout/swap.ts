import { findContacts, type SoleTracks } from '../analysis/plants';
import type { BodyMap } from '../bodymap/slots';
import { keyFrames } from '../motion/key-frames';
import type { Motion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import { ORDER_TRACK, viewTrack } from '../motion/tracks';
import type { Report } from '../retarget/report';
import { type TroubleFact, told } from '../retarget/trouble';
import type { CutoutRig } from '../rig/rig';
import { closingKeys } from './closing';
import type { FlatParty } from './drive';
import type { FlatPlant } from './drive-legs';
import { type FlatBody, measureFlat } from './flat';
import { type CutoutKey, type CutoutKeys, evaluateKeys, type KeyTrack, keyedAt, type StepKeys } from './keys';
import { readPartName } from './part-names';

/** A joint of the old figure with the one that takes its place. */
export interface SwapPair {
  readonly from: string;
  readonly to: string;
  readonly by: 'map' | 'name';
}

export interface SwapReport {
  readonly pairs: readonly SwapPair[];
  /** Joints that move in the old figure and have no partner, and joints of the new one that keep their rest. */
  readonly unpaired: { readonly from: readonly string[]; readonly to: readonly string[] };
  /** Keys that only closed gaps for the old figure: taken out, since the new one is put together anew. */
  readonly corrections: readonly { readonly joint: string; readonly frame: number }[];
  /** Parts that were off their attachment on purpose: kept, in proportion. */
  readonly breaks: readonly { readonly joint: string; readonly frame: number }[];
  /** Labels that the new figure's part does not have. */
  readonly missing: readonly { readonly part: string; readonly label: string }[];
  /** Which foot stands when; between them the root leads. */
  readonly plants: readonly FlatPlant[];
  readonly airborne: readonly { readonly start: number; readonly end: number }[];
  readonly scale: number;
}

export interface Swapped {
  readonly keys: CutoutKeys;
  readonly motion: Motion;
  readonly report: SwapReport;
}

/** Off its attachment by more than this share of the figure's height at a key, a part is off on purpose. */
const BREAK = 0.02;
/** Closer than this it is on it. */
const ON = 0.004;

/**
 * Puts finished animation on another cut-out: turns and timing stay, places come from the new figure's attachment points, and
 * in every frame the figure is set down on the part that stands then. The next foot stands where it comes down; in the air
 * the root goes its old way in proportion.
 */
export function swapCutout(source: FlatParty, keys: CutoutKeys, target: FlatParty): Swapped {
  const old = measureFlat(source.rig, source.map);
  const flat = measureFlat(target.rig, target.map);
  const scale = old.leg > 0 && flat.leg > 0 ? flat.leg / old.leg : flat.height / (old.height || 1);
  const before = evaluateKeys(source.rig, keys);
  // (1) who takes whose place
  const { pairs, unpaired } = pairJoints(source, target, keys);
  const partner = new Map(pairs.map((p) => [p.from, p.to]));
  // (2) what places mean: corrections go, breaks stay
  const corrections: { joint: string; frame: number }[] = [];
  const breaks: { joint: string; frame: number }[] = [];
  const tracks: KeyTrack[] = [];
  for (const track of keys.tracks) {
    const to = partner.get(track.joint);
    if (to === undefined) continue;
    const joint = target.rig.names.indexOf(to);
    const from = source.rig.names.indexOf(track.joint);
    if (track.channel === 'turn') {
      const by = restDifference(old, flat, from, joint);
      tracks.push({ joint: to, channel: 'turn', keys: track.keys.map((k) => ({ ...k, value: [k.value[0]! + by] })) });
      continue;
    }
    if (track.channel === 'scale') {
      tracks.push({ ...track, joint: to });
      continue;
    }
    if (from === old.hips) continue;
    const turn = keys.tracks.find((t) => t.joint === track.joint && t.channel === 'turn');
    const kept = placeKeys(old, flat, track, { from, joint, scale, turn, corrections, breaks });
    if (kept.length > 0) tracks.push({ joint: to, channel: 'place', keys: kept });
  }
  // (3) labels
  const missing: { part: string; label: string }[] = [];
  const steps = keys.steps.flatMap((s) => stepsOn(source.rig, target.rig, partner, s, missing));
  // (4) set down, frame by frame, on what stands
  const loose: CutoutKeys = { fps: keys.fps, frameCount: keys.frameCount, tracks, steps };
  const plan = standsOf(old, before, keys);
  const set = setDown(flat, evaluateKeys(target.rig, loose), old, before, plan, scale);
  const rootKeys = set.hips.map((value, frame): CutoutKey => ({ frame, value, ease: 'linear' }));
  const root: KeyTrack = {
    joint: target.rig.names[flat.hips]!,
    channel: 'place',
    keys: thinned(rootKeys, 1e-5 * flat.leg),
  };
  const swapped: CutoutKeys = { ...loose, tracks: [root, ...tracks], plants: plan };
  return {
    keys: swapped,
    motion: evaluateKeys(target.rig, swapped),
    report: { pairs, unpaired, corrections, breaks, missing, plants: set.plants, airborne: set.airborne, scale },
  };
}

/** By the body map first; what no slot names by what its part is called. */
function pairJoints(
  source: FlatParty,
  target: FlatParty,
  keys: CutoutKeys,
): { pairs: SwapPair[]; unpaired: SwapReport['unpaired'] } {
  const pairs: SwapPair[] = [];
  const taken = new Set<string>();
  const add = (from: string, to: string, by: SwapPair['by']): void => {
    pairs.push({ from, to, by });
    taken.add(to);
  };
  const slots = (map: BodyMap): [string, number][] =>
    Object.entries(map.slots).flatMap(([s, e]) => (e.joint >= 0 ? [[s, e.joint] as [string, number]] : []));
  const toSlot = new Map(slots(target.map));
  const done = new Set<string>();
  for (const [slot, joint] of slots(source.map)) {
    const other = toSlot.get(slot);
    if (other === undefined) continue;
    add(source.rig.names[joint]!, target.rig.names[other]!, 'map');
    done.add(source.rig.names[joint]!);
  }
  const meaning = (name: string): string => {
    const { kind, side } = readPartName(name);
    return kind ? `${kind} ${side ?? ''}` : name.toLowerCase();
  };
  for (const name of source.rig.names) {
    if (done.has(name)) continue;
    const other = target.rig.names.find((n) => !taken.has(n) && (n === name || meaning(n) === meaning(name)));
    if (other !== undefined) {
      add(name, other, 'name');
      done.add(name);
    }
  }
  const moving = new Set(keys.tracks.filter((t) => t.keys.length > 0).map((t) => t.joint));
  return {
    pairs,
    unpaired: {
      from: source.rig.names.filter((n) => moving.has(n) && !done.has(n)),
      to: target.rig.names.filter((n) => !taken.has(n)),
    },
  };
}

/** How differently a bone was drawn: added to turns, it leaves directions as they were. */
function restDifference(old: FlatBody, flat: FlatBody, from: number, to: number): number {
  const [a, b] = [old.bones.get(from), flat.bones.get(to)];
  if (!a || !b) return 0;
  const [pa, pb] = [old.bones.get(old.rig.parents[from]!), flat.bones.get(flat.rig.parents[to]!)];
  const own = angle(a) - angle(b);
  // a turn is told against the parent, which has been set right already
  const above = pa && pb ? angle(pa) - angle(pb) : 0;
  const by = own - above;
  return by - 2 * Math.PI * Math.round(by / (2 * Math.PI));
}

const angle = ({ x, y }: { x: number; y: number }): number => Math.atan2(y, x);

interface PlaceContext {
  readonly from: number;
  readonly joint: number;
  readonly scale: number;
  /** How the joint turns. */
  readonly turn: KeyTrack | undefined;
  readonly corrections: { joint: string; frame: number }[];
  readonly breaks: { joint: string; frame: number }[];
}

/** Places of a joint beyond its attachment, as the new figure has them. */
function placeKeys(old: FlatBody, flat: FlatBody, track: KeyTrack, c: PlaceContext): CutoutKey[] {
  const rest = (body: FlatBody, joint: number): [number, number] => [
    body.rig.restT[3 * joint]!,
    body.rig.restT[3 * joint + 1]!,
  ];
  const [ox, oy] = rest(old, c.from);
  const [nx, ny] = rest(flat, c.joint);
  const off = (k: CutoutKey): [number, number] => [k.value[0]! - ox, k.value[1]! - oy];
  const far = (k: CutoutKey): number => Math.hypot(...off(k)) / old.height;
  const closing = closingKeys(
    track.keys.map((k) => {
      const [x, y] = off(k);
      return { x, y, turn: (c.turn && keyedAt(c.turn, k.frame)?.[0]) ?? 0 };
    }),
    old.height,
    BREAK,
  );
  const meant = track.keys.filter((_, i) => !closing[i]);
  if (meant.length === 0) {
    for (const { frame } of track.keys) c.corrections.push({ joint: track.joint, frame });
    return [];
  }
  const out: CutoutKey[] = [];
  track.keys.forEach((k, i) => {
    const [before, after] = [track.keys[i - 1], track.keys[i + 1]];
    const isMeant = meant.includes(k);
    const besides = (before && meant.includes(before)) || (after && meant.includes(after));
    // what leads to one and back stays, on its attachment
    if (!isMeant && (!besides || far(k) > ON)) c.corrections.push({ joint: track.joint, frame: k.frame });
    if (!isMeant && !besides) return;
    if (isMeant) c.breaks.push({ joint: track.joint, frame: k.frame });
    const [dx, dy] = isMeant ? off(k) : [0, 0];
    out.push({ ...k, value: [nx + c.scale * dx, ny + c.scale * dy] });
  });
  return out;
}

/** Labels go to the part that takes the place, as far as it has such a drawing. */
function stepsOn(
  from: CutoutRig,
  to: CutoutRig,
  partner: ReadonlyMap<string, string>,
  track: StepKeys,
  missing: { part: string; label: string }[],
): StepKeys[] {
  if (track.name === ORDER_TRACK) return [];
  for (const [a, b] of partner) {
    if (track.name !== viewTrack(a)) continue;
    const views = new Set(to.parts.filter((p) => to.names[p.joint] === b && p.view).map((p) => p.view!));
    return [{ name: viewTrack(b), keys: track.keys.filter((k) => has(views, k.label, b)) }];
  }
  const part = from.parts.find((p) => p.name === track.name);
  if (!part) return [];
  const meaning = readPartName(part.name);
  const joint = partner.get(from.names[part.joint]!);
  const other =
    to.parts.find((p) => p.name === part.name && p.drawings.length > 1) ??
    to.parts.find((p) => {
      const r = readPartName(p.name);
      return (
        to.names[p.joint] === joint &&
        p.drawings.length > 1 &&
        r.kind === meaning.kind &&
        (r.side === undefined || meaning.side === undefined || r.side === meaning.side) &&
        (p.view === part.view || p.view === undefined || part.view === undefined)
      );
    });
  if (!other) {
    for (const label of new Set(track.keys.map((k) => k.label))) missing.push({ part: track.name, label });
    return [];
  }
  const labels = new Set(other.drawings);
  return [{ name: other.name, keys: track.keys.filter((k) => has(labels, k.label, other.name)) }];

  function has(known: ReadonlySet<string>, label: string, where: string): boolean {
    if (known.has(label)) return true;
    if (!missing.some((m) => m.part === where && m.label === label)) missing.push({ part: where, label });
    return false;
  }
}

type Stand = NonNullable<CutoutKeys['plants']>[number];

/** Which foot stands when: as told, or found where a foot stays on its spot near the ground. */
function standsOf(old: FlatBody, motion: Motion, keys: CutoutKeys): Stand[] {
  if (keys.plants) return [...keys.plants].sort((a, b) => a.start - b.start);
  const reader = new PlaneReader(old.rig, motion);
  const tracks: SoleTracks = {};
  for (const { side, foot } of old.legs) {
    if (foot.joint < 0) continue;
    const heel = new Float64Array(3 * motion.frameCount);
    const ball = new Float64Array(3 * motion.frameCount);
    for (let f = 0; f < motion.frameCount; f++) {
      const frames = reader.read(f / motion.fps);
      heel.set(pointAt(frames, foot.joint, foot.heel), 3 * f);
      ball.set(pointAt(frames, foot.joint, foot.ball), 3 * f);
    }
    tracks[`heel${side}`] = heel;
    tracks[`ball${side}`] = ball;
  }
  const { plants } = findContacts(tracks, motion.fps, old.leg);
  const spans: Stand[] = [];
  for (const side of ['L', 'R'] as const) {
    const held = new Uint8Array(motion.frameCount);
    for (const p of plants) if (p.part.endsWith(side)) held.fill(1, p.start, p.end + 1);
    for (let f = 0; f < held.length; f++) {
      if (!held[f]) continue;
      const start = f;
      while (f + 1 < held.length && held[f + 1]) f++;
      spans.push({ side, start, end: f });
    }
  }
  return spans.sort((a, b) => a.start - b.start);
}

const pointAt = (
  frames: ArrayLike<number>,
  joint: number,
  [x, y]: readonly [number, number],
): [number, number, number] => {
  const o = 6 * joint;
  return [
    frames[o]! * x + frames[o + 2]! * y + frames[o + 4]!,
    frames[o + 1]! * x + frames[o + 3]! * y + frames[o + 5]!,
    0,
  ];
};

/** Places of the hips in every frame, so that what stands stays. */
function setDown(
  flat: FlatBody,
  loose: Motion,
  old: FlatBody,
  before: Motion,
  plan: readonly Stand[],
  scale: number,
): { hips: [number, number][]; plants: FlatPlant[]; airborne: { start: number; end: number }[] } {
  const n = loose.frameCount;
  const reader = new PlaneReader(flat.rig, loose);
  const was = new PlaneReader(old.rig, before);
  const hips: [number, number][] = [];
  const plants: FlatPlant[] = [];
  const airborne: { start: number; end: number }[] = [];
  let now: { stand: Stand; spot: [number, number] } | undefined;
  let air: { start: number; hips: [number, number]; root: [number, number] } | undefined;
  const sole = (frames: ArrayLike<number>, body: FlatBody, side: 'L' | 'R'): [number, number] | undefined => {
    const foot = body.legs.find((l) => l.side === side)?.foot;
    if (!foot || foot.joint < 0) return undefined;
    const [a, b] = [pointAt(frames, foot.joint, foot.heel), pointAt(frames, foot.joint, foot.ball)];
    // whichever end is lower carries it
    return a[1] < b[1] ? [a[0], a[1]] : [b[0], b[1]];
  };
  const middle = (frames: ArrayLike<number>, body: FlatBody, side: 'L' | 'R'): [number, number] | undefined => {
    const foot = body.legs.find((l) => l.side === side)?.foot;
    if (!foot || foot.joint < 0) return undefined;
    const [x, y] = pointAt(frames, foot.joint, foot.ball);
    return [x, y];
  };
  for (let f = 0; f < n; f++) {
    const frames = reader.read(f / loose.fps).slice();
    const root: [number, number] = [frames[6 * flat.hips + 4]!, frames[6 * flat.hips + 5]!];
    const oldFrames = was.read(f / before.fps);
    const oldRoot: [number, number] = [oldFrames[6 * old.hips + 4]!, oldFrames[6 * old.hips + 5]!];
    // the foot that stood goes on standing while it may; else the one that came down last
    let stand = now && f <= now.stand.end ? now.stand : undefined;
    stand ??= plan.findLast((s) => s.start <= f && f <= s.end);
    const point = stand && middle(frames, flat, stand.side);
    if (stand && point) {
      if (now?.stand !== stand) {
        const last = hips.at(-1);
        const low = sole(oldFrames, old, stand.side)?.[1] ?? 0;
        const height = Math.abs(low) < 0.05 * old.leg ? 0 : low * scale;
        // it stands where it comes down, on the ground that the old one stood on
        const x = last ? last[0] + point[0] - root[0] : scale * (middle(oldFrames, old, stand.side)?.[0] ?? 0);
        now = { stand, spot: [x, height] };
        plants.push({ part: `ball${stand.side}`, start: f, end: Math.min(stand.end, n - 1), spot: now.spot });
        air = undefined;
      }
      // the ball stays; where the heel is lower it is that which touches the ground
      const lowest = sole(frames, flat, stand.side)!;
      hips.push([now.spot[0] - (point[0] - root[0]), now.spot[1] - (lowest[1] - root[1])]);
      continue;
    }
    now = undefined;
    if (!air) {
      air = { start: f, hips: hips.at(-1) ?? [scale * oldRoot[0], scale * oldRoot[1]], root: oldRoot };
      airborne.push({ start: f, end: f });
    }
    airborne.at(-1)!.end = f;
    hips.push([air.hips[0] + scale * (oldRoot[0] - air.root[0]), air.hips[1] + scale * (oldRoot[1] - air.root[1])]);
  }
  return { hips, plants, airborne };
}

/** Keys without those that a straight way between their neighbours says as well. */
function thinned(keys: readonly CutoutKey[], tolerance: number): CutoutKey[] {
  const keep = keyFrames(keys.length, tolerance, (a, b, f) => {
    const t = (f - a) / (b - a);
    return Math.hypot(...keys[f]!.value.map((x, k) => x - (1 - t) * keys[a]!.value[k]! - t * keys[b]!.value[k]!));
  });
  return [...keep].map((i) => keys[i]!);
}

/** A swap in a few words, for people. */
export function swapWords({ pairs, unpaired, corrections, breaks, missing, plants, airborne }: SwapReport): string[] {
  const list = (names: readonly string[]): string =>
    names.length > 4 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
  return [
    `${pairs.length} joints paired, ${pairs.filter((p) => p.by === 'map').length} of them by the body map`,
    unpaired.from.length > 0 && `moved before and left out: ${list(unpaired.from)}`,
    unpaired.to.length > 0 && `kept at rest: ${list(unpaired.to)}`,
    corrections.length > 0 && `${corrections.length} keys that only closed gaps were taken out`,
    breaks.length > 0 && `${breaks.length} keys that are off their attachment on purpose were kept`,
    missing.length > 0 && `drawings that are not there: ${list(missing.map((m) => `${m.part} "${m.label}"`))}`,
    `${plants.length} stands, ${airborne.length} stretches in the air`,
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
      const [heel, ball] = [pointAt(frames, foot.joint, foot.heel), pointAt(frames, foot.joint, foot.ball)];
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
