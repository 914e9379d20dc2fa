import { MotionError } from '../errors';
import { alignSigns, slerp } from '../math/quat';
import type { Motion } from '../motion/motion';
import type { StageFrame } from './packets';

/** A stretch of frames of a take that never came, and what stands in for them. */
export interface MissingFrames {
  readonly first: number;
  readonly last: number;
  readonly filled: 'between' | 'held';
}

/** A stretch in which a joint was lost. */
export interface LostJoint {
  readonly joint: number;
  readonly first: number;
  readonly last: number;
}

/** What a take is made of: every frame from the first to the last is either as it came, or told. */
export interface TakeAccount {
  readonly frames: number;
  readonly came: number;
  readonly twice: number;
  readonly missing: readonly MissingFrames[];
  readonly lostJoints: readonly LostJoint[];
  /** Whether the stage started anew while it was recorded: what came after that is another take. */
  readonly cutOff: boolean;
}

const MOST_FRAMES = 600_000;

/** Records one performer from the moment it is made; frames may come in any order, twice or not at all. */
export class TakeRecorder {
  private readonly frames = new Map<number, StageFrame>();
  private session: string | undefined;
  private twice = 0;
  private cutOff = false;

  constructor(
    readonly joints: number,
    readonly fps: number,
  ) {}

  push(frame: StageFrame): void {
    this.session ??= frame.session;
    if (frame.session !== this.session) {
      this.cutOff = true;
      return;
    }
    if (this.frames.has(frame.number)) this.twice++;
    else if (this.frames.size < MOST_FRAMES) this.frames.set(frame.number, frame);
  }

  get count(): number {
    return this.frames.size;
  }

  /**
   * The take as a motion, with frames that never came put in between those around, and an account of all of them.
   * @throws MotionError 'no-motion' where nothing came
   */
  finish(): { motion: Motion; account: TakeAccount } {
    const numbers = [...this.frames.keys()].sort((a, b) => a - b);
    const first = numbers[0];
    if (first === undefined) throw new MotionError('no-motion', 'No frame came while the take was recorded.');
    const count = numbers.at(-1)! - first + 1;
    const n = this.joints;
    const turns = new Float32Array(4 * n * count);
    const places = new Float32Array(3 * count).fill(Number.NaN);
    const missing: MissingFrames[] = [];
    for (let i = 1; i < numbers.length; i++)
      if (numbers[i]! > numbers[i - 1]! + 1)
        missing.push({ first: numbers[i - 1]! + 1 - first, last: numbers[i]! - 1 - first, filled: 'between' });
    const lostJoints: LostJoint[] = [];
    for (let j = 0; j < n; j++) {
      const seen = numbers.filter((k) => !Number.isNaN(this.frames.get(k)!.turns[4 * j]!));
      const absent = numbers.filter((k) => Number.isNaN(this.frames.get(k)!.turns[4 * j]!));
      for (const [a, b] of runs(absent)) lostJoints.push({ joint: j, first: a - first, last: b - first });
      let at = 0;
      for (let f = 0; f < count; f++) {
        while (at + 1 < seen.length && seen[at + 1]! <= f + first) at++;
        const [a, b] = [seen[at], seen[Math.min(at + 1, seen.length - 1)]];
        const o = 4 * (f * n + j);
        if (a === undefined || b === undefined) {
          turns[o + 3] = 1;
          continue;
        }
        const t = b > a ? Math.min(1, Math.max(0, (f + first - a) / (b - a))) : 0;
        slerp(turns, o, this.frames.get(a)!.turns, 4 * j, this.frames.get(b)!.turns, 4 * j, t);
      }
      alignSigns(turns, 4 * j, 4 * n, count);
    }
    const placed = numbers.filter((k) => this.frames.get(k)!.place);
    let at = 0;
    for (let f = 0; f < count; f++) {
      while (at + 1 < placed.length && placed[at + 1]! <= f + first) at++;
      const [a, b] = [placed[at], placed[Math.min(at + 1, placed.length - 1)]];
      const from = a === undefined ? [0, 0, 0] : this.frames.get(a)!.place!;
      const to = b === undefined ? from : this.frames.get(b)!.place!;
      const t = a !== undefined && b !== undefined && b > a ? Math.min(1, Math.max(0, (f + first - a) / (b - a))) : 0;
      for (let k = 0; k < 3; k++) places[3 * f + k] = from[k]! + t * (to[k]! - from[k]!);
    }
    return {
      motion: {
        fps: this.fps,
        frameCount: count,
        turns,
        places: [{ joint: 0, values: places }],
        numbers: [],
        scales: [],
        steps: [],
      },
      account: { frames: count, came: numbers.length, twice: this.twice, missing, lostJoints, cutOff: this.cutOff },
    };
  }
}

/** Rising numbers in runs without a gap. */
function runs(numbers: readonly number[]): [number, number][] {
  const out: [number, number][] = [];
  for (const k of numbers) {
    const last = out.at(-1);
    if (last && last[1] === k - 1) last[1] = k;
    else out.push([k, k]);
  }
  return out;
}

/** An account in sentences. */
export function takeWords(
  { frames, came, missing, lostJoints, cutOff }: TakeAccount,
  names: readonly string[],
): string[] {
  const gone = frames - came;
  const list = missing.slice(0, 6).map((m) => (m.first === m.last ? `${m.first}` : `${m.first} to ${m.last}`));
  const joints = [...new Set(lostJoints.map((l) => names[l.joint]!))];
  return [
    gone === 0
      ? `All ${frames} frames came.`
      : `${gone} of ${frames} frames never came (${list.join(', ')}${missing.length > 6 ? ' and more' : ''}); they were put in between those around.`,
    ...(joints.length > 0
      ? [
          `Lost at times: ${joints.slice(0, 8).join(', ')}${joints.length > 8 ? ' and more' : ''}; they were carried over what was lost.`,
        ]
      : []),
    ...(cutOff ? ['The stage started anew while it was recorded: the take ends there.'] : []),
  ];
}
