import { createHash } from 'node:crypto';
import { Actor, type Score } from '../../demo/actor';
import { buildBody } from '../../demo/body-spec';
import { CAST } from '../../demo/cast';
import { SCORES } from '../../demo/world';
import { lumpsOf } from '../../motion/film/lumps';
import { filmOf, type Motion, mirror, type TuneStep, trim, tune, writeBvh } from '../../motion/index';
import type { Figure } from '../../motion/rig/figure';
import { png } from '../pictures';

/** A take as the catalogue lists it. */
export interface Listed {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly tags: readonly string[];
  readonly seconds: number;
  readonly fps: number;
  /** Credits. */
  readonly price: number;
}

/** What the supplier has for sale as a set, cheaper than its takes one by one. */
export interface Pack {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly takes: readonly string[];
  readonly price: number;
}

/** How a score is played: as it stands, or by somebody in another mood. */
interface Manner {
  readonly words: string;
  readonly tag: string | undefined;
  readonly steps: readonly TuneStep[];
  readonly mirrored?: boolean;
}

const MANNERS: readonly Manner[] = [
  {
    words: 'weary',
    tag: 'weary',
    steps: [
      { op: 'energy', amount: 0.75 },
      { op: 'speed', speed: 0.85 },
    ],
  },
  {
    words: 'lively',
    tag: 'lively',
    steps: [
      { op: 'energy', amount: 1.2 },
      { op: 'speed', speed: 1.12 },
    ],
  },
  { words: 'mirrored', tag: 'mirrored', steps: [], mirrored: true },
  { words: 'into the wind', tag: 'windy', steps: [{ op: 'lean', forward: 6 }] },
  { words: 'arms wide', tag: undefined, steps: [{ op: 'arms', degrees: 10 }] },
  { words: 'slow', tag: 'slow', steps: [{ op: 'speed', speed: 0.8 }] },
  { words: 'hasty', tag: 'hasty', steps: [{ op: 'speed', speed: 1.3 }] },
  {
    words: 'low',
    tag: undefined,
    steps: [
      { op: 'lean', forward: 12 },
      { op: 'energy', amount: 0.9 },
    ],
  },
];

const PLAYED: readonly Score[] = SCORES.filter((s) => s.noise < 5 && !s.gaps && s.seconds < 20);
/** Capture noise of a take that was delivered shaky, and is issued anew without. */
const SHAKY = 7;
const PREVIEW_S = 3;
const PREVIEW_FPS = 10;
const STRIP_POSES = 6;
const STRIP_HEIGHT = 96;
const PACK_SIZE = 4;
/** Height of who plays, metres. */
const TALL = 1.78;

/** Everything a supplier offers: so many takes, in packs of the same place. The same number gives the same catalogue. */
export class Catalogue {
  readonly takes: readonly Listed[];
  readonly packs: readonly Pack[];
  private readonly actor: Actor;
  /** What strips are drawn of: made once. */
  private readonly lumps: Figure;
  private readonly kept = new Map<string, Motion>();
  private readonly strips = new Map<string, Promise<Uint8Array>>();

  constructor(count: number) {
    const { rig, map } = buildBody(CAST[0]!.spec, CAST[0]!.seed);
    this.actor = new Actor(rig, map);
    this.lumps = { meshes: [lumpsOf(rig, TALL)], materials: [], images: [] };
    this.takes = Array.from({ length: count }, (_, i) => listed(i));
    const packs: Pack[] = [];
    for (let i = 0; i + PACK_SIZE <= count && packs.length < 8; i += PACK_SIZE) {
      const own = this.takes.slice(i, i + PACK_SIZE);
      const sum = own.reduce((a, t) => a + t.price, 0);
      packs.push({
        id: `pack-${packs.length + 1}`,
        name: `${own[0]!.name.split(',')[0]} and ${PACK_SIZE - 1} more`,
        note: 'For less than one by one.',
        takes: own.map((t) => t.id),
        price: Math.ceil(0.7 * sum),
      });
    }
    this.packs = packs;
  }

  find(id: string): Listed | undefined {
    return this.takes.find((t) => t.id === id);
  }

  /** A take as a file. The first issue of every fifth one shakes. */
  file(id: string, issue: number): Uint8Array {
    return new TextEncoder().encode(writeBvh(this.actor.rig, this.motion(id, issue)));
  }

  sha256(id: string, issue: number): string {
    return createHash('sha256').update(this.file(id, issue)).digest('hex');
  }

  /** The beginning, in few frames: enough to judge by, too little to use. */
  preview(id: string, issue: number): Uint8Array {
    const motion = this.motion(id, issue, PREVIEW_FPS);
    const part = trim(this.actor.rig, motion, 0, Math.min(motion.frameCount - 1, Math.round(PREVIEW_S * motion.fps)));
    return new TextEncoder().encode(writeBvh(this.actor.rig, part));
  }

  /** Some poses in a row, as a PNG; drawn once. */
  strip(id: string, issue: number): Promise<Uint8Array> {
    const key = `${id} ${issue}`;
    const drawn = this.strips.get(key) ?? this.draw(id, issue);
    this.strips.set(key, drawn);
    return drawn;
  }

  private draw(id: string, issue: number): Promise<Uint8Array> {
    const motion = this.motion(id, issue, PREVIEW_FPS);
    const poses = Array.from({ length: STRIP_POSES }, (_, i) => {
      const at = Math.round((i / (STRIP_POSES - 1)) * (motion.frameCount - 1));
      return { rig: this.actor.rig, figure: this.lumps, motion: trim(this.actor.rig, motion, at, at) };
    });
    const picture = filmOf(poses, { view: 'front', height: STRIP_HEIGHT, fps: 1 }).next().value;
    if (!picture) throw new Error('a strip has one picture');
    return png([{ ...picture, rgba: new Uint8Array(picture.rgba.buffer) }]);
  }

  /** A take as it is sold, or at a rate of its own to be looked at. */
  private motion(id: string, issue: number, fps?: number): Motion {
    const key = `${id} ${issue} ${fps ?? ''}`;
    const there = this.kept.get(key);
    if (there) return there;
    const number = Number(id.slice('take-'.length));
    const { score, manner } = cut(number);
    const shaky = issue === 1 && isShaky(number);
    const { rig, map } = this.actor;
    const played = { ...score, ...(shaky && { noise: SHAKY }), ...(fps !== undefined && { fps }) };
    let motion = this.actor.play(played, 7000 + number);
    if (manner.mirrored) motion = mirror(rig, map, motion);
    if (manner.steps.length > 0) motion = tune({ rig, map }, motion, manner.steps);
    // a few at a time: the whole catalogue would be large
    if (this.kept.size > 16) this.kept.delete(this.kept.keys().next().value!);
    this.kept.set(key, motion);
    return motion;
  }
}

/** Takes whose first issue shakes. */
export const isShaky = (number: number): boolean => number % 5 === 0;

const cut = (number: number): { score: Score; manner: Manner } => ({
  score: PLAYED[(number - 1) % PLAYED.length]!,
  manner: MANNERS[Math.floor((number - 1) / PLAYED.length) % MANNERS.length]!,
});

function listed(i: number): Listed {
  const number = i + 1;
  const { score, manner } = cut(number);
  const round = Math.floor(i / (PLAYED.length * MANNERS.length));
  const speed = manner.steps.find((s) => s.op === 'speed');
  const seconds = score.seconds / (speed && typeof speed.speed === 'number' ? speed.speed : 1);
  return {
    id: `take-${number}`,
    name: `${score.name}, ${manner.words}${round > 0 ? `, take ${round + 1}` : ''}`,
    note: score.note,
    tags: [...score.tags, ...(manner.tag ? [manner.tag] : [])],
    seconds: Math.round(10 * seconds) / 10,
    fps: score.fps,
    price: 3 + Math.round(seconds / 2),
  };
}
