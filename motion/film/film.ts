import { MotionError } from '../errors';
import { type Motion, PoseReader } from '../motion/motion';
import { type Figure, figureExtent } from '../rig/figure';
import { poseFigure } from '../rig/pose-figure';
import { restPose, type SkeletonRig } from '../rig/rig';
import { type ClayView, clayPicture } from './clay';
import { lumpsOf } from './lumps';

/** Who is filmed: with the figure where there is one, in plain bones otherwise. */
export interface Filmed {
  readonly rig: SkeletonRig;
  readonly motion: Motion;
  readonly figure?: Figure | undefined;
}

export interface FilmOptions {
  readonly view: ClayView;
  /** Points. */
  readonly height: number;
  readonly fps: number;
}

export interface FilmFrame {
  readonly width: number;
  readonly height: number;
  readonly rgba: Uint8ClampedArray<ArrayBuffer>;
}

/** Air around what is filmed, in heights. */
const AIR = 0.08;
const MOST_POINTS = 8192;

/**
 * A review film in clay: each performer in a picture of its own, side by side, all at the same moment and the same scale, the
 * camera still. Whoever is done stands in the last frame.
 * @throws MotionError 'bad-argument' for nobody, or pictures too large
 */
export function* filmOf(cast: readonly Filmed[], { view, height, fps }: FilmOptions): Generator<FilmFrame> {
  if (cast.length === 0) throw new MotionError('bad-argument', 'A film needs somebody in it.');
  const shots = cast.map(shotOf);
  const across = view === 'front' ? 0 : 2;
  const bounds = shots.map((s) => s.bounds());
  // one scale for all, so that who is taller looks taller
  const tall = Math.max(...bounds.map((b) => b.high - Math.min(0, b.low))) + 2 * AIR;
  const scale = height / tall;
  const widths = bounds.map((b) => Math.max(0.6, b.most[across]! - b.least[across]!) + 2 * AIR);
  const pixels = widths.map((w) => Math.max(16, Math.round(w * scale)));
  const width = pixels.reduce((a, b) => a + b, 0);
  if (width > MOST_POINTS || height > MOST_POINTS)
    throw new MotionError('bad-argument', `The picture would be ${width} × ${height} points; choose a smaller height.`);
  const seconds = Math.max(...cast.map((c) => (c.motion.frameCount - 1) / c.motion.fps));
  const count = Math.floor(seconds * fps + 1e-6) + 1;
  for (let f = 0; f < count; f++) {
    const rgba = new Uint8ClampedArray(4 * width * height);
    let left = 0;
    shots.forEach((shot, i) => {
      const b = bounds[i]!;
      const middle = (b.least[across]! + b.most[across]!) / 2;
      const low = Math.min(0, b.low) - AIR;
      const surfaces = shot.at(f / fps).map(({ positions, indices }) => ({
        indices,
        positions: positions.map((x, k) => (k % 3 === 1 ? x - low : k % 3 === across ? x - middle : x)),
      }));
      const picture = clayPicture(view, { width: pixels[i]!, height, scale, below: 0 }, surfaces);
      for (let y = 0; y < height; y++)
        rgba.set(picture.subarray(4 * y * pixels[i]!, 4 * (y + 1) * pixels[i]!), 4 * (y * width + left));
      left += pixels[i]!;
    });
    yield { width, height, rgba };
  }
}

interface Bounds {
  readonly low: number;
  readonly high: number;
  readonly least: readonly number[];
  readonly most: readonly number[];
}

function shotOf({ rig, motion, figure }: Filmed): {
  at: (seconds: number) => { positions: Float32Array; indices: Uint32Array }[];
  bounds: () => Bounds;
} {
  const rest = restPose(rig).p;
  let tall = 0;
  for (let i = 1; i < rest.length; i += 3) tall = Math.max(tall, rest[i]!);
  const extent = figureExtent(figure);
  const meshes =
    figure && figure.meshes.length > 0 ? figure.meshes : [lumpsOf(rig, extent ? extent.high - extent.low : tall)];
  const reader = new PoseReader(rig, motion);
  const frame = (f: number): { positions: Float32Array; indices: Uint32Array }[] => {
    const pose = reader.at(f);
    return meshes.map((m) => ({ positions: poseFigure(rig, m, pose), indices: m.indices }));
  };
  return {
    at: (seconds) => frame(Math.min(motion.frameCount - 1, Math.round(seconds * motion.fps))),
    bounds: () => {
      const [least, most] = [
        [Infinity, Infinity, Infinity],
        [-Infinity, -Infinity, -Infinity],
      ];
      const step = Math.max(1, Math.floor(motion.frameCount / 60));
      for (let f = 0; f < motion.frameCount; f += step)
        for (const { positions } of frame(f))
          for (let i = 0; i < positions.length; i++) {
            if (positions[i]! < least[i % 3]!) least[i % 3] = positions[i]!;
            if (positions[i]! > most[i % 3]!) most[i % 3] = positions[i]!;
          }
      return { low: least[1]!, high: most[1]!, least, most };
    },
  };
}
