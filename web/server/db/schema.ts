import type { BodyMapJson, Facts, FoundSpace, RigJson } from '@velvet-reel/motion';
import { sql } from 'drizzle-orm';
import {
  char,
  datetime,
  double,
  index,
  int,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { jsonText, longblob, signedBytes } from './columns';

const id = () => varchar('id', { length: 16 }).primaryKey();
const ref = (name: string) => varchar(name, { length: 16 });
const hash = (name: string) => char(name, { length: 64 });
const made = () => datetime('created_at', { mode: 'date', fsp: 3 }).notNull().default(sql`CURRENT_TIMESTAMP(3)`);

export const people = mysqlTable('people', {
  id: id(),
  name: varchar('name', { length: 120 }).notNull(),
  role: varchar('role', { length: 16 }).notNull().$type<'viewer' | 'animator' | 'librarian' | 'admin'>(),
  /** The cast member this person looks at everything on. */
  performerId: ref('performer_id'),
  createdAt: made(),
});

export const folders = mysqlTable(
  'folders',
  { id: id(), parentId: ref('parent_id'), name: varchar('name', { length: 160 }).notNull(), createdAt: made() },
  (t) => [index('folders_parent').on(t.parentId)],
);

/** One row for every skeleton that looks different; equal ones share it, with its body map. */
export const rigs = mysqlTable(
  'rigs',
  {
    id: id(),
    /** SHA-256 of rigIdentity. */
    identity: hash('identity').notNull(),
    kind: varchar('kind', { length: 16 }).notNull().$type<'skeleton' | 'cutout'>(),
    jointCount: int('joint_count').notNull(),
    heightM: double('height_m').notNull(),
    restKind: varchar('rest_kind', { length: 16 }).notNull(),
    /** World pose of another rest than the bind pose, 7 J numbers (turns, then places); null where the rig's own rest counts. */
    restPose: jsonText<number[] | null>()('rest_pose'),
    data: jsonText<RigJson>()('data').notNull(),
    found: jsonText<FoundSpace>()('found').notNull(),
    createdAt: made(),
  },
  (t) => [uniqueIndex('rigs_identity').on(t.identity)],
);

export const bodyMaps = mysqlTable('body_maps', {
  rigId: ref('rig_id').primaryKey(),
  map: jsonText<BodyMapJson>()('map').notNull(),
  /** Counts up with every change, so that two editors notice each other. */
  version: int('version').notNull().default(1),
  changedBy: ref('changed_by'),
  changedAt: datetime('changed_at', { mode: 'date', fsp: 3 }).notNull().default(sql`CURRENT_TIMESTAMP(3)`),
});

/** Immutable motions under the SHA-256 of their packed bytes. */
export const motions = mysqlTable('motions', {
  hash: hash('hash').primaryKey(),
  frameCount: int('frame_count').notNull(),
  fps: double('fps').notNull(),
  packed: longblob('packed').notNull(),
  createdAt: made(),
});

/** Files that are kept as they are (normalised character GLBs), under the SHA-256 of their bytes. */
export const files = mysqlTable('files', {
  hash: hash('hash').primaryKey(),
  mime: varchar('mime', { length: 80 }).notNull(),
  bytes: longblob('bytes').notNull(),
  createdAt: made(),
});

export type ItemKind = 'pose' | 'clip' | 'cycle' | 'take';

export const items = mysqlTable(
  'items',
  {
    id: id(),
    kind: varchar('kind', { length: 16 }).notNull().$type<ItemKind>(),
    name: varchar('name', { length: 200 }).notNull(),
    note: varchar('note', { length: 4000 }).notNull().default(''),
    folderId: ref('folder_id'),
    /** Newest version, kept here so that a list needs one join. */
    versionId: ref('version_id').notNull(),
    createdBy: ref('created_by'),
    createdAt: made(),
    updatedAt: datetime('updated_at', { mode: 'date', fsp: 3 }).notNull().default(sql`CURRENT_TIMESTAMP(3)`),
    /** In the bin since. */
    binnedAt: datetime('binned_at', { mode: 'date', fsp: 3 }),
  },
  (t) => [index('items_folder').on(t.folderId), index('items_bin_name').on(t.binnedAt, t.name)],
);

/** How a version came about. */
export type Provenance =
  | { how: 'intake'; file: string; clip: string; format: string; bytes: number }
  | {
      how: 'fitting';
      sourceItem: string;
      sourceVersion: string;
      sourceName: string;
      character: string;
      characterName: string;
      settings: unknown;
      sourceMap: BodyMapJson;
      targetMap: BodyMapJson;
      report: unknown;
    }
  | {
      how: 'change';
      sourceItem: string;
      sourceVersion: string;
      sourceName: string;
      change: unknown;
      words: string[];
    };

export const itemVersions = mysqlTable(
  'item_versions',
  {
    id: id(),
    itemId: ref('item_id').notNull(),
    number: int('number').notNull(),
    motionHash: hash('motion_hash').notNull(),
    rigId: ref('rig_id').notNull(),
    facts: jsonText<Facts>()('facts').notNull(),
    strip: longblob('strip').notNull(),
    /** What its poses and its course are like, for search by likeness; empty where it was not read. */
    descriptor: signedBytes(255)('descriptor').notNull().default(sql`''`),
    provenance: jsonText<Provenance>()('provenance').notNull(),
    createdBy: ref('created_by'),
    createdAt: made(),
  },
  (t) => [
    uniqueIndex('versions_item_number').on(t.itemId, t.number),
    index('versions_motion').on(t.motionHash),
    index('versions_rig').on(t.rigId),
  ],
);

export const tags = mysqlTable('tags', { id: id(), name: varchar('name', { length: 80 }).notNull() }, (t) => [
  uniqueIndex('tags_name').on(t.name),
]);

export const itemTags = mysqlTable(
  'item_tags',
  { itemId: ref('item_id').notNull(), tagId: ref('tag_id').notNull() },
  (t) => [primaryKey({ columns: [t.itemId, t.tagId] }), index('item_tags_tag').on(t.tagId)],
);

export const castMembers = mysqlTable(
  'cast_members',
  {
    id: id(),
    name: varchar('name', { length: 200 }).notNull(),
    note: varchar('note', { length: 4000 }).notNull().default(''),
    rigId: ref('rig_id').notNull(),
    /** Normalised GLB; null for a bare skeleton. */
    fileHash: hash('file_hash'),
    /** Height of the ground in the rest pose, metres. */
    floorM: double('floor_m'),
    heightM: double('height_m').notNull(),
    vertexCount: int('vertex_count').notNull().default(0),
    createdBy: ref('created_by'),
    createdAt: made(),
    binnedAt: datetime('binned_at', { mode: 'date', fsp: 3 }),
  },
  (t) => [index('cast_rig').on(t.rigId), index('cast_name').on(t.name)],
);

export interface IntakeResult {
  items: { id: string; name: string; frames: number; fps: number }[];
  cast: { id: string; name: string; joints: number }[];
  rigId?: string;
  known: boolean;
  warnings: string[];
  format?: string;
}

/** A report that stays: one row for every file brought in, good or refused. */
export const intakes = mysqlTable(
  'intakes',
  {
    id: id(),
    personId: ref('person_id').notNull(),
    fileName: varchar('file_name', { length: 300 }).notNull(),
    bytes: double('bytes').notNull(),
    state: varchar('state', { length: 16 }).notNull().$type<'done' | 'refused'>(),
    /** What is wrong and what to do, for a refused file. */
    message: varchar('message', { length: 1000 }).notNull().default(''),
    code: varchar('code', { length: 40 }).notNull().default(''),
    result: jsonText<IntakeResult>()('result').notNull(),
    createdAt: made(),
  },
  (t) => [index('intakes_created').on(t.createdAt)],
);
