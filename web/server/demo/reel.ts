import {
  JOIN_DEFAULTS,
  type JoinWish,
  OVERLAY_DEFAULTS,
  type Overlay,
  onsetStrength,
  PLACEMENT_DEFAULTS,
  type Placement,
  type ReelMember,
  type Region,
  STRETCH_DEFAULTS,
  stretchLength,
} from '../../../motion/index';
import type { ItemRow } from '../../contract';
import type { ReelContent } from '../../documents/reel';

const FPS = 30;

interface Step {
  item: string;
  repeats?: number;
  join?: Partial<JoinWish>;
  /** Frames between it and what lies before, to be bridged. */
  gap?: number;
}
interface Over {
  item: string;
  at: number;
  regions: readonly Region[];
}

/** Who does what, one after the other. */
const PARTS: readonly { who: string; does: readonly Step[]; over?: readonly Over[]; keys?: ReelMember['keys'] }[] = [
  {
    who: 'Big Tove',
    does: [
      { item: 'Deck walk', repeats: 3 },
      { item: 'Sit on the bollard', join: { frames: 14 } },
    ],
    over: [{ item: 'Pointing out the buoy', at: 20, regions: ['head', 'right arm'] }],
    keys: [
      {
        handle: 'head',
        keys: [
          { frame: 0, move: [0, 0, 0] },
          { frame: 30, move: [0, -0.02, 0.05] },
          { frame: 60, move: [0, 0, 0] },
        ],
      },
    ],
  },
  {
    who: 'Ines Vane',
    does: [{ item: 'Waiting for the tide' }, { item: 'Ringing the fog bell', join: { frames: 30 } }],
  },
  {
    who: 'Pip',
    does: [{ item: 'Quay run' }, { item: 'Walk turning left', gap: 24, join: { kind: 'bridge' } }],
  },
];

/** Where each begins, metres and degrees, so that nobody runs through anybody. */
const STANDS: readonly { x: number; z: number; turn: number }[] = [
  { x: 0, z: 0, turn: 0 },
  { x: -2.1, z: 0.2, turn: 0 },
  { x: 1.7, z: -4, turn: 0 },
];

/** The reel that ships with the demo world: three of the crew, with crossfades, a bridge, an overlay and keys. */
export function demoReel(
  castIdOf: (name: string) => string,
  itemOf: (name: string) => Pick<ItemRow, 'id' | 'versionId' | 'facts'>,
): ReelContent {
  const named = (prefix: string, i: number): string => `${prefix}${i + 1}`;
  let frames = 0;
  const members = PARTS.map((part, m): ReelMember => {
    let end = 0;
    const base = part.does.map((step, i): Placement => {
      const { id, versionId, facts } = itemOf(step.item);
      const join = { ...JOIN_DEFAULTS, ...step.join };
      const overlap = i > 0 && join.kind === 'crossfade' ? join.frames : 0;
      const at = Math.max(0, end - overlap + (step.gap ?? 0));
      const stretch = { ...STRETCH_DEFAULTS, repeats: step.repeats ?? 1 };
      end = at + stretchLength(stretch, facts, FPS);
      return {
        ...PLACEMENT_DEFAULTS,
        ...stretch,
        id: named(`m${m + 1}p`, i),
        itemId: id,
        versionId,
        at,
        ...(i === 0 && { offset: STANDS[m]! }),
        join,
      };
    });
    frames = Math.max(frames, end);
    const overlays = (part.over ?? []).map((over, i): Overlay => {
      const { id, versionId, facts } = itemOf(over.item);
      return {
        ...OVERLAY_DEFAULTS,
        id: named(`m${m + 1}o`, i),
        itemId: id,
        versionId,
        at: over.at,
        regions: over.regions,
        strength: onsetStrength(stretchLength(STRETCH_DEFAULTS, facts, FPS)),
        order: i + 1,
      };
    });
    return {
      id: named('m', m),
      castId: castIdOf(part.who),
      order: m + 1,
      muted: false,
      base,
      overlays,
      keys: part.keys ?? [],
    };
  });
  return { name: 'Fog bell', fps: FPS, frames, members, markers: [{ id: 'bell', frame: 60, name: 'the bell' }] };
}
