import type { Shot } from '@velvet-reel/motion';

// What places can ask of a stage, whatever draws it: bodies in space now, and flat figures beside them.

/** Something that moves on a stage. */
export interface StageFigure<M> {
  /** Joints that can be asked for, in the order of its rig. */
  readonly jointCount: number;
  /** Shows a frame of a motion. */
  apply(motion: M, frame: number): void;
  /** Where a joint is in the world, metres. @param out takes the answer, and is handed back */
  place(joint: number, out: Place): Place;
}

/** A point of the world, metres, Y up. */
export interface Place {
  x: number;
  y: number;
  z: number;
}

/** A joint as it is seen: pixels from the stage's upper left corner; z grows with distance, below 1 in front of the eye. */
export interface SeenJoint extends Place {
  readonly joint: number;
}

export interface StageHandle {
  /** Where a joint of a figure is seen. */
  project: (figure: StageFigure<never>, joint: number) => Place;
  /** Joints of a figure within some pixels of a point, the nearest first, and of those that lie on each other the one in front. */
  pick: (figure: StageFigure<never>, x: number, y: number, withinPx: number) => SeenJoint[];
  /** Looks at what is followed from a direction, as far away as before. */
  look: (from: readonly [number, number, number]) => void;
  /** Where the eye is against what it looks at, and the other way round. */
  eye: () => [number, number, number];
  /** How the scene is looked at now. */
  view: () => Shot;
}

/** What `pick` answers, from where every joint is seen. */
export function pickFrom(seen: Iterable<SeenJoint>, x: number, y: number, withinPx: number): SeenJoint[] {
  const far = (p: SeenJoint): number => Math.hypot(p.x - x, p.y - y);
  return [...seen].filter((p) => p.z < 1 && far(p) < withinPx).sort((a, b) => far(a) - far(b) || a.z - b.z);
}
