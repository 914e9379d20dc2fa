export type Side = 'L' | 'R';
export type SlotState = 'sure' | 'guessed' | 'missing' | 'empty';

export const MAX_SPINE = 8;
export const MAX_NECK = 3;
export const LIMB_PARTS = ['collar', 'upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot', 'toes'] as const;
export type LimbPart = (typeof LIMB_PARTS)[number];
export const FINGERS = ['thumb', 'index', 'middle', 'ring', 'pinky'] as const;
export const TWIST_PARTS = ['upperArm', 'forearm', 'thigh', 'shin'] as const;
/** The long bones of the limbs, each with the part at its end. */
export const LONG_BONES = [
  ['upperArm', 'forearm'],
  ['forearm', 'hand'],
  ['thigh', 'shin'],
  ['shin', 'foot'],
] as const;
export const SIDES: readonly Side[] = ['L', 'R'];

/** A slot of the common body, for instance hips, spine2, upperArmL, index1R, forearmTwist1L. */
export type Slot = string;

const numbered = (stem: string, count: number): Slot[] => Array.from({ length: count }, (_, i) => `${stem}${i + 1}`);

export const CENTRE_SLOTS: readonly Slot[] = [
  'hips',
  ...numbered('spine', MAX_SPINE),
  ...numbered('neck', MAX_NECK),
  'head',
];
/** Slots of arm and leg of a side, from the body outwards. */
export const limbSlots = (side: Side): Slot[] => LIMB_PARTS.map((part) => part + side);
/** Slots of all fingers of a side, three a finger. */
export const fingerSlots = (side: Side): Slot[] =>
  FINGERS.flatMap((finger) => numbered(finger, 3).map((s) => s + side));
/** Slots of the twist joints of a side, four a bone at most. */
export const twistSlots = (side: Side): Slot[] =>
  TWIST_PARTS.flatMap((part) => numbered(`${part}Twist`, 4).map((s) => s + side));

/** Every slot there is, in the order in which they are shown. */
export const ALL_SLOTS: readonly Slot[] = [
  ...CENTRE_SLOTS,
  ...SIDES.flatMap(limbSlots),
  ...SIDES.flatMap(fingerSlots),
  ...SIDES.flatMap(twistSlots),
];
const KNOWN = new Set(ALL_SLOTS);
/** Whether the common body has a slot of that name. */
export const isSlot = (name: string): boolean => KNOWN.has(name);

/** Slots a person always has: reported as missing when no joint is found. Others are only listed when filled. */
export const CORE_SLOTS: readonly Slot[] = ['hips', 'spine1', 'neck1', 'head', ...SIDES.flatMap(limbSlots)];

/** Side of a slot; undefined for those in the middle. */
export function sideOfSlot(slot: Slot): Side | undefined {
  return slot.endsWith('L') ? 'L' : slot.endsWith('R') ? 'R' : undefined;
}

/** The same slot on the other side; centre slots are their own partner. */
export function mirrorSlot(slot: Slot): Slot {
  const side = sideOfSlot(slot);
  return side ? slot.slice(0, -1) + (side === 'L' ? 'R' : 'L') : slot;
}

/** A slot in words: "upper arm L", "spine 2". */
export function slotLabel(slot: Slot): string {
  const side = sideOfSlot(slot);
  const stem = side ? slot.slice(0, -1) : slot;
  const words = stem
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/(\d+)/g, ' $1')
    .toLowerCase();
  return side ? `${words} ${side}` : words;
}

export interface SlotEntry {
  /** Joint index, −1 where there is none. */
  readonly joint: number;
  readonly state: SlotState;
  /** Why it is so, in words. */
  readonly why: string;
}

/** Which joint of one rig plays which slot of the common body. */
export interface BodyMap {
  readonly slots: Readonly<Record<Slot, SlotEntry>>;
  readonly warnings: readonly string[];
}

/** Joint of a slot, −1 where the map holds none. */
export const jointOf = (map: Pick<BodyMap, 'slots'>, slot: Slot): number => map.slots[slot]?.joint ?? -1;

/** Joints of a numbered chain in order, e.g. chainOf(map, 'spine'). */
export function chainOf(map: BodyMap, stem: string, side = ''): number[] {
  const out: number[] = [];
  for (let i = 1; i <= MAX_SPINE; i++) {
    const j = jointOf(map, `${stem}${i}${side}`);
    if (j >= 0) out.push(j);
  }
  return out;
}

/** Joints that no slot names, in joint order. */
export function unusedJoints(map: BodyMap, jointCount: number): number[] {
  const used = new Set(Object.values(map.slots).map((s) => s.joint));
  return Array.from({ length: jointCount }, (_, j) => j).filter((j) => !used.has(j));
}

/** The map with one slot set by hand; joint −1 means empty on purpose. A joint serves one slot only. */
export function withSlot(map: BodyMap, slot: Slot, joint: number): BodyMap {
  const slots: Record<Slot, SlotEntry> = {};
  for (const [name, entry] of Object.entries(map.slots)) {
    slots[name] =
      joint >= 0 && entry.joint === joint && name !== slot
        ? { joint: -1, state: 'missing', why: `its joint now belongs to ${slotLabel(slot)}` }
        : entry;
  }
  slots[slot] =
    joint >= 0 ? { joint, state: 'sure', why: 'set by hand' } : { joint: -1, state: 'empty', why: 'empty on purpose' };
  return { ...map, slots };
}

/** How many slots are sure, guessed, missing, and empty on purpose. */
export function countStates(map: BodyMap): Record<SlotState, number> {
  const counts: Record<SlotState, number> = { sure: 0, guessed: 0, missing: 0, empty: 0 };
  for (const entry of Object.values(map.slots)) counts[entry.state]++;
  return counts;
}
