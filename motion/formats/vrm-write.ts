import { humanoidBones } from '../bodymap/humanoid';
import type { BodyMap } from '../bodymap/slots';
import { MotionError } from '../errors';
import { type GlbContent, writeGlb } from './gltf-write';

/** What a VRM says of itself besides. */
export interface VrmMeta {
  readonly name: string;
  readonly authors: readonly string[];
}

/** Bones without which a humanoid is none. Source: VRM 1.0, VRMC_vrm humanoid. */
const NEEDED = [
  'hips',
  'spine',
  'head',
  ...['left', 'right'].flatMap((s) =>
    ['UpperLeg', 'LowerLeg', 'Foot', 'UpperArm', 'LowerArm', 'Hand'].map((b) => s + b),
  ),
];

/**
 * Writes a character as VRM 1.0: a GLB whose joints a table of humanoid bones names, by the body map.
 * @throws MotionError 'unmappable' where bones are missing that a humanoid needs
 */
export async function writeVrm(content: Omit<GlbContent, 'clips'>, map: BodyMap, meta: VrmMeta): Promise<Uint8Array> {
  const bones = humanoidBones(map);
  const missing = NEEDED.filter((b) => !bones.has(b));
  if (missing.length > 0)
    throw new MotionError('unmappable', `A humanoid needs ${missing.join(', ')}: nothing on the body map plays that.`);
  const humanBones = Object.fromEntries([...bones].map(([bone, joint]) => [bone, { node: joint }]));
  const vrm = {
    specVersion: '1.0',
    meta: {
      name: meta.name,
      authors: meta.authors.length > 0 ? [...meta.authors] : ['not named'],
      licenseUrl: 'https://vrm.dev/licenses/1.0/',
      avatarPermission: 'onlyAuthor',
      commercialUsage: 'personalNonProfit',
      creditNotation: 'required',
      modification: 'prohibited',
    },
    humanoid: { humanBones },
  };
  // joints are the first nodes of what is written, in the rig's order
  return withExtension(await writeGlb(content), 'VRMC_vrm', vrm);
}

/**
 * Writes a motion as VRM animation (VRMA 1.0): joints and their tracks, with the same table of bones. It has no mesh.
 * @throws MotionError 'unmappable' where the hips are on no joint
 */
export async function writeVrma(content: Omit<GlbContent, 'figure'>, map: BodyMap): Promise<Uint8Array> {
  const bones = humanoidBones(map);
  if (!bones.has('hips')) throw new MotionError('unmappable', 'A VRM animation needs the hips on the body map.');
  const humanBones = Object.fromEntries([...bones].map(([bone, joint]) => [bone, { node: joint }]));
  return withExtension(await writeGlb(content), 'VRMC_vrm_animation', { specVersion: '1.0', humanoid: { humanBones } });
}

const JSON_CHUNK = 0x4e4f534a;

/** A GLB with one more extension at its root. */
function withExtension(glb: Uint8Array, name: string, value: object): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))) as {
    extensionsUsed?: string[];
    extensions?: Record<string, unknown>;
  };
  json.extensionsUsed = [...(json.extensionsUsed ?? []), name];
  json.extensions = { ...json.extensions, [name]: value };
  const text = new TextEncoder().encode(JSON.stringify(json));
  const padded = Math.ceil(text.length / 4) * 4;
  const rest = glb.subarray(20 + length);
  const out = new Uint8Array(20 + padded + rest.length);
  out.set(glb.subarray(0, 12));
  out.fill(0x20, 20, 20 + padded);
  out.set(text, 20);
  out.set(rest, 20 + padded);
  const head = new DataView(out.buffer);
  head.setUint32(8, out.length, true);
  head.setUint32(12, padded, true);
  head.setUint32(16, JSON_CHUNK, true);
  return out;
}
