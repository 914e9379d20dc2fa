import {
  AnimationClip,
  AnimationMixer,
  Bone,
  Group,
  type KeyframeTrack,
  QuaternionKeyframeTrack,
  Skeleton,
  SkinnedMesh,
  VectorKeyframeTrack,
} from 'three';
import { BVHLoader } from 'three/examples/jsm/loaders/BVHLoader.js';
import * as SkeletonUtils from 'three/examples/jsm/utils/SkeletonUtils.js';
import type { Motion, SkeletonRig } from '../motion/index';

// What a general-purpose library gives for the same work, run in the same process as ours.

export const peerParse = (text: string): unknown => new BVHLoader().parse(text);

function bonesOf(rig: SkeletonRig): Bone[] {
  const bones = rig.names.map((name, j) => {
    const bone = new Bone();
    bone.name = name;
    bone.position.fromArray(rig.restT, 3 * j);
    bone.quaternion.fromArray(rig.restR, 4 * j);
    return bone;
  });
  rig.parents.forEach((p, j) => {
    if (p >= 0) bones[p]!.add(bones[j]!);
  });
  return bones;
}

function clipOf(rig: SkeletonRig, motion: Motion, form: (name: string) => string): AnimationClip {
  const n = rig.names.length;
  const times = Float32Array.from({ length: motion.frameCount }, (_, f) => f / motion.fps);
  const tracks: KeyframeTrack[] = rig.names.map((name, j) => {
    const values = new Float32Array(4 * motion.frameCount);
    for (let f = 0; f < motion.frameCount; f++)
      values.set(motion.turns.subarray(4 * (f * n + j), 4 * (f * n + j) + 4), 4 * f);
    return new QuaternionKeyframeTrack(`${form(name)}.quaternion`, times as never, values as never);
  });
  for (const t of motion.places)
    tracks.push(new VectorKeyframeTrack(`${form(rig.names[t.joint]!)}.position`, times as never, t.values as never));
  return new AnimationClip('clip', -1, tracks);
}

/** Steps a mixer through every frame and works out world matrices. */
export function peerKinematics(rig: SkeletonRig, motion: Motion): () => number {
  const root = new Group();
  const bones = bonesOf(rig);
  bones.forEach((b, j) => {
    if (rig.parents[j]! < 0) root.add(b);
  });
  const mixer = new AnimationMixer(root);
  mixer.clipAction(clipOf(rig, motion, (n) => n)).play();
  return () => {
    let sum = 0;
    for (let f = 0; f < motion.frameCount; f++) {
      mixer.setTime(f / motion.fps);
      root.updateMatrixWorld(true);
      sum += bones.at(-1)!.matrixWorld.elements[13]!;
    }
    return sum;
  };
}

export function peerRetarget(
  source: { rig: SkeletonRig; names: Record<string, string>; hip: string },
  motion: Motion,
  target: SkeletonRig,
): () => unknown {
  const mesh = (rig: SkeletonRig): SkinnedMesh => {
    const bones = bonesOf(rig);
    const skinned = new SkinnedMesh();
    bones.forEach((b, j) => {
      if (rig.parents[j]! < 0) skinned.add(b);
    });
    skinned.bind(new Skeleton(bones));
    return skinned;
  };
  const from = mesh(source.rig);
  const to = mesh(target);
  const clip = clipOf(source.rig, motion, (n) => n);
  return () =>
    SkeletonUtils.retargetClip(to, from, clip, {
      hip: source.hip,
      names: source.names,
      fps: motion.fps,
      useFirstFramePosition: false,
      preserveBonePositions: true,
    } as never);
}
