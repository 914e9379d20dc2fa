import { norm } from '../math/fast';
import { type Ease, stretchAt } from '../motion/curve';

/** How a scene is looked at: eye and what it looks at in the world, metres, Y up; opening from top to bottom, degrees. */
export interface Shot {
  readonly eye: readonly [number, number, number];
  readonly target: readonly [number, number, number];
  readonly fov: number;
}

export interface CameraKey extends Shot {
  readonly frame: number;
  /** Towards the next key; smooth unless told otherwise. */
  readonly ease?: Ease | undefined;
}

/** A camera of a reel: where it stands when. */
export interface ReelCamera {
  readonly id: string;
  readonly name: string;
  /** In rising order of frame; before the first and after the last theirs holds. */
  readonly keys: readonly CameraKey[];
}

/**
 * What a camera sees at a frame. What it looks at goes straight from key to key; the eye goes round it, by the arc between both
 * directions, as its distance changes: a camera that passes from one side to the other does not go through the people.
 * @returns undefined for a camera without keys
 */
export function shotAt(keys: readonly CameraKey[], frame: number): Shot | undefined {
  const stretch = stretchAt(
    keys,
    (k) => k.frame,
    (k) => k.ease ?? 'smooth',
    frame,
  );
  if (!stretch) return undefined;
  const { from, to, share } = stretch;
  const mix = (a: number, b: number): number => a + share * (b - a);
  const target = ([0, 1, 2] as const).map((k) => mix(from.target[k], to.target[k])) as [number, number, number];
  const [a, b] = [offset(from), offset(to)];
  const [near, far] = [norm(...a) || 1e-9, norm(...b) || 1e-9];
  const way = between(
    a.map((x) => x / near),
    b.map((x) => x / far),
    share,
  );
  const distance = mix(near, far);
  const eye = target.map((x, k) => x + distance * way[k]!) as [number, number, number];
  return { eye, target, fov: mix(from.fov, to.fov) };
}

const offset = ({ eye, target }: Shot): [number, number, number] => [
  eye[0] - target[0],
  eye[1] - target[1],
  eye[2] - target[2],
];

/** A direction between two by the arc from one to the other; about the upright where they are opposite. */
function between(a: readonly number[], b: readonly number[], share: number): number[] {
  const dot = Math.max(-1, Math.min(1, a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!));
  const angle = Math.acos(dot);
  if (angle < 1e-6) return [...a];
  // what is at right angles to a, towards b; to the side where that says nothing
  let across = b.map((x, k) => x - dot * a[k]!);
  let size = norm(across[0]!, across[1]!, across[2]!);
  if (size < 1e-6) {
    across = Math.hypot(a[0]!, a[2]!) > 1e-6 ? [a[2]!, 0, -a[0]!] : [1, 0, 0];
    size = norm(across[0]!, across[1]!, across[2]!);
  }
  const [cos, sin] = [Math.cos(share * angle), Math.sin(share * angle)];
  return a.map((x, k) => cos * x + (sin * across[k]!) / size);
}
