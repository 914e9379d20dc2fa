import type { Document, GLTF } from '@gltf-transform/core';
import { MotionError } from '../errors';
import { decomposeMat, transformPoint } from '../math/mat4';
import { alignSigns, mulQuat, normalizeQuat } from '../math/quat';
import { MAX_FRAMES, MAX_NUMBERS } from '../motion/motion';
import type { NumberTrack, PlaceTrack } from '../motion/tracks';
import type { SkeletonRig } from '../rig/rig';
import type { NamedMotion, RigNodes } from './gltf-read';
import { checkKeys, KeyReader, type SamplerKeys } from './gltf-sampler';

const RATES = [12, 15, 24, 25, 30, 48, 50, 60, 72, 90, 100, 120, 240];

/**
 * Reads every animation as one motion at an even rate, the one its keys were written at where that shows.
 * @throws MotionError 'too-large' beyond what a motion may hold; what checkKeys finds
 */
export function readClips(document: Document, rigNodes: RigNodes, rig: SkeletonRig, warnings: string[]): NamedMotion[] {
  const clips: NamedMotion[] = [];
  document
    .getRoot()
    .listAnimations()
    .forEach((animation, number) => {
      const channels = animation.listChannels().flatMap((channel) => {
        const node = channel.getTargetNode();
        const sampler = channel.getSampler();
        const path = channel.getTargetPath();
        if (!node || !sampler || !path) return [];
        const keys = readKeys(
          sampler,
          path,
          node.getMesh()?.listPrimitives()[0]?.listTargets().length ?? 0,
          node.getName(),
        );
        return keys ? [{ node, path, keys }] : [];
      });
      if (channels.length === 0) return;
      const start = Math.min(...channels.map((c) => c.keys.times[0]!));
      const end = Math.max(...channels.map((c) => c.keys.times.at(-1)!));
      const fps = statedRate(animation) ?? rateOf(channels.map((c) => c.keys));
      const frameCount = Math.round((end - start) * fps) + 1;
      if (frameCount > MAX_FRAMES || frameCount * rig.names.length * 4 > MAX_NUMBERS) {
        throw new MotionError(
          'too-large',
          `The clip "${animation.getName()}" lasts ${Math.round(end - start)} s, more than is taken at once.`,
        );
      }
      const name = animation.getName().trim() || `clip ${number + 1}`;
      clips.push({ name, motion: sampleClip(channels, rigNodes, rig, start, fps, frameCount, warnings) });
    });
  return clips;
}

interface Channel {
  node: RigNodes['nodes'][number];
  path: GLTF.AnimationChannelTargetPath;
  keys: SamplerKeys;
}

function readKeys(
  sampler: {
    getInput(): { getCount(): number; getScalar(i: number): number } | null;
    getOutput(): { getCount(): number; getElementSize(): number; getElement(i: number, t: number[]): number[] } | null;
    getInterpolation(): GLTF.AnimationSamplerInterpolation;
  },
  path: GLTF.AnimationChannelTargetPath,
  targets: number,
  joint: string,
): SamplerKeys | undefined {
  const input = sampler.getInput();
  const output = sampler.getOutput();
  if (!input || !output) return undefined;
  const width = path === 'rotation' ? 4 : path === 'weights' ? targets : 3;
  if (width === 0) return undefined;
  const times = Float64Array.from({ length: input.getCount() }, (_, i) => input.getScalar(i));
  const size = output.getElementSize();
  const values = new Float64Array(output.getCount() * size);
  const element = new Array<number>(size).fill(0);
  for (let i = 0; i < output.getCount(); i++) values.set(output.getElement(i, element), i * size);
  const keys: SamplerKeys = { times, values, width, interpolation: sampler.getInterpolation() };
  checkKeys(keys, joint);
  return keys;
}

/** The rate that a file of ours states, where keys may have been left out. */
function statedRate(animation: { getExtras(): unknown }): number | undefined {
  const fps = (animation.getExtras() as { fps?: unknown } | undefined)?.fps;
  return typeof fps === 'number' && fps >= 1 && fps <= 1000 ? fps : undefined;
}

/** Key times may be off a whole frame by so much, seconds. */
const OFF = 2e-4;

/**
 * The lowest customary rate at which every key falls on a whole frame; else the one at which most keys follow each other; 30
 * where keys are sparse.
 */
function rateOf(all: SamplerKeys[]): number {
  if (all.some((k) => k.times.length > 3)) {
    const start = Math.min(...all.map((k) => k.times[0]!));
    const fits = RATES.find((rate) =>
      all.every(({ times }) =>
        times.every((t) => Math.abs(Math.round((t - start) * rate) / rate - (t - start)) < OFF + 1e-5 * t),
      ),
    );
    if (fits) return fits;
  }
  const densest = all.reduce((best, k) => (k.times.length > best.times.length ? k : best), all[0]!);
  const gaps = Array.from(densest.times.subarray(1), (t, i) => t - densest.times[i]!)
    .filter((g) => g > 1e-6)
    .sort((a, b) => a - b);
  const gap = gaps[gaps.length >> 1];
  if (gap === undefined || densest.interpolation === 'CUBICSPLINE') return 30;
  const rate = 1 / gap;
  const near = RATES.find((r) => Math.abs(r - rate) < r * 0.01);
  if (near) return near;
  return rate >= 10 && rate <= 480 ? Math.round(rate) : 30;
}

function sampleClip(
  channels: Channel[],
  rigNodes: RigNodes,
  rig: SkeletonRig,
  start: number,
  fps: number,
  frameCount: number,
  warnings: string[],
): NamedMotion['motion'] {
  const n = rig.names.length;
  const rotations = new Float32Array(4 * n * frameCount);
  // what the clip leaves alone stands as its node does, which need not be how the skin was bound
  const { turns, places } = nodePose(rigNodes);
  for (let f = 0; f < frameCount; f++) rotations.set(turns, 4 * n * f);
  const translations: PlaceTrack[] = [];
  const numbers: NumberTrack[] = [];
  let scaled = 0;
  for (const { node, path, keys } of channels) {
    const joint = rigNodes.index.get(node);
    const reader = new KeyReader(keys);
    if (path === 'weights') {
      const names = (node.getMesh()?.getExtras() as { targetNames?: unknown } | undefined)?.targetNames;
      const tracks = Array.from({ length: keys.width }, (_, k) => ({
        name:
          Array.isArray(names) && typeof names[k] === 'string'
            ? (names[k] as string)
            : `${node.getName() || 'shape'} ${k + 1}`,
        values: new Float32Array(frameCount),
      }));
      for (let f = 0; f < frameCount; f++) {
        const v = reader.read(start + f / fps, false);
        tracks.forEach((t, k) => {
          t.values[f] = v[k]!;
        });
      }
      numbers.push(...tracks.filter((t) => !numbers.some((s) => s.name === t.name)));
      continue;
    }
    if (joint === undefined) continue;
    if (path === 'scale') {
      const { values } = keys;
      if (values.some((x) => Math.abs(x - values[0]!) > 0.01)) scaled++;
      continue;
    }
    const between = rigNodes.between[joint]!;
    if (path === 'rotation') {
      const turn = decomposeMat(between).q;
      for (let f = 0; f < frameCount; f++) {
        const o = 4 * (f * n + joint);
        mulQuat(rotations, o, turn, 0, reader.read(start + f / fps, true), 0);
        normalizeQuat(rotations, o);
      }
      alignSigns(rotations, 4 * joint, 4 * n, frameCount);
    } else {
      const values = new Float32Array(3 * frameCount);
      const scale = rigNodes.scaleAbove[joint]!;
      for (let f = 0; f < frameCount; f++) {
        transformPoint(values, 3 * f, between, reader.read(start + f / fps, false), 0);
        for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! * scale;
      }
      if (moves(values, rig.restT, joint)) translations.push({ joint, values });
    }
  }
  const own = new Set(channels.flatMap((c) => (c.path === 'translation' ? [rigNodes.index.get(c.node) ?? -1] : [])));
  for (let j = 0; j < n; j++) {
    if (own.has(j)) continue;
    const values = new Float32Array(3 * frameCount);
    for (let f = 0; f < frameCount; f++) values.set(places.subarray(3 * j, 3 * j + 3), 3 * f);
    if (moves(values, rig.restT, j)) translations.push({ joint: j, values });
  }
  if (scaled > 0) warnings.push(`${scaled} joints change their size over time; that is not carried.`);
  return { fps, frameCount, turns: rotations, places: translations, numbers, scales: [], steps: [] };
}

/** Turns (4 J) and places (3 J) of the nodes in their joints' parents' frames. */
function nodePose({ nodes, between, scaleAbove }: RigNodes): { turns: Float32Array; places: Float32Array } {
  const turns = new Float32Array(4 * nodes.length);
  const places = new Float32Array(3 * nodes.length);
  nodes.forEach((node, j) => {
    mulQuat(turns, 4 * j, decomposeMat(between[j]!).q, 0, node.getRotation(), 0);
    normalizeQuat(turns, 4 * j);
    transformPoint(places, 3 * j, between[j]!, node.getTranslation(), 0);
    for (let k = 0; k < 3; k++) places[3 * j + k] = places[3 * j + k]! * scaleAbove[j]!;
  });
  return { turns, places };
}

/** Exporters key every channel; a place that never leaves the rest needs no track. */
function moves(values: Float32Array, restT: Float32Array, joint: number): boolean {
  for (let o = 0; o < values.length; o++) {
    const rest = restT[3 * joint + (o % 3)]!;
    if (Math.abs(values[o]! - rest) > 1e-6 + 1e-5 * Math.abs(rest)) return true;
  }
  return false;
}
