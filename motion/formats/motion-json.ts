import { type BodyMapJson, bodyMapFromJson, bodyMapToJson } from '../bodymap/json';
import type { BodyMap } from '../bodymap/slots';
import { MotionError } from '../errors';
import { alignTurns, normalizeQuat } from '../math/quat';
import { assertMotion, MAX_FRAMES, MAX_NUMBERS, type Motion } from '../motion/motion';
import type { Between, PlaceTrack, StepTrack } from '../motion/tracks';
import type { Rig } from '../rig/rig';
import { type RigJson, rigFromJson, rigToJson } from '../rig/rig-json';
import type { NamedMotion } from './gltf-read';

/** What the file says of itself, so that it is told from other JSON. */
export const MOTION_JSON = 'velvet-reel-motion';

/** Rig, body map and motions as plain JSON; see docs/formats. Metres, Y up, facing +Z, turns x y z w. */
export interface MotionJson {
  readonly format: typeof MOTION_JSON;
  readonly version: 1;
  readonly rig: RigJson;
  readonly map?: BodyMapJson;
  readonly clips: readonly {
    readonly name: string;
    readonly fps: number;
    readonly frameCount: number;
    /** One row a frame: the local turns of all joints, 4 J numbers. */
    readonly turns: readonly (readonly number[])[];
    /** By joint name: one row a frame, x y z in the parent's frame. */
    readonly places: Readonly<Record<string, readonly (readonly number[])[]>>;
    readonly numbers: Readonly<Record<string, readonly number[]>>;
    /** By joint name: one row a frame, factors along the joint's own axes. */
    readonly scales?: Readonly<Record<string, readonly (readonly number[])[]>>;
    /** By name: which of its labels shows in each frame, as an index from 0. */
    readonly steps?: Readonly<
      Record<string, { readonly labels: readonly string[]; readonly shows: readonly number[] }>
    >;
    /** What lies between frames where it is not the straight line: "places/Hips" → "curve" or "hold". */
    readonly between?: Readonly<Record<string, Between>>;
  }[];
}

const round = (x: number): number => Number(x.toFixed(7));

/** Rig, body map (of a skeleton) and motions as plain JSON, numbers rounded to seven digits after the point; see docs/formats. */
export function motionToJson(rig: Rig, clips: readonly NamedMotion[], map?: BodyMap): MotionJson {
  const n = rig.names.length;
  return {
    format: MOTION_JSON,
    version: 1,
    rig: rigToJson(rig),
    ...(map && rig.kind === 'skeleton' ? { map: bodyMapToJson(map, rig) } : {}),
    clips: clips.map(({ name, motion }) => {
      const rows = (values: Float32Array, width: number): number[][] =>
        Array.from({ length: motion.frameCount }, (_, f) =>
          [...values.subarray(width * f, width * (f + 1))].map(round),
        );
      return {
        name,
        fps: motion.fps,
        frameCount: motion.frameCount,
        turns: rows(motion.turns, 4 * n),
        places: Object.fromEntries(motion.places.map((t) => [rig.names[t.joint]!, rows(t.values, 3)])),
        numbers: Object.fromEntries(motion.numbers.map((s) => [s.name, [...s.values].map(round)])),
        ...(motion.scales.length > 0 && {
          scales: Object.fromEntries(motion.scales.map((t) => [rig.names[t.joint]!, rows(t.values, 3)])),
        }),
        ...(motion.steps.length > 0 && {
          steps: Object.fromEntries(motion.steps.map((t) => [t.name, { labels: t.labels, shows: [...t.values] }])),
        }),
        ...betweenToJson(rig, motion),
      };
    }),
  };
}

/** Throws MotionError only, naming what is missing or wrong and where. */
export function motionFromJson(json: unknown): { rig: Rig; map: BodyMap | undefined; clips: NamedMotion[] } {
  const root = record(json, 'The file');
  if (root.format !== MOTION_JSON)
    throw new MotionError('not-this-format', `The JSON does not say "format": "${MOTION_JSON}".`);
  if (root.version !== 1)
    throw new MotionError(
      'unsupported',
      `Version ${String(root.version).slice(0, 12)} is not known; version 1 is read.`,
    );
  const rig = rigFromJson(root.rig);
  const map = root.map === undefined || rig.kind !== 'skeleton' ? undefined : bodyMapFromJson(root.map, rig);
  if (!Array.isArray(root.clips)) throw new MotionError('bad-structure', '"clips" is not a list.');
  if (root.clips.length > 10_000) throw new MotionError('too-large', 'More than 10000 clips are not taken.');
  let numbers = 0;
  const clips = root.clips.map((entry: unknown, i): NamedMotion => {
    const clip = record(entry, `Clip ${i + 1}`);
    const name = typeof clip.name === 'string' ? clip.name : `clip ${i + 1}`;
    const frameCount = clip.frameCount;
    const fps = clip.fps;
    if (!Number.isInteger(frameCount) || (frameCount as number) < 1 || (frameCount as number) > MAX_FRAMES)
      throw new MotionError('bad-number', `The frame count of "${name}" is not a whole number above 0.`);
    const frames = frameCount as number;
    numbers += 4 * rig.names.length * frames;
    if (numbers > MAX_NUMBERS) throw new MotionError('too-large', 'The clips hold more numbers than is taken.');
    const rotations = rows(clip.turns, 4 * rig.names.length, frames, `the turns of "${name}"`);
    for (let o = 0; o < rotations.length; o += 4) normalizeQuat(rotations, o);
    alignTurns(rotations, rig.names.length, frames);
    const between = record(clip.between ?? {}, `"between" of "${name}"`);
    const lies = (track: string): { between?: Between } => {
      const way = between[track];
      if (way === undefined) return {};
      if (!BETWEEN.includes(way as Between))
        throw new MotionError(
          'bad-structure',
          `What lies between frames of "${track}" must be one of ${BETWEEN.join(', ')}.`,
        );
      return { between: way as Between };
    };
    const byJoint = (kind: 'places' | 'scales'): PlaceTrack[] =>
      Object.entries(record(clip[kind] ?? {}, `"${kind}" of "${name}"`)).map(([joint, values]) => {
        const index = rig.names.indexOf(joint);
        if (index < 0)
          throw new MotionError('bad-structure', `"${name}" moves a joint that the rig has not.`, { joint });
        return {
          joint: index,
          values: rows(values, 3, frames, `the ${kind} of "${joint}"`),
          ...lies(`${kind}/${joint}`),
        };
      });
    const motion: Motion = {
      fps: typeof fps === 'number' ? fps : Number.NaN,
      frameCount: frames,
      turns: rotations,
      places: byJoint('places'),
      scales: byJoint('scales'),
      numbers: Object.entries(record(clip.numbers ?? {}, `"numbers" of "${name}"`)).map(([track, values]) => ({
        name: track,
        values: rows(Array.isArray(values) ? values.map((x: unknown) => [x]) : values, 1, frames, `"${track}"`),
        ...lies(`numbers/${track}`),
      })),
      steps: Object.entries(record(clip.steps ?? {}, `"steps" of "${name}"`)).map(([track, value]) =>
        stepsOf(track, record(value, `"${track}"`), frames),
      ),
    };
    assertMotion(rig, motion);
    return { name, motion };
  });
  return { rig, map, clips };
}

const BETWEEN: readonly Between[] = ['line', 'curve', 'hold'];

/** What lies between frames, of the tracks where it is not the straight line. */
function betweenToJson(rig: Rig, { places, scales, numbers }: Motion): { between?: Record<string, Between> } {
  const told = [
    ...places.map((t) => ({ track: `places/${rig.names[t.joint]!}`, between: t.between })),
    ...scales.map((t) => ({ track: `scales/${rig.names[t.joint]!}`, between: t.between })),
    ...numbers.map((t) => ({ track: `numbers/${t.name}`, between: t.between })),
  ].flatMap(({ track, between }) => (between && between !== 'line' ? [[track, between] as const] : []));
  return told.length > 0 ? { between: Object.fromEntries(told) } : {};
}

/** A track of labels: every frame shows one that is there. */
function stepsOf(name: string, { labels, shows }: Record<string, unknown>, frames: number): StepTrack {
  if (!Array.isArray(labels) || labels.length > 65_535 || labels.some((x) => typeof x !== 'string'))
    throw new MotionError('bad-structure', `"labels" of "${name}" is not a list of at most 65535 texts.`);
  if (!Array.isArray(shows) || shows.length !== frames)
    throw new MotionError(
      'wrong-count',
      `"${name}" shows ${Array.isArray(shows) ? shows.length : 0} labels; ${frames} are needed.`,
    );
  const bad = shows.findIndex((x) => !Number.isInteger(x) || x < 0 || x >= labels.length);
  if (bad >= 0) throw new MotionError('bad-number', `"${name}" shows a label that it does not have.`, { frame: bad });
  return { name, labels: labels as string[], values: Uint16Array.from(shows as number[]) };
}

function record(value: unknown, what: string): Record<string, unknown> {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new MotionError('bad-structure', `${what} is not an object.`);
  return value as Record<string, unknown>;
}

function rows(value: unknown, width: number, frames: number, what: string): Float32Array {
  if (!Array.isArray(value) || value.length !== frames)
    throw new MotionError(
      'wrong-count',
      `${what[0]!.toUpperCase()}${what.slice(1)} have ${Array.isArray(value) ? value.length : 0} rows; ${frames} are needed.`,
    );
  const out = new Float32Array(width * frames);
  value.forEach((row: unknown, f) => {
    if (!Array.isArray(row) || row.length !== width)
      throw new MotionError('wrong-count', `A row of ${what} has not ${width} numbers.`, { frame: f });
    for (let k = 0; k < width; k++) {
      const x: unknown = row[k];
      if (typeof x !== 'number' || !Number.isFinite(x))
        throw new MotionError('bad-number', `A value in ${what} is not a finite number.`, { frame: f });
      out[width * f + k] = x;
    }
  });
  return out;
}
