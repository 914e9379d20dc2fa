import { POSE_RECORD } from '@velvet-reel/motion';
import { type Bits, clearBit, newBits, setBit } from './bits';
import { plain, tokensOf, WordIndex } from './words';

/** One item as the catalogue takes it in. */
export interface CatalogueItem {
  id: string;
  kind: string;
  name: string;
  note: string;
  heading: string;
  folderId: string | null;
  tags: readonly string[];
  by: string | null;
  madeFor: string | null;
  rights: string;
  rating: number;
  binned: boolean;
  createdAt: number;
  updatedAt: number;
  frames: number;
  fps: number;
  durationS: number;
  travelM: number;
  inPlace: boolean;
  loops: boolean;
  tempo: number;
  /** Share of frames each foot is held. */
  left: number;
  right: number;
  parts: readonly string[];
  readingId: string;
  descriptor: Int8Array;
  /** Records of poses, see describePoses. */
  poses: Uint8Array;
}

/** Numbers for names, both ways. */
export class Names {
  readonly list: string[] = [];
  private readonly numbers = new Map<string, number>();

  number(name: string): number {
    let n = this.numbers.get(name);
    if (n === undefined) {
      n = this.list.length;
      this.list.push(name);
      this.numbers.set(name, n);
    }
    return n;
  }

  /** The number of a name that is known, −1 for others. */
  find(name: string): number {
    return this.numbers.get(name) ?? -1;
  }
}

export const PARTS = ['spine', 'neck', 'head', 'collars', 'arms', 'hands', 'fingers', 'legs', 'feet', 'toes', 'face'];
export const IN_PLACE = 1;
export const LOOPS = 2;
export const UNNAMED = 4;

/** Names that a tool gave, not a person. */
const DEFAULT_NAME =
  /^(take|clip|untitled|unnamed|new|copy|animation|motion|anim|mocap|export)?[\s_.-]*\d*$|^\d[\d\s_.-]*$/i;
export const isDefaultName = (name: string): boolean => DEFAULT_NAME.test(name.trim());

const LENGTHS = [2, 5, 15, 60];
export const LENGTH_BANDS = ['brief', 'short', 'medium', 'long', 'very-long'];
export const lengthBand = (seconds: number): number => LENGTHS.filter((x) => seconds >= x).length;
export const TEMPO_BANDS = ['still', 'slow', 'walking', 'quick'];
export const tempoBand = (tempo: number): number => (tempo === 0 ? 0 : tempo < 80 ? 1 : tempo < 140 ? 2 : 3);
export const SUPPORTS = ['left', 'right', 'both', 'none'];
/** On which foot it stands for most of the time. */
export const supportOf = (left: number, right: number): number => {
  const [l, r] = [left > 0.5, right > 0.5];
  return l && r ? 2 : l ? 0 : r ? 1 : 3;
};

/**
 * All items in columns, one row each. Rows are only added: a changed item gets a new row and its old one dies, so that
 * everything that points at rows stays in growing order. Numbers count rows, bytes are one a row unless told otherwise.
 */
export class Rows {
  count = 0;
  private room = 0;
  readonly ids: string[] = [];
  readonly names: string[] = [];
  /** What words in quotes are looked for in. */
  readonly texts: string[] = [];
  readonly readings: string[] = [];
  readonly tags: (readonly number[])[] = [];
  kind = new Uint8Array(0);
  folder = new Int32Array(0);
  by = new Int32Array(0);
  madeFor = new Int32Array(0);
  rights = new Uint8Array(0);
  rating = new Uint8Array(0);
  flags = new Uint8Array(0);
  lengths = new Uint8Array(0);
  tempos = new Uint8Array(0);
  supports = new Uint8Array(0);
  parts = new Uint16Array(0);
  frames = new Uint32Array(0);
  rate = new Uint16Array(0);
  duration = new Float32Array(0);
  travel = new Float32Array(0);
  created = new Float64Array(0);
  updated = new Float64Array(0);
  /** [row][width] signed bytes. */
  descriptors = new Int8Array(0);
  described = new Uint8Array(0);
  /** Records of all rows, POSE_RECORD bytes each, one row's after the other's. */
  poses = new Uint8Array(0);
  private posesUsed = 0;
  /** First byte of a row's records, and how many there are. */
  poseStart = new Uint32Array(0);
  poseCount = new Uint8Array(0);
  alive: Bits = newBits(0);
  binned: Bits = newBits(0);
  readonly rowOf = new Map<string, number>();
  readonly words = new WordIndex();
  readonly kinds = new Names();
  readonly folders = new Names();
  readonly people = new Names();
  readonly cast = new Names();
  readonly rightsKinds = new Names();
  readonly tagNames = new Names();
  /** Share of rows that are dead. */
  dead = 0;

  constructor(readonly width: number) {}

  /** Adds an item, or puts it in place of what was there. */
  put(item: CatalogueItem): number {
    this.remove(item.id);
    const row = this.count++;
    if (this.count > this.room) this.grow(Math.max(1024, 2 * this.room));
    this.ids.push(item.id);
    this.names.push(item.name);
    this.texts.push(plain(`${item.name}\n${item.note}\n${item.heading}`));
    this.readings.push(item.readingId);
    this.tags.push(item.tags.map((t) => this.tagNames.number(t)));
    this.kind[row] = this.kinds.number(item.kind);
    this.folder[row] = item.folderId === null ? -1 : this.folders.number(item.folderId);
    this.by[row] = item.by === null ? -1 : this.people.number(item.by);
    this.madeFor[row] = item.madeFor === null ? -1 : this.cast.number(item.madeFor);
    this.rights[row] = this.rightsKinds.number(item.rights);
    this.rating[row] = item.rating;
    this.flags[row] =
      (item.inPlace ? IN_PLACE : 0) | (item.loops ? LOOPS : 0) | (isDefaultName(item.name) ? UNNAMED : 0);
    this.lengths[row] = lengthBand(item.durationS);
    this.tempos[row] = tempoBand(item.tempo);
    this.supports[row] = supportOf(item.left, item.right);
    let parts = 0;
    for (const p of item.parts) {
      const k = PARTS.indexOf(p);
      if (k >= 0) parts |= 1 << k;
    }
    this.parts[row] = parts;
    this.frames[row] = item.frames;
    this.rate[row] = Math.min(65535, Math.round(item.fps));
    this.duration[row] = item.durationS;
    this.travel[row] = item.travelM;
    this.created[row] = item.createdAt;
    this.updated[row] = item.updatedAt;
    if (item.descriptor.length === this.width) {
      this.descriptors.set(item.descriptor, row * this.width);
      this.described[row] = 1;
    }
    this.putPoses(row, item.poses);
    setBit(this.alive, row);
    if (item.binned) setBit(this.binned, row);
    this.rowOf.set(item.id, row);
    this.words.add(row, [...tokensOf(this.texts[row]!), ...item.tags.flatMap(tokensOf), ...tokensOf(item.kind)]);
    return row;
  }

  /** The tags of what lies beside some folders. */
  tagsBeside(folders: ReadonlySet<string>): string[] {
    const shut = new Set([...folders].map((f) => this.folders.find(f)));
    const told = new Set<number>();
    for (const row of this.rowOf.values()) {
      const folder = this.folder[row]!;
      if (folder < 0 || !shut.has(folder)) for (const t of this.tags[row]!) told.add(t);
    }
    return [...told].map((t) => this.tagNames.list[t]!);
  }

  remove(id: string): void {
    const row = this.rowOf.get(id);
    if (row === undefined) return;
    clearBit(this.alive, row);
    this.rowOf.delete(id);
    this.dead++;
  }

  private putPoses(row: number, poses: Uint8Array): void {
    const count = Math.min(255, Math.floor(poses.length / POSE_RECORD));
    const size = count * POSE_RECORD;
    if (this.posesUsed + size > this.poses.length) {
      const wider = new Uint8Array(Math.max(64 * POSE_RECORD, 2 * (this.posesUsed + size)));
      wider.set(this.poses.subarray(0, this.posesUsed));
      this.poses = wider;
    }
    this.poses.set(poses.subarray(0, size), this.posesUsed);
    this.poseStart[row] = this.posesUsed;
    this.poseCount[row] = count;
    this.posesUsed += size;
  }

  private grow(room: number): void {
    const wider = <T extends { set(a: T): void }>(old: T, make: new (n: number) => T, width = 1): T => {
      const out = new make(room * width);
      out.set(old);
      return out;
    };
    this.kind = wider(this.kind, Uint8Array);
    this.folder = wider(this.folder, Int32Array);
    this.by = wider(this.by, Int32Array);
    this.madeFor = wider(this.madeFor, Int32Array);
    this.rights = wider(this.rights, Uint8Array);
    this.rating = wider(this.rating, Uint8Array);
    this.flags = wider(this.flags, Uint8Array);
    this.lengths = wider(this.lengths, Uint8Array);
    this.tempos = wider(this.tempos, Uint8Array);
    this.supports = wider(this.supports, Uint8Array);
    this.parts = wider(this.parts, Uint16Array);
    this.frames = wider(this.frames, Uint32Array);
    this.rate = wider(this.rate, Uint16Array);
    this.duration = wider(this.duration, Float32Array);
    this.travel = wider(this.travel, Float32Array);
    this.created = wider(this.created, Float64Array);
    this.updated = wider(this.updated, Float64Array);
    this.descriptors = wider(this.descriptors, Int8Array, this.width);
    this.described = wider(this.described, Uint8Array);
    this.poseStart = wider(this.poseStart, Uint32Array);
    this.poseCount = wider(this.poseCount, Uint8Array);
    const bits = newBits(room);
    bits.set(this.alive);
    this.alive = bits;
    const binned = newBits(room);
    binned.set(this.binned);
    this.binned = binned;
    this.room = room;
  }
}
