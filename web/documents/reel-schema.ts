import { HANDLES, JOIN_KINDS, MEETS, OVERLAY_MODES, REFERENCES, REGIONS } from '@velvet-reel/motion';
import { z } from 'zod';
import type { ReelContent } from './reel';

// A reel, checked when it comes from outside. See Reel in the core.

/** More would not be worked with, and less than this bounds what one document can ask of a page. */
const MOST = {
  members: 40,
  placements: 2000,
  overlays: 500,
  tracks: 500,
  keys: 5000,
  markers: 500,
  cameras: 40,
} as const;
export const MOST_FRAMES = 100_000;

const id = z.string().regex(/^[\w-]{1,16}$/, 'not an id');
const frame = z.int().min(0).max(MOST_FRAMES);
const metres = z.number().min(-1000).max(1000);
const bend = z.tuple([
  z.number().min(0).max(1),
  z.number().min(-20).max(20),
  z.number().min(0).max(1),
  z.number().min(-20).max(20),
]);
const spot = z.tuple([metres, metres, metres]);
const ease = z.union([z.enum(['smooth', 'linear', 'step']), bend]);

const stretch = {
  id,
  itemId: id,
  versionId: id.nullable().default(null),
  at: frame,
  from: z.number().min(0).max(1_000_000),
  to: z.number().min(0).max(1_000_000).nullable(),
  speed: z.number().min(0.05).max(20),
  pace: z
    .array(z.strictObject({ frame: z.int().min(0).max(1_000_000), speed: z.number().min(0.05).max(20) }))
    .max(64)
    .refine((keys) => keys.every((k, i) => i === 0 || k.frame > keys[i - 1]!.frame), 'frames have to rise')
    .optional(),
  repeats: z.int().min(1).max(1000),
  mirrored: z.boolean(),
  muted: z.boolean(),
};
const join = z.strictObject({
  kind: z.enum(JOIN_KINDS),
  frames: z.int().min(0).max(1000),
  shape: ease,
  meet: z.enum(MEETS),
  level: z.boolean(),
});
const placement = z.strictObject({
  ...stretch,
  inPlace: z.boolean(),
  offset: z.strictObject({ x: metres, z: metres, turn: z.number().min(-3600).max(3600) }),
  join,
});
const overlay = z.strictObject({
  ...stretch,
  mode: z.enum(OVERLAY_MODES),
  reference: z.enum(REFERENCES),
  regions: z.array(z.enum(REGIONS)).max(REGIONS.length),
  joints: z.array(z.string().min(1).max(300)).max(4096),
  strength: z.array(z.strictObject({ frame, value: z.number().min(-10).max(10), ease: ease.optional() })).max(2000),
  holdFeet: z.boolean(),
  order: z.number().min(-1e6).max(1e6),
});
const keys = z
  .array(
    z.strictObject({
      frame,
      turn: z.tuple([z.number(), z.number(), z.number(), z.number()]).optional(),
      move: z.tuple([metres, metres, metres]).optional(),
      ease: ease.optional(),
    }),
  )
  .max(MOST.keys);
const laneName = z.string().min(1).max(300);
const member = z.strictObject({
  id,
  castId: id,
  order: z.number().min(-1e6).max(1e6),
  muted: z.boolean(),
  base: z.array(placement).max(MOST.placements),
  overlays: z.array(overlay).max(MOST.overlays),
  keys: z
    .array(
      z.union([
        z.strictObject({ joint: z.string().min(1).max(300), keys }),
        z.strictObject({ handle: z.enum(HANDLES), keys }),
      ]),
    )
    .max(MOST.tracks),
  numbers: z
    .array(
      z.strictObject({
        name: laneName,
        keys: z
          .array(z.strictObject({ frame, value: z.number().min(-1e6).max(1e6).nullable(), ease: ease.optional() }))
          .max(MOST.keys),
      }),
    )
    .max(MOST.tracks)
    .optional(),
  labels: z
    .array(
      z.strictObject({
        name: laneName,
        keys: z.array(z.strictObject({ frame, label: z.string().max(300).nullable() })).max(MOST.keys),
      }),
    )
    .max(MOST.tracks)
    .optional(),
});

export const reelContent = z.strictObject({
  name: z.string().trim().min(1, 'enter a name').max(200),
  fps: z.number().min(1).max(240),
  frames: z.int().min(1).max(MOST_FRAMES),
  members: z.array(member).max(MOST.members),
  markers: z.array(z.strictObject({ id, frame, name: z.string().max(120) })).max(MOST.markers),
  cameras: z
    .array(
      z.strictObject({
        id,
        name: z.string().max(120),
        keys: z
          .array(
            z.strictObject({ frame, eye: spot, target: spot, fov: z.number().min(1).max(150), ease: ease.optional() }),
          )
          .max(MOST.keys),
      }),
    )
    .max(MOST.cameras)
    .optional(),
});

/** Optional fields that zod writes as "or undefined" are the core’s optional fields. */
export const asReel = (given: unknown): ReelContent => reelContent.parse(given) as ReelContent;
