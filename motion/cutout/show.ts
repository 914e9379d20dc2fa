import type { Matrix } from '../art/matrix';
import type { Motion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import {
  type BetweenFrames,
  betweenFrames,
  lengthTrack,
  ORDER_TRACK,
  type StepTrack,
  sampleValues,
  viewTrack,
} from '../motion/tracks';
import { endOf } from '../rig/flat';
import type { CutoutRig } from '../rig/rig';
import { orderOf } from './drive-order';
import { type CutoutArt, type CutoutDrawing, partMatrix } from './figure';

/** A drawing where it lies at a time. */
export interface ShownDrawing {
  /** Place of the part in the rig. */
  readonly part: number;
  readonly drawing: CutoutDrawing;
  /** From where it was drawn to where it lies, in the picture's units. */
  readonly matrix: Matrix;
}

/** What a cut-out's motion shows: which drawings, where, and in which order. One motion, any time, nothing kept between. */
export class CutoutShow {
  private readonly reader: PlaneReader;
  private readonly byPart: CutoutDrawing[][];
  private readonly exposure: (StepTrack | undefined)[];
  private readonly hidden: boolean[];
  private readonly views: (StepTrack | undefined)[];
  private readonly order: StepTrack | undefined;
  private readonly lengths: { joint: number; x: number; y: number; values: Float32Array; now: Float64Array }[] = [];
  private readonly stretch = new Map<number, { by: number; x: number; y: number }>();
  private readonly between: BetweenFrames = { a: 0, b: 0, t: 0 };

  constructor(
    readonly rig: CutoutRig,
    readonly art: CutoutArt,
    readonly motion: Motion,
  ) {
    this.reader = new PlaneReader(rig, motion);
    const steps = new Map(motion.steps.map((s) => [s.name, s]));
    this.byPart = rig.parts.map((p) => art.drawings.filter((d) => d.part === p.name));
    this.exposure = rig.parts.map((p) => steps.get(p.name));
    this.hidden = rig.parts.map((p) => art.hidden.includes(p.name));
    this.views = rig.names.map((name) => steps.get(viewTrack(name)));
    this.order = steps.get(ORDER_TRACK);
    rig.names.forEach((name, joint) => {
      const track = motion.numbers.find((t) => t.name === lengthTrack(name));
      const end = track && endOf(rig, joint);
      if (!end) return;
      const size = Math.hypot(end[0], end[1]) || 1;
      this.lengths.push({ joint, x: end[0] / size, y: end[1] / size, values: track.values, now: new Float64Array(1) });
    });
  }

  /** The drawings that show at a time, the hindmost first. @param seconds clamped to the motion */
  at(seconds: number): ShownDrawing[] {
    const { rig, motion } = this;
    this.reader.read(seconds);
    betweenFrames(seconds * motion.fps, motion.frameCount, this.between);
    for (const { joint, x, y, values, now } of this.lengths) {
      sampleValues(now, 0, values, 1, 'line', this.between);
      this.stretch.set(joint, { by: now[0]!, x, y });
    }
    const frame = this.between.a;
    const order = this.order ? orderOf(this.order.labels[this.order.values[frame]!]!) : undefined;
    const out: ShownDrawing[] = [];
    const count = rig.parts.length;
    for (let i = 0; i < count; i++) {
      const part = order?.[i] ?? i;
      const { joint, view } = rig.parts[part] ?? { joint: -1, view: undefined };
      if (joint < 0 || !this.shows(part, joint, view, frame)) continue;
      const drawing = this.drawingOf(part, frame);
      if (drawing) out.push({ part, drawing, matrix: this.matrixOf(part) });
    }
    return out;
  }

  /** Frames of all joints after `at`; see PlaneReader. */
  get frames(): Float64Array {
    return this.reader.frames;
  }

  /** Where a part lies after `at`, whether it shows or not: from where it was drawn, in the picture's units. */
  matrixOf(part: number): Matrix {
    const { joint } = this.rig.parts[part]!;
    return partMatrix(this.art, this.art.pivots[part]!, joint, this.reader.frames, this.stretch.get(joint));
  }

  private shows(part: number, joint: number, view: string | undefined, frame: number): boolean {
    if (view === undefined) return !this.hidden[part] || this.exposure[part] !== undefined;
    const track = this.views[joint];
    return view === (track ? track.labels[track.values[frame]!] : restView(this.rig, this.art, joint));
  }

  private drawingOf(part: number, frame: number): CutoutDrawing | undefined {
    const list = this.byPart[part]!;
    const track = this.exposure[part];
    const label = track?.labels[track.values[frame]!];
    return label === undefined ? list[0] : (list.find((d) => d.label === label) ?? list[0]);
  }
}

/** The view in which a joint's parts show at rest: that of the first part that the file shows. */
export function restView(rig: CutoutRig, art: Pick<CutoutArt, 'restViews'>, joint: number): string | undefined {
  return art.restViews?.[rig.names[joint]!] ?? rig.parts.find((p) => p.joint === joint && p.view)?.view;
}
