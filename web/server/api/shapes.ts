import { z } from 'zod';
import { ITEM_KINDS } from '../../kinds/kinds';
import { JOB_STATES, RIGHTS, TAG_COLOURS } from '../db/schema';

// What answers look like, for the document. Dates come as text in ISO 8601, UTC.
const date = z.iso.datetime();

export const factsShape = z
  .looseObject({
    frameCount: z.number().int(),
    fps: z.number(),
    durationS: z.number(),
    travelM: z.number(),
    inPlace: z.boolean(),
    loops: z.boolean(),
    steps: z.number(),
    tempo: z.number(),
    parts: z.array(z.string()),
  })
  .meta({
    id: 'Facts',
    description: 'What is measured on a motion: lengths in metres, times in seconds, angles in degrees.',
  });

export const itemShape = z
  .object({
    id: z.string(),
    name: z.string(),
    kind: z.enum(ITEM_KINDS),
    note: z.string(),
    heading: z.string(),
    folderId: z.string().nullable(),
    tags: z.array(z.string()),
    rating: z.number().int().min(0).max(5),
    favourite: z.boolean(),
    rights: z.enum(RIGHTS),
    source: z.string(),
    madeFor: z.string().nullable(),
    madeForName: z.string().nullable(),
    props: z.array(z.object({ name: z.string(), heightM: z.number().nullable() })),
    fields: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])),
    derivedFrom: z.string().nullable(),
    stillHash: z.string().nullable(),
    versionId: z.string(),
    version: z.number().int(),
    versions: z.number().int(),
    members: z.number().int(),
    packs: z.array(z.object({ id: z.string(), name: z.string() })),
    readingId: z.string(),
    motionHash: z.string(),
    rigId: z.string(),
    facts: factsShape,
    parts: z.array(z.string()),
    provenance: z.looseObject({ how: z.string() }),
    revision: z.number().int(),
    createdBy: z.string().nullable(),
    createdByName: z.string().nullable(),
    createdAt: date,
    updatedAt: date,
    binnedAt: date.nullable(),
  })
  .meta({ id: 'Item', description: 'Anything kept in the library.' });

export const listShape = z
  .object({
    items: z.array(itemShape),
    found: z.number().int().describe('How many fit'),
    total: z.number().int().describe('How many there are without any filter'),
    facets: z.record(z.string(), z.array(z.object({ value: z.string(), n: z.number().int() }))).nullable(),
    guessed: z.array(z.object({ word: z.string(), meant: z.array(z.string()) })),
    scores: z.record(z.string(), z.number()),
  })
  .meta({ id: 'ItemList' });

export const editedShape = z
  .object({ group: z.string().describe('For undoing it'), items: z.array(itemShape), changed: z.number().int() })
  .meta({ id: 'Edited' });

export const jobShape = z
  .looseObject({
    id: z.string(),
    kind: z.string(),
    title: z.string(),
    state: z.enum(JOB_STATES),
    counts: z.record(z.string(), z.number().int()),
    leftS: z.number().nullable().describe('Seconds left at the current rate'),
  })
  .meta({ id: 'Job' });

export const partShape = z
  .object({
    id: z.string(),
    number: z.number().int(),
    state: z.string(),
    name: z.string(),
    bytes: z.number(),
    message: z.string(),
    result: z.looseObject({}).nullable(),
  })
  .meta({ id: 'JobPart' });

export const tagShape = z
  .object({
    id: z.string(),
    name: z.string(),
    colour: z.enum(TAG_COLOURS),
    synonyms: z.array(z.string()),
    n: z.number().int(),
  })
  .meta({ id: 'Tag' });

export const folderShape = z
  .object({
    id: z.string(),
    parentId: z.string().nullable(),
    name: z.string(),
    restricted: z.boolean(),
    n: z.number().int().describe('Items in the folder itself'),
    open: z.boolean().describe('Whether you may change what is in it'),
  })
  .meta({ id: 'Folder' });

export const versionShape = z
  .looseObject({ id: z.string(), number: z.number().int(), current: z.boolean(), note: z.string(), createdAt: date })
  .meta({ id: 'Version' });
