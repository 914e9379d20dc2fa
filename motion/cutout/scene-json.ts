import { type BodyMapJson, bodyMapFromJson, bodyMapToJson } from '../bodymap/json';
import { MotionError } from '../errors';
import { type MotionJson, motionFromJson, motionToJson } from '../formats/motion-json';
import type { Motion } from '../motion/motion';
import { flatSkeleton } from '../rig/flat';
import { type RigJson, rigFromJson } from '../rig/rig-json';
import { artFromJson, artToJson, type CutoutArtJson } from './art-json';
import type { FlatPlant } from './drive-legs';
import type { CutoutFigure } from './figure';
import { measureFlat } from './flat';
import { type CutoutKeys, evaluateKeys, keysFromJson } from './keys';
import { CutoutShow } from './show';

export const SCENE_JSON = 'velvet-reel-cutout';

/** What a figure shows in one frame. */
export interface SceneFrameJson {
  /** Parts by their place in `parts`, the hindmost first; those that show nothing are left out. */
  order: number[];
  /** By part: from where it was drawn to where it lies, six numbers a b c d e f, in the picture's units. */
  matrices: number[][];
  /** By part: the label of the drawing that shows, null where none does. */
  drawings: (string | null)[];
}

/** A figure with a motion, whole: enough to play it, and to measure it without anything of ours. See docs/formats. */
export interface CutoutSceneJson {
  format: typeof SCENE_JSON;
  version: 1;
  name: string;
  fps: number;
  frameCount: number;
  /** The picture's frame, in its units, y downwards. */
  box: number[];
  parts: {
    name: string;
    joint: string;
    /** The part that it hangs on, null for one that hangs on nothing. */
    parent: string | null;
    /** Its pivot in the picture at rest. */
    pivot: number[];
    /** Points at which others hang, in the picture at rest. */
    attachments: { name: string; at: number[] }[];
    drawings: string[];
    view?: string;
    slot: string | null;
  }[];
  /** Points of the feet that can stand, in the picture at rest. */
  feet: { part: string; side: 'L' | 'R'; heel: number[]; ball: number[] }[];
  /** Stretches of frames, both ends included, in which such a point stays on a spot of the picture. */
  plants: { part: string; start: number; end: number; spot: number[] }[];
  frames: SceneFrameJson[];
  figure: { rig: RigJson; map: BodyMapJson; art: CutoutArtJson };
  motion: MotionJson['clips'][number];
  /** The keys that the motion was made of, where it was keyed. */
  keys?: CutoutKeys;
}

const round = (x: number): number => Math.round(x * 1e5) / 1e5;
/** Turns and sizes are multiplied with places of thousands. */
const fine = (x: number): number => Math.round(x * 1e8) / 1e8;

/** A figure and its motion as plain JSON. @param plants what stands, where that is known */
export function sceneToJson(
  figure: CutoutFigure,
  motion: Motion,
  { name = 'scene', plants = [], keys }: { name?: string; plants?: readonly FlatPlant[]; keys?: CutoutKeys } = {},
): CutoutSceneJson {
  const { rig, art, map } = figure;
  const show = new CutoutShow(rig, art, motion);
  const frames = Array.from({ length: motion.frameCount }, (_, f): SceneFrameJson => {
    const shown = show.at(f / motion.fps);
    const labels = new Map(shown.map((s) => [s.part, s.drawing.label]));
    return {
      order: shown.map((s) => s.part),
      matrices: rig.parts.map((_, i) => show.matrixOf(i).map(fine)),
      drawings: rig.parts.map((_, i) => labels.get(i) ?? null),
    };
  });
  const inPicture = ([x, y]: readonly [number, number]): number[] => [
    round(art.origin[0] + x / art.unit),
    round(art.origin[1] - y / art.unit),
  ];
  const slotOf = new Map(Object.entries(map.slots).map(([slot, e]) => [e.joint, slot]));
  const mainOf = (joint: number): string | null => {
    for (let j = joint; j >= 0; j = rig.parents[j]!) {
      const part = rig.parts.find((p) => p.joint === j);
      if (part) return part.name;
    }
    return null;
  };
  const flat = measureFlat(rig, map);
  return {
    format: SCENE_JSON,
    version: 1,
    name,
    fps: motion.fps,
    frameCount: motion.frameCount,
    box: art.box.map(round),
    parts: rig.parts.map((part, i) => ({
      name: part.name,
      joint: rig.names[part.joint]!,
      parent: rig.parents[part.joint]! < 0 ? null : mainOf(rig.parents[part.joint]!),
      pivot: art.pivots[i]!.map(round),
      attachments: part.attachments.map((a) => ({
        name: a.name,
        at: [round(art.pivots[i]![0] + a.at[0] / art.unit), round(art.pivots[i]![1] - a.at[1] / art.unit)],
      })),
      drawings: [...part.drawings],
      ...(part.view ? { view: part.view } : {}),
      slot: slotOf.get(part.joint) ?? null,
    })),
    feet: flat.legs.flatMap(({ side, foot }) => {
      const part = mainOf(foot.joint);
      if (foot.joint < 0 || part === null) return [];
      const at = (p: readonly [number, number]): number[] =>
        inPicture([flat.places[3 * foot.joint]! + p[0], flat.places[3 * foot.joint + 1]! + p[1]]);
      return [{ part, side, heel: at(foot.heel), ball: at(foot.ball) }];
    }),
    plants: plants.map(({ part, start, end, spot }) => ({ part, start, end, spot: inPicture(spot) })),
    frames,
    figure: figureToJson(figure),
    motion: motionToJson(rig, [{ name, motion }]).clips[0]!,
    ...(keys ? { keys } : {}),
  };
}

/** Rig, map and pictures of a figure as plain JSON. */
export const figureToJson = ({ rig, map, art }: CutoutFigure): CutoutSceneJson['figure'] => ({
  rig: motionToJson(rig, []).rig,
  map: bodyMapToJson(map, flatSkeleton(rig)),
  art: artToJson(art),
});

/** @throws MotionError for anything that is no whole figure */
export function figureFromJson(json: unknown): CutoutFigure {
  const { rig: rigJson, map, art } = (json ?? {}) as Partial<CutoutSceneJson['figure']>;
  const rig = rigFromJson(rigJson);
  if (rig.kind !== 'cutout')
    throw new MotionError('bad-structure', 'The figure is a skeleton; a cut-out is needed here.');
  return { rig, map: bodyMapFromJson(map, flatSkeleton(rig)), art: artFromJson(art), guesses: [], notes: [] };
}

/** A scene as it was written. */
export interface CutoutScene {
  readonly name: string;
  readonly figure: CutoutFigure;
  readonly motion: Motion;
  readonly keys: CutoutKeys | undefined;
}

/**
 * Reads sceneToJson's form: the figure and its motion; what is told frame by frame beside them follows from these.
 * @throws MotionError naming what is missing or wrong
 */
export function sceneFromJson(json: unknown): CutoutScene {
  const scene = (json ?? {}) as Partial<CutoutSceneJson>;
  if (scene.format !== SCENE_JSON)
    throw new MotionError('not-this-format', `The JSON does not say "format": "${SCENE_JSON}".`);
  const figure = figureFromJson(scene.figure);
  const named = typeof scene.name === 'string' ? scene.name : 'scene';
  if (scene.keys) {
    const keys = keysFromJson(scene.keys, figure.rig);
    return { name: named, figure, motion: evaluateKeys(figure.rig, keys), keys };
  }
  const { clips } = motionFromJson({
    format: 'velvet-reel-motion',
    version: 1,
    rig: scene.figure?.rig,
    clips: [scene.motion],
  });
  if (!clips[0]) throw new MotionError('no-motion', 'The scene holds no motion.');
  return { name: named, figure, motion: clips[0].motion, keys: undefined };
}
