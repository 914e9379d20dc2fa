// What the server's answers look like in the browser: dates come as text.

import type { BodyMapJson, Facts, FoundSpace, Limits, RigJson, SkinJson } from '@velvet-reel/motion';
import type { ItemKind } from '@/kinds/kinds';
import type { ExportFormat } from '@/workers/export-formats';
import type { FitEdits, FitSettings } from '@/workers/wishes';

export type { ItemKind } from '@/kinds/kinds';
export const KINDS: readonly ItemKind[] = ['pose', 'clip', 'cycle', 'take'];
export type Rights = 'unknown' | 'own' | 'licensed' | 'free';
export const RIGHTS_WORDS: Readonly<Record<Rights, string>> = {
  unknown: 'rights not known',
  own: 'our own',
  licensed: 'licensed',
  free: 'free for any use',
};

export interface NeededProp {
  name: string;
  heightM: number | null;
}

export interface Item {
  id: string;
  name: string;
  kind: ItemKind;
  note: string;
  heading: string;
  folderId: string | null;
  tags: string[];
  rating: number;
  favourite: boolean;
  rights: Rights;
  source: string;
  madeFor: string | null;
  madeForName: string | null;
  props: NeededProp[];
  fields: Record<string, string | number | boolean>;
  derivedFrom: string | null;
  stillHash: string | null;
  versionId: string;
  version: number;
  versions: number;
  members: number;
  packs: { id: string; name: string }[];
  readingId: string;
  motionHash: string;
  rigId: string;
  facts: Facts;
  parts: string[];
  provenance:
    | { how: 'intake'; file: string; clip: string; format: string; bytes: number }
    | {
        how: 'fitting';
        sourceItem: string;
        sourceName: string;
        character: string;
        characterName: string;
        settings: FitSettings;
        edits?: FitEdits;
      }
    | { how: 'change'; sourceItem: string; sourceName: string; words: string[] };
  createdBy: string | null;
  createdByName: string | null;
  createdAt: string;
  updatedAt: string;
  binnedAt: string | null;
}

export type Facets = Partial<Record<string, { value: string; n: number }[]>>;

export interface ItemList {
  items: Item[];
  found: number;
  total: number;
  facets: Facets | null;
  guessed: { word: string; meant: string[] }[];
  scores: Record<string, number>;
}

export interface ItemChange {
  name?: string;
  note?: string;
  heading?: string;
  kind?: ItemKind;
  folder?: string;
  tags?: string[];
  addTags?: string[];
  removeTags?: string[];
  rating?: number;
  rights?: Rights;
  source?: string;
  madeFor?: string | null;
  props?: NeededProp[];
  fields?: Record<string, string | number | boolean>;
  binned?: boolean;
  stillHash?: string | null;
}

export interface Edit {
  id: string;
  change: ItemChange;
  expected?: ItemChange;
}

export interface Conflict {
  id: string;
  name: string;
  field: string;
  theirs: unknown;
  yours: unknown;
}

export interface Version {
  id: string;
  number: number;
  current: boolean;
  readingId: string;
  motionHash: string;
  rigId: string;
  frames: number;
  fps: number;
  note: string;
  byName: string | null;
  createdAt: string;
}

export interface HistoryEntry {
  seq: number;
  groupId: string;
  personName: string;
  action: string;
  label: string;
  before: Record<string, unknown> | null;
  after: Record<string, unknown> | null;
  at: string;
}

export interface ActivityEntry {
  seq: number;
  groupId: string;
  personId: string;
  personName: string;
  subject: string;
  action: string;
  label: string;
  at: string;
  subjects: { id: string; name: string }[];
  count: number;
}

export interface Tag {
  id: string;
  name: string;
  colour: 'plain' | 'brass' | 'verdigris' | 'terracotta' | 'raspberry' | 'slate';
  synonyms: string[];
  n: number;
}

export interface CustomField {
  id: string;
  name: string;
  type: 'text' | 'number' | 'choice' | 'yes';
  options: string[];
}

export interface SavedSearch {
  id: string;
  name: string;
  view: string;
  shared: boolean;
  mine: boolean;
  byName: string | null;
}

export type Role = 'viewer' | 'animator' | 'librarian' | 'admin';

export interface PersonRow {
  id: string;
  name: string;
  email: string | null;
  role: Role;
  left: boolean;
  createdAt: string;
}

export interface Job {
  id: string;
  kind: 'intake' | 'fit' | 'scores' | 'export';
  title: string;
  state: 'collecting' | 'queued' | 'paused' | 'done' | 'cancelled';
  personId: string;
  personName: string | null;
  createdAt: string;
  startedAt: string | null;
  endedAt: string | null;
  counts: Record<'waiting' | 'ready' | 'running' | 'done' | 'refused' | 'cancelled', number>;
  leftS: number | null;
}

export interface JobPart {
  id: string;
  number: number;
  state: string;
  name: string;
  bytes: number;
  message: string;
  result: {
    items?: { id: string; name: string }[];
    cast?: { id: string; name: string }[];
    same?: boolean;
    warnings?: string[];
    report?: {
      score?: number;
      slipCm: number;
      floorCm: number;
      directionDeg: number;
      troubles: number;
      worst: string;
      frame?: number;
    };
    from?: string;
    castId?: string;
  } | null;
}

export interface Present {
  clientId: string;
  personId: string;
  name: string;
  subjectId: string | null;
}

export interface CastMember {
  id: string;
  name: string;
  note: string;
  rigId: string;
  fileHash: string | null;
  floorM: number | null;
  heightM: number;
  vertexCount: number;
  jointCount: number;
  restKind: string;
  found: FoundSpace;
  map: BodyMapJson;
  variantOf: string | null;
  binnedAt: string | null;
}

export interface RigAnswer {
  id: string;
  rig: RigJson;
  map: BodyMapJson;
  mapVersion: number;
  restPose: number[] | null;
  restKind: string;
  heightM: number;
  floorM: number | null;
  skin: SkinJson | null;
  match: { turns: number[]; how: string } | null;
  limits: Limits | null;
  pairs: [string, string][] | null;
  sets: { name: string; joints: string[] }[];
}

export interface FittingDocument {
  settings: FitSettings | null;
  edits: FitEdits | null;
  version: number;
  changedByName: string | null;
}

export interface Freshness {
  reasons: string[];
  possible: boolean;
}

export interface Destination {
  id: string;
  name: string;
  wish: { format: ExportFormat; mesh: boolean; sparse: boolean; folders: boolean; fps: number | null };
}

export interface Folder {
  id: string;
  parentId: string | null;
  name: string;
  restricted: boolean;
  /** Items in the folder itself. */
  n: number;
  /** Whether I may change what lies in it. */
  open: boolean;
}

export interface Counts {
  items: number;
  bin: number;
  cast: number;
}

export interface IntakeRow {
  id: string;
  fileName: string;
  bytes: number;
  state: 'done' | 'refused';
  message: string;
  code: string;
  result: {
    items: { id: string; name: string; frames: number; fps: number }[];
    cast: { id: string; name: string; joints: number }[];
    pack?: { id: string; name: string };
    rigId?: string;
    known: boolean;
    warnings: string[];
    format?: string;
  };
  createdAt: string;
}
