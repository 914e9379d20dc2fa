import type { BodyMapJson, Facts, FoundSpace, Limits, MarkerBody, RigJson, SkinJson } from '@velvet-reel/motion';
import { sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  char,
  datetime,
  double,
  index,
  int,
  mysqlTable,
  primaryKey,
  text,
  tinyint,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import type {
  Assets,
  ExportWish,
  IntakeResult,
  JobKind,
  JobState,
  MatchPose,
  NeededProp,
  PartState,
  Provenance,
  QuotaOf,
  Rights,
  Role,
  TagColour,
  TokenScope,
} from '../../contract';
import type { PlayContent } from '../../documents/play';
import type { FieldContent } from '../../documents/pose-field';
import type { ReelContent } from '../../documents/reel';
import type { ItemKind } from '../../kinds/kinds';
import { jsonText, longblob, plainBytes, signedBytes } from './columns';

const id = () => varchar('id', { length: 16 }).primaryKey();
const ref = (name: string) => varchar(name, { length: 16 });
const hash = (name: string) => char(name, { length: 64 });
const stamp = (name: string) => datetime(name, { mode: 'date', fsp: 3 }).notNull().default(sql`CURRENT_TIMESTAMP(3)`);
const made = () => stamp('created_at');

const bytes2048 = plainBytes(2048);
const moment = (name: string) => datetime(name, { mode: 'date', fsp: 3 });

export const people = mysqlTable(
  'people',
  {
    id: id(),
    name: varchar('name', { length: 120 }).notNull(),
    /** What a person signs in with; null for one who cannot. */
    email: varchar('email', { length: 190 }),
    emailVerified: boolean('email_verified').notNull().default(false),
    image: varchar('image', { length: 300 }),
    role: varchar('role', { length: 16 }).notNull().default('viewer').$type<Role>(),
    /** The cast member this person looks at everything on. */
    performerId: ref('performer_id'),
    /** Shut out, with everything they did kept. */
    leftAt: moment('left_at'),
    /** Signing in with the password asks for a code, too. */
    twoFactorEnabled: boolean('two_factor_enabled').notNull().default(false),
    createdAt: made(),
    updatedAt: stamp('updated_at'),
  },
  (t) => [uniqueIndex('people_email').on(t.email)],
);

// the four tables of the account package, under its own field names
export const sessions = mysqlTable(
  'sessions',
  {
    id: varchar('id', { length: 40 }).primaryKey(),
    userId: ref('user_id').notNull(),
    token: varchar('token', { length: 120 }).notNull(),
    expiresAt: moment('expires_at').notNull(),
    ipAddress: varchar('ip_address', { length: 60 }),
    userAgent: varchar('user_agent', { length: 400 }),
    createdAt: made(),
    updatedAt: stamp('updated_at'),
  },
  (t) => [uniqueIndex('sessions_token').on(t.token), index('sessions_user').on(t.userId)],
);

export const accounts = mysqlTable(
  'accounts',
  {
    id: varchar('id', { length: 40 }).primaryKey(),
    userId: ref('user_id').notNull(),
    accountId: varchar('account_id', { length: 190 }).notNull(),
    providerId: varchar('provider_id', { length: 60 }).notNull(),
    /** Salted scrypt of the password. */
    password: varchar('password', { length: 300 }),
    accessToken: text('access_token'),
    refreshToken: text('refresh_token'),
    idToken: text('id_token'),
    accessTokenExpiresAt: moment('access_token_expires_at'),
    refreshTokenExpiresAt: moment('refresh_token_expires_at'),
    scope: varchar('scope', { length: 300 }),
    createdAt: made(),
    updatedAt: stamp('updated_at'),
  },
  (t) => [index('accounts_user').on(t.userId)],
);

export const verifications = mysqlTable(
  'verifications',
  {
    id: varchar('id', { length: 40 }).primaryKey(),
    identifier: varchar('identifier', { length: 190 }).notNull(),
    value: text('value').notNull(),
    expiresAt: moment('expires_at').notNull(),
    createdAt: made(),
    updatedAt: stamp('updated_at'),
  },
  (t) => [index('verifications_identifier').on(t.identifier)],
);

export const secondFactors = mysqlTable(
  'second_factors',
  {
    id: varchar('id', { length: 40 }).primaryKey(),
    userId: ref('user_id').notNull(),
    /** What codes are worked out from; encrypted, as are the codes for emergencies. */
    secret: text('secret').notNull(),
    backupCodes: text('backup_codes').notNull(),
    /** A first code has been right: from then on it is asked for. */
    verified: boolean('verified').notNull().default(false),
    failedVerificationCount: int('failed_verification_count').notNull().default(0),
    lockedUntil: moment('locked_until'),
  },
  (t) => [index('second_factors_user').on(t.userId)],
);

/** Links by which somebody makes an account of their own; only the hashes of their codes are kept. */
export const invitations = mysqlTable(
  'invitations',
  {
    id: id(),
    hash: hash('hash').notNull(),
    /** Whom it is meant for, as whoever invites calls them. */
    name: varchar('name', { length: 120 }).notNull(),
    role: varchar('role', { length: 16 }).notNull().$type<Role>(),
    byId: ref('by_id').notNull(),
    expiresAt: moment('expires_at').notNull(),
    /** Who came by it. */
    usedById: ref('used_by_id'),
    createdAt: made(),
  },
  (t) => [uniqueIndex('invitations_hash').on(t.hash)],
);

/** Keys by which programs act in a person's name; only their hashes are kept. */
export const apiTokens = mysqlTable(
  'api_tokens',
  {
    id: id(),
    personId: ref('person_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    hash: hash('hash').notNull(),
    /** The first characters, to tell tokens apart. */
    starts: varchar('starts', { length: 12 }).notNull(),
    /** What it may be used for. */
    scope: varchar('scope', { length: 16 }).notNull().default('change').$type<TokenScope>(),
    expiresAt: moment('expires_at'),
    lastUsedAt: moment('last_used_at'),
    revokedAt: moment('revoked_at'),
    createdAt: made(),
  },
  (t) => [uniqueIndex('api_tokens_hash').on(t.hash), index('api_tokens_person').on(t.personId)],
);

/** What is written down for whoever answers for the library; only ever added to. */
export const audit = mysqlTable(
  'audit',
  {
    seq: bigint('seq', { mode: 'number' }).primaryKey().autoincrement(),
    at: stamp('at'),
    personId: ref('person_id'),
    what: varchar('what', { length: 40 }).notNull(),
    about: varchar('about', { length: 300 }).notNull(),
  },
  (t) => [index('audit_person').on(t.personId), index('audit_what').on(t.what)],
);

/** How much may be stored: of the whole library, and by each person. */
export const quotas = mysqlTable('quotas', {
  of: varchar('of', { length: 16 }).primaryKey().$type<QuotaOf>(),
  bytes: bigint('bytes', { mode: 'number' }).notNull(),
});

/** Attempts to sign in that may have failed, by whose they are. */
export const attempts = mysqlTable('attempts', {
  key: hash('key').primaryKey(),
  count: int('count').notNull(),
  /** When counting begins anew. */
  until: moment('until').notNull(),
});

export const folders = mysqlTable(
  'folders',
  {
    id: id(),
    parentId: ref('parent_id'),
    name: varchar('name', { length: 160 }).notNull(),
    /** Only librarians and those with a right of their own change what lies in it and below. */
    restricted: boolean('restricted').notNull().default(false),
    /** Others do not even see it, nor what lies in it and below. */
    hidden: boolean('hidden').notNull().default(false),
    createdAt: made(),
  },
  (t) => [index('folders_parent').on(t.parentId)],
);

export const folderRights = mysqlTable(
  'folder_rights',
  {
    folderId: ref('folder_id').notNull(),
    personId: ref('person_id').notNull(),
    grantedBy: ref('granted_by'),
    createdAt: made(),
  },
  (t) => [primaryKey({ columns: [t.folderId, t.personId] })],
);

/** Somebody asks to be allowed to change a folder. */
export const rightRequests = mysqlTable(
  'right_requests',
  {
    id: id(),
    folderId: ref('folder_id').notNull(),
    personId: ref('person_id').notNull(),
    note: varchar('note', { length: 500 }).notNull().default(''),
    state: varchar('state', { length: 16 }).notNull().default('open').$type<'open' | 'granted' | 'refused'>(),
    decidedBy: ref('decided_by'),
    decidedAt: moment('decided_at'),
    createdAt: made(),
  },
  (t) => [index('right_requests_state').on(t.state)],
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
    /** How markers sit on it, where it was solved from a take of them; null otherwise. */
    worn: jsonText<MarkerBody | null>()('worn'),
    createdAt: made(),
  },
  (t) => [uniqueIndex('rigs_identity').on(t.identity)],
);

/** Joints that are picked together, by name. */
export interface JointSet {
  name: string;
  joints: string[];
}

/** What is known about a rig beyond its file: its body map, and what was set by hand for it. */
export const bodyMaps = mysqlTable('body_maps', {
  rigId: ref('rig_id').primaryKey(),
  map: jsonText<BodyMapJson>()('map').notNull(),
  /** Stands in for the bind pose when limbs are matched; the bind pose is never touched. */
  match: jsonText<MatchPose>()('match_pose'),
  /** Joint limits by slot; the common body's where null. */
  limits: jsonText<Limits>()('limits'),
  /** Left and right partners set by hand, by joint name; found ones where null. */
  pairs: jsonText<[string, string][]>()('pairs'),
  sets: jsonText<JointSet[]>()('joint_sets').notNull().default(sql`'[]'`),
  /** Counts up with every change, so that two editors notice each other. */
  version: int('version').notNull().default(1),
  /** As of fittings. */
  taken: jsonText<Taken>()('taken'),
  changedBy: ref('changed_by'),
  changedAt: datetime('changed_at', { mode: 'date', fsp: 3 }).notNull().default(sql`CURRENT_TIMESTAMP(3)`),
});

/** Immutable motions under the SHA-256 of their canonical values (see canonicalBytes); older ones under that of their packed bytes. */
export const motions = mysqlTable('motions', {
  hash: hash('hash').primaryKey(),
  frameCount: int('frame_count').notNull(),
  fps: double('fps').notNull(),
  packed: longblob('packed').notNull(),
  /** Bytes of it, so that nobody has to read them to add them up. */
  size: bigint('size', { mode: 'number' }).notNull().default(0),
  createdAt: made(),
});

/** Files that are kept as they are (normalised character GLBs), under the SHA-256 of their bytes. */
export const files = mysqlTable('files', {
  hash: hash('hash').primaryKey(),
  mime: varchar('mime', { length: 80 }).notNull(),
  bytes: longblob('bytes').notNull(),
  size: bigint('size', { mode: 'number' }).notNull().default(0),
  createdAt: made(),
});

export const items = mysqlTable(
  'items',
  {
    id: id(),
    kind: varchar('kind', { length: 16 }).notNull().$type<ItemKind>(),
    name: varchar('name', { length: 200 }).notNull(),
    note: varchar('note', { length: 4000 }).notNull().default(''),
    /** What stands above it in a list of its session: "Haul, second day". */
    heading: varchar('heading', { length: 200 }).notNull().default(''),
    folderId: ref('folder_id'),
    /** The version in force, kept here so that a list needs one join; of a pack its first member's. */
    versionId: ref('version_id').notNull(),
    /** For the character that it was made for alone. */
    bound: boolean('bound').notNull().default(false),
    rating: tinyint('rating').notNull().default(0),
    rights: varchar('rights', { length: 16 }).notNull().default('unknown').$type<Rights>(),
    source: varchar('source', { length: 300 }).notNull().default(''),
    /** The cast member it was made for. */
    madeFor: ref('made_for'),
    props: jsonText<NeededProp[]>()('props').notNull().default(sql`'[]'`),
    /** Values of the library's own fields, by field id. */
    fields: jsonText<Record<string, string | number | boolean>>()('fields').notNull().default(sql`'{}'`),
    /** The item it was made from. */
    derivedFrom: ref('derived_from'),
    /** A picture taken on the stage. */
    stillHash: hash('still_hash'),
    /** Counts up with every change of the description. */
    revision: int('revision').notNull().default(1),
    createdBy: ref('created_by'),
    createdAt: made(),
    updatedAt: datetime('updated_at', { mode: 'date', fsp: 3 }).notNull().default(sql`CURRENT_TIMESTAMP(3)`),
    /** In the bin since. */
    binnedAt: datetime('binned_at', { mode: 'date', fsp: 3 }),
  },
  (t) => [
    index('items_folder').on(t.folderId),
    index('items_bin_name').on(t.binnedAt, t.name),
    index('items_derived').on(t.derivedFrom),
    index('items_version').on(t.versionId),
    index('items_made_for').on(t.madeFor),
  ],
);

export const packMembers = mysqlTable(
  'pack_members',
  { packId: ref('pack_id').notNull(), itemId: ref('item_id').notNull(), position: int('position').notNull() },
  (t) => [primaryKey({ columns: [t.packId, t.itemId] }), index('pack_members_item').on(t.itemId)],
);

export const favourites = mysqlTable(
  'favourites',
  { personId: ref('person_id').notNull(), itemId: ref('item_id').notNull(), createdAt: made() },
  (t) => [primaryKey({ columns: [t.personId, t.itemId] })],
);

/** Fields that this library has besides the built-in ones. */
export const customFields = mysqlTable('custom_fields', {
  id: id(),
  name: varchar('name', { length: 80 }).notNull(),
  type: varchar('type', { length: 16 }).notNull().$type<'text' | 'number' | 'choice' | 'yes'>(),
  options: jsonText<string[]>()('options').notNull().default(sql`'[]'`),
  position: int('position').notNull().default(0),
  createdAt: made(),
});

export const savedSearches = mysqlTable(
  'saved_searches',
  {
    id: id(),
    personId: ref('person_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    /** The part of the address that holds the view. */
    view: varchar('view', { length: 2000 }).notNull(),
    shared: boolean('shared').notNull().default(false),
    createdAt: made(),
  },
  (t) => [index('saved_searches_person').on(t.personId)],
);

/** What was read off one motion on one rig; every version with the same motion on the same rig shares it. */
export const readings = mysqlTable(
  'readings',
  {
    id: id(),
    motionHash: hash('motion_hash').notNull(),
    rigId: ref('rig_id').notNull(),
    facts: jsonText<Facts>()('facts').notNull(),
    strip: longblob('strip').notNull(),
    /** What its poses and its course are like, for search by similarity; empty where it was not read. */
    descriptor: signedBytes(255)('descriptor').notNull().default(sql`''`),
    /** Poses it passes through, for search by pose; empty where they were not read. */
    poses: bytes2048('poses').notNull().default(sql`''`),
    /** What it asks of a body, for fit scores; empty where it was not read. */
    sketch: longblob('sketch').notNull(),
    createdAt: made(),
  },
  (t) => [uniqueIndex('readings_motion_rig').on(t.motionHash, t.rigId), index('readings_rig').on(t.rigId)],
);

export const itemVersions = mysqlTable(
  'item_versions',
  {
    id: id(),
    itemId: ref('item_id').notNull(),
    number: int('number').notNull(),
    readingId: ref('reading_id').notNull(),
    provenance: jsonText<Provenance>()('provenance').notNull(),
    /** Parts of the body it holds, where not all of it. */
    parts: jsonText<string[]>()('parts').notNull().default(sql`'[]'`),
    /** File of the keys that the motion was made of; null for one that is samples alone. */
    keysHash: char('keys_hash', { length: 64 }),
    note: varchar('note', { length: 500 }).notNull().default(''),
    createdBy: ref('created_by'),
    createdAt: made(),
  },
  (t) => [uniqueIndex('versions_item_number').on(t.itemId, t.number), index('versions_reading').on(t.readingId)],
);

export const tags = mysqlTable(
  'tags',
  {
    id: id(),
    name: varchar('name', { length: 80 }).notNull(),
    colour: varchar('colour', { length: 16 }).notNull().default('plain').$type<TagColour>(),
    /** Other words under which it is found. */
    synonyms: jsonText<string[]>()('synonyms').notNull().default(sql`'[]'`),
  },
  (t) => [uniqueIndex('tags_name').on(t.name)],
);

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
    /** A bare skeleton has none. */
    assets: jsonText<Assets>()('assets').notNull().default(sql`'{}'`),
    /** Height of the ground in the rest pose, metres. */
    floorM: double('floor_m'),
    /** How thick its skin is about its joints; null where there is none, or none was measured. */
    skin: jsonText<SkinJson>()('skin'),
    heightM: double('height_m').notNull(),
    vertexCount: int('vertex_count').notNull().default(0),
    /** The cast member it is a copy of. */
    variantOf: ref('variant_of'),
    createdBy: ref('created_by'),
    createdAt: made(),
    binnedAt: datetime('binned_at', { mode: 'date', fsp: 3 }),
  },
  (t) => [index('cast_rig').on(t.rigId), index('cast_name').on(t.name)],
);

/** A report that stays: one row for every file brought in, good or refused. */
export const intakes = mysqlTable(
  'intakes',
  {
    id: id(),
    personId: ref('person_id').notNull(),
    fileName: varchar('file_name', { length: 300 }).notNull(),
    bytes: double('bytes').notNull(),
    /** SHA-256 of the file, by which the same file is known again. */
    fileHash: hash('file_hash'),
    jobId: ref('job_id'),
    state: varchar('state', { length: 16 }).notNull().$type<'done' | 'refused'>(),
    /** What is wrong and what to do, for a refused file. */
    message: varchar('message', { length: 1000 }).notNull().default(''),
    code: varchar('code', { length: 40 }).notNull().default(''),
    result: jsonText<IntakeResult>()('result').notNull(),
    createdAt: made(),
  },
  (t) => [
    index('intakes_created').on(t.createdAt),
    index('intakes_file').on(t.fileHash),
    index('intakes_job').on(t.jobId),
  ],
);

/**
 * Everything that was done, in order: history of an item, list of activity, undo, and the feed that every process and
 * every open page follows.
 */
export const changes = mysqlTable(
  'changes',
  {
    seq: bigint('seq', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    subject: varchar('subject', { length: 16 }).notNull().$type<Subject>(),
    subjectId: ref('subject_id').notNull(),
    /** Changes made by one action share it, and are undone together. */
    groupId: ref('group_id').notNull(),
    personId: ref('person_id').notNull(),
    action: varchar('action', { length: 40 }).notNull(),
    /** One sentence: "Renamed Haul 1 to Haul, calm". */
    label: varchar('label', { length: 300 }).notNull().default(''),
    /** Fields before and after, where fields were changed. */
    before: jsonText<Record<string, unknown>>()('before'),
    after: jsonText<Record<string, unknown>>()('after'),
    at: stamp('at'),
  },
  (t) => [
    index('changes_subject').on(t.subject, t.subjectId, t.seq),
    index('changes_group').on(t.groupId),
    index('changes_person').on(t.personId, t.seq),
    index('changes_at').on(t.at),
  ],
);
export type Subject =
  | 'item'
  | 'folder'
  | 'tag'
  | 'cast'
  | 'rig'
  | 'person'
  | 'token'
  | 'job'
  | 'right'
  | 'search'
  | 'field'
  | 'fitting'
  | 'reel'
  | 'play'
  | 'posefield'
  | 'profile'
  | 'destination';

/** Who looks at what; a row is good for half a minute. */
export const presence = mysqlTable(
  'presence',
  {
    clientId: varchar('client_id', { length: 24 }).primaryKey(),
    personId: ref('person_id').notNull(),
    subjectId: ref('subject_id'),
    /** Where the playhead of that page stands, where it has one. */
    frame: int('frame'),
    at: stamp('at'),
  },
  (t) => [index('presence_at').on(t.at)],
);

/** Long work. Its parts are done one by one, by any number of workers. */
export const jobs = mysqlTable(
  'jobs',
  {
    id: id(),
    kind: varchar('kind', { length: 16 }).notNull().$type<JobKind>(),
    title: varchar('title', { length: 200 }).notNull(),
    personId: ref('person_id').notNull(),
    /** collecting: files still arrive; queued: workers take parts; done: no part is left. */
    state: varchar('state', { length: 16 }).notNull().$type<JobState>(),
    order: jsonText<Record<string, unknown>>()('order').notNull(),
    createdAt: made(),
    startedAt: moment('started_at'),
    /** When a part of it was taken last: whoever has waited longest is next. */
    servedAt: moment('served_at'),
    endedAt: moment('ended_at'),
  },
  (t) => [
    index('jobs_state').on(t.state),
    index('jobs_created').on(t.createdAt),
    index('jobs_served').on(t.personId, t.servedAt),
  ],
);

export const jobParts = mysqlTable(
  'job_parts',
  {
    id: id(),
    jobId: ref('job_id').notNull(),
    number: int('number').notNull(),
    /** waiting: what it needs has not come yet. */
    state: varchar('state', { length: 16 }).notNull().$type<PartState>(),
    name: varchar('name', { length: 400 }).notNull(),
    bytes: double('bytes').notNull().default(0),
    payload: jsonText<Record<string, unknown>>()('payload').notNull(),
    message: varchar('message', { length: 1000 }).notNull().default(''),
    result: jsonText<Record<string, unknown>>()('result'),
    worker: varchar('worker', { length: 60 }),
    /** Another worker may take it from then on. */
    leaseUntil: moment('lease_until'),
    attempts: int('attempts').notNull().default(0),
    endedAt: moment('ended_at'),
  },
  (t) => [
    uniqueIndex('job_parts_number').on(t.jobId, t.number),
    index('job_parts_state').on(t.state, t.leaseUntil),
    index('job_parts_job_state').on(t.jobId, t.state),
    index('job_parts_name').on(t.name),
  ],
);

/** Bytes of files on their way in, until a worker has read them. */
export const uploads = mysqlTable('uploads', {
  hash: hash('hash').primaryKey(),
  bytes: longblob('bytes').notNull(),
  createdAt: made(),
});

/** The account at a supplier that this library fetches from; the key is sealed. */
export const supplierLinks = mysqlTable('supplier_links', {
  address: varchar('address', { length: 190 }).primaryKey(),
  sealedKey: varchar('sealed_key', { length: 600 }).notNull(),
  /** Whether what is owned comes in by itself. */
  byItself: boolean('by_itself').notNull().default(false),
  linkedBy: ref('linked_by').notNull(),
  createdAt: made(),
});

/** Which take of a supplier is which item, and in which issue: none comes in twice. */
export const supplied = mysqlTable(
  'supplied',
  {
    address: varchar('address', { length: 190 }).notNull(),
    takeId: varchar('take_id', { length: 60 }).notNull(),
    /** 0 while it is being taken in. */
    issue: int('issue').notNull(),
    itemId: ref('item_id'),
    takenAt: moment('taken_at'),
  },
  (t) => [primaryKey({ columns: [t.address, t.takeId] }), index('supplied_item').on(t.itemId)],
);

/** How well a reading suits a body, 0 … 100; worked out once for every pair. */
export const fitScores = mysqlTable(
  'fit_scores',
  {
    /** SHA-256 of the body's profile. */
    profile: hash('profile').notNull(),
    readingId: ref('reading_id').notNull(),
    score: tinyint('score', { unsigned: true }).notNull(),
    reasons: jsonText<string[]>()('reasons').notNull(),
  },
  (t) => [primaryKey({ columns: [t.profile, t.readingId] })],
);

/** Pages and the number of the last batch taken of each. */
export type Taken = readonly (readonly [client: string, number: number])[];

/** A fitting under work: one for each source and target, shared by everybody; what comes of it is kept as items. */
export const fittings = mysqlTable(
  'fittings',
  {
    id: id(),
    itemId: ref('item_id').notNull(),
    castId: ref('cast_id').notNull(),
    settings: jsonText<Record<string, unknown>>()('settings').notNull(),
    edits: jsonText<Record<string, unknown>>()('edits').notNull(),
    /** Counts up with every change, so that two editors notice each other. */
    version: int('version').notNull().default(1),
    /** The last batch taken of each page that edits it, newest page last: none is taken twice. */
    taken: jsonText<Taken>()('taken'),
    changedBy: ref('changed_by'),
    changedAt: stamp('changed_at'),
  },
  (t) => [uniqueIndex('fittings_pair').on(t.itemId, t.castId), index('fittings_cast').on(t.castId)],
);

/** Timelines on which cast members get items laid. */
export const reels = mysqlTable(
  'reels',
  {
    id: id(),
    name: varchar('name', { length: 200 }).notNull(),
    content: jsonText<ReelContent>()('content').notNull(),
    /** Counts up with every change. */
    version: int('version').notNull().default(1),
    /** See fittings. */
    taken: jsonText<Taken>()('taken'),
    createdBy: ref('created_by'),
    createdAt: made(),
    changedBy: ref('changed_by'),
    changedAt: stamp('changed_at'),
    binnedAt: moment('binned_at'),
  },
  (t) => [index('reels_changed').on(t.changedAt)],
);

/** Which items lie on which reels: written with the reel, read where an item is looked at. */
export const reelItems = mysqlTable(
  'reel_items',
  { reelId: ref('reel_id').notNull(), itemId: ref('item_id').notNull() },
  (t) => [primaryKey({ columns: [t.reelId, t.itemId] }), index('reel_items_item').on(t.itemId)],
);

/** Play-throughs: states that show items, and ways between them. */
export const plays = mysqlTable(
  'plays',
  {
    id: id(),
    name: varchar('name', { length: 200 }).notNull(),
    content: jsonText<PlayContent>()('content').notNull(),
    /** Counts up with every change. */
    version: int('version').notNull().default(1),
    /** See fittings. */
    taken: jsonText<Taken>()('taken'),
    createdBy: ref('created_by'),
    createdAt: made(),
    changedBy: ref('changed_by'),
    changedAt: stamp('changed_at'),
    binnedAt: moment('binned_at'),
  },
  (t) => [index('plays_changed').on(t.changedAt)],
);

/** Which items are shown by which play-throughs. */
export const playItems = mysqlTable(
  'play_items',
  { playId: ref('play_id').notNull(), itemId: ref('item_id').notNull() },
  (t) => [primaryKey({ columns: [t.playId, t.itemId] }), index('play_items_item').on(t.itemId)],
);

/** The field of poses of each character. */
export const poseFields = mysqlTable('pose_fields', {
  castId: ref('cast_id').primaryKey(),
  content: jsonText<FieldContent>()('content').notNull(),
  /** Counts up with every change. */
  version: int('version').notNull().default(0),
  /** See fittings. */
  taken: jsonText<Taken>()('taken'),
  changedBy: ref('changed_by'),
  changedAt: stamp('changed_at'),
});

/** A body map under a name, to be laid on any rig that has its joints. */
export const mapProfiles = mysqlTable('map_profiles', {
  id: id(),
  name: varchar('name', { length: 160 }).notNull(),
  map: jsonText<BodyMapJson>()('map').notNull(),
  createdBy: ref('created_by'),
  createdAt: made(),
});

/** How files are handed over to one place: format and settings under its name. */
export const destinations = mysqlTable(
  'destinations',
  {
    id: id(),
    name: varchar('name', { length: 160 }).notNull(),
    wish: jsonText<ExportWish>()('wish').notNull(),
    createdBy: ref('created_by'),
    createdAt: made(),
    usedAt: moment('used_at'),
  },
  (t) => [uniqueIndex('destinations_name').on(t.name)],
);

/** Links between items that are not told by where they came from. */
export const itemLinks = mysqlTable(
  'item_links',
  {
    fromId: ref('from_id').notNull(),
    toId: ref('to_id').notNull(),
    kind: varchar('kind', { length: 16 }).notNull().$type<'variant' | 'next'>(),
  },
  (t) => [primaryKey({ columns: [t.fromId, t.toId, t.kind] }), index('item_links_to').on(t.toId)],
);
