import type { SkeletonRig } from '../rig/rig';
import { ALL_SLOTS, type BodyMap, isSlot, type Slot, type SlotEntry, slotLabel } from './slots';

// Tables of humanoid bones that a glTF file may carry (extensions VRMC_vrm, and VRM of its earlier form).

const CENTRE: Record<string, Slot> = {
  hips: 'hips',
  spine: 'spine1',
  chest: 'spine2',
  upperChest: 'spine3',
  neck: 'neck1',
  head: 'head',
};
const LIMBS: Record<string, string> = {
  Shoulder: 'collar',
  UpperArm: 'upperArm',
  LowerArm: 'forearm',
  Hand: 'hand',
  UpperLeg: 'thigh',
  LowerLeg: 'shin',
  Foot: 'foot',
  Toes: 'toes',
};
const FINGER: Record<string, string> = {
  Thumb: 'thumb',
  Index: 'index',
  Middle: 'middle',
  Ring: 'ring',
  Little: 'pinky',
};
const PHALANX = ['Metacarpal', 'Proximal', 'Intermediate', 'Distal'];

type Loose = Record<string, unknown>;
const object = (v: unknown): Loose => (typeof v === 'object' && v !== null && !Array.isArray(v) ? (v as Loose) : {});

/** Node index of every bone that a file's table names; empty where it has none. */
export function humanoidNodes(json: Loose): Map<string, number> {
  const out = new Map<string, number>();
  const put = (bone: unknown, node: unknown): void => {
    if (typeof bone === 'string' && typeof node === 'number' && Number.isInteger(node) && node >= 0)
      out.set(bone, node);
  };
  const extensions = object(json.extensions);
  const bones = object(object(extensions.VRMC_vrm).humanoid).humanBones;
  for (const [bone, value] of Object.entries(object(bones))) put(bone, object(value).node);
  const old = object(object(extensions.VRM).humanoid).humanBones;
  if (out.size === 0 && Array.isArray(old)) for (const entry of old) put(object(entry).bone, object(entry).node);
  return out;
}

/** Slots of the common body for a table of bones. Fingers are numbered from the knuckle on, as many as there are. */
export function humanoidSlots<T>(bones: ReadonlyMap<string, T>): Map<Slot, T> {
  const out = new Map<Slot, T>();
  const put = (slot: Slot, value: T | undefined): void => {
    if (value !== undefined && isSlot(slot)) out.set(slot, value);
  };
  // a body without a chest of its own numbers its spine from below all the same
  let spine = 0;
  for (const [bone, slot] of Object.entries(CENTRE)) {
    const value = bones.get(bone);
    if (value !== undefined) put(slot.startsWith('spine') ? `spine${++spine}` : slot, value);
  }
  for (const [word, side] of [
    ['left', 'L'],
    ['right', 'R'],
  ] as const) {
    for (const [bone, part] of Object.entries(LIMBS)) put(part + side, bones.get(word + bone));
    for (const [bone, finger] of Object.entries(FINGER)) {
      let k = 0;
      for (const phalanx of PHALANX) {
        const value = bones.get(word + bone + phalanx);
        if (value !== undefined) put(`${finger}${++k}${side}`, value);
      }
    }
  }
  return out;
}

/** Joints by the bones' names that such tables use: the reverse of humanoidSlots. Of a long spine its lower three joints count. */
export function humanoidBones(map: BodyMap): Map<string, number> {
  const out = new Map<string, number>();
  const put = (bone: string, slot: Slot): void => {
    const joint = map.slots[slot]?.joint ?? -1;
    if (joint >= 0) out.set(bone, joint);
  };
  for (const [bone, slot] of Object.entries(CENTRE)) put(bone, slot);
  for (const [word, side] of [
    ['left', 'L'],
    ['right', 'R'],
  ] as const) {
    for (const [bone, part] of Object.entries(LIMBS)) put(word + bone, part + side);
    for (const [bone, finger] of Object.entries(FINGER)) {
      const phalanges =
        finger === 'thumb' ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal'];
      for (const [k, phalanx] of phalanges.entries()) put(word + bone + phalanx, `${finger}${k + 1}${side}`);
    }
  }
  return out;
}

/** The map with what the file itself says of its joints: all of that is sure, and nothing else takes those joints. */
export function withTold(map: BodyMap, rig: SkeletonRig, told: ReadonlyMap<Slot, string>): BodyMap {
  const joints = new Map([...told].map(([slot, name]) => [slot, rig.names.indexOf(name)]));
  const taken = new Set([...joints.values()].filter((j) => j >= 0));
  if (taken.size === 0) return map;
  const slots: Record<Slot, SlotEntry> = {};
  for (const [slot, entry] of Object.entries(map.slots)) {
    // spine and fingers are chains: what the table tells of one stands for the whole
    const chain = /^(spine|neck|thumb|index|middle|ring|pinky)/.exec(slot)?.[0];
    const ruled = chain && [...joints.keys()].some((s) => s.startsWith(chain) && s.slice(-1) === slot.slice(-1));
    if (taken.has(entry.joint) || (ruled && !joints.has(slot))) continue;
    slots[slot] = entry;
  }
  for (const [slot, entry] of Object.entries(map.slots))
    if (
      !slots[slot] &&
      !joints.has(slot) &&
      /^(hips|head|spine1|neck1|collar|upperArm|forearm|hand|thigh|shin|foot|toes)/.test(slot)
    )
      slots[slot] = {
        joint: -1,
        state: 'missing',
        why: entry.joint >= 0 ? 'the file gives its joint to another part' : entry.why,
      };
  for (const [slot, joint] of joints)
    if (joint >= 0)
      slots[slot] = { joint, state: 'sure', why: `the file’s own table of bones says ${slotLabel(slot)}` };
  const ordered = ALL_SLOTS.filter((s) => slots[s]).map((s): [Slot, SlotEntry] => [s, slots[s]!]);
  return { slots: Object.fromEntries(ordered), warnings: map.warnings };
}
