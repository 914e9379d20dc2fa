import { type Mesh, type Object3D, Vector3 } from 'three';
import type { Playable } from '@/solver/solve';
import type { Place, StageFigure } from './contract';

/** A body in space: what to show, and its joints in rig order. */
export class Figure3D implements StageFigure<Playable> {
  /** Set by whoever shows it: told when something of it that was missing has come. */
  onArrival: () => void = () => undefined;

  /** @param faces meshes with face shapes */
  constructor(
    readonly root: Object3D,
    readonly joints: readonly Object3D[],
    readonly faces: readonly Mesh[] = [],
  ) {}

  /** How much of it is seen, 0 to 1, for figures that can be seen through. */
  fade(_opacity: number): void {}

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

  place(joint: number, out: Place): Place {
    this.joints[joint]!.getWorldPosition(somewhere);
    out.x = somewhere.x;
    out.y = somewhere.y;
    out.z = somewhere.z;
    return out;
  }
}
const somewhere = new Vector3();
