import { storeLocal } from '../math/fast';
import type { Motion } from './motion';

/**
 * Writes turns that joints shall have in the world into a copy of a motion's turns: each as the turn in its parent's
 * frame, made unit, with the sign that goes on from the frame before. What is not written stays as it was.
 */
export class TurnWriter {
  /** As in Motion: the copy that is written. */
  readonly turns: Float32Array;
  private readonly stride: number;

  constructor(motion: Motion) {
    this.turns = motion.turns.slice();
    this.stride = motion.turns.length / motion.frameCount;
  }

  /**
   * @param above 4 numbers at ao: the parent's turn in the world; ao below 0 for a joint without a parent
   * @param own 4 numbers at oo: the joint's turn in the world
   */
  write(frame: number, joint: number, above: Float64Array, ao: number, own: Float64Array, oo: number): void {
    const o = frame * this.stride + 4 * joint;
    storeLocal(this.turns, o, above, ao, own, oo, frame > 0 ? o - this.stride : -1);
  }

  /** Leaves a joint's turn as it is in this frame, with the sign that goes on from the frame before. */
  keep(frame: number, joint: number): void {
    if (frame === 0) return;
    const { turns } = this;
    const o = frame * this.stride + 4 * joint;
    const b = o - this.stride;
    let dot = 0;
    for (let k = 0; k < 4; k++) dot += turns[o + k]! * turns[b + k]!;
    if (dot < 0) for (let k = 0; k < 4; k++) turns[o + k] = -turns[o + k]!;
  }
}
