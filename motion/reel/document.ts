import type { Region } from '../body/regions';
import { JOIN_DEFAULTS, type JoinWish } from '../join/laid';
import type { CorrectionTrack } from '../layer/correct';
import type { OverlayMode, Reference } from '../layer/overlay';
import type { Ease } from '../motion/curve';
import { framesReached, type SpeedKey } from '../motion/timing';
import type { ReelCamera } from './camera';
import type { LabelLane, LevelLane } from './levels';

// A reel as people edit it: what lies where. Frames are those of the reel unless told otherwise, counted from 0.

/** How many times as fast an item plays at one of its own frames; it changes evenly from one to the next. */
export interface PaceKey {
  readonly frame: number;
  readonly speed: number;
}

/** Which stretch of an item is laid, and how it plays. */
export interface Stretch {
  readonly id: string;
  readonly itemId: string;
  /** The version that is laid, so that nothing is swapped by itself; null: the one in force. */
  readonly versionId: string | null;
  /** Frame on which its first one falls. */
  readonly at: number;
  /** First and last frame of the item that are played, in its own frames, both included; null: its last. */
  readonly from: number;
  readonly to: number | null;
  readonly speed: number;
  /** Times its speed, over the item's own frames, which rise: cutting leaves it as it was. As fast throughout where left out. */
  readonly pace?: readonly PaceKey[] | undefined;
  /** How often it is played; every time meets the one before. */
  readonly repeats: number;
  readonly mirrored: boolean;
  readonly muted: boolean;
}

/** An item laid on a member's base lane. */
export interface Placement extends Stretch {
  /** Its travel over the ground is taken out. */
  readonly inPlace: boolean;
  /** Beyond where it meets what lies before: metres, and degrees about Y. */
  readonly offset: { readonly x: number; readonly z: number; readonly turn: number };
  /** How what lies before it passes into it. */
  readonly join: JoinWish;
}

/** Strength at a frame, told from the first frame of what it belongs to. */
export interface StrengthKey {
  readonly frame: number;
  readonly value: number;
  readonly ease?: Ease | undefined;
}

/** An item laid over the base for some of the body. */
export interface Overlay extends Stretch {
  readonly mode: OverlayMode;
  readonly reference: Reference;
  readonly regions: readonly Region[];
  readonly joints: readonly string[];
  /** Rising in frame; all of it throughout where empty. */
  readonly strength: readonly StrengthKey[];
  /** Feet that stand beneath stay where they stand. */
  readonly holdFeet: boolean;
  /** Overlays lie in this order, the lowest first. */
  readonly order: number;
}

/** What one character does in a reel. */
export interface ReelMember {
  readonly id: string;
  readonly castId: string;
  /** Members stand in this order. */
  readonly order: number;
  readonly muted: boolean;
  readonly base: readonly Placement[];
  readonly overlays: readonly Overlay[];
  /** What is set by hand on top, in frames of the reel. */
  readonly keys: readonly CorrectionTrack[];
  /** Numbers set over all of it, in frames of the reel; none where left out. */
  readonly numbers?: readonly LevelLane[] | undefined;
  /** Drawings, views and order set over all of it; none where left out. */
  readonly labels?: readonly LabelLane[] | undefined;
}

/** Everything of an item, once, as it is. */
export const STRETCH_DEFAULTS = {
  versionId: null,
  from: 0,
  to: null,
  speed: 1,
  repeats: 1,
  mirrored: false,
  muted: false,
} as const satisfies Partial<Stretch>;

/** An item on a base lane where nothing is set. */
export const PLACEMENT_DEFAULTS: Omit<Placement, 'id' | 'itemId' | 'at'> = {
  ...STRETCH_DEFAULTS,
  inPlace: false,
  offset: { x: 0, z: 0, turn: 0 },
  join: JOIN_DEFAULTS,
};

/** An overlay where nothing is set. */
export const OVERLAY_DEFAULTS: Omit<Overlay, 'id' | 'itemId' | 'at'> = {
  ...STRETCH_DEFAULTS,
  mode: 'replace',
  reference: 'first',
  regions: [],
  joints: [],
  strength: [],
  holdFeet: true,
  order: 0,
};

export interface Marker {
  readonly id: string;
  readonly frame: number;
  readonly name: string;
}

export interface Reel {
  readonly fps: number;
  readonly frames: number;
  readonly members: readonly ReelMember[];
  readonly markers: readonly Marker[];
  /** None where left out. */
  readonly cameras?: readonly ReelCamera[] | undefined;
}

/** A strength comes in and goes over so many frames unless told otherwise. */
export const ONSET = 10;

/** Strength that comes in, stays, and goes again. @param frames length of what it belongs to */
export function onsetStrength(frames: number, onset = ONSET): StrengthKey[] {
  const n = Math.max(1, Math.min(onset, Math.floor((frames - 1) / 2)));
  return [
    { frame: 0, value: 0 },
    { frame: n, value: 1 },
    { frame: Math.max(n + 1, frames - 1 - n), value: 1 },
    { frame: Math.max(n + 2, frames - 1), value: 0 },
  ];
}

/** Names what is laid: an item, in a version where one is told. */
export const laidOf = ({ itemId, versionId }: Pick<Stretch, 'itemId' | 'versionId'>): string =>
  versionId === null ? itemId : `${itemId} ${versionId}`;

/** What tells the length of an item. */
export interface Lasting {
  readonly frameCount: number;
  readonly fps: number;
}

type Played = Pick<Stretch, 'from' | 'to' | 'speed' | 'pace'>;

/** Speeds outside these are not played. */
const [SLOWEST, FASTEST] = [0.05, 20];

/** The speed of a stretch, or its keys in seconds from its first frame. */
export function speedsOf(stretch: Played, item: Lasting): number | SpeedKey[] {
  const { speed, pace } = stretch;
  if (!pace || pace.length === 0) return speed;
  const { from } = endsOf(stretch, item);
  return pace.map((k) => ({
    seconds: (k.frame - from) / item.fps,
    speed: Math.min(FASTEST, Math.max(SLOWEST, speed * k.speed)),
  }));
}

/** When each frame of a stretch is reached, in frames of the item's rate; undefined where it plays as fast throughout. */
function reachedIn(stretch: Played, item: Lasting): Float64Array | undefined {
  const speed = speedsOf(stretch, item);
  if (typeof speed === 'number') return undefined;
  const { from, to } = endsOf(stretch, item);
  return framesReached(to - from + 1, item.fps, speed);
}

/** How many frames of a reel a stretch of an item takes. */
export function stretchLength(stretch: Played & Pick<Stretch, 'repeats'>, item: Lasting, fps: number): number {
  const { from, to } = endsOf(stretch, item);
  const lap = Math.round(reachedIn(stretch, item)?.at(-1) ?? (to - from) / stretch.speed);
  return Math.floor(((lap * stretch.repeats) / item.fps) * fps + 1e-6) + 1;
}

/**
 * How many of its own frames an item has gone on after some frames of the reel, from its first frame there; beyond its ends at
 * the speed that it has there.
 */
export function itemFramesIn(stretch: Played, item: Lasting, fps: number, frames: number): number {
  const x = (frames * item.fps) / fps;
  const reached = reachedIn(stretch, item);
  if (!reached) return x * stretch.speed;
  const last = reached.length - 1;
  if (last === 0) return x * stretch.speed;
  let f = 0;
  while (f < last - 1 && reached[f + 1]! <= x) f++;
  return f + (x - reached[f]!) / (reached[f + 1]! - reached[f]!);
}

/** How many frames of the reel an item takes for some of its own, from its first frame there; see itemFramesIn. */
export function reelFramesIn(stretch: Played, item: Lasting, fps: number, itemFrames: number): number {
  const reached = reachedIn(stretch, item);
  if (!reached || reached.length === 1) return (itemFrames * fps) / (stretch.speed * item.fps);
  const f = Math.min(reached.length - 2, Math.max(0, Math.floor(itemFrames)));
  return ((reached[f]! + (itemFrames - f) * (reached[f + 1]! - reached[f]!)) * fps) / item.fps;
}

/**
 * How far a stretch has got after a share of the time that a lap of it takes, as a share of its frames; undefined where it plays
 * as fast throughout.
 */
export function wayThrough(stretch: Played, item: Lasting): ((share: number) => number) | undefined {
  const reached = reachedIn(stretch, item);
  if (!reached || reached.length < 2) return undefined;
  const last = reached.length - 1;
  return (share) => itemFramesIn(stretch, item, item.fps, share * reached[last]!) / last;
}

/** First and last frame of an item that are played, kept within it. */
export function endsOf(
  { from, to }: Pick<Stretch, 'from' | 'to'>,
  { frameCount }: Lasting,
): { from: number; to: number } {
  const last = frameCount - 1;
  const start = Math.min(last, Math.max(0, Math.round(from)));
  return { from: start, to: Math.min(last, Math.max(start, Math.round(to ?? last))) };
}
