import type { PlaceTrack } from '../motion/tracks';
import { endOf } from '../rig/flat';
import type { FlatBody } from './flat';

const GRAVITY = 9.81;
/** Swings die away to a third in this many of their own periods. */
const DAMPING = 0.22;
const STEPS = 4;

/**
 * Lets hanging parts swing after what they hang on: a damped pendulum at each joint with a swing, driven by the way of its
 * pivot, drawn back to the angle at which it was drawn and held within bounds. Changes the angles of those joints.
 * @param local angles against the parent, joint-major
 */
export function swingAfter(flat: FlatBody, local: Float64Array[], places: readonly PlaceTrack[], fps: number): void {
  const { rig } = flat;
  for (const [name, { swing = 0, level = false }] of Object.entries(rig.hinges ?? {})) {
    const joint = rig.names.indexOf(name);
    if (joint < 0 || (swing <= 0 && !level)) continue;
    const n = local[joint]!.length;
    const { x, y, angle } = pivotCourse(flat, local, places, joint, n);
    if (level && swing <= 0) {
      for (let f = 0; f < n; f++) local[joint]![f] = -angle[f]!;
      continue;
    }
    const end = endOf(rig, joint) ?? [0, -0.2];
    const length = Math.max(0.05, Math.hypot(end[0], end[1]));
    // hung as drawn, it hangs at rest: what is drawn aside is stiff
    const omega = Math.sqrt(GRAVITY / length);
    const most = 0.9 * swing + 0.15;
    let theta = 0;
    let speed = 0;
    const dt = 1 / (fps * STEPS);
    const swings = new Float64Array(n);
    for (let f = 0; f < n; f++) {
      const [a, b, c] = [Math.max(0, f - 1), f, Math.min(n - 1, f + 1)];
      const ax = (x[c]! - 2 * x[b]! + x[a]!) * fps * fps;
      const ay = (y[c]! - 2 * y[b]! + y[a]!) * fps * fps;
      for (let i = 0; i < STEPS; i++) {
        const pull =
          -omega * omega * Math.sin(theta) * Math.max(0.2, 1 + ay / GRAVITY) - (ax / length) * Math.cos(theta);
        speed += (pull - 2 * DAMPING * omega * speed) * dt;
        theta += speed * dt;
        if (Math.abs(theta) > most) {
          theta = Math.sign(theta) * most;
          speed *= -0.2;
        }
      }
      swings[f] = theta;
    }
    // free parts hang by gravity, stiff ones go with their parent
    for (let f = 0; f < n; f++) local[joint]![f] = swing * (swings[f]! - angle[f]!) + local[joint]![f]! * (1 - swing);
  }
}

/** The way of a joint's pivot in the world, metres, and the angle of what it hangs on. */
function pivotCourse(
  flat: FlatBody,
  local: readonly Float64Array[],
  places: readonly PlaceTrack[],
  joint: number,
  n: number,
): { x: Float64Array; y: Float64Array; angle: Float64Array } {
  const { rig } = flat;
  const chain: number[] = [];
  for (let j = joint; j >= 0; j = rig.parents[j]!) chain.unshift(j);
  const x = new Float64Array(n);
  const y = new Float64Array(n);
  const angle = new Float64Array(n);
  for (let f = 0; f < n; f++) {
    let [px, py, turn] = [0, 0, 0];
    for (const j of chain) {
      const track = places.find((t) => t.joint === j)?.values;
      const [u, v] = track ? [track[3 * f]!, track[3 * f + 1]!] : [rig.restT[3 * j]!, rig.restT[3 * j + 1]!];
      px += Math.cos(turn) * u - Math.sin(turn) * v;
      py += Math.sin(turn) * u + Math.cos(turn) * v;
      if (j !== joint) turn += local[j]![f]!;
    }
    x[f] = px;
    y[f] = py;
    angle[f] = turn;
  }
  return { x, y, angle };
}
