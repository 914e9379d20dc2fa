import type { BodyMapJson, FoundSpace, Limits, RigDifferences, RigJson, SkinJson } from '@velvet-reel/motion';
import { z } from 'zod';
import { type FieldContent, fieldContent } from '../documents/pose-field';
import { rigSetup } from '../documents/rig-setup-schema';
import { EXPORT_FORMATS } from '../wishes/export-formats';
import { fitEdits, fitSettings } from '../wishes/settings';
import type { FitEdits, FitSettings } from '../wishes/wishes';
import { freshness } from './items';
import { count, date, named, typed } from './shape';

/** Files of a cast member, by what they are for: the figure (normalised GLB), layered art, a picture. */
export const ASSET_ROLES = ['figure', 'art', 'picture'] as const;
export type AssetRole = (typeof ASSET_ROLES)[number];
export const assets = z
  .partialRecord(z.enum(ASSET_ROLES), z.string().regex(/^[0-9a-f]{64}$/, 'not a hash'))
  .describe('Files by what they are for, each by its hash');
export type Assets = z.output<typeof assets>;

const map = typed<BodyMapJson>(
  z
    .object({ slots: rigSetup.shape.slots, unused: z.array(z.string()), warnings: z.array(z.string()) })
    .meta({ id: 'BodyMap' }),
);
const skin = typed<SkinJson>(z.object({ around: z.array(z.number()), ahead: z.array(z.number()) })).nullable();

export const castMember = z
  .object({
    id: z.string(),
    name: z.string(),
    note: z.string(),
    rigId: z.string(),
    assets,
    floorM: z.number().nullable(),
    skin,
    heightM: z.number(),
    vertexCount: count,
    jointCount: count,
    restKind: z.string(),
    found: typed<FoundSpace>(
      z.looseObject({ unitScale: z.number(), unitWhy: z.string(), upAxis: z.string(), facing: z.string() }),
    ),
    map,
    variantOf: z.string().nullable(),
    binnedAt: date.nullable(),
  })
  .meta({ id: 'CastMember' });
export type CastMember = z.input<typeof castMember>;
export type CastRow = z.output<typeof castMember>;

export const rig = z
  .object({
    id: z.string(),
    rig: typed<RigJson>(
      z.looseObject({ joints: z.array(z.looseObject({ name: z.string() })) }).meta({ id: 'Skeleton' }),
    ),
    map,
    mapVersion: z.int(),
    restPose: z.array(z.number()).nullable(),
    restKind: z.string(),
    heightM: z.number(),
    floorM: z.number().nullable(),
    skin,
    art: z.string().nullable().describe('Pictures of a cut-out, by their hash; null for bodies in space'),
    match: z.object({ turns: z.array(z.number()), how: z.string() }).nullable(),
    limits: typed<Limits>(rigSetup.shape.limits.unwrap()).nullable(),
    pairs: z.array(z.tuple([z.string(), z.string()])).nullable(),
    sets: z.array(z.object({ name: z.string(), joints: z.array(z.string()) })),
  })
  .meta({ id: 'Rig', description: 'A skeleton with its body map and what is set for it.' });
export type RigAnswer = z.output<typeof rig>;

export const savedMap = z.object({ map, mapVersion: z.int() });

export const fittingDocument = z.object({
  settings: typed<FitSettings>(fitSettings).nullable(),
  edits: typed<FitEdits>(fitEdits).nullable(),
  version: count,
  changedByName: z.string().nullable(),
});
export type FittingDocument = z.output<typeof fittingDocument>;

export const castFitting = freshness.extend({
  id: z.string(),
  name: z.string(),
  sourceId: z.string(),
  sourceName: z.string(),
  madeAt: date,
  report: z.unknown(),
});
export type CastFitting = z.input<typeof castFitting>;
export type CastFittingRow = z.output<typeof castFitting>;

export const profile = z.object({
  id: z.string(),
  name: z.string(),
  slots: count,
  byName: z.string().nullable(),
  createdAt: date,
  serves: z.array(named).describe('Cast members that have all joints it names'),
  otherRigs: count,
});
export type Profile = z.input<typeof profile>;
export type ProfileRow = z.output<typeof profile>;

export const exportWish = z.object({
  format: z.enum(EXPORT_FORMATS),
  mesh: z.boolean(),
  sparse: z.boolean(),
  /** Curves between keys where some are left out, not straight ways. */
  curved: z.boolean().optional(),
  folders: z.boolean(),
  fps: z.number().positive().max(1000).nullable(),
});

export type ExportWish = z.output<typeof exportWish>;

export const destination = z.object({
  id: z.string(),
  name: z.string(),
  wish: exportWish,
  usedAt: date.nullable(),
});
export type Destination = z.input<typeof destination>;
export type DestinationRow = z.output<typeof destination>;

/** What another file in a character's place would mean. */
export const replacementReport = z.object({
  differences: typed<RigDifferences>(z.looseObject({})),
  slotsKept: count,
  slotsLost: z.array(z.object({ slot: z.string(), joint: z.string() })),
  setsCut: z.array(z.string()),
  itemsMadeFor: count,
  fittings: count,
  mesh: z.object({ before: count, after: count }),
});
export type ReplacementReport = z.output<typeof replacementReport>;

/** One thing that engines ask of a character. */
export const engineCondition = z
  .object({ code: z.string(), met: z.boolean(), words: z.string() })
  .meta({ id: 'EngineCondition' });
export type EngineConditionRow = z.output<typeof engineCondition>;

/** The field of poses of a character, as it is worked on. */
export const poseFieldDocument = z
  .object({ content: typed<FieldContent>(fieldContent), version: z.int(), changedByName: z.string().nullable() })
  .meta({ id: 'PoseField' });
export type PoseFieldDocument = z.output<typeof poseFieldDocument>;
