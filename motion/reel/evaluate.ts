import { findPairing, type Pairing } from '../body/pairing';
import type { Party } from '../body/party';
import { correctAny } from '../cutout/correct-flat';
import type { JoinFact, Laid } from '../join/laid';
import { type Lane, layLane } from '../join/lane';
import { type Stands, standsOf } from '../join/steps';
import { layOver } from '../layer/overlay';
import { alignTurns } from '../math/quat';
import { valueAt } from '../motion/curve';
import { type Motion, restMotion } from '../motion/motion';
import { hold, resample } from '../motion/timing';
import { turnedOver } from '../motion/turned-round';
import { ownPlan, type RetargetPlan } from '../retarget/plan';
import type { Overlay, Placement, ReelMember, StrengthKey, Stretch } from './document';
import { setLevels } from './levels';
import { placeStretch } from './place';

/** A passage between two placements. */
export interface ReelJoin extends Omit<JoinFact, 'to'> {
  /** Placements by their ids. */
  readonly from: string;
  readonly to: string;
}

/** What a member of a reel does, evaluated. */
export interface Performed {
  readonly motion: Motion;
  readonly joins: readonly ReelJoin[];
  /** The base lane alone, beneath overlays and keys, and what its feet stand on: the same objects until it changes. */
  readonly base: Motion;
  readonly held: Lane['held'];
}

/** A motion that an item of the reel stands for, on the member's rig and at its own rate; undefined while it is missing. */
export type MotionOf = (stretch: Stretch) => Motion | undefined;

interface Placed {
  readonly motion: Motion;
  /** Read where the item lies on the base lane: an overlay has no need of them. */
  stands?: Stands;
}

const DEGREES = Math.PI / 180;
/** So many placed items are kept though they are not on the reel any more: a drag comes back to them. */
const MOST_KEPT = 16;

/**
 * Evaluates one member of a reel again and again: only what a change touches is worked out anew. What it answers is what a
 * fresh one would, to the bit, for every stage is a pure function of what it is given.
 */
export class ReelEvaluator {
  private readonly plan: RetargetPlan;
  private pairing: Pairing | undefined;
  private readonly placed = new Map<string, Placed>();
  private readonly used = new Set<string>();
  private readonly numbers = new WeakMap<Motion, number>();
  private count = 0;
  private base: { key: string; lane: Lane | undefined; ids: string[] } | undefined;
  private above: { key: string; motion: Motion }[] = [];

  constructor(
    private readonly party: Party,
    private readonly fps: number,
  ) {
    this.plan = ownPlan(party);
  }

  /** @throws MotionError as placing, laying and correcting do */
  evaluate(
    member: Pick<ReelMember, 'base' | 'overlays' | 'keys' | 'numbers' | 'labels'>,
    frames: number,
    motionOf: MotionOf,
  ): Performed {
    this.used.clear();
    const base = this.baseOf(member.base, frames, motionOf);
    const start = base.lane?.motion ?? this.resting(frames);
    const held = base.lane?.held ?? { L: new Uint8Array(frames), R: new Uint8Array(frames) };
    const steps = [
      ...inOrder(member.overlays).flatMap((o) => this.overlayStep(o, motionOf, held)),
      { key: JSON.stringify(member.keys), run: (m: Motion) => correctAny(this.party, m, member.keys) },
      {
        key: JSON.stringify([member.numbers, member.labels]),
        run: (m: Motion) => setLevels(m, member.numbers ?? [], member.labels ?? []),
      },
    ];
    const key = `${base.key} ${frames}`;
    let motion = start;
    let path = key;
    const done: { key: string; motion: Motion }[] = [];
    for (const [i, step] of steps.entries()) {
      path = `${path}\n${step.key}`;
      const known = this.above[i];
      motion = known?.key === path ? known.motion : step.run(motion);
      done.push({ key: path, motion });
    }
    this.above = done;
    this.forget();
    const joins = (base.lane?.joins ?? []).map(({ to, ...join }) => ({
      ...join,
      from: base.ids[to - 1]!,
      to: base.ids[to]!,
    }));
    return { motion, joins, base: start, held };
  }

  private baseOf(base: readonly Placement[], frames: number, motionOf: MotionOf) {
    const laid: { laid: Laid; key: string; id: string }[] = [];
    for (const p of [...base].sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1))) {
      const source = p.muted ? undefined : motionOf(p);
      if (!source) continue;
      const { x, z, turn } = p.offset;
      const { cutout } = this.party;
      // paper is turned over or not, and nothing between
      const over = cutout !== undefined && Math.cos(turn * DEGREES) < 0;
      const key = this.keyOf(p, source, p.inPlace, over);
      laid.push({
        key: `${key} ${p.at} ${JSON.stringify([p.offset, p.join])}`,
        id: p.id,
        laid: {
          ...this.standing(this.place(key, p, source, p.inPlace, over)),
          at: Math.max(0, p.at),
          join: p.join,
          offset: { turn: cutout ? 0 : turn * DEGREES, by: [x, z] },
        },
      });
    }
    const key = `${frames} ${laid.map((l) => l.key).join('|')}`;
    if (this.base?.key === key) return this.base;
    const ids = laid.map((l) => l.id);
    const lane =
      laid.length > 0
        ? layLane(
            this.party,
            laid.map((l) => l.laid),
            frames,
          )
        : undefined;
    this.base = { key, lane, ids };
    return this.base;
  }

  private keyOf(s: Stretch, source: Motion, inPlace: boolean, over = false): string {
    let number = this.numbers.get(source);
    if (number === undefined) {
      number = this.count++;
      this.numbers.set(source, number);
    }
    return JSON.stringify([number, s.from, s.to, s.speed, s.pace, s.repeats, s.mirrored, inPlace, over]);
  }

  private place(key: string, s: Stretch, source: Motion, inPlace: boolean, over = false): Placed {
    this.used.add(key);
    const known = this.placed.get(key);
    if (known) return known;
    if (s.mirrored) this.pairing ??= findPairing(this.party.rig, this.party.map, undefined, this.party.pairs);
    const placed = placeStretch(this.party, source, { ...s, inPlace }, this.fps, this.pairing);
    const made = { motion: over ? turnedOver(this.party.cutout!, placed) : placed };
    this.placed.set(key, made);
    return made;
  }

  private standing(placed: Placed): Required<Placed> {
    placed.stands ??= standsOf(this.plan, placed.motion);
    return { motion: placed.motion, stands: placed.stands };
  }

  /** Lets go of what is not on the reel any more, but for the last few. */
  private forget(): void {
    for (const key of this.placed.keys()) {
      if (this.placed.size <= this.used.size + MOST_KEPT) return;
      if (!this.used.has(key)) this.placed.delete(key);
    }
  }

  private overlayStep(o: Overlay, motionOf: MotionOf, held: Lane['held']) {
    const source = o.muted ? undefined : motionOf(o);
    if (!source) return [];
    const key = this.keyOf(o, source, false);
    const { at, mode, reference, regions, joints, strength, holdFeet } = o;
    return [
      {
        key: `${key} ${JSON.stringify([at, mode, reference, regions, joints, strength, holdFeet])}`,
        run: (beneath: Motion) =>
          layOver(this.party, beneath, this.place(key, o, source, false).motion, {
            at,
            mode,
            reference,
            regions,
            joints,
            strength: (frame) => strengthAt(strength, frame - at),
            ...(holdFeet && { held }),
          }),
      },
    ];
  }

  private resting(frames: number): Motion {
    const { rig } = this.party;
    const rest = resample(rig, restMotion(rig, this.fps), this.fps);
    const motion = hold(rig, rest, 0, Math.max(0, frames - 1));
    alignTurns(motion.turns, rig.names.length, frames);
    return motion;
  }
}

/** Overlays from the lowest up. */
const inOrder = (overlays: readonly Overlay[]): Overlay[] =>
  [...overlays].sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1));

const KEYS = {
  time: (k: StrengthKey) => k.frame,
  value: (k: StrengthKey) => k.value,
  ease: (k: StrengthKey) => k.ease ?? 'smooth',
} as const;

/** Strength by its keys at a frame counted as they are; all of it where there are none. */
export const strengthAt = (keys: readonly StrengthKey[], frame: number): number => valueAt(keys, KEYS, frame, 1);
