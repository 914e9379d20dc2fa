import { z } from 'zod';
import { count, date, named } from './shape';

export const TAG_COLOURS = ['plain', 'brass', 'verdigris', 'terracotta', 'raspberry', 'slate'] as const;
export type TagColour = (typeof TAG_COLOURS)[number];

export const tag = z
  .object({
    id: z.string(),
    name: z.string(),
    colour: z.enum(TAG_COLOURS),
    synonyms: z.array(z.string()),
    n: count,
  })
  .meta({ id: 'Tag' });
export type Tag = z.output<typeof tag>;

export const folder = z
  .object({
    id: z.string(),
    parentId: z.string().nullable(),
    name: z.string(),
    restricted: z.boolean(),
    hidden: z.boolean().describe('Those without a right to it see neither it nor what is in it'),
    n: count.describe('Items in the folder itself'),
    open: z.boolean().describe('Whether you may change what is in it'),
  })
  .meta({ id: 'Folder' });
export type Folder = z.output<typeof folder>;

export const folderRight = z.object({ folderId: z.string(), personId: z.string(), personName: z.string() });

export const rightRequest = z.object({
  id: z.string(),
  folderId: z.string(),
  folderName: z.string(),
  personId: z.string(),
  personName: z.string(),
  note: z.string(),
  createdAt: date,
});
export type RightRequest = z.input<typeof rightRequest>;
export type RightRequestRow = z.output<typeof rightRequest>;

export const counts = z.object({ items: count, bin: count, cast: count });
export type Counts = z.output<typeof counts>;

export const newField = z.object({
  name: z.string().trim().min(1, 'enter a name').max(80),
  type: z.enum(['text', 'number', 'choice', 'yes']),
  options: z.array(z.string().trim().min(1).max(80)).max(60).default([]),
});
export type NewField = z.output<typeof newField>;

/** What can be changed of a field; nothing is filled in for what is not named. */
export const fieldChange = z
  .strictObject({ name: newField.shape.name, options: newField.shape.options.unwrap() })
  .partial();

export const customField = newField.extend({ id: z.string(), options: z.array(z.string()) });
export type CustomField = z.output<typeof customField>;

export const savedSearch = z.object({
  id: z.string(),
  name: z.string(),
  view: z.string(),
  shared: z.boolean(),
  mine: z.boolean(),
  byName: z.string().nullable(),
});
export type SavedSearch = z.output<typeof savedSearch>;

/** What a change was made to. */
const historyEntry = z.object({
  seq: z.int(),
  subject: z.string(),
  subjectId: z.string(),
  groupId: z.string(),
  personId: z.string(),
  personName: z.string(),
  action: z.string(),
  label: z.string(),
  before: z.record(z.string(), z.unknown()).nullable(),
  after: z.record(z.string(), z.unknown()).nullable(),
  at: date,
});

export { historyEntry };
export type HistoryEntry = z.input<typeof historyEntry>;

export const activityEntry = historyEntry
  .omit({ before: true, after: true, subjectId: true })
  .extend({ subjects: z.array(named).describe('What it was done to, the first few'), count });
export type ActivityEntry = z.input<typeof activityEntry>;
