import {
  checkJoin,
  type Fitter,
  findMatches,
  type JoinCheck,
  type Lasting,
  laidOf,
  looksAbsolute,
  type Match,
  type Motion,
  type Performed,
  type PoseKeys,
  type PoseWish,
  pickFrames,
  placeStretch,
  poseKeys,
  ReelEvaluator,
  type ReelJoin,
  type ReelMember,
  type Stretch,
} from '@velvet-reel/motion';
import { LRUCache } from 'lru-cache';
import { type PartyJson, partyFromJson } from '../wishes/party';
import { onMember, type ReelSource } from '../wishes/reel-source';

// The reel side of the solver thread: keeps what was fitted and an evaluator for every member, so that a drag works out only
// what it touches.

export interface ReelWish {
  fps: number;
  frames: number;
  member: ReelMember;
  target: PartyJson;
  sources: readonly ReelSource[];
}

export interface CheckedJoin extends ReelJoin {
  readonly check: JoinCheck;
}

export interface ReelPerformance {
  motion: Motion;
  joins: CheckedJoin[];
  held: Performed['held'];
  /** Ids of overlays that are added though they look as if they told poses outright. */
  absolute: string[];
}

/** Motions fitted to members that are kept, in bytes. */
const fitted = new LRUCache<string, Motion>({ maxSize: 256 * 2 ** 20, sizeCalculation: (m) => m.turns.byteLength + 1 });
/** Joins as they were measured, by the base lane on which they lie. */
const checked = new WeakMap<Motion, CheckedJoin[]>();
const MOST_MEMBERS = 24;
const evaluators = new LRUCache<string, { key: string; target: Fitter; evaluator: ReelEvaluator }>({
  max: MOST_MEMBERS,
});

function evaluatorOf({ member, target, fps }: ReelWish) {
  const key = JSON.stringify([target, fps]);
  const known = evaluators.get(member.id);
  if (known?.key === key) return known;
  const party = partyFromJson(target);
  const made = { key, target: party, evaluator: new ReelEvaluator(party, fps) };
  evaluators.set(member.id, made);
  return made;
}

/** Every item of the member on its rig; one that cannot be loaded or fitted is left out, and named. */
async function motionsOf(
  { sources }: ReelWish,
  target: Fitter,
  targetKey: string,
  load: (hash: string) => Promise<Motion>,
): Promise<{ motions: ReadonlyMap<string, Motion>; missing: string[] }> {
  const motions = new Map<string, Motion>();
  const missing: string[] = [];
  for (const source of sources) {
    try {
      const loaded = await load(source.motionHash);
      const key = source.fit ? JSON.stringify([source.motionHash, source.fit, targetKey]) : '';
      const known = source.fit ? fitted.get(key) : loaded;
      const motion = known ?? onMember(source, loaded, target, partyFromJson);
      if (source.fit && !known) fitted.set(key, motion);
      motions.set(source.laid, motion);
    } catch (error) {
      missing.push(`${source.laid}: ${(error as Error).message}`);
    }
  }
  return { motions, missing };
}

/** What a member does, evaluated; only what changed since the last time is worked out. */
export async function performMember(
  wish: ReelWish,
  load: (hash: string) => Promise<Motion>,
): Promise<ReelPerformance & { missing: string[] }> {
  const { key, target, evaluator } = evaluatorOf(wish);
  const { motions, missing } = await motionsOf(wish, target, key, load);
  const done = evaluator.evaluate(wish.member, wish.frames, (s) => motions.get(laidOf(s)));
  let joins = checked.get(done.base);
  if (!joins) {
    const lane = { motion: done.base, held: done.held, joins: [] };
    joins = done.joins.map((join) => ({ ...join, check: checkJoin(target, lane, join) }));
    checked.set(done.base, joins);
  }
  const absolute = wish.member.overlays.flatMap((o) => {
    const motion = o.mode === 'add' && !o.muted ? motions.get(laidOf(o)) : undefined;
    return motion && looksAbsolute(target, motion, o) ? [o.id] : [];
  });
  return { motion: done.motion, joins, held: done.held, absolute, missing };
}

/** A pose that is tried on a member: a frame of an item. */
export interface PoseTrial extends Omit<PoseWish, 'pose'> {
  readonly source: ReelSource;
  readonly itemFrame: number;
  /** Frame of the reel. */
  readonly frame: number;
}

/** The keys that would put a pose over what a member does. */
export async function poseOn(
  wish: ReelWish,
  { source, itemFrame, frame, ...how }: PoseTrial,
  load: (hash: string) => Promise<Motion>,
): Promise<PoseKeys> {
  const { key, target, evaluator } = evaluatorOf(wish);
  const { motions, missing } = await motionsOf({ ...wish, sources: [...wish.sources, source] }, target, key, load);
  const item = motions.get(source.laid);
  if (!item) throw new Error(missing.at(-1) ?? 'The pose could not be loaded.');
  const of = (s: Stretch): Motion | undefined => motions.get(laidOf(s));
  const beneath = evaluator.evaluate({ ...wish.member, keys: [] }, wish.frames, of).motion;
  const now = evaluator.evaluate(wish.member, wish.frames, of).motion;
  const pose = pickFrames(target.rig, item, Float64Array.of(itemFrame));
  return poseKeys(target, beneath, now, frame, wish.member.keys, { ...how, pose });
}

/** Where one placement of a member could be left for another, best first. */
export async function matchesOf(
  wish: ReelWish,
  previous: Stretch & { readonly inPlace: boolean },
  next: Stretch & { readonly inPlace: boolean },
  load: (hash: string) => Promise<Motion>,
): Promise<{ matches: Match[]; items: { previous: Lasting; next: Lasting } }> {
  const { key, target } = evaluatorOf(wish);
  const { motions } = await motionsOf(wish, target, key, load);
  const [a, b] = [motions.get(laidOf(previous)), motions.get(laidOf(next))];
  if (!a || !b) throw new Error('One of both items could not be loaded.');
  // what was cut off may be where they meet best
  const whole = (s: typeof previous, motion: Motion): Motion => placeStretch(target, motion, s, wish.fps);
  const told = (m: Motion): Lasting => ({ frameCount: m.frameCount, fps: m.fps });
  return {
    matches: findMatches(target, whole({ ...previous, to: null }, a), whole({ ...next, from: 0 }, b), { count: 6 }),
    items: { previous: told(a), next: told(b) },
  };
}
