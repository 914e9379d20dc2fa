// The browser's solver thread: decodes motions and puts them on characters, so that the page never waits.
import {
  angleBetween,
  anySkeletonFromJson,
  type CurveKind,
  carryJoints,
  evaluateFitting,
  type FitScore,
  findContacts,
  findLoops,
  fitProfile,
  heldJoints,
  type KeptKind,
  keptRegions,
  type Limb,
  type Loop,
  type Motion,
  mapTracks,
  measureBody,
  type PoseKeys,
  type ProofStep,
  type Prop,
  poseFeatures,
  poseRecord,
  proofOn,
  putOn,
  type Region,
  type Report,
  regionsOf,
  restPose,
  type Side,
  type SwapReport,
  scoreFit,
  sketchFit,
  soleTracks,
  straightenAll,
  straightenLimb,
  suggestWords,
  type Trouble,
  trim,
  turnsOfFrame,
  turnsOfPose,
  unpackMotion,
  type Word,
} from '@velvet-reel/motion';
import { expose, transfer } from 'comlink';
import { LRUCache } from 'lru-cache';
import { applyChange } from '../wishes/change';
import { type PartyJson, partyFromJson } from '../wishes/party';
import type { ChangeWish } from '../wishes/wishes';
import {
  type Curves,
  curves,
  evaluate,
  type FitWish,
  measured,
  type Offer,
  offers,
  type TrailSlot,
  trails,
} from './solve-fit';
import { matchesOf, type PoseTrial, performMember, poseOn, type ReelPerformance, type ReelWish } from './solve-reel';

/** Decoded motions that are kept, the ones used last, in bytes. */
const motions = new LRUCache<string, Motion>({ maxSize: 192 * 2 ** 20, sizeCalculation: sizeOf });
const loading = new Map<string, Promise<Motion>>();

function sizeOf(m: Motion): number {
  const tracks = [...m.places, ...m.scales, ...m.numbers, ...m.steps];
  return m.turns.byteLength + tracks.reduce((sum, t) => sum + t.values.byteLength, 0) + 1;
}

function loadMotion(hash: string): Promise<Motion> {
  const known = motions.get(hash);
  if (known) return Promise.resolve(known);
  const under = loading.get(hash);
  if (under) return under;
  const coming = fetch(`/api/v1/motions/${hash}`)
    .then(async (answer) => {
      if (!answer.ok) throw new Error('The motion could not be loaded. Check the connection and try again.');
      const motion = unpackMotion(new Uint8Array(await answer.arrayBuffer()));
      motions.set(hash, motion);
      return motion;
    })
    .finally(() => loading.delete(hash));
  loading.set(hash, coming);
  return coming;
}

/** A motion to be played on a rig, arrays handed over to the page. */
export type Playable = Motion;

/** An item on a character, perhaps with a change that is not kept yet. */
export interface ShowWish {
  motionHash: string;
  source: PartyJson;
  /** The item's own rig where left out. */
  target?: PartyJson | undefined;
  change?: ChangeWish | undefined;
}

/** What moves: sent as soon as it is solved. */
export interface FitMotions {
  /** Null where the page has it already; see sourceKey. */
  source: Playable | null;
  sourceKey: string;
  result: Playable;
  scale: number;
  /** How far the source has to be turned to be seen as a cut-out shows it, radians; 0 for bodies in space. */
  turned: number;
  solveMs: number;
}

/** What was measured on it: sent after it, when nothing newer waits. */
export interface FitMeasures {
  report: Report;
  /** 0 to 100, of what was measured. */
  score: number;
  /** How one cut-out took another's place; null elsewhere. */
  swap: SwapReport | null;
  /** Whether the result is keys, too. */
  keyed: boolean;
  /** Where both hands, feet and hips go. */
  trails: Record<'source' | 'result', Partial<Record<TrailSlot, Float32Array>>>;
}

export interface FitAnswer extends FitMotions, FitMeasures {
  source: Playable;
}

/** What can be read off an item, and how it would fit the performer. */
export interface Kept {
  joints: number;
  allJoints: number;
  /** Regions that this rig has. */
  there: Region[];
  leftOut: string[];
  /** Parts whose drawings change and are left out. */
  leftOutDrawings: string[];
  /** Whether it says anything of drawings. */
  drawn: boolean;
  /** Largest angle of a kept joint between last and first frame; null for a pose. */
  endsDeg: number | null;
}

export interface Reading {
  words: Word[];
  props: Prop[];
  loops: Loop[];
  fit: FitScore | undefined;
}

const copy = (m: Motion): Playable => ({
  ...m,
  turns: m.turns.slice(),
  ...mapTracks(m, { values: (v) => v.slice(), labels: (v) => v.slice() }),
});
const buffers = (p: Playable): ArrayBuffer[] =>
  [p, ...p.places, ...p.scales, ...p.numbers, ...p.steps].map(
    (t) => ('turns' in t ? t.turns : t.values).buffer as ArrayBuffer,
  );

const solver = {
  /** A motion on its own rig. */
  async load(motionHash: string): Promise<Playable> {
    const p = copy(await loadMotion(motionHash));
    return transfer(p, buffers(p));
  },

  /** A motion, changed where wanted, on a character or on its own rig; without a report. */
  async show(wish: ShowWish): Promise<Playable> {
    const source = partyFromJson(wish.source);
    const loaded = await loadMotion(wish.motionHash);
    const motion = wish.change ? applyChange(source, loaded, wish.change) : loaded;
    const shown = wish.target ? putOn(source, motion, partyFromJson(wish.target)) : motion;
    const p = copy(shown);
    return transfer(p, buffers(p));
  },

  /** A fitting's motions; the source only where the page does not have it. */
  async fit(wish: FitWish, has: string): Promise<FitMotions> {
    const { fitted, solveMs, sourceKey } = evaluate(wish, await loadMotion(wish.motionHash));
    const source = has === sourceKey ? null : copy(fitted.solved.source);
    const result = copy(fitted.motion);
    const { scale } = fitted.solved.plan;
    const turned = -(fitted.driven?.seen.eye[0] ?? 0);
    return transfer({ source, sourceKey, result, scale, turned, solveMs }, [
      ...(source ? buffers(source) : []),
      ...buffers(result),
    ]);
  },

  /** What a member of a reel does. */
  async perform(wish: ReelWish): Promise<ReelPerformance & { missing: string[] }> {
    const done = await performMember(wish, loadMotion);
    const motion = copy(done.motion);
    return transfer({ ...done, motion }, buffers(motion));
  },

  /** A motion that no library keeps, as packed bytes, on a character. */
  showPacked(bytes: Uint8Array, source: PartyJson, target: PartyJson): Playable {
    const p = copy(putOn(partyFromJson(source), unpackMotion(bytes), partyFromJson(target)));
    return transfer(p, buffers(p));
  },

  /** The keys that would put a pose over what a member of a reel does. */
  poseOn(wish: ReelWish, trial: PoseTrial): Promise<PoseKeys> {
    return poseOn(wish, trial, loadMotion);
  },

  /** Where a placement of a reel could be left for the next one. */
  matches(
    wish: ReelWish,
    previous: Parameters<typeof matchesOf>[1],
    next: Parameters<typeof matchesOf>[2],
  ): ReturnType<typeof matchesOf> {
    return matchesOf(wish, previous, next, loadMotion);
  },

  /** Everything measured on a fitting. */
  async measure(wish: FitWish): Promise<FitMeasures> {
    const done = evaluate(wish, await loadMotion(wish.motionHash));
    return {
      ...measured(done),
      swap: done.fitted.swapped ?? null,
      keyed: done.fitted.keys !== undefined,
      trails: trails(done),
    };
  },

  /** The result alone, for further characters beside the one that is worked on. */
  async fitAlong(wish: FitWish): Promise<Playable> {
    const { motion } = evaluateFitting(
      partyFromJson(wish.source),
      await loadMotion(wish.motionHash),
      partyFromJson(wish.target),
      wish.settings,
    );
    const p = copy(motion);
    return transfer(p, buffers(p));
  },

  /** Curves of a joint, result against source. */
  async curves(wish: FitWish, joint: string, kind: CurveKind): Promise<Curves | null> {
    return curves(evaluate(wish, await loadMotion(wish.motionHash)), joint, kind);
  },

  /** Ways to put a trouble right, each tried. */
  async offers(wish: FitWish, trouble: Trouble): Promise<Offer[]> {
    return offers(wish, await loadMotion(wish.motionHash), trouble);
  },

  /** The pose for matching with a limb, or everything, straightened; from the pose in force. */
  async straighten(json: PartyJson, limb: Limb | 'all', side: Side): Promise<number[]> {
    const { rig, map, pose } = partyFromJson(json);
    const turns = turnsOfPose(rig, pose ?? restPose(rig));
    return limb === 'all' ? straightenAll(rig, map, turns) : straightenLimb(rig, map, turns, limb, side);
  },

  /** A frame of a motion on its own rig, as a pose for matching. */
  async frameTurns(motionHash: string, json: PartyJson, frame: number): Promise<number[]> {
    return turnsOfFrame(anySkeletonFromJson(json.rig), await loadMotion(motionHash), frame);
  },

  /** What keeping some parts of a stretch keeps and what it loses. */
  async kept(
    motionHash: string,
    sourceJson: PartyJson,
    regions: readonly Region[],
    single: readonly string[],
    span: { start: number; end: number } | null,
    what: KeptKind,
  ): Promise<Kept> {
    const { rig, map, cutout } = partyFromJson(sourceJson);
    const whole = await loadMotion(motionHash);
    const motion = span ? trim(rig, whole, span.start, span.end) : whole;
    const kept = keptRegions(rig, map, motion, regions, single, { cutout, what });
    const there = new Set<Region>(regionsOf(rig, map));
    // a paper figure's drawings go with the parts that carry them
    if (!cutout && motion.numbers.length + motion.steps.length > 0) there.add('face');
    const last = 4 * rig.names.length * (motion.frameCount - 1);
    let ends = 0;
    for (const j of kept.joints) ends = Math.max(ends, angleBetween(motion.turns, 4 * j, motion.turns, last + 4 * j));
    return {
      joints: kept.joints.length,
      allJoints: rig.names.length,
      there: [...there],
      leftOut: [...kept.leftOut, ...kept.leftOutScalars],
      leftOutDrawings: [...kept.leftOutDrawings],
      drawn: motion.steps.length > 0,
      endsDeg: motion.frameCount > 1 ? (ends * 180) / Math.PI : null,
    };
  },

  /** A short movement of every part in turn, by the rig's body map, with what is shown when. */
  async proof(targetJson: PartyJson): Promise<{ motion: Playable; steps: readonly ProofStep[] }> {
    const target = partyFromJson(targetJson);
    const { motion, steps } = target.cutout ? proofOn(target, putOn) : proofOn(target);
    const p = copy(motion);
    return transfer({ motion: p, steps }, buffers(p));
  },

  /** Joints of a rig that play the parts of those a motion holds something of; names of those it has no like for. */
  async heldOn(
    motionHash: string,
    sourceJson: PartyJson,
    targetJson: PartyJson,
  ): Promise<{ joints: string[]; missing: string[] }> {
    const [source, target] = [partyFromJson(sourceJson), partyFromJson(targetJson)];
    const { joints, missing } = carryJoints(source, heldJoints(source.rig, await loadMotion(motionHash)), target);
    return { joints: joints.map((j) => target.rig.names[j]!), missing };
  },

  /** The pose of one frame as a search takes it: a record, base64url. */
  async pose(motionHash: string, sourceJson: PartyJson, frame: number): Promise<string> {
    const party = partyFromJson(sourceJson);
    const motion = await loadMotion(motionHash);
    const body = measureBody(party.rig, party.map, party.pose, party.floor);
    const contacts = findContacts(soleTracks(party.rig, motion, body), motion.fps, body.leg);
    const record = poseRecord(poseFeatures(party, motion, contacts.floor, 1, body), contacts, frame);
    return btoa(String.fromCharCode(...record))
      .replaceAll('+', '-')
      .replaceAll('/', '_')
      .replaceAll('=', '');
  },

  /** Words, props, loops, and the fit score on a character. */
  async read(motionHash: string, sourceJson: PartyJson, targetJson: PartyJson | undefined): Promise<Reading> {
    const motion = await loadMotion(motionHash);
    const source = partyFromJson(sourceJson);
    return {
      ...suggestWords(source, motion),
      loops: findLoops(source, motion, { count: 3 }),
      fit: targetJson && scoreFit(sketchFit(source, motion), fitProfile(partyFromJson(targetJson))),
    };
  },
};

export type Solver = typeof solver;
expose(solver);
