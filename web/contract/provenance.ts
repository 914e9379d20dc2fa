import type { BodyMapJson, Limits } from '@velvet-reel/motion';
import { z } from 'zod';
import { changeWish, fitEdits, fitSettings } from '../wishes/settings';
import type { ChangeWish, FitEdits, FitSettings } from '../wishes/wishes';
import { typed } from './shape';

/** Stands in for the bind pose when limbs are matched. */
export interface MatchPose {
  turns: number[];
  how: string;
}

const map = typed<BodyMapJson>(z.looseObject({ slots: z.record(z.string(), z.unknown()) }));
const match = typed<MatchPose | null>(z.object({ turns: z.array(z.number()), how: z.string() }).nullable()).optional();

/** Read from a file. */
const intake = z.object({
  how: z.literal('intake'),
  file: z.string(),
  clip: z.string(),
  format: z.string(),
  bytes: z.number(),
  supplier: z
    .object({ name: z.string(), take: z.string(), issue: z.int() })
    .optional()
    .describe('Who it was bought from'),
});

/** Fitted onto a character. */
const fitting = z.object({
  how: z.literal('fitting'),
  sourceItem: z.string(),
  sourceVersion: z.string(),
  sourceName: z.string(),
  character: z.string(),
  characterName: z.string(),
  settings: typed<FitSettings>(fitSettings),
  edits: typed<FitEdits>(fitEdits).optional().describe('What was done by hand; older ones have none'),
  sourceMap: map,
  targetMap: map,
  sourceMatch: match,
  targetMatch: match,
  targetLimits: typed<Limits | null>(z.record(z.string(), z.unknown()).nullable()).optional(),
  report: z.unknown(),
});

/** Made by changing another item. */
const change = z.object({
  how: z.literal('change'),
  sourceItem: z.string(),
  sourceVersion: z.string(),
  sourceName: z.string(),
  change: typed<ChangeWish>(changeWish),
  words: z.array(z.string()),
});

/** Baked from a member of a reel. */
const drawings = z.object({
  how: z.literal('drawings'),
  cast: z.string(),
  castName: z.string(),
  parts: z.array(z.string()),
});

const reel = z.object({
  how: z.literal('reel'),
  reel: z.string(),
  reelName: z.string(),
  version: z.int().describe('Version of the reel'),
  member: z.string(),
  character: z.string(),
  characterName: z.string(),
  start: z.int().describe('First frame of the reel, both counted from 0 and included'),
  end: z.int(),
  items: z.array(z.object({ id: z.string(), name: z.string(), version: z.string() })),
});

/** How a version came about. A new way joins this list. */
export const provenance = z
  .discriminatedUnion('how', [intake, fitting, change, reel, drawings])
  .meta({ id: 'Provenance', description: 'How a version came about.' });
export type Provenance = z.output<typeof provenance>;
export type FittingProvenance = Extract<Provenance, { how: 'fitting' }>;
