import type { Party } from '../body/party';
import { JOIN_DEFAULTS, type JoinWish, type Laid } from '../join/laid';
import { type Lane, layLane } from '../join/lane';
import { findMatches } from '../join/match';
import { type Stands, standsOf } from '../join/steps';
import type { Motion } from '../motion/motion';
import { pickFrames } from '../motion/timing';
import { STRETCH_DEFAULTS } from '../reel/document';
import { placeStretch } from '../reel/place';
import { ownPlan } from '../retarget/plan';
import { assertPlayable, type Condition, type PlayGraph, type PlayState, type Way } from './graph';
import { mixCycles } from './mix';

/** What is pressed in a frame. */
export interface PlayInputs {
  /** Inputs that are held down. */
  readonly held: ReadonlySet<string>;
  /** Inputs that were pressed since the frame before. */
  readonly pressed: ReadonlySet<string>;
  readonly numbers: ReadonlyMap<string, number>;
}

/** Where a play-through is. */
export interface Playing {
  readonly state: string;
  /** The motion that is read, and its frame. The same object until something else is played. */
  readonly motion: Motion;
  readonly frame: number;
  /** The way that is being taken, and how much of it is done, 0 to 1. */
  readonly way: string | null;
  readonly share: number;
}

/** What a state shows, ready to be laid. */
interface Content {
  /** At the play-through's rate, repeated where it repeats. */
  readonly motion: Motion;
  readonly stands: Stands;
  /** Frames of one lap. */
  readonly lap: number;
}

/** What was played is kept for so long: what a join reads of the past, seconds. */
const PAST_S = 0.5;
/** A state that repeats is laid for so long at least, and again when less than the second is left, seconds. */
const AHEAD_S = 4;
const LEFT_S = 1;
/** A press waits so long for a way that uses it, seconds. */
const WAITS_S = 0.4;
/** A mix is worked out at so many places between two cycles. */
const MIXES = 12;
/** Over so many seconds a mix passes into another one, and at most so often it does. */
const MIX_S = 0.25;
const MIX_EVERY_S = 0.12;
const SEAM: JoinWish = { ...JOIN_DEFAULTS, kind: 'decay', frames: 8 };

/**
 * Plays a graph of states, a frame at a time. Whatever is coming lies on a lane already; a way that is taken lays the next
 * state behind the frame that is shown, with the joins of a reel, so feet stay on their spots and nothing jumps.
 * @throws MotionError 'bad-argument' for a graph that cannot begin, or items that are not there
 */
export class Player {
  private readonly contents = new Map<string, Content>();
  private readonly levels = new Map<string, number>();
  private readonly waiting = new Map<string, number>();
  private lane: Pick<Lane, 'motion' | 'held'>;
  private floor: number;
  private at = 0;
  /** Frame of the lane on which the state's own first frame falls. */
  private origin = 0;
  private state: PlayState;
  private content: Content;
  /** Frames since the state was entered, and since its mix was changed. */
  private since = 0;
  private sinceMix = 0;
  private joining: { readonly way: string; readonly start: number; readonly end: number } | undefined;
  private begun = false;

  constructor(
    private readonly party: Party,
    readonly graph: PlayGraph,
    private readonly motionOf: (itemId: string) => Motion,
  ) {
    assertPlayable(graph);
    this.state = graph.states.find((s) => s.id === graph.start)!;
    this.content = this.contentOf(this.state, new Map());
    this.lane = { motion: this.content.motion, held: this.content.stands.held };
    this.floor = this.content.stands.floor;
  }

  /**
   * Works out beforehand what every state shows, all mixes too, so that no step has to wait for it.
   * @returns after each, how much is done, 0 to 1
   */
  *prepare(): Generator<number> {
    const wanted = this.graph.states.flatMap((state) => {
      const { content } = state;
      if (content.kind === 'item') return [{ state, numbers: new Map<string, number>() }];
      return content.items.flatMap(({ value }, i) => {
        const next = content.items[i + 1]?.value;
        return Array.from({ length: next === undefined ? 1 : MIXES }, (_, k) => ({
          state,
          numbers: new Map([[content.input, value + (k / MIXES) * ((next ?? value) - value)]]),
        }));
      });
    });
    const level = new Map(this.levels);
    for (const [i, { state, numbers }] of wanted.entries()) {
      this.contentOf(state, numbers);
      yield (i + 1) / wanted.length;
    }
    for (const [id, at] of level) this.levels.set(id, at);
  }

  /** Goes on by one frame; the first call shows the first frame. */
  step(inputs: PlayInputs): Playing {
    if (this.begun) {
      this.at++;
      this.since++;
      this.sinceMix++;
    } else this.begun = true;
    for (const id of inputs.pressed) this.waiting.set(id, Math.round(WAITS_S * this.graph.fps));
    const way = this.graph.ways.find((w) => this.open(w, inputs));
    if (way) {
      for (const c of way.when) if (c.kind === 'pressed') this.waiting.delete(c.input);
      this.take(way, inputs.numbers);
    } else if (!this.mixAnew(inputs.numbers)) this.layMore();
    for (const [id, left] of this.waiting) {
      if (left <= 1) this.waiting.delete(id);
      else this.waiting.set(id, left - 1);
    }
    const last = this.lane.motion.frameCount - 1;
    if (this.at > last) this.at = last;
    if (this.joining && this.at >= this.joining.end) this.joining = undefined;
    const j = this.joining;
    return {
      state: this.state.id,
      motion: this.lane.motion,
      frame: this.at,
      way: j?.way ?? null,
      share: j ? (this.at - j.start) / Math.max(1, j.end - j.start) : 0,
    };
  }

  private open(way: Way, inputs: PlayInputs): boolean {
    if (way.from === null ? way.to === this.state.id : way.from !== this.state.id) return false;
    if (!this.graph.states.some((s) => s.id === way.to)) return false;
    return way.when.length > 0 && way.when.every((c) => this.holds(c, way, inputs));
  }

  private holds(c: Condition, way: Way, { held, numbers }: PlayInputs): boolean {
    switch (c.kind) {
      case 'held':
        return held.has(c.input) === c.held;
      case 'pressed':
        return this.waiting.has(c.input);
      case 'above':
        return (numbers.get(c.input) ?? 0) > c.value;
      case 'below':
        return (numbers.get(c.input) ?? 0) < c.value;
      case 'after':
        return this.since >= c.seconds * this.graph.fps;
      case 'ended': {
        // a crossfade needs some of the end to mix with
        const early = way.join.kind === 'crossfade' ? way.join.frames : 0;
        const { lap } = this.content;
        const gone = this.at - this.origin;
        if (!this.state.repeats) return gone >= lap - early;
        return this.since > 0 && (((gone + early) % lap) + lap) % lap === 0;
      }
    }
  }

  private take(way: Way, numbers: ReadonlyMap<string, number>): void {
    const next = this.graph.states.find((s) => s.id === way.to)!;
    const content = this.contentOf(next, numbers);
    const from = this.entry(way, content);
    const { kind, meet } = way.join;
    const left = this.lane.motion.frameCount - this.at;
    const frames = Math.max(0, Math.min(way.join.frames, kind === 'crossfade' ? left : way.join.frames));
    this.lay(content, from, { ...JOIN_DEFAULTS, kind: frames === 0 ? 'cut' : kind, frames, meet }, way.id);
    this.state = next;
    this.content = content;
    this.since = 0;
    this.sinceMix = 0;
  }

  private entry(way: Way, next: Content): number {
    const most = Math.max(0, next.lap - 1);
    if (way.entry === 'start') return 0;
    const { lap } = this.content;
    const gone = this.at - this.origin;
    if (way.entry === 'phase')
      return Math.min(most, Math.round((((((gone % lap) + lap) % lap) / lap) * next.lap) % next.lap));
    const match = findMatches(this.party, this.lane.motion, next.motion, {
      from: [this.at, this.at],
      to: [0, most],
      count: 1,
    })[0];
    return match?.b ?? 0;
  }

  /** Lays content behind the frame that is shown. */
  private lay(content: Content, from: number, join: JoinWish, way: string | null): void {
    const { motion, held } = this.lane;
    const first = Math.max(0, this.at - Math.round(PAST_S * this.graph.fps));
    const last = Math.min(motion.frameCount - 1, this.at + Math.round(join.frames));
    const before: Laid = {
      motion: frameRange(this.party, motion, first, last),
      at: 0,
      join,
      stands: { held: rangeOf(held, first, last), floor: this.floor },
    };
    const end = content.motion.frameCount - 1;
    const here = this.at - first;
    const after: Laid = {
      motion: frameRange(this.party, content.motion, from, end),
      at: here,
      join,
      stands: { held: rangeOf(content.stands.held, from, end), floor: content.stands.floor },
    };
    const lane = layLane(this.party, [before, after], here + end - from + 1);
    this.lane = lane;
    this.floor = content.stands.floor;
    this.at = here;
    this.origin = here - from;
    this.joining = way === null ? undefined : { way, start: here, end: lane.joins[0]!.end };
  }

  /** A state that repeats is laid again before its lane comes to an end. */
  private layMore(): void {
    if (!this.state.repeats) return;
    const left = this.lane.motion.frameCount - 1 - this.at;
    const { lap } = this.content;
    const gone = this.at - this.origin;
    // at the seam of a lap, so that it is the next lap's first frame that follows
    if (left > LEFT_S * this.graph.fps || (left > 0 && gone % lap !== 0)) return;
    const under = this.joining;
    this.lay(this.content, (((gone % lap) + lap) % lap) % lap, SEAM, null);
    if (under) this.joining = undefined;
  }

  /** A mix whose number went elsewhere passes into the one for that place, in step. */
  private mixAnew(numbers: ReadonlyMap<string, number>): boolean {
    const { content } = this.state;
    if (content.kind !== 'mix' || this.sinceMix < MIX_EVERY_S * this.graph.fps) return false;
    const level = levelOf(content, numbers);
    if (level === this.levels.get(this.state.id)) return false;
    const next = this.contentOf(this.state, numbers);
    const gone = this.at - this.origin;
    const phase = (((gone % this.content.lap) + this.content.lap) % this.content.lap) / this.content.lap;
    const from = Math.min(next.lap - 1, Math.round(phase * next.lap));
    this.lay(next, from, { ...SEAM, frames: Math.round(MIX_S * this.graph.fps) }, null);
    this.content = next;
    this.sinceMix = 0;
    return true;
  }

  private contentOf(state: PlayState, numbers: ReadonlyMap<string, number>): Content {
    const { content } = state;
    const level = content.kind === 'mix' ? levelOf(content, numbers) : 0;
    this.levels.set(state.id, level);
    const key = `${state.id} ${level}`;
    const known = this.contents.get(key);
    if (known) return known;
    const { fps } = this.graph;
    const placed = (itemId: string, repeats: number): Motion =>
      placeStretch(this.party, this.motionOf(itemId), { ...STRETCH_DEFAULTS, speed: state.speed, repeats }, fps);
    let lap: Motion;
    if (content.kind === 'item') lap = placed(content.itemId, 1);
    else {
      const i = Math.min(content.items.length - 2, Math.floor(level / MIXES));
      const [a, b] = [content.items[i]!, content.items[i + 1] ?? content.items[i]!];
      lap = mixCycles(this.party, placed(a.itemId, 1), placed(b.itemId, 1), (level - i * MIXES) / MIXES);
    }
    const length = Math.max(1, lap.frameCount - 1);
    const times = state.repeats ? Math.max(2, Math.ceil((AHEAD_S * fps) / length)) : 1;
    const motion = times > 1 ? placeStretch(this.party, lap, { ...STRETCH_DEFAULTS, repeats: times }, fps) : lap;
    const made = { motion, stands: standsOf(ownPlan(this.party), motion), lap: length };
    this.contents.set(key, made);
    return made;
  }
}

/** Which of the mixes that are worked out a number asks for: 0 to MIXES between each two cycles. */
function levelOf(
  content: Extract<PlayState['content'], { kind: 'mix' }>,
  numbers: ReadonlyMap<string, number>,
): number {
  const { items } = content;
  const x = numbers.get(content.input) ?? items[0]?.value ?? 0;
  const i = items.findLastIndex((c) => c.value <= x);
  if (i < 0) return 0;
  if (i >= items.length - 1) return MIXES * Math.max(0, items.length - 1);
  const [a, b] = [items[i]!.value, items[i + 1]!.value];
  return MIXES * i + Math.round((MIXES * (x - a)) / Math.max(1e-9, b - a));
}

const frameRange = (party: Party, motion: Motion, first: number, last: number): Motion =>
  pickFrames(
    party.rig,
    motion,
    Float64Array.from({ length: last - first + 1 }, (_, i) => first + i),
  );

const rangeOf = ({ L, R }: Stands['held'], first: number, last: number): Stands['held'] => ({
  L: L.subarray(first, last + 1),
  R: R.subarray(first, last + 1),
});
