import { isSole, PLANT_PARTS, type Plant, type PlantPart } from '../analysis/plants';
import { isSlot } from '../bodymap/slots';
import { DRIVE_DEFAULTS } from '../cutout/drive';
import type { Exposure } from '../cutout/exposure';
import type { DriveView } from '../cutout/seen';
import type { SaidOfKey } from '../cutout/swap-places';
import type { CorrectionTrack } from '../layer/correct';
import { type HandGoal, type HandMode, handGoalsFor, type ImportanceKey } from '../retarget/hand-goals';
import type { Limits } from '../retarget/limits';
import type { LookGoal } from '../retarget/look';
import { RETARGET_DEFAULTS, type RetargetOptions, type Travel } from '../retarget/retarget';
import type { TuneStep } from '../tune/tune';

/** Tuning by a handful of amounts; the source is tuned before it is carried over. */
export interface Tuning {
  readonly energy: number;
  /** Degrees by which the arms stand farther from the body. */
  readonly arms: number;
  readonly stance: number;
  readonly stride: number;
  readonly speed: number;
  /** Degrees forwards. */
  readonly lean: number;
}
export const TUNING_DEFAULTS: Tuning = { energy: 1, arms: 0, stance: 1, stride: 1, speed: 1, lean: 0 };

/** What can be left out of a source by one word each: parts keep their rest turn, travel stays where it began. */
export const LEAVE_WORDS = ['head', 'fingers', 'collars', 'toes', 'travel x', 'travel y', 'travel z'] as const;
export type LeaveWord = (typeof LEAVE_WORDS)[number];

/** How a cut-out is driven; bodies in space leave it alone. */
export interface FlatSettings {
  /** From where the performer is seen; 'drawn' is as the figure is drawn. */
  readonly view: DriveView | 'drawn';
  /** Shortest that a limb is drawn when it points at the eye, a share of its length; 1 leaves every part as it is. */
  readonly foreshorten: number;
  /** Limbs go before and behind by their depth. */
  readonly order: boolean;
  readonly headViews: boolean;
  readonly swing: boolean;
}
export const FLAT_DEFAULTS: FlatSettings = {
  view: 'drawn',
  foreshorten: DRIVE_DEFAULTS.foreshorten,
  order: DRIVE_DEFAULTS.order,
  headViews: DRIVE_DEFAULTS.headViews,
  swing: DRIVE_DEFAULTS.swing,
};

/** What is set on a fitting whatever its source. */
export interface FittingSettings {
  readonly plants: boolean;
  readonly travel: Travel;
  readonly hands: HandMode;
  /** Forearms stay out of the body and both legs out of each other. */
  readonly clear: boolean;
  readonly limits: boolean;
  /** How much lower the hips are, as a share of the leg. */
  readonly lower: number;
  readonly leave: readonly LeaveWord[];
  readonly tuning: Tuning;
  readonly flat: FlatSettings;
}
export const FITTING_DEFAULTS: FittingSettings = {
  plants: RETARGET_DEFAULTS.plants,
  travel: RETARGET_DEFAULTS.travel,
  hands: 'free',
  clear: true,
  limits: false,
  lower: RETARGET_DEFAULTS.lower,
  leave: [],
  tuning: TUNING_DEFAULTS,
  flat: FLAT_DEFAULTS,
};

/** What is done by hand on one source and one target, told in frames of the tuned source. */
export interface FittingEdits {
  /** Frames of the motion that all frames below are told for; they are stretched with it when its length changes. */
  readonly frames: number;
  /** Plants to hold instead of those found; null where those found are held. */
  readonly plants: readonly Plant[] | null;
  readonly goals: readonly HandGoal[];
  readonly looks: readonly LookGoal[];
  readonly corrections: readonly CorrectionTrack[];
  /** Which drawings parts of a cut-out show, by hand; missing in what was kept before there were any. */
  readonly exposures?: readonly Exposure[] | undefined;
  /** From one cut-out to another: what somebody said of keys that are off their attachment. */
  readonly offKeys?: readonly SaidOfKey[] | undefined;
}
export const NO_EDITS: FittingEdits = { frames: 0, plants: null, goals: [], looks: [], corrections: [] };

/** Whether anything is set by hand for this pair of source and target. */
export const isEdited = (e: FittingEdits): boolean =>
  e.plants !== null ||
  e.goals.length > 0 ||
  e.looks.length > 0 ||
  e.corrections.some((t) => t.keys.length > 0) ||
  (e.exposures ?? []).some((x) => x.keys.length > 0) ||
  (e.offKeys ?? []).length > 0;

/** Steps of tuning that differ from leaving everything as it is. */
export function tuningSteps(t: Tuning): TuneStep[] {
  const steps: TuneStep[] = [];
  if (t.energy !== 1) steps.push({ op: 'energy', amount: t.energy });
  if (t.arms !== 0) steps.push({ op: 'arms', degrees: t.arms });
  if (t.stance !== 1) steps.push({ op: 'stance', scale: t.stance });
  if (t.stride !== 1) steps.push({ op: 'stride', scale: t.stride });
  if (t.lean !== 0) steps.push({ op: 'lean', forward: t.lean });
  if (t.speed !== 1) steps.push({ op: 'speed', speed: t.speed });
  return steps;
}

const LEFT_SLOTS: Partial<Record<LeaveWord, RegExp>> = {
  head: /^(head|neck\d)$/,
  fingers: /^(thumb|index|middle|ring|pinky)\d[LR]$/,
  collars: /^collar[LR]$/,
  toes: /^toes[LR]$/,
};

/** Options of the solve for settings and edits; `slots` are those that the target has. */
export function solveOptions(
  settings: FittingSettings,
  edits: FittingEdits,
  target: { readonly slots: readonly string[]; readonly limits?: Limits | undefined },
): RetargetOptions {
  const slots = settings.leave.flatMap((w) => target.slots.filter((s) => isSlot(s) && LEFT_SLOTS[w]?.test(s)));
  const travel = settings.leave.flatMap((w) => (w.startsWith('travel ') ? [w.at(-1) as 'x' | 'y' | 'z'] : []));
  return {
    plants: settings.plants,
    travel: settings.travel,
    hands: [...handGoalsFor(settings.hands), ...edits.goals],
    look: edits.looks,
    clear: settings.clear,
    limits: settings.limits ? (target.limits ?? 'common') : false,
    lower: settings.lower,
    ...(slots.length > 0 || travel.length > 0 ? { leave: { slots, travel } } : {}),
  };
}

/** The edits told in a motion of another length: every frame goes where its share of the whole is. */
export function stretchEdits(edits: FittingEdits, frames: number): FittingEdits {
  if (edits.frames === frames || edits.frames < 2 || !isEdited(edits)) return { ...edits, frames };
  const scale = (frames - 1) / (edits.frames - 1);
  const at = (f: number): number => Math.max(0, Math.min(frames - 1, Math.round(f * scale)));
  const unique = <K extends { frame: number }>(keys: readonly K[]): K[] => {
    const out = new Map<number, K>();
    for (const k of keys) out.set(at(k.frame), { ...k, frame: at(k.frame) });
    return [...out.values()].sort((a, b) => a.frame - b.frame);
  };
  const weight = <G extends { weight?: number | 'near' | readonly ImportanceKey[] }>(g: G): G =>
    Array.isArray(g.weight) ? { ...g, weight: unique(g.weight as ImportanceKey[]) } : g;
  return {
    frames,
    plants: edits.plants?.map((p) => ({ ...p, start: at(p.start), end: at(p.end) })) ?? null,
    goals: edits.goals.map(weight),
    looks: edits.looks.map(weight),
    corrections: edits.corrections.map((t) => ({ ...t, keys: unique(t.keys) })),
    ...(edits.exposures ? { exposures: edits.exposures.map((x) => ({ ...x, keys: unique(x.keys) })) } : {}),
    ...(edits.offKeys ? { offKeys: edits.offKeys.map((k) => ({ ...k, frame: at(k.frame) })) } : {}),
  };
}

/** Plants put in order; of one part, those that touch or overlap become one, and none leaves the motion. */
export function tidyPlants(plants: readonly Plant[], frames: number): Plant[] {
  const out: Plant[] = [];
  const sorted = plants
    .map((p) => ({ ...p, start: Math.max(0, Math.round(p.start)), end: Math.min(frames - 1, Math.round(p.end)) }))
    .filter((p) => p.end >= p.start)
    .sort((a, b) => a.start - b.start);
  const last = new Map<PlantPart, number>();
  for (const p of sorted) {
    const i = last.get(p.part);
    const before = i === undefined ? undefined : out[i]!;
    if (before && p.start <= before.end + 1) {
      // a pinned plant keeps its spot against an unpinned neighbour
      out[i!] = { ...before, end: Math.max(before.end, p.end), pin: before.pin ?? p.pin };
      continue;
    }
    last.set(p.part, out.length);
    out.push(p);
  }
  const rank = (p: Plant): number => PLANT_PARTS.indexOf(p.part);
  return out.sort((a, b) => a.start - b.start || rank(a) - rank(b));
}

/** The other end of the same sole: heel for ball and the other way round; other parts stay. */
export const otherEnd = (part: PlantPart): PlantPart =>
  isSole(part) ? (((part.startsWith('heel') ? 'ball' : 'heel') + part.slice(-1)) as PlantPart) : part;

/** What differs from the defaults, in a few words each, for lists and provenance. */
export function fittingWords(settings: FittingSettings, edits: FittingEdits = NO_EDITS): string[] {
  const t = settings.tuning;
  const keys = edits.corrections.reduce((n, c) => n + c.keys.length, 0);
  return [
    !settings.plants && 'plants not held',
    settings.travel !== FITTING_DEFAULTS.travel &&
      { leg: '', path: 'path of the source', speed: 'ground speed of the source', none: 'on the spot' }[
        settings.travel
      ],
    settings.hands !== 'free' &&
      (settings.hands === 'together' ? 'hands together' : `hands near the ${settings.hands}`),
    // what was kept before this could be set has no word of it
    settings.clear === false && 'limbs not kept apart',
    settings.limits && 'within joint limits',
    settings.lower !== 0 &&
      `hips ${Math.abs(100 * settings.lower).toFixed(1)} % ${settings.lower > 0 ? 'lower' : 'higher'}`,
    settings.leave.length > 0 && `without ${settings.leave.join(', ')}`,
    // what was kept before cut-outs could be driven has no word of them
    settings.flat && settings.flat.view !== 'drawn' && `seen from the ${settings.flat.view}`,
    settings.flat && settings.flat.foreshorten >= 1 && 'no limb drawn shorter',
    settings.flat && !settings.flat.order && 'drawing order as at rest',
    t.energy !== 1 && `energy ${t.energy}`,
    t.arms !== 0 && `arms ${t.arms}°`,
    t.stance !== 1 && `stance × ${t.stance}`,
    t.stride !== 1 && `stride × ${t.stride}`,
    t.lean !== 0 && `lean ${t.lean}°`,
    t.speed !== 1 && `speed × ${t.speed}`,
    edits.plants !== null && 'plants by hand',
    edits.goals.length > 0 && `${edits.goals.length} hand ${edits.goals.length === 1 ? 'goal' : 'goals'}`,
    edits.looks.length > 0 && 'looks at a point',
    keys > 0 && `${keys} correction ${keys === 1 ? 'key' : 'keys'}`,
    (edits.exposures ?? []).length > 0 && 'drawings chosen by hand',
  ].filter((x): x is string => typeof x === 'string' && x !== '');
}
