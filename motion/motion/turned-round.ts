import type { CutoutRig } from '../rig/rig';
import type { Motion } from './motion';
import { type ScaleTrack, scalesIn } from './tracks';

/**
 * A cut-out's motion as a body in space does it. A figure that is turned over in its plane, by a size below 0, shows its other
 * side: in space it has turned about its own upright axis by half a turn, which puts every point of the plane where it was.
 * @param rig undefined for a body in space, which is what it does already
 * @returns turns of joints in space; the sizes are kept, above 0. The motion itself where nothing is turned over.
 */
export function turnedRound(rig: CutoutRig | undefined, motion: Motion): Motion {
  if (!rig || !motion.scales.some(({ values }) => values.some((x) => x < 0))) return motion;
  const n = rig.names.length;
  const turns = motion.turns.slice();
  const scales = motion.scales.map((track) => {
    const values = track.values.slice();
    for (let f = 0; f < motion.frameCount; f++) {
      const o = 4 * (f * n + track.joint);
      for (const axis of [0, 1]) {
        if (values[3 * f + axis]! >= 0) continue;
        values[3 * f + axis] = -values[3 * f + axis]!;
        // x is turned over by half a turn about y, y by one about x
        const [x, y, z, w] = [turns[o]!, turns[o + 1]!, turns[o + 2]!, turns[o + 3]!];
        turns.set(axis === 0 ? [-z, w, x, -y] : [w, z, -y, -x], o);
      }
    }
    return { ...track, values };
  });
  return { ...motion, turns, scales };
}

/** A cut-out's motion as its picture is in a mirror: the figure turned over, going the other way. */
export function turnedOver(rig: CutoutRig, motion: Motion): Motion {
  const n = rig.names.length;
  const roots = [...rig.parents.keys()].filter((j) => rig.parents[j]! < 0);
  const turns = motion.turns.slice();
  const across = (values: Float32Array): Float32Array => values.map((x, i) => (i % 3 === 0 ? -x : x));
  for (const joint of roots) for (let o = 4 * joint + 2; o < turns.length; o += 4 * n) turns[o] = -turns[o]!;
  return {
    ...motion,
    turns,
    places: motion.places.map((t) => (roots.includes(t.joint) ? { ...t, values: across(t.values) } : t)),
    scales: [
      ...motion.scales.filter((t) => !roots.includes(t.joint)),
      ...roots.map((joint): ScaleTrack => ({ joint, between: 'hold', values: across(scalesIn(motion, joint)) })),
    ],
  };
}
