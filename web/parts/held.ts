import { type CorrectionTrack, easeAt, type Handle, moveAt, type OffsetKey } from '@velvet-reel/motion';
import { Quaternion } from 'three';
import type { Pull } from '@/stage/handle-gizmo';
import { turnedBy } from '@/stage/turned-by';

/** What is held in the stage to be corrected: a handle, or a single joint. */
export type Held = { handle: Handle } | { joint: string };

export const HANDLE_LABELS: Readonly<Record<Handle, string>> = {
  hips: 'hips',
  head: 'head',
  handL: 'left hand',
  handR: 'right hand',
  footL: 'left foot',
  footR: 'right foot',
};
export const heldName = (h: Held): string => ('handle' in h ? HANDLE_LABELS[h.handle] : h.joint);
export const isHeld = (t: CorrectionTrack | Held, h: Held): boolean =>
  'handle' in t ? 'handle' in h && t.handle === h.handle : 'joint' in h && 'joint' in t && t.joint === h.joint;

/** The corrections with a key of what is held set at a frame; undefined takes the key away. */
export function withKey(
  tracks: readonly CorrectionTrack[],
  held: Held,
  frame: number,
  key: Omit<OffsetKey, 'frame'> | undefined,
): CorrectionTrack[] {
  const own = tracks.find((t) => isHeld(t, held));
  const others = (own?.keys ?? []).filter((k) => k.frame !== frame);
  const keys = key ? [...others, { ...key, frame }].sort((a, b) => a.frame - b.frame) : others;
  const rest = tracks.filter((t) => !isHeld(t, held));
  return keys.length === 0 ? rest : [...rest, { ...held, keys } as CorrectionTrack];
}

interface Offset {
  move: [number, number, number];
  turn: [number, number, number, number];
}

/** The offset of what is held as it stands at a frame: that of a key, or what lies between two. */
export function heldKey(corrections: readonly CorrectionTrack[], held: Held, frame: number): Offset {
  const keys = corrections.find((t) => isHeld(t, held))?.keys ?? [];
  const after = keys.findIndex((k) => k.frame > frame);
  const a = keys[after < 0 ? keys.length - 1 : Math.max(0, after - 1)];
  const b = after > 0 ? keys[after] : undefined;
  const turn = new Quaternion(...(a?.turn ?? [0, 0, 0, 1]));
  if (a && b) {
    const x = (frame - a.frame) / (b.frame - a.frame);
    const t = easeAt(a.ease ?? 'smooth', x);
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
