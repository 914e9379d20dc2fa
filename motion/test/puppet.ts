import type { Motion } from '../motion/motion';
import { NO_TRACKS } from '../motion/tracks';
import { type CutoutRig, NORMAL_SPACE } from '../rig/rig';

/** A paper figure of four joints and five parts: a trunk with a coat over it, an arm of two pieces, and a head that blinks. */
export function puppet(): CutoutRig {
  const half = Math.SQRT1_2;
  return {
    kind: 'cutout',
    names: ['trunk', 'upper arm', 'forearm', 'head'],
    parents: Int16Array.of(-1, 0, 1, 0),
    restT: Float32Array.of(0, 0.8, 0, 0.2, 0.4, 0, 0.3, 0, 0, 0, 0.5, 0),
    // the arm hangs down
    restR: Float32Array.of(0, 0, 0, 1, 0, 0, -half, half, 0, 0, 0, 1, 0, 0, 0, 1),
    parts: [
      part('trunk', 0, [{ name: 'shoulder', at: [0.2, 0.4] }]),
      part('upper arm', 1, [{ name: 'elbow', at: [0.3, 0] }]),
      part('forearm', 2, [{ name: 'grip', at: [0.25, 0.02] }]),
      part('coat', 0, []),
      part('head', 3, [], ['open', 'shut', 'wide']),
    ],
    found: NORMAL_SPACE,
  };
}

const part = (
  name: string,
  joint: number,
  attachments: CutoutRig['parts'][number]['attachments'],
  drawings: readonly string[] = ['plain'],
): CutoutRig['parts'][number] => ({ name, joint, pivot: [0.1, 0.05], attachments, drawings });

/** The puppet swings its arm, stretches it and blinks, for so many frames at 24 a second. */
export function swing(rig: CutoutRig, frameCount = 60): Motion {
  const n = rig.names.length;
  const turns = new Float32Array(4 * n * frameCount);
  for (let f = 0; f < frameCount; f++)
    for (let j = 0; j < n; j++) {
      const rest = 2 * Math.atan2(rig.restR[4 * j + 2]!, rig.restR[4 * j + 3]!);
      const angle = rest + 0.7 * Math.sin(f / 9 + j);
      turns[4 * (n * f + j) + 2] = Math.sin(angle / 2);
      turns[4 * (n * f + j) + 3] = Math.cos(angle / 2);
    }
  const frames = Array.from({ length: frameCount }, (_, f) => f);
  return {
    fps: 24,
    frameCount,
    turns,
    ...NO_TRACKS,
    places: [{ joint: 0, values: Float32Array.from(frames.flatMap((f) => [f / 100, 0.8, 0])) }],
    scales: [{ joint: 1, values: Float32Array.from(frames.flatMap((f) => [1 + f / frameCount, 1, 1])) }],
    steps: [
      {
        name: 'head',
        labels: rig.parts.find((p) => p.name === 'head')!.drawings,
        values: Uint16Array.from(frames, (f) => Math.floor(f / 4) % 3),
      },
    ],
  };
}
