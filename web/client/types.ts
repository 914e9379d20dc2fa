// What the server's answers look like in the browser: dates come as text.
import type { BodyMapJson, Facts, FoundSpace, RigJson } from '@velvet-reel/motion';
import type { FitSettings } from '@/workers/settings';

export type ItemKind = 'pose' | 'clip' | 'cycle' | 'take';

export interface Item {
  id: string;
  name: string;
  kind: ItemKind;
  note: string;
  folderId: string | null;
  tags: string[];
  versionId: string;
  version: number;
  motionHash: string;
  rigId: string;
  facts: Facts;
  provenance:
    | { how: 'intake'; file: string; clip: string; format: string; bytes: number }
    | {
        how: 'fitting';
        sourceItem: string;
        sourceName: string;
        character: string;
        characterName: string;
        settings: FitSettings;
      }
    | { how: 'change'; sourceItem: string; sourceName: string; words: string[] };
  createdAt: string;
  binnedAt: string | null;
}

export interface ItemList {
  items: Item[];
  total: number;
}

export interface ItemChange {
  name?: string;
  note?: string;
  kind?: ItemKind;
  folder?: string;
  tags?: string[];
  binned?: boolean;
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
}

export interface Folder {
  id: string;
  parentId: string | null;
  name: string;
}

export interface Counts {
  kinds: { kind: ItemKind; n: number }[];
  tags: { name: string; n: number }[];
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
    rigId?: string;
    known: boolean;
    warnings: string[];
    format?: string;
  };
  createdAt: string;
}
