import {
  animatedSvg,
  boxOverTime,
  type CutoutFigure,
  type CutoutKeys,
  CutoutShow,
  DRIVE_VIEWS,
  driveCutout,
  type FlatPlant,
  keysOfMotion,
  type Motion,
  MotionError,
  measureDriven,
  mergeDrawings,
  mergeWords,
  type Raster,
  renderSvg,
  restMotion,
  SpriteSheet,
  sceneToJson,
  spriteFiles,
  spriteHeight,
  swapCutout,
  swapWords,
  toLottie,
} from '../../motion/index';
import { loadFigure, loadScene, pixelsOf, stemOf } from '../cutout-files';
import { firstClip, load, party, writeOut } from '../files';
import { type Options, readNumber, readWord } from '../options';
import { gifOf, MOST_PIXEL_BYTES, png } from '../pictures';
import { UsageError } from '../usage';

/** velvet-reel cutout inspect | drive | swap | merge | render. */
export async function cutoutCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const [verb, file, ...more] = files;
  if (!verb || !file || more.length > (verb === 'merge' ? 1 : 0))
    throw new UsageError('cutout takes inspect, drive, swap or render and one file, or merge and two');
  switch (verb) {
    case 'inspect':
      return inspect(file, options, print);
    case 'drive':
      return drive(file, options, print);
    case 'swap':
      return swap(file, options, print);
    case 'render':
      return render(file, options, print);
    case 'merge':
      return merge(file, more[0], options, print);
    default:
      throw new UsageError(`cutout has no "${verb}": it takes inspect, drive, swap, merge or render`);
  }
}

async function inspect(file: string, options: Options, print: (text: string) => void): Promise<void> {
  const figure = await loadFigure(file);
  const { rig, art, map, guesses, notes } = figure;
  const slotOf = new Map(Object.entries(map.slots).map(([slot, e]) => [e.joint, { slot, ...e }]));
  const inPicture = (i: number, [x, y]: readonly [number, number]): number[] =>
    [art.pivots[i]![0] + x / art.unit, art.pivots[i]![1] - y / art.unit].map((v) => Number(v.toFixed(3)));
  const parts = rig.parts.map((part, i) => {
    const guess = guesses.find((g) => g.part === part.name);
    const parent = rig.parents[part.joint]!;
    const slot = slotOf.get(part.joint);
    const main = rig.parts.find((p) => p.joint === part.joint)?.name === part.name;
    return {
      name: part.name,
      joint: rig.names[part.joint]!,
      parent: parent < 0 ? null : (rig.parts.find((p) => p.joint === parent)?.name ?? rig.names[parent]!),
      pivot: art.pivots[i]!.map((v) => Number(v.toFixed(3))),
      pivotFrom: guess?.pivot ?? 'guessed',
      attachments: part.attachments.map((a) => ({ name: a.name, at: inPicture(i, a.at) })),
      order: i,
      labels: [...part.drawings],
      ...(part.view ? { view: part.view } : {}),
      kind: guess?.kind ?? null,
      side: guess?.side ?? null,
      slot: main ? (slot?.slot ?? null) : null,
      state: guess?.state ?? slot?.state ?? 'guessed',
      why: guess?.why ?? '',
    };
  });
  const answer = {
    file,
    facing: rig.found.facing === '+X' ? 'right' : rig.found.facing === '-X' ? 'left' : 'front',
    mirrored: rig.mirrored ?? false,
    picture: art.box,
    unitM: Number(art.unit.toPrecision(6)),
    parts,
    slots: Object.fromEntries(
      Object.entries(map.slots).map(([slot, e]) => [
        slot,
        { joint: e.joint < 0 ? null : rig.names[e.joint]!, state: e.state, why: e.why },
      ]),
    ),
    notes,
  };
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(
    `${file}: ${parts.length} parts on ${rig.names.length} joints, drawn ${answer.facing === 'front' ? 'from the front' : `facing ${answer.facing}`}`,
  );
  for (const p of parts)
    print(
      `  ${p.name}: ${p.kind ?? 'unknown'}${p.side ? ` ${p.side}` : ''}, ${p.state}, on ${p.parent ?? 'nothing'}${p.labels.length > 1 ? `, shows ${p.labels.join(', ')}` : ''}`,
    );
  for (const n of notes) print(`  note: ${n}`);
}

async function drive(file: string, options: Options, print: (text: string) => void): Promise<void> {
  if (!options.to || !options.out) throw new UsageError('cutout drive needs --to FIGURE and --out OUT');
  const source = await load(file, options);
  const clip = firstClip(source, file);
  const figure = await loadFigure(options.to);
  const view = options.view === undefined ? undefined : readWord(options.view, 'view', DRIVE_VIEWS, 'front');
  const foreshorten = readNumber(options.foreshorten, 'foreshorten', 0.1, 1);
  const start = performance.now();
  const driven = driveCutout(party(source), clip.motion, figure, {
    ...(view ? { view } : {}),
    ...(foreshorten === undefined ? {} : { foreshorten }),
    plants: !options['no-plants'],
  });
  const solveMs = performance.now() - start;
  const { report, gap, orderChangesPerSecond } = measureDriven(driven);
  const name = clip.name;
  const out = await writeScene(options.out, figure, driven.motion, name, options, driven.plants);
  const { lanes: _lanes, troubles, ...measured } = report;
  const answer = {
    ...measured,
    gapUnits: Number((gap.max / figure.art.unit).toFixed(5)),
    orderChangesPerSecond: Number(orderChangesPerSecond.toFixed(3)),
    scale: driven.scale,
    solveMs: Number(solveMs.toFixed(3)),
    troubles,
    notes: [...source.warnings, ...figure.notes, ...out],
  };
  if (options.report) await writeOut(options.report, `${JSON.stringify(answer, null, 2)}\n`);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${options.out} written: ${report.frames} frames in ${solveMs.toFixed(0)} ms`);
  print(
    `  plants ${report.plants.length}, largest slip ${report.slip.maxCm.toFixed(2)} cm, direction ${report.direction.meanDeg.toFixed(2)}° mean`,
  );
  for (const t of troubles) print(`  trouble: ${t.text}`);
  for (const n of answer.notes) print(`  note: ${n}`);
}

async function swap(file: string, options: Options, print: (text: string) => void): Promise<void> {
  if (!options.to || !options.out) throw new UsageError('cutout swap needs --to FIGURE and --out OUT');
  const { name, figure, motion, keys } = await loadScene(file);
  const target = await loadFigure(options.to);
  const start = performance.now();
  const swapped = swapCutout(figure, keys ?? keysOfMotion(figure.rig, motion), target);
  const solveMs = performance.now() - start;
  const notes = await writeScene(
    options.out,
    target,
    swapped.motion,
    name,
    options,
    swapped.report.plants,
    swapped.keys,
  );
  const answer = { ...swapped.report, solveMs: Number(solveMs.toFixed(3)), notes };
  if (options.report) await writeOut(options.report, `${JSON.stringify(answer, null, 2)}\n`);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${options.out} written in ${solveMs.toFixed(0)} ms`);
  for (const w of [...swapWords(swapped.report), ...notes]) print(`  ${w}`);
}

async function render(file: string, options: Options, print: (text: string) => void): Promise<void> {
  if (!options.out) throw new UsageError('cutout render needs --out FILE');
  const { name, figure, motion, keys } = await loadScene(file);
  const notes = await writeScene(options.out, figure, motion, name, options, [], keys);
  print(`${options.out} written`);
  for (const n of notes) print(`  note: ${n}`);
}

async function merge(
  file: string,
  from: string | undefined,
  options: Options,
  print: (text: string) => void,
): Promise<void> {
  if (!from || !options.out) throw new UsageError('cutout merge needs two figures and --out FILE.json');
  const figure = await loadFigure(file);
  const { report, ...merged } = mergeDrawings(figure, await loadFigure(from));
  const whole = { ...figure, ...merged };
  const notes = await writeScene(options.out, whole, restMotion(whole.rig), stemOf(file), options, []);
  if (options.report) await writeOut(options.report, `${JSON.stringify(report, null, 2)}\n`);
  if (options.json) return print(JSON.stringify({ ...report, notes }, null, 2));
  print(`${options.out} written`);
  for (const w of [...mergeWords(report), ...notes]) print(`  ${w}`);
}

/** Writes a scene in the format that a file's ending names. @returns what the format could not say */
async function writeScene(
  path: string,
  figure: CutoutFigure,
  motion: Motion,
  name: string,
  options: Options,
  plants: readonly FlatPlant[],
  keys?: CutoutKeys,
): Promise<string[]> {
  const at = readNumber(options.at, 'at', 0, motion.frameCount - 1);
  const height = readNumber(options.height, 'height', 16, 4096) ?? 480;
  if (/\.lottie\.json$/i.test(path)) {
    const { animation, asPictures } = toLottie(figure, motion, { name });
    await writeOut(path, JSON.stringify(animation));
    return asPictures.map((d) => `As a picture, since shapes of the format cannot say it: ${d}`);
  }
  if (/\.sprites\.json$/i.test(path)) return writeSprites(path, figure, motion, name, options);
  if (/\.json$/i.test(path)) {
    await writeOut(path, JSON.stringify(sceneToJson(figure, motion, { name, plants, ...(keys ? { keys } : {}) })));
    return [];
  }
  if (/\.svg$/i.test(path)) {
    await writeOut(
      path,
      at === undefined && motion.frameCount > 1
        ? animatedSvg(figure, motion)
        : renderSvg(figure, { motion, seconds: (at ?? 0) / motion.fps }),
    );
    return [];
  }
  if (/\.png$/i.test(path)) {
    for await (const picture of pixelsOf(figure, motion, [at ?? 0], height)) await writeOut(path, await png([picture]));
    return [];
  }
  const frames = [...Array(motion.frameCount).keys()];
  const delays = frames.map((i) => Math.round(((i + 1) * 1000) / motion.fps) - Math.round((i * 1000) / motion.fps));
  if (/\.apng$/i.test(path)) {
    const all: Raster[] = [];
    for await (const picture of pixelsOf(figure, motion, frames, height)) {
      all.push(picture);
      if (all.length * picture.rgba.length > MOST_PIXEL_BYTES)
        throw new MotionError('too-large', 'It has too many frames for one APNG: choose a smaller --height.', {
          file: path,
        });
    }
    await writeOut(path, await png(all, delays));
    return [];
  }
  if (/\.gif$/i.test(path)) {
    await writeOut(path, await gifOf(pixelsOf(figure, motion, frames, height), (i) => delays[i]!));
    return ['A GIF knows 256 colours and no half-transparent edges.'];
  }
  throw new MotionError(
    'bad-argument',
    'The ending of the file has to be .json, .lottie.json, .sprites.json, .svg, .png, .apng or .gif.',
    {
      file: path,
    },
  );
}

/** All frames on one sheet, a PNG beside the JSON that tells where they lie. */
async function writeSprites(
  path: string,
  figure: CutoutFigure,
  motion: Motion,
  name: string,
  options: Options,
): Promise<string[]> {
  const box = boxOverTime(new CutoutShow(figure.rig, figure.art, motion));
  const offered = spriteHeight(motion.frameCount, [box[2], box[3]]);
  const height = readNumber(options.height, 'height', 16, 4096) ?? offered;
  const sheet = new SpriteSheet();
  for await (const picture of pixelsOf(figure, motion, [...Array(motion.frameCount).keys()], height))
    sheet.add(picture);
  const { picture, json } = spriteFiles(sheet, { name, fps: motion.fps, box, origin: figure.art.origin });
  await writeOut(path.replace(/json$/i, 'png'), await png([picture]));
  await writeOut(path, JSON.stringify(json));
  return [
    `${json.sprites.length} pictures for ${json.frames.length} frames on ${picture.width} × ${picture.height} pixels.`,
  ];
}
