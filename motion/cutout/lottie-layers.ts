import { IDENTITY, type Matrix, multiply } from '../art/matrix';
import { MotionError } from '../errors';
import { LottieTransform, LottieValue } from './lottie-values';

/** Layers of all compositions together that are read at most, and how deep compositions may lie in one another. */
const MAX_LAYERS = 400;
const MAX_DEPTH = 8;
const MAX_FRAMES = 36_000;
/** Transforms that lead to the layers, over all frames: what a file may ask to be worked out. */
const MAX_STATES = 4_000_000;

/** A file of the format as it was read: its rate, its frames, and the layers that draw, the hindmost first. */
export interface LottieMovie {
  readonly name: string;
  readonly fps: number;
  readonly frameCount: number;
  /** Time of the first frame, frames of the composition. */
  readonly start: number;
  readonly width: number;
  readonly height: number;
  readonly layers: readonly LottieLayer[];
  readonly assets: ReadonlyMap<string, LottieAsset>;
  /** What could not be taken, each with the layers that have it. */
  readonly leftOut: LeftOut;
}

export interface LottieAsset {
  readonly id?: unknown;
  readonly p?: unknown;
  readonly u?: unknown;
  readonly e?: unknown;
  readonly w?: unknown;
  readonly h?: unknown;
  readonly layers?: unknown;
}

/** Gathers what a file holds and a figure cannot keep. */
export class LeftOut {
  private readonly found = new Map<string, Set<string>>();

  add(what: string, layer: string): void {
    const list = this.found.get(what) ?? new Set();
    this.found.set(what, list.add(layer));
  }

  /** A sentence for each thing that was left out. */
  sentences(): string[] {
    return [...this.found].map(([what, layers]) => {
      const named = [...layers].slice(0, 3).map((l) => `“${l.slice(0, 40)}”`);
      const more = layers.size > 3 ? ` and ${layers.size - 3} more` : '';
      return `Left out: ${what} (${named.join(', ')}${more}).`;
    });
  }
}

/** Kinds of layers by their number in the file. */
const KINDS = { 1: 'solid', 2: 'picture', 3: 'empty', 4: 'shape' } as const;
const NOT_TAKEN: Readonly<Record<number, string>> = {
  5: 'letters',
  6: 'sound',
  7: 'a placeholder for film',
  9: 'film',
  13: 'a camera',
  15: 'data',
};

/** When and where the composition of a layer lies in the file's own. */
interface Stage {
  /** Time in this composition at a time of the file's. */
  readonly inside: (time: number) => number;
  /** The same where it is a straight line: inside = rate × time + offset. */
  readonly line: { readonly rate: number; readonly offset: number } | undefined;
  readonly matrix: (time: number) => Matrix;
  readonly opacity: (time: number) => number;
  /** Transforms that `matrix` goes through. */
  readonly links: number;
}

interface RawLayer {
  readonly ty?: unknown;
  readonly nm?: unknown;
  readonly ind?: unknown;
  readonly parent?: unknown;
  readonly ks?: unknown;
  readonly ip?: unknown;
  readonly op?: unknown;
  readonly st?: unknown;
  readonly sr?: unknown;
  readonly hd?: unknown;
  readonly td?: unknown;
  readonly tt?: unknown;
  readonly tm?: unknown;
  readonly ddd?: unknown;
  readonly ao?: unknown;
  readonly ef?: unknown;
  readonly bm?: unknown;
  readonly refId?: unknown;
  readonly layers?: unknown;
  readonly [other: string]: unknown;
}

/** What layers do on which another hangs. */
interface Chain {
  readonly at: (inside: number) => Matrix;
  readonly links: number;
}

/** A layer that draws. */
export class LottieLayer {
  constructor(
    readonly name: string,
    readonly kind: 'solid' | 'picture' | 'shape',
    readonly raw: RawLayer,
    readonly transform: LottieTransform,
    /** The layer that it hangs on by the file, where that one draws, too. */
    readonly parent: LottieLayer | undefined,
    private readonly above: Chain,
    private readonly stage: Stage,
  ) {}

  /** How many transforms lead to it. */
  get links(): number {
    return 1 + this.above.links + this.stage.links;
  }

  /** From the layer's own coordinates to the picture. @param time of the file's composition */
  matrixAt(time: number): Matrix {
    const inside = this.stage.inside(time);
    return multiply(this.stage.matrix(time), multiply(this.above.at(inside), this.transform.at(inside)));
  }

  /** Whether it is drawn at a time. What fades is there while it is more than half there. */
  shownAt(time: number): boolean {
    const inside = this.stage.inside(time);
    const { ip, op } = this.raw;
    // a frame shows what is there in its middle: writers put ends a hair before or after it
    const now = inside + 1e-4;
    if (now < number(ip, Number.NEGATIVE_INFINITY) || now >= number(op, Number.POSITIVE_INFINITY)) return false;
    const own = (this.transform.opacity.at(inside)[0] ?? 100) / 100;
    const whole = own * this.stage.opacity(time);
    return this.transform.opacity.moves ? whole >= 0.5 : whole > 0.004;
  }

  /** How see-through it is where that does not change, 0 to 1. */
  get opacity(): number {
    const { opacity } = this.transform;
    return opacity.moves ? 1 : Math.min(1, Math.max(0, (opacity.at(0)[0] ?? 100) / 100));
  }

  /** Times of the file's composition from times of its own, where one follows from the other. */
  get line(): { readonly rate: number; readonly offset: number } | undefined {
    return this.stage.line;
  }

  insideAt(time: number): number {
    return this.stage.inside(time);
  }
}

const number = (v: unknown, otherwise: number): number => (typeof v === 'number' && Number.isFinite(v) ? v : otherwise);

/** Whether a JSON is an animation of this format. */
export const isLottie = (json: unknown): boolean => {
  const { layers, fr, op, format } = (json ?? {}) as Record<string, unknown>;
  return format === undefined && Array.isArray(layers) && typeof fr === 'number' && typeof op === 'number';
};

/**
 * Reads an animation: its compositions laid into one another, its layers with what moves them.
 * @throws MotionError 'not-this-format', 'bad-number', 'bad-structure' or 'too-large'
 */
export function readLottie(json: unknown): LottieMovie {
  if (!isLottie(json))
    throw new MotionError('not-this-format', 'The JSON is no Lottie animation: it needs layers, fr and op.');
  const { nm, fr, ip, op, w, h, assets, layers } = json as Record<string, unknown>;
  const [fps, start] = [number(fr, 0), number(ip, 0)];
  const frameCount = Math.round(number(op, 0) - start);
  if (!(fps > 0) || fps > 1000)
    throw new MotionError('bad-number', 'The animation’s rate (fr) is not between 0 and 1,000.');
  if (frameCount < 1 || frameCount > MAX_FRAMES)
    throw new MotionError('too-large', `The animation has ${frameCount} frames; 1 to ${MAX_FRAMES} can be read.`);
  const known = new Map<string, LottieAsset>();
  for (const asset of Array.isArray(assets) ? (assets as LottieAsset[]) : [])
    if (typeof asset?.id === 'string') known.set(asset.id, asset);
  const leftOut = new LeftOut();
  const walk = new LayerWalk(known, leftOut, fps);
  const top: Stage = {
    inside: (t) => t,
    line: { rate: 1, offset: 0 },
    matrix: () => IDENTITY,
    opacity: () => 1,
    links: 0,
  };
  const found = walk.read(layers as unknown[], top, 0);
  const links = found.reduce((sum, l) => sum + l.links, 0);
  if (links * frameCount > MAX_STATES)
    throw new MotionError(
      'too-large',
      `${found.length} layers that hang on one another over ${frameCount} frames are more than can be read: cut the animation.`,
    );
  return {
    name: typeof nm === 'string' && nm.trim() ? nm.trim().slice(0, 200) : 'animation',
    fps,
    frameCount,
    start,
    width: Math.max(1, number(w, 1)),
    height: Math.max(1, number(h, 1)),
    // the file lists what lies on top first
    layers: found.reverse(),
    assets: known,
    leftOut,
  };
}

class LayerWalk {
  private count = 0;

  constructor(
    private readonly assets: ReadonlyMap<string, LottieAsset>,
    private readonly leftOut: LeftOut,
    /** Frames a second, for times that the file tells in seconds. */
    private readonly fps: number,
  ) {}

  /** Layers of a composition that draw, the uppermost first. */
  read(list: readonly unknown[], stage: Stage, depth: number): LottieLayer[] {
    if (depth > MAX_DEPTH)
      throw new MotionError('too-large', `Compositions lie more than ${MAX_DEPTH} deep in one another.`);
    const raws = list.filter((l): l is RawLayer => typeof l === 'object' && l !== null);
    this.count += raws.length;
    if (this.count > MAX_LAYERS)
      throw new MotionError('too-large', `The animation has more than ${MAX_LAYERS} layers.`);
    const byIndex = new Map(raws.map((raw) => [raw.ind, raw]));
    const transforms = new Map(raws.map((raw) => [raw, new LottieTransform(raw.ks)]));
    const parentOf = (raw: RawLayer): RawLayer | undefined =>
      raw.parent === undefined || raw.parent === null ? undefined : byIndex.get(raw.parent);
    for (const raw of raws) {
      const seen = new Set<RawLayer>();
      for (let at: RawLayer | undefined = raw; at; at = parentOf(at)) {
        if (seen.has(at)) throw new MotionError('bad-structure', `The layer “${nameOf(at)}” hangs on itself.`);
        seen.add(at);
      }
    }
    const above = (raw: RawLayer): Chain => {
      const chain: LottieTransform[] = [];
      for (let at = parentOf(raw); at; at = parentOf(at)) chain.push(transforms.get(at)!);
      const at = (inside: number): Matrix => chain.reduce((m, t) => multiply(t.at(inside), m), IDENTITY);
      return { at, links: chain.length };
    };
    const made = new Map<RawLayer, LottieLayer>();
    const drawnParent = (raw: RawLayer): LottieLayer | undefined => {
      for (let at = parentOf(raw); at; at = parentOf(at)) {
        const kind = KINDS[at.ty as keyof typeof KINDS];
        if (kind && kind !== 'empty' && drawn(at)) return layerOf(at, kind);
      }
      return undefined;
    };
    const layerOf = (raw: RawLayer, kind: 'solid' | 'picture' | 'shape'): LottieLayer => {
      const before = made.get(raw);
      if (before) return before;
      const layer = new LottieLayer(nameOf(raw), kind, raw, transforms.get(raw)!, drawnParent(raw), above(raw), stage);
      made.set(raw, layer);
      return layer;
    };
    const out: LottieLayer[] = [];
    for (const raw of raws) {
      this.note(raw, transforms.get(raw)!);
      if (!drawn(raw)) continue;
      if (raw.ty === 0) out.push(...this.inner(raw, transforms.get(raw)!, above(raw), stage, depth));
      const kind = KINDS[raw.ty as keyof typeof KINDS];
      if (kind && kind !== 'empty') out.push(layerOf(raw, kind));
    }
    return out;
  }

  /** The layers of a composition that lies in another as a layer. */
  private inner(raw: RawLayer, transform: LottieTransform, above: Chain, stage: Stage, depth: number): LottieLayer[] {
    const list = this.assets.get(String(raw.refId))?.layers;
    if (!Array.isArray(list)) return [];
    const [st, sr] = [number(raw.st, 0), number(raw.sr, 1) || 1];
    const remap = raw.tm === undefined ? undefined : LottieValue.read(raw.tm, [0]);
    const line = stage.line;
    const rate = 1 / sr;
    const inside = (t: number): number =>
      remap ? (remap.at(stage.inside(t))[0] ?? 0) * this.fps : (stage.inside(t) - st) * rate;
    const [ip, op] = [number(raw.ip, Number.NEGATIVE_INFINITY), number(raw.op, Number.POSITIVE_INFINITY)];
    return this.read(
      list,
      {
        inside,
        line: remap || !line ? undefined : { rate: line.rate * rate, offset: (line.offset - st) * rate },
        matrix: (t) => {
          const own = stage.inside(t);
          return multiply(stage.matrix(t), multiply(above.at(own), transform.at(own)));
        },
        opacity: (t) => {
          const own = stage.inside(t) + 1e-4;
          if (own < ip || own >= op) return 0;
          return (stage.opacity(t) * (transform.opacity.at(own)[0] ?? 100)) / 100;
        },
        links: stage.links + above.links + 1,
      },
      depth + 1,
    );
  }

  private note(raw: RawLayer, transform: LottieTransform): void {
    const name = nameOf(raw);
    const kind = raw.ty as number;
    const add = (what: string): void => this.leftOut.add(what, name);
    if (NOT_TAKEN[kind]) add(NOT_TAKEN[kind]);
    else if (kind !== 0 && !(kind in KINDS)) add('layers of an unknown kind');
    if (raw.hd === true || kind === 3) return;
    if (raw.tt !== undefined && raw.tt !== 0) add('being cut out by the layer above');
    if (Array.isArray(raw.ef) && raw.ef.some((e: { en?: unknown } | null) => e?.en !== 0)) add('effects');
    if (raw.bm !== undefined && raw.bm !== 0) add('blending with what lies below');
    if (kind === 0 && Array.isArray(raw.masksProperties) && raw.masksProperties.length > 0)
      add('masks of whole compositions');
    if (raw.ddd === 1) add('depth');
    if (raw.ao === 1) add('turning along its way');
    if (transform.opacity.moves) {
      const part = transform.opacity.keys.some(({ value }) => value[0]! > 1 && value[0]! < 99);
      const ramp = transform.opacity.keys.some(({ eases }) => eases[0] !== 'step');
      if (part || ramp) add('fading: it is there while it is more than half there');
    }
    if (transform.values.some((v) => v.computed)) add('programs: values stand as they were written down');
  }
}

/** Whether a layer is drawn at all: not hidden, and not there to cut out another. */
const drawn = (raw: RawLayer): boolean => raw.hd !== true && raw.td !== 1;

const nameOf = (raw: RawLayer): string =>
  typeof raw.nm === 'string' && raw.nm.trim() ? raw.nm.trim().slice(0, 80) : `layer ${String(raw.ind ?? '')}`.trim();
