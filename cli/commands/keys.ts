import { applyKeys, KEY_CURVES, keyCount, largestError, readGltf, reduceKeys, writeGlb } from '../../motion/index';
import { load, writeOut } from '../files';
import { type Options, readNumber, readWord } from '../options';
import { UsageError } from '../usage';

const TOLERANCE_MM = 1;

/**
 * velvet-reel keys IN --out FILE.glb: motions as keys that can be edited, few enough to work with, and curves between them; no
 * point of the body moves by more than the tolerance, and the report says by how much it does.
 */
export async function keysCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const [from] = files as [string];
  const { out } = options;
  if (!out || !/\.glb$/i.test(out)) throw new UsageError('keys needs --out FILE.glb');
  const mm = readNumber(options.tolerance, 'tolerance', 0.01, 1000) ?? TOLERANCE_MM;
  const keyCurves = readWord(options.curves, 'curves', KEY_CURVES, 'smooth');
  const file = await load(from, options);
  const { rig, clips } = file;
  const figure = options['no-mesh'] ? undefined : file.figure;
  const keyed = clips.map((c) => ({ ...c, keys: reduceKeys(rig, c.motion, mm / 1000, keyCurves) }));
  const bytes = await writeGlb({ rig, figure, clips: keyed });
  await writeOut(out, bytes);
  const read = (await readGltf(bytes)).clips;
  const motions = keyed.map(({ name, motion, keys }, i) => {
    const { kept, of } = keyCount(keys, motion);
    const back = read[i]!.motion;
    // what a reader of the file has, where it takes the frames as they were
    const asRead = back.frameCount === motion.frameCount ? largestError(rig, motion, back) : undefined;
    return {
      name,
      frames: motion.frameCount,
      fps: motion.fps,
      keys: kept,
      ofFrames: of,
      share: Number((kept / of).toFixed(4)),
      errorMm: Number((1000 * (asRead ?? largestError(rig, motion, applyKeys(rig, motion, keys)))).toFixed(3)),
    };
  });
  const answer = { file: from, out, curves: keyCurves, toleranceMm: mm, motions, warnings: file.warnings };
  if (options.report) await writeOut(options.report, `${JSON.stringify(answer, null, 2)}\n`);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${out} written`);
  for (const m of motions)
    print(
      `  ${m.name}: ${m.keys} keys, ${(100 * m.share).toFixed(1)} % of those on every frame; no point is off by more than ${m.errorMm} mm`,
    );
  for (const w of file.warnings) print(`  note: ${w}`);
}
