import { ease, type Foot, mix, mix3, type V3 } from './actor';

/** A foot stands on a spot from `from` to `to` seconds. */
export interface Stand {
  from: number;
  to: number;
  at: V3;
  yaw?: number;
  slope?: number;
}

export interface StepStyle {
  /** Degrees of toes up when the heel touches down; below 0 lands on the ball. */
  strike: number;
  /** Degrees of heel up when the toes leave. */
  push: number;
  /** Height of the swing, metres. */
  lift: number;
  /** Share of the stand in which the heel rises. */
  roll: number;
}

export const WALK_STEP: StepStyle = { strike: 18, push: 48, lift: 0.055, roll: 0.42 };
const FLATTEN_S = 0.1;

/** Where a foot is at a time, given its stands in order: rolls over heel and ball, swings in between. */
export function footAt(stands: readonly Stand[], t: number, style: StepStyle): Foot {
  const here = stands.find((s) => t >= s.from && t <= s.to);
  if (here) return standing(here, t, style, stands[0] === here, stands.at(-1) === here);
  const next = stands.find((s) => s.from > t);
  const prev = stands.findLast((s) => s.to < t);
  if (!prev) return standing(next!, next!.from, style, true, false);
  if (!next) return standing(prev, prev.to, style, false, true);
  const a = standing(prev, prev.to, style, false, false);
  const b = standing(next, next.from, style, false, false);
  const x = (t - prev.to) / (next.from - prev.to);
  const along = x * x * x * (x * (6 * x - 15) + 10);
  const at = mix3(a.at, b.at, mix(x, along, 0.75));
  at[1] +=
    style.lift * Math.sin(Math.PI * Math.min(1, x * 1.08)) ** 2 +
    Math.max(0, next.at[1] - prev.at[1]) * 0.35 * Math.sin(Math.PI * x);
  // the toes clear: pitch falls fast, then opens for the strike
  const pitch = mix(a.pitch! * (1 + 0.25 * Math.sin(Math.PI * Math.min(1, x * 3))), b.pitch!, ease(x, 0.12, 0.85));
  return {
    at,
    yaw: mix(prev.yaw ?? 0, next.yaw ?? 0, along),
    slope: mix(prev.slope ?? 0, next.slope ?? 0, along),
    pitch,
  };
}

function standing(s: Stand, t: number, style: StepStyle, first: boolean, last: boolean): Foot {
  const length = s.to - s.from;
  const down = first ? 0 : 1 - ease(t, s.from, s.from + Math.min(FLATTEN_S, length * 0.3));
  const up = last ? 0 : ease(t, s.to - length * style.roll, s.to + length * 0.05);
  return { at: [...s.at], yaw: s.yaw ?? 0, slope: s.slope ?? 0, pitch: -style.strike * down + style.push * up ** 1.5 };
}
