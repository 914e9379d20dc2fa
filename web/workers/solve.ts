// The browser's solver thread: decodes motions and puts them on characters, so that the page never waits.
import {
  angleBetween,
  type FitScore,
  findContacts,
  findLoops,
  fitProfile,
  keptRegions,
  type Loop,
  type Motion,
  measureBody,
  type Prop,
  poseFeatures,
  poseRecord,
  type Region,
  type Report,
  regionsOf,
  reportOf,
  retarget,
  scoreFit,
  sketchFit,
  soleTracks,
  suggestWords,
  trim,
  tune,
  unpackMotion,
  type Word,
} from '@velvet-reel/motion';
import { expose, transfer } from 'comlink';
import { applyChange } from './change';
import { type PartyJson, partyFromJson } from './party';
import { type ChangeWish, FIT_DEFAULTS, type FitSettings, optionsOf, stepsOf } from './settings';

const motions = new Map<string, Promise<Motion>>();

function loadMotion(hash: string): Promise<Motion> {
  const known = motions.get(hash);
  if (known) return known;
  const loading = fetch(`/api/v1/motions/${hash}`).then(async (answer) => {
    if (!answer.ok) throw new Error('The motion could not be loaded.');
    return unpackMotion(new Uint8Array(await answer.arrayBuffer()));
  });
  loading.catch(() => motions.delete(hash));
  motions.set(hash, loading);
  // keep some hundred motions at most
  if (motions.size > 200) motions.delete(motions.keys().next().value!);
  return loading;
}

/** A motion to be played on a rig, arrays handed over to the page. */
export interface Playable {
  fps: number;
  frameCount: number;
  rotations: Float32Array;
  translations: { joint: number; values: Float32Array }[];
  scalars: { name: string; values: Float32Array }[];
}

export interface FitWish {
  motionHash: string;
  source: PartyJson;
  target: PartyJson;
  settings: FitSettings;
}

/** An item on a character, perhaps with a change that is not kept yet. */
export interface ShowWish {
  motionHash: string;
  source: PartyJson;
  /** The item's own rig where left out. */
  target?: PartyJson | undefined;
  change?: ChangeWish | undefined;
}

export interface FitAnswer {
  source: Playable;
  result: Playable;
  report: Report;
  scale: number;
  solveMs: number;
}

/** What can be read off an item, and how it would fit the performer. */
export interface Kept {
  joints: number;
  allJoints: number;
  /** Regions that this rig has. */
  there: Region[];
  leftOut: string[];
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
  fps: m.fps,
  frameCount: m.frameCount,
  rotations: m.rotations.slice(),
  translations: m.translations.map((t) => ({ joint: t.joint, values: t.values.slice() })),
  scalars: m.scalars.map((s) => ({ name: s.name, values: s.values.slice() })),
});
const buffers = (p: Playable): ArrayBuffer[] => [
  p.rotations.buffer as ArrayBuffer,
  ...p.translations.map((t) => t.values.buffer as ArrayBuffer),
  ...p.scalars.map((s) => s.values.buffer as ArrayBuffer),
];

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
    const shown = wish.target
      ? retarget(source, motion, partyFromJson(wish.target), optionsOf(FIT_DEFAULTS)).motion
      : motion;
    const p = copy(shown);
    return transfer(p, buffers(p));
  },

  /** A fitting: both motions and everything measured. */
  async fit(wish: FitWish): Promise<FitAnswer> {
    const loaded = await loadMotion(wish.motionHash);
    const start = performance.now();
    const source = partyFromJson(wish.source);
    const motion = tune(source, loaded, stepsOf(wish.settings.tuning));
    const done = retarget(source, motion, partyFromJson(wish.target), optionsOf(wish.settings));
    const solveMs = performance.now() - start;
    const from = copy(done.source);
    const result = copy(done.motion);
    const report = reportOf(done);
    return transfer({ source: from, result, report, scale: done.plan.scale, solveMs }, [
      ...buffers(from),
      ...buffers(result),
    ]);
  },

  /** What keeping some parts of a stretch keeps and what it loses. */
  async kept(
    motionHash: string,
    sourceJson: PartyJson,
    regions: readonly Region[],
    span: { start: number; end: number } | null,
  ): Promise<Kept> {
    const { rig, map } = partyFromJson(sourceJson);
    const whole = await loadMotion(motionHash);
    const motion = span ? trim(rig, whole, span.start, span.end) : whole;
    const kept = keptRegions(rig, map, motion, regions);
    const there = new Set<Region>(regionsOf(rig, map));
    if (motion.scalars.length > 0) there.add('face');
    const last = 4 * rig.names.length * (motion.frameCount - 1);
    let ends = 0;
    for (const j of kept.joints)
      ends = Math.max(ends, angleBetween(motion.rotations, 4 * j, motion.rotations, last + 4 * j));
    return {
      joints: kept.joints.length,
      allJoints: rig.names.length,
      there: [...there],
      leftOut: [...kept.leftOut, ...kept.leftOutScalars],
      endsDeg: motion.frameCount > 1 ? (ends * 180) / Math.PI : null,
    };
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
