import UPNG from 'upng-js';
import { stripFromBytes } from '../analysis/strip-bytes';
import { guessBodyMap } from '../bodymap/guess';
import { bodyMapFromJson } from '../bodymap/json';
import { unpackMotion, unpackRange } from '../codec/decode';
import { packMotion } from '../codec/encode';
import { assemble, cutoutFromSvg } from '../cutout/assemble';
import type { CutoutFigure } from '../cutout/figure';
import { toLottie } from '../cutout/lottie';
import { sceneFromLottie } from '../cutout/lottie-scene';
import { findPictureParts } from '../cutout/picture-parts';
import { sceneFromJson, sceneToJson } from '../cutout/scene-json';
import { MotionError } from '../errors';
import { writeBvh } from '../formats/bvh-write';
import { writeCsv } from '../formats/csv-write';
import { writeGlb } from '../formats/gltf-write';
import { type Imported, importFile } from '../formats/import';
import { motionToJson } from '../formats/motion-json';
import { seeded } from '../math/random';
import { assertMotion, type Motion, restMotion } from '../motion/motion';
import { assertRig } from '../rig/rig';
import { buildRig, wander } from './bodies';
import { mutate } from './mutate';
import { paperFigure, paperTraits } from './paper';

// Every reader under damaged input: a typed error or a sound answer, in bounded time. VELVET_FUZZ sets how many inputs are
// tried in all; the nightly form is 20000.
const TOTAL = Number(process.env.VELVET_FUZZ ?? 2000);
/** Far above what any input takes, so that a loaded machine does not count as a hang. */
const HANGS_MS = 20_000;

const rig = buildRig();
const motion = { ...wander(rig, 40, 2, 60), numbers: [{ name: 'smile', values: new Float32Array(40).fill(0.3) }] };
const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const ASF = text(
  ':version 1.10\n:units\n  length 1\n  angle deg\n:root\n  order TX TY TZ RX RY RZ\n  axis XYZ\n  position 0 0 0\n  orientation 0 0 0\n:bonedata\n  begin\n  id 1\n  name a\n  direction 0 1 0\n  length 2\n  axis 0 0 20 XYZ\n  dof rx ry rz\n  end\n  begin\n  id 2\n  name b\n  direction 1 0 0\n  length 1\n  axis 0 0 0 XYZ\n  dof rx\n  end\n:hierarchy\n  begin\n  root a\n  a b\n  end\n',
);
const AMC = text(
  `:FULLY-SPECIFIED\n:DEGREES\n${Array.from({ length: 20 }, (_, f) => `${f + 1}\nroot 0 1 ${f} 0 0 0\na ${f} 2 3\nb ${f}`).join('\n')}\n`,
);

/** A grey picture of 4 by 4 points. */
const PNG = new Uint8Array(UPNG.encode([new Uint8Array(64).fill(200).buffer], 4, 4, 0));

interface Reader {
  readonly seedFile: () => Promise<Uint8Array>;
  readonly read: (bytes: Uint8Array) => unknown;
}

const READERS: Readonly<Record<string, Reader>> = {
  bvh: { seedFile: async () => text(writeBvh(rig, motion)), read: (b) => importFile(b, 'x.bvh') },
  glb: { seedFile: () => writeGlb({ rig, clips: [{ name: 'a', motion }] }), read: (b) => importFile(b, 'x.glb') },
  json: {
    seedFile: async () => text(JSON.stringify(motionToJson(rig, [{ name: 'a', motion }]))),
    read: (b) => importFile(b, 'x.json'),
  },
  csv: { seedFile: async () => text(writeCsv(rig, motion, { turns: false })), read: (b) => importFile(b, 'x.csv') },
  asf: { seedFile: async () => ASF, read: (b) => importFile(b, 'x.asf') },
  amc: { seedFile: async () => AMC, read: (b) => importFile(b, 'x.amc', { skeleton: ASF }) },
  packed: {
    seedFile: async () => packMotion(rig, motion),
    read: (b) => {
      unpackMotion(b);
      return unpackRange(b, 3, 9);
    },
  },
  strip: {
    seedFile: async () => {
      const { makeStrip } = await import('../analysis/strip');
      const { stripToBytes } = await import('../analysis/strip-bytes');
      return stripToBytes(makeStrip(rig, guessBodyMap(rig), motion, [{ part: 'heelL', start: 0, end: 9 }], 0));
    },
    read: (b) => stripFromBytes(b),
  },
  drawing: {
    seedFile: async () => text(paperFigure(paperTraits(1)).svg),
    read: (b) => cutoutFromSvg(b),
  },
  'a named drawing': {
    seedFile: async () => text(paperFigure(paperTraits(4, { language: 'plain', depth: true })).svg),
    read: (b) => cutoutFromSvg(b),
  },
  picture: {
    seedFile: async () => PNG,
    read: (b) => assemble(findPictureParts(['trunk', 'head', 'arm L'].map((n) => ({ name: `${n}.png`, bytes: b })))),
  },
  scene: {
    seedFile: async () => {
      const figure = cutoutFromSvg(text(paperFigure(paperTraits(2)).svg));
      return text(JSON.stringify(sceneToJson(figure, restMotion(figure.rig), { name: 'a' })));
    },
    read: (b) => sceneFromJson(parsed(b)),
  },
  lottie: {
    seedFile: async () => {
      const figure = cutoutFromSvg(text(paperFigure(paperTraits(2)).svg));
      return text(JSON.stringify(toLottie(figure, restMotion(figure.rig)).animation));
    },
    read: (b) => sceneFromLottie(parsed(b)).figure,
  },
  map: {
    seedFile: async () =>
      text(
        JSON.stringify({
          slots: { hips: 'Hips', handL: { joint: 'LeftHand', state: 'sure', why: 'x' }, toesL: null },
        }),
      ),
    read: (b) => bodyMapFromJson(parsed(b), rig),
  },
};

/** JSON that is read elsewhere before: what is none never gets here. */
function parsed(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    return null;
  }
}

/** What a reader hands over has to be sound: rigs and motions that keep their promises, packed motions whose counts agree. */
function assertSound(answer: unknown): void {
  const {
    rig: read,
    clips,
    turns,
    numbers,
    frameCount,
    art,
  } = (answer ?? {}) as Partial<Imported> & Partial<Motion> & Partial<CutoutFigure>;
  if (read) assertRig(read);
  if (art && !art.pivots.flat().every(Number.isFinite)) throw new Error('a pivot without a place came through');
  for (const clip of clips ?? []) assertMotion(read!, clip.motion);
  if (turns && numbers && frameCount) {
    if (!Number.isInteger(turns.length / (4 * frameCount))) throw new Error('turns and frames do not agree');
    if (turns.some((x) => !Number.isFinite(x))) throw new Error('a number that is none came through');
  }
}

describe.each(Object.entries(READERS))('%s under damage', (_, { seedFile, read }) => {
  const count = Math.ceil(TOTAL / Object.keys(READERS).length);
  test(`${count} damaged inputs: typed errors or sound answers only`, async () => {
    const good = await seedFile();
    assertSound(await read(good));
    for (let seed = 1000; seed < 1000 + count; seed++) {
      const bytes = mutate(good, seeded(seed));
      const start = performance.now();
      try {
        assertSound(await read(bytes));
      } catch (error) {
        if (!(error instanceof MotionError)) throw new Error(`seed ${seed}: ${(error as Error).stack ?? error}`);
        if (error.message.length < 8) throw new Error(`seed ${seed}: "${error.message}" says nothing`);
      }
      const took = performance.now() - start;
      if (took > HANGS_MS) throw new Error(`seed ${seed}: took ${took.toFixed(0)} ms`);
    }
  });
});
