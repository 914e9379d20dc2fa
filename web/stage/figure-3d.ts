import { type Camera, type Mesh, type Object3D, Vector3 } from 'three';
import type { Playable } from '@/solver/solve';
import type { Place, StageFigure } from './contract';

/** A body in space: what to show, and its joints in rig order. */
export class Figure3D implements StageFigure<Playable> {
  /** Set by whoever shows it: told when something of it that was missing has come. */
  onArrival: () => void = () => undefined;

  /** @param faces meshes with face shapes @param tips ends of joints that have no child, as a rig has them */
  constructor(
    readonly root: Object3D,
    readonly joints: readonly Object3D[],
    readonly faces: readonly Mesh[] = [],
    private readonly tips: Float32Array = new Float32Array(0),
  ) {}

  /** How much of it is seen, 0 to 1, for figures that can be seen through. */
  fade(_opacity: number): void {}

  /** Told before each picture from where it is seen, and how many of those on stage are listed before it. */
  seenFrom(_camera: Camera, _listed: number): void {}

  get jointCount(): number {
    return this.joints.length;
  }

  apply(motion: Playable, frame: number): void {
    const { joints } = this;
    const n = joints.length;
    for (let j = 0; j < n; j++) joints[j]!.quaternion.fromArray(motion.turns, 4 * (frame * n + j));
    for (const t of motion.places) joints[t.joint]!.position.fromArray(t.values, 3 * frame);
    for (const face of this.faces) {
      for (const s of motion.numbers) {
        const k = face.morphTargetDictionary?.[s.name];
        if (k !== undefined && face.morphTargetInfluences) face.morphTargetInfluences[k] = s.values[frame]!;
      }
    }
  }

  /** Height of the lowest joint, or end of one, in the world as it was last worked out. */
  get lowest(): number {
    const { joints, tips } = this;
    let low = Number.POSITIVE_INFINITY;
    for (let j = 0; j < joints.length; j++) {
      const m = joints[j]!.matrixWorld.elements;
      low = Math.min(low, m[13]!);
      const end = m[1]! * tips[3 * j]! + m[5]! * tips[3 * j + 1]! + m[9]! * tips[3 * j + 2]! + m[13]!;
      if (end < low) low = end;
    }
    return low;
  }

  place(joint: number, out: Place): Place {
    this.joints[joint]!.getWorldPosition(somewhere);
    out.x = somewhere.x;
    out.y = somewhere.y;
    out.z = somewhere.z;
    return out;
  }
}
const somewhere = new Vector3();
