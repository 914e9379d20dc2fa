import { slerp } from '../math/quat';
import type { StageFrame } from './packets';

/** Frames that are kept, at most so many seconds. */
const KEPT_S = 2;
/** How long a lost joint goes on as it moved, and how long it takes to come to rest after that, seconds. */
const GOES_ON_S = 0.12;
const EASES_S = 0.5;
/** The delay follows the spread of arrivals: this share of all frames comes in time. */
const IN_TIME = 0.97;
/** Arrivals that the spread is told by. */
const ARRIVALS = 240;
const LEAST_DELAY_S = 0.01;
const MOST_DELAY_S = 0.4;
/** What is shown runs at most so much faster or slower than time until it is as far in the past as it should be. */
const LEAN = 0.25;
/** Farther than this from there it begins anew, seconds. */
const FAR_S = 1;

/** A pose for the picture, and what is known about it. */
export interface LivePose {
  /** 4 J numbers. */
  readonly turns: Float32Array;
  readonly place: Float32Array;
  /** Joints that were lost and are guessed. */
  readonly lost: readonly number[];
  /** The frame's own time, seconds since the session began. */
  readonly seconds: number;
}

/**
 * Frames of one performer as they come: out of order, late, with gaps; and the pose for any moment, a little in the past. How
 * far in the past follows how much arrivals spread; where that changes, what is shown runs a little faster or slower, and never
 * backwards. Lost joints go on as they moved for a moment, then come to rest.
 */
export class LiveBuffer {
  private frames: StageFrame[] = [];
  private session = '';
  /** Arrival minus frame time of late, seconds. */
  private offsets: number[] = [];
  private readonly lostSince: Float64Array;
  /** The moment that was shown last, in the session's own time, and when that was; below 0 before anything was. */
  private shown = -1;
  private asked = 0;

  constructor(
    readonly joints: number,
    readonly fps: number,
  ) {
    this.lostSince = new Float64Array(joints).fill(-1);
  }

  /** How far in the past pictures are, seconds. */
  get delay(): number {
    if (this.offsets.length < 8) return 0.05;
    const sorted = [...this.offsets].sort((a, b) => a - b);
    const spread = sorted[Math.floor(IN_TIME * (sorted.length - 1))]! - sorted[0]!;
    return Math.min(MOST_DELAY_S, Math.max(LEAST_DELAY_S, spread + 1 / this.fps));
  }

  /** @param arrived seconds on the receiver's clock */
  push(frame: StageFrame, arrived: number): void {
    if (frame.session !== this.session) {
      // the stage started anew: what came before has nothing to do with it
      this.session = frame.session;
      this.frames = [];
      this.offsets = [];
      this.lostSince.fill(-1);
      this.shown = -1;
    }
    this.offsets.push(arrived - frame.number / this.fps);
    if (this.offsets.length > ARRIVALS) this.offsets.shift();
    let i = this.frames.length;
    while (i > 0 && this.frames[i - 1]!.number > frame.number) i--;
    if (this.frames[i - 1]?.number === frame.number) return;
    this.frames.splice(i, 0, frame);
    while (this.frames.length > 2 && this.frames.at(-1)!.number - this.frames[0]!.number > KEPT_S * this.fps)
      this.frames.shift();
  }

  /** The pose to be shown now; undefined before anything came. */
  at(now: number): LivePose | undefined {
    if (this.frames.length === 0) return undefined;
    const wanted = this.momentAt(now) * this.fps;
    let i = this.frames.length - 1;
    while (i > 0 && this.frames[i]!.number > wanted) i--;
    const turns = new Float32Array(4 * this.joints);
    const lost: number[] = [];
    for (let j = 0; j < this.joints; j++) if (!this.turnAt(j, i, wanted, turns)) lost.push(j);
    return { turns, place: this.placeAt(i, wanted), lost, seconds: wanted / this.fps };
  }

  /** Which moment of the session is shown now, seconds. */
  private momentAt(now: number): number {
    const due = Math.max(0, now - Math.min(...this.offsets) - this.delay);
    const gone = Math.max(0, now - this.asked);
    const on = this.shown + gone;
    const off = due - on;
    this.asked = now;
    this.shown =
      this.shown < 0 || Math.abs(off) > FAR_S ? due : on + Math.max(-LEAN * gone, Math.min(LEAN * gone, off));
    return this.shown;
  }

  /** A joint's turn between the frames around in which it was seen; false where it has to be guessed. */
  private turnAt(j: number, i: number, wanted: number, out: Float32Array): boolean {
    const known = (f: StageFrame): boolean => !Number.isNaN(f.turns[4 * j]!);
    let a = i;
    while (a >= 0 && !known(this.frames[a]!)) a--;
    let b = i + 1;
    while (b < this.frames.length && !known(this.frames[b]!)) b++;
    const before = this.frames[a];
    const after = this.frames[b];
    if (!before && !after) {
      out[4 * j + 3] = 1;
      return false;
    }
    if (before && after) {
      const t = Math.min(1, Math.max(0, (wanted - before.number) / Math.max(1, after.number - before.number)));
      slerp(out, 4 * j, before.turns, 4 * j, after.turns, 4 * j, t);
      return true;
    }
    const last = (before ?? after)!;
    const gone = Math.max(0, wanted - last.number) / this.fps;
    // as it moved, then no longer, then to rest
    const past = this.frames[a - 1];
    if (past && known(past) && gone > 0 && last.number > past.number) {
      const on = Math.min(gone, GOES_ON_S) * this.fps;
      slerp(out, 4 * j, past.turns, 4 * j, last.turns, 4 * j, 1 + (on / (last.number - past.number)) * 0.5);
    } else out.set(last.turns.subarray(4 * j, 4 * j + 4), 4 * j);
    const ease = Math.min(1, Math.max(0, (gone - GOES_ON_S) / EASES_S));
    if (ease > 0) slerp(out, 4 * j, out, 4 * j, REST, 0, ease * ease * (3 - 2 * ease));
    return gone <= 1.5 / this.fps;
  }

  private placeAt(i: number, wanted: number): Float32Array {
    let a = i;
    while (a >= 0 && !this.frames[a]!.place) a--;
    let b = i + 1;
    while (b < this.frames.length && !this.frames[b]!.place) b++;
    const [before, after] = [this.frames[a], this.frames[b]];
    const from = (before ?? after)?.place ?? [0, 0, 0];
    const to = (after ?? before)?.place ?? from;
    const t =
      before && after
        ? Math.min(1, Math.max(0, (wanted - before.number) / Math.max(1, after.number - before.number)))
        : 0;
    return Float32Array.from([0, 1, 2], (k) => from[k]! + t * (to[k]! - from[k]!));
  }
}

const REST = [0, 0, 0, 1];
