import type { Facts } from '@velvet-reel/motion';
import { z } from 'zod';
import { ITEM_KINDS, MOTION_KINDS } from '../kinds/kinds';
import { provenance } from './provenance';
import { count, date, named, typed } from './shape';

export const RIGHTS = ['unknown', 'own', 'licensed', 'free'] as const;
export type Rights = (typeof RIGHTS)[number];

const neededProp = z.object({
  name: z.string().trim().min(1).max(80),
  heightM: z.number().min(-10).max(100).nullable(),
});
export type NeededProp = z.output<typeof neededProp>;

const fields = z.record(z.string().max(16), z.union([z.string().max(1000), z.number(), z.boolean()]));
const score = z.number();

export const facts = typed<Facts>(
  z
    .looseObject({
      frameCount: count,
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
    }),
);

export const item = z
  .object({
    id: z.string(),
    name: z.string(),
    kind: z.enum(ITEM_KINDS),
    note: z.string(),
    heading: z.string(),
    folderId: z.string().nullable(),
    tags: z.array(z.string()),
    rating: z.int().min(0).max(5),
    favourite: z.boolean(),
    rights: z.enum(RIGHTS),
    source: z.string(),
    madeFor: z.string().nullable(),
    madeForName: z.string().nullable(),
    bound: z.boolean().describe('For the character that it was made for alone'),
    props: z.array(neededProp),
    fields,
    derivedFrom: z.string().nullable(),
    stillHash: z.string().nullable(),
    versionId: z.string(),
    version: z.int(),
    versions: count.describe('How many versions there are'),
    members: count.describe('How many items a pack holds; 0 for others'),
    packs: z.array(named).describe('Packs that hold it'),
    readingId: z.string(),
    motionHash: z.string(),
    /** File of the keys that the motion was made of; null where it is samples alone. */
    keysHash: z.string().nullable(),
    rigId: z.string(),
    facts,
    parts: z.array(z.string()).describe('Parts of the body it holds; empty where it holds all'),
    provenance,
    revision: z.int(),
    createdBy: z.string().nullable(),
    createdByName: z.string().nullable(),
    createdAt: date,
    updatedAt: date,
    binnedAt: date.nullable(),
  })
  .meta({ id: 'Item', description: 'Anything kept in the library.' });
export type Item = z.input<typeof item>;
export type ItemRow = z.output<typeof item>;

const facets = z.partialRecord(z.string(), z.array(z.object({ value: z.string(), n: count })));
export type Facets = z.output<typeof facets>;

export const itemList = z
  .object({
    items: z.array(item),
    found: count.describe('How many fit'),
    total: count.describe('How many there are without any filter'),
    facets: facets.nullable(),
    guessed: z.array(z.object({ word: z.string(), meant: z.array(z.string()) })),
    scores: z.record(z.string(), score).describe('Fit scores on the performer, by item; only those known'),
  })
  .meta({ id: 'ItemList' });
export type ItemList = z.input<typeof itemList>;
export type ItemListRow = z.output<typeof itemList>;

const tag = z.string().trim().min(1).max(80);
const whole = {
  name: z.string().trim().min(1, 'enter a name').max(200, 'a name has at most 200 characters'),
  note: z.string().max(4000),
  heading: z.string().max(200),
  kind: z.enum(MOTION_KINDS).describe('Packs are made of their members; nothing becomes one by its name'),
  folder: z
    .string()
    .max(600)
    .describe('A folder by path, "Deck / Ropes"; an empty path takes the item out of all folders'),
  tags: z.array(tag).max(60),
  addTags: z.array(tag).max(60),
  removeTags: z.array(tag).max(60),
  rating: z.int().min(0).max(5),
  rights: z.enum(RIGHTS),
  source: z.string().max(300),
  madeFor: z.string().max(16).nullable(),
  bound: z.boolean().describe('Whether it is for the character that it was made for alone, or free for any'),
  props: z.array(neededProp).max(20),
  fields,
  binned: z.boolean(),
  stillHash: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .nullable(),
  versionId: z.string().max(16).describe('Another of the item’s own versions, to be in force'),
};

/** What can be said of an item. */
export const itemChange = z.strictObject(whole).partial();
export type ItemChange = z.output<typeof itemChange>;

/** A change of one item, with what its editor saw in the fields it changes: another value there meanwhile is a conflict. */
export interface Edit {
  id: string;
  change: ItemChange;
  expected?: ItemChange | undefined;
}

export const edited = z
  .object({ group: z.string().describe('For undoing it'), items: z.array(item), changed: count })
  .meta({ id: 'Edited' });

/** What two people did to the same field. */
export interface Conflict {
  id: string;
  name: string;
  field: string;
  theirs: unknown;
  yours: unknown;
}

/** An item after a change, with the group of changes that it was. */
export const changedItem = z.object({ item, group: z.string() });

export const version = z
  .object({
    id: z.string(),
    number: z.int(),
    current: z.boolean(),
    readingId: z.string(),
    motionHash: z.string(),
    rigId: z.string(),
    frames: count,
    fps: z.number(),
    note: z.string(),
    provenance,
    byName: z.string().nullable(),
    createdAt: date,
  })
  .meta({ id: 'Version' });
export type Version = z.input<typeof version>;
export type VersionRow = z.output<typeof version>;

export const uses = z.object({
  made: z.array(named.extend({ how: z.string() })).describe('Items made from it'),
  packs: z.array(named),
  from: named.nullable(),
  variants: z.array(named).describe('Items it is a variant of, and those that are variants of it'),
  next: z.array(named).describe('What it leads to'),
  before: z.array(named).describe('What leads to it'),
  reels: z.array(named).describe('Reels it lies on'),
  plays: z.array(named).describe('Play-throughs that show it'),
});
export type Uses = z.output<typeof uses>;

export const freshness = z.object({
  reasons: z.array(z.string()).describe('Why it would come out differently today'),
  possible: z.boolean().describe('Whether source and character are still there'),
});
export type Freshness = z.output<typeof freshness>;

export const fitReasons = z.object({ score: score.nullable(), reasons: z.array(z.string()) });
