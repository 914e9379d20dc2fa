import {
  FITTING_DEFAULTS,
  type FittingEdits,
  type FittingSettings,
  type KeptKind,
  type REGIONS,
  type TuneStep,
  type Tuning,
  tuningSteps,
} from '@velvet-reel/motion';

// What a person can set on a fitting and on a change, without the schemas that check it: pages need no more.

export const TUNING_DEFAULTS: Tuning = FITTING_DEFAULTS.tuning;
export type { Tuning };
export type FitSettings = FittingSettings;
export const FIT_DEFAULTS: FitSettings = FITTING_DEFAULTS;
export type FitEdits = FittingEdits;

/** Frames that a first or last one may be held on. */
export const MOST_HELD = 2000;

/** A change to an item that makes a new one of it, on its own skeleton. */
export interface ChangeWish {
  mirror: boolean;
  despike: boolean;
  fillGaps: boolean;
  /** Cut-off of the low-pass, Hz; 0 for none. */
  smoothHz: number;
  trim: { start: number; end: number } | null;
  /** Played backwards. */
  reverse: boolean;
  /** How many frames the first and the last one are held on. */
  hold: { before: number; after: number };
  /** Close the stretch (or the whole) into a loop. */
  loop: boolean;
  inPlace: boolean;
  floor: boolean;
  /** Parts of the body that are kept, and single joints besides; all where both lists are empty. */
  regions: (typeof REGIONS)[number][];
  joints: string[];
  /** What of the parts is kept: what they do, which drawings they show (a cut-out's alone), or both. */
  what: KeptKind;
  tuning: Tuning;
}
export const NO_CHANGE: ChangeWish = {
  mirror: false,
  despike: false,
  fillGaps: false,
  smoothHz: 0,
  trim: null,
  reverse: false,
  hold: { before: 0, after: 0 },
  loop: false,
  inPlace: false,
  floor: false,
  regions: [],
  joints: [],
  what: 'all',
  tuning: TUNING_DEFAULTS,
};

/** Whether keyed animation stays keys under a change: one that only takes a part of it. */
export const keysSurvive = (wish: ChangeWish): boolean => {
  const { trim, regions, joints, what } = wish;
  return changeWords({ ...NO_CHANGE, trim, regions, joints, what }).length === changeWords(wish).length;
};

/** The steps of a change in the order in which they are applied; the loop is closed after them. */
export function changeSteps(wish: ChangeWish): TuneStep[] {
  const steps: TuneStep[] = [];
  if (wish.despike) steps.push({ op: 'despike' });
  if (wish.fillGaps) steps.push({ op: 'fillGaps' });
  if (wish.smoothHz > 0) steps.push({ op: 'smooth', cutoffHz: wish.smoothHz });
  if (wish.trim) steps.push({ op: 'trim', ...wish.trim });
  if (wish.reverse) steps.push({ op: 'reverse' });
  if (wish.mirror) steps.push({ op: 'mirror' });
  steps.push(...tuningSteps(wish.tuning));
  if (wish.floor) steps.push({ op: 'floor' });
  // last, so that nothing is smoothed or sped up across it
  if (wish.hold.before + wish.hold.after > 0) steps.push({ op: 'hold', ...wish.hold });
  return steps;
}

/** What a change does, in a few words, for lists and names. */
export function changeWords(wish: ChangeWish): string[] {
  const t = wish.tuning;
  return [
    wish.despike && 'spikes out',
    wish.fillGaps && 'gaps filled',
    wish.smoothHz > 0 && `smoothed at ${wish.smoothHz} Hz`,
    wish.trim &&
      (wish.trim.start === wish.trim.end
        ? `pose at frame ${wish.trim.start + 1}`
        : `frames ${wish.trim.start + 1} to ${wish.trim.end + 1}`),
    wish.regions.length + wish.joints.length > 0 &&
      `only ${[...wish.regions, ...(wish.joints.length > 3 ? [`${wish.joints.length} joints`] : wish.joints)].join(', ')}`,
    wish.what === 'drawings' && 'drawings alone',
    wish.what === 'movement' && 'without drawings',
    wish.mirror && 'mirrored',
    wish.reverse && 'backwards',
    wish.hold.before > 0 && `first frame held ${wish.hold.before}`,
    wish.hold.after > 0 && `last frame held ${wish.hold.after}`,
    t.energy !== 1 && `energy ${t.energy}`,
    t.arms !== 0 && `arms ${t.arms}°`,
    t.stance !== 1 && `stance × ${t.stance}`,
    t.stride !== 1 && `stride × ${t.stride}`,
    t.lean !== 0 && `lean ${t.lean}°`,
    t.speed !== 1 && `speed × ${t.speed}`,
    wish.floor && 'on the floor',
    wish.loop && 'looped',
    wish.inPlace && 'in place',
  ].filter((x): x is string => typeof x === 'string');
}
