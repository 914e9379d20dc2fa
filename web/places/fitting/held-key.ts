import type { FittingEdits, OffsetKey } from '@velvet-reel/motion';
import { moveAt } from '@velvet-reel/motion';
import { Quaternion } from 'three';
import type { Pull } from '@/stage/handle-gizmo';
import { turnedBy } from '@/stage/turned-by';
import { type Held, isHeld } from './panes/hand-pane';

interface Offset {
  move: [number, number, number];
  turn: [number, number, number, number];
}

/** The offset of what is held as it stands at a frame: that of a key, or what lies between two. */
export function heldKey(edits: FittingEdits, held: Held, frame: number): Offset {
  const keys = edits.corrections.find((t) => isHeld(t, held))?.keys ?? [];
  const after = keys.findIndex((k) => k.frame > frame);
  const a = keys[after < 0 ? keys.length - 1 : Math.max(0, after - 1)];
  const b = after > 0 ? keys[after] : undefined;
  const turn = new Quaternion(...(a?.turn ?? [0, 0, 0, 1]));
  if (a && b) {
    const x = (frame - a.frame) / (b.frame - a.frame);
    const t = a.ease === 'step' ? 0 : a.ease === 'linear' ? x : x * x * (3 - 2 * x);
    turn.slerp(new Quaternion(...(b.turn ?? [0, 0, 0, 1])), t);
  }
  return { move: keys.length > 0 ? moveAt(keys, frame) : [0, 0, 0], turn: turn.toArray() as Offset['turn'] };
}

/** The key after a pull that began with an offset. Turns are told in the joint's own frame. */
export function pulledKey(start: Offset, pull: Pull, mode: 'move' | 'turn', held: Held): Omit<OffsetKey, 'frame'> {
  if (mode === 'move' && 'handle' in held)
    return { move: start.move.map((x, k) => x + pull.move[k]!) as Offset['move'], turn: start.turn };
  return { move: start.move, turn: turnedBy(start.turn, pull.from, pull.turn) };
}
