// Made-up rows as the server would answer them, each with what a test does not care about filled in.
import type { CastMember, Folder, Item, Job, JobPart, PersonRow } from '../contract';

let last = 0;

export function item(more: Partial<Item> = {}): Item {
  const id = more.id ?? `item${++last}`;
  return {
    id,
    name: 'Deck walk',
    kind: 'clip',
    note: '',
    heading: '',
    folderId: null,
    tags: [],
    rating: 0,
    favourite: false,
    rights: 'own',
    source: '',
    madeFor: null,
    madeForName: null,
    bound: false,
    props: [],
    fields: {},
    derivedFrom: null,
    stillHash: null,
    versionId: `v-${id}`,
    version: 1,
    versions: 1,
    members: 0,
    packs: [],
    readingId: `r-${id}`,
    motionHash: 'a'.repeat(64),
    keysHash: null,
    rigId: 'rig1',
    facts: {
      frameCount: 65,
      fps: 30,
      durationS: 65 / 30,
      travelM: 2.4,
      inPlace: false,
      loops: false,
      seamDeg: 12,
      turnDeg: 4,
      steps: 4,
      tempo: 104,
      noiseDeg: 0,
      support: { left: 0.5, right: 0.48 },
    } as unknown as Item['facts'],
    parts: ['legs', 'arms'],
    revision: 1,
    provenance: { how: 'intake', file: 'Deck walk.bvh', clip: '', format: 'bvh', bytes: 1000 },
    createdBy: 'me',
    createdByName: 'Ilse',
    createdAt: '2026-11-20T10:00:00.000Z',
    updatedAt: '2026-11-20T10:00:00.000Z',
    binnedAt: null,
    ...more,
  };
}

export const member = (more: Partial<CastMember> = {}): CastMember => ({
  id: 'winch',
  name: 'Winch',
  note: '',
  rigId: 'rig-winch',
  assets: {},
  floorM: 0,
  skin: null,
  heightM: 1.4,
  vertexCount: 1200,
  jointCount: 52,
  restKind: 'T',
  found: { up: 'y', forward: 'z', metersPerUnit: 1, reasons: [] } as unknown as CastMember['found'],
  map: { slots: {}, chains: [] } as unknown as CastMember['map'],
  variantOf: null,
  binnedAt: null,
  ...more,
});

export const folder = (more: Partial<Folder> = {}): Folder => ({
  id: 'f1',
  parentId: null,
  name: 'Harbour',
  restricted: false,
  hidden: false,
  n: 3,
  open: true,
  ...more,
});

export const job = (more: Partial<Job> = {}): Job => ({
  id: 'job1',
  kind: 'intake',
  title: 'night',
  state: 'queued',
  personId: 'me',
  personName: 'Ilse',
  createdAt: '2026-11-20T10:00:00.000Z',
  startedAt: '2026-11-20T10:00:01.000Z',
  endedAt: null,
  order: {},
  counts: { waiting: 0, ready: 0, running: 0, done: 0, refused: 0, cancelled: 0 },
  leftS: null,
  ...more,
});

export const part = (more: Partial<JobPart> = {}): JobPart => ({
  id: `part${++last}`,
  number: last,
  state: 'done',
  name: 'Deck walk',
  bytes: 10,
  message: '',
  result: null,
  ...more,
});

export const personRow = (more: Partial<PersonRow> = {}): PersonRow => ({
  id: 'me',
  name: 'Ilse',
  email: 'ilse@ferry.example',
  role: 'admin',
  left: false,
  secondFactor: null,
  createdAt: '2026-11-20T10:00:00.000Z',
  ...more,
});
