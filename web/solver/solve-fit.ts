import {
  type CurveKind,
  curvesOf,
  evaluateFitting,
  type Fitted,
  type FittingEdits,
  type Mend,
  type Motion,
  mendsFor,
  pathOf,
  type Report,
  reportOfFitting,
  scoreReport,
  type Trouble,
  type TroubleKind,
} from '@velvet-reel/motion';
import { type PartyJson, partyFromJson } from '../wishes/party';
import type { FitEdits, FitSettings } from '../wishes/wishes';

// The fitting side of the solver thread: keeps the last evaluation, so that curves, trails and offers cost no second solve.

export interface FitWish {
  motionHash: string;
  source: PartyJson;
  target: PartyJson;
  settings: FitSettings;
  edits: FitEdits;
}

export interface Evaluated {
  fitted: Fitted;
  solveMs: number;
  /** What of the source is played: the same text, the same motion. */
  sourceKey: string;
}
export interface Measured {
  report: Report;
  score: number;
}

let last: { key: string; done: Evaluated } | undefined;

let source = { text: '', number: 0 };
/** A short name for what of the source is played: it travels with every solve. */
function keyOfSource(text: string): string {
  if (text !== source.text) source = { text, number: source.number + 1 };
  return `source ${source.number}`;
}

/** Evaluates a fitting, or hands back the last one where nothing about it has changed. */
export function evaluate(wish: FitWish, motion: Motion): Evaluated {
  // all that a solve takes: two skeletons of one capture system differ in their lengths alone
  const key = JSON.stringify([wish.motionHash, wish.source, wish.target, wish.settings, wish.edits]);
  if (last?.key === key) return last.done;
  const start = performance.now();
  const fitted = evaluateFitting(
    partyFromJson(wish.source),
    motion,
    partyFromJson(wish.target),
    wish.settings,
    wish.edits,
  );
  const { tuning, travel } = wish.settings;
  const sourceKey = keyOfSource(
    JSON.stringify([wish.motionHash, wish.source, tuning, travel === 'speed' && wish.target]),
  );
  last = { key, done: { fitted, solveMs: performance.now() - start, sourceKey } };
  return last.done;
}

const reports = new WeakMap<Evaluated, Measured>();

/** Measures an evaluation, once. */
export function measured(done: Evaluated): Measured {
  let m = reports.get(done);
  if (!m) {
    const report = reportOfFitting(done.fitted);
    m = { report, score: scoreReport(report) };
    reports.set(done, m);
  }
  return m;
}

export interface Curves {
  result: Float32Array;
  source: Float32Array | null;
  partner: string | null;
}

/** Curves of a joint of the target and of its partner in the source. */
export function curves({ fitted }: Evaluated, joint: string, kind: CurveKind): Curves | null {
  const { plan, source } = fitted.solved;
  const at = plan.target.rig.names.indexOf(joint);
  if (at < 0) return null;
  const found = curvesOf(plan, source, fitted.motion, at, kind);
  return { result: found.result, source: found.source ?? null, partner: found.partner ?? null };
}

export const TRAIL_SLOTS = ['handL', 'handR', 'footL', 'footR', 'hips'] as const;
export type TrailSlot = (typeof TRAIL_SLOTS)[number];

/** Paths of hands, feet and hips of both sides, for trails. */
export function trails({ fitted }: Evaluated): Record<'source' | 'result', Partial<Record<TrailSlot, Float32Array>>> {
  const { plan, source } = fitted.solved;
  const of = (rig: typeof plan.target.rig, map: typeof plan.target.map, motion: Motion) =>
    Object.fromEntries(
      TRAIL_SLOTS.flatMap((slot) => {
        const path = pathOf(rig, map, motion, slot);
        return path ? [[slot, path]] : [];
      }),
    );
  return {
    source: of(plan.source.rig, plan.source.map, source),
    result: of(plan.target.rig, plan.target.map, fitted.motion),
  };
}

/** One offer with what it would come to. */
export interface Offer {
  id: string;
  label: string;
  settings: FitSettings;
  edits: FittingEdits;
  /** What is left of the trouble it is meant for, in its own unit, and what there was. */
  before: number;
  after: number;
  unit: string;
  score: number;
  troubles: number;
}

/** Tries every offer for a trouble; the best first, those that make it worse left out. */
export function offers(wish: FitWish, motion: Motion, trouble: Trouble): Offer[] {
  const now = evaluate(wish, motion);
  const { report: own } = measured(now);
  const kept = last;
  const list = mendsFor(trouble, own, wish.settings, now.fitted.edits, now.fitted.motion.fps);
  const before = figure(trouble.kind, own);
  const tried = list.map((m): Offer => {
    const { report, score } = measured(evaluate({ ...wish, settings: m.settings, edits: m.edits }, motion));
    const after = figure(trouble.kind, report);
    return {
      id: m.id,
      label: m.label,
      settings: m.settings,
      edits: m.edits,
      before: before.value,
      after: after.value,
      unit: before.unit,
      score,
      troubles: report.troubles.length,
    };
  });
  last = kept;
  return tried.filter((o) => o.after < 0.9 * o.before).sort((a, b) => b.score - a.score || a.after - b.after);
}

/** The figure of a report that a kind of trouble shows in. */
function figure(kind: TroubleKind, r: Report): { value: number; unit: string } {
  switch (kind) {
    case 'slip':
      return { value: r.slip.maxCm, unit: 'cm' };
    case 'floor':
      return { value: r.floor.maxDepthCm, unit: 'cm' };
    case 'hover':
      return { value: r.hover.maxCm, unit: 'cm' };
    case 'reach':
      return { value: r.reach.maxCm + r.reach.handsCm, unit: 'cm' };
    case 'snap':
      return { value: r.snap.ratio, unit: '×' };
    case 'limit':
      return { value: r.limits.maxDeg, unit: '°' };
    case 'crossing':
      return { value: r.crossing.maxCm, unit: 'cm' };
    case 'body':
      return { value: r.body.trunkDeg + r.body.apartPercent, unit: '' };
    case 'skin':
      return { value: r.skin.stretch, unit: '×' };
    case 'hands':
      return { value: r.hands.apartCm, unit: 'cm' };
    default:
      return { value: 0, unit: '' };
  }
}

export type { Mend };
