import {
  importSolved,
  markerBodyFromJson,
  readC3d,
  readTrc,
  retarget,
  sniffFormat,
  solveMarkers,
  solveOnBody,
  solveWords,
} from '../../motion/index';
import { firstClip, load, outFormat, party, readBytes, readJson, save, writeOut } from '../files';
import type { Options } from '../options';
import { CommandError, UsageError } from '../usage';

/** velvet-reel solve MARKERS --out FILE: a skeleton and its motion from markers, on a character where one is named. */
export async function solveCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const [file] = files;
  if (!options.out) throw new UsageError('solve needs --out FILE');
  const bytes = await readBytes(file!);
  const format = sniffFormat(bytes, file!);
  if (format !== 'c3d' && format !== 'trc')
    throw new CommandError(`${file} holds no markers: solve reads C3D and TRC.`);
  const start = performance.now();
  const markers = format === 'trc' ? readTrc(bytes) : readC3d(bytes);
  const body = options.body === undefined ? undefined : markerBodyFromJson(await readJson(options.body));
  const found = body ? solveOnBody(markers, body) : solveMarkers(markers);
  const solveMs = performance.now() - start;
  const notes = solveWords(found.report);
  const name = file!.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');
  const written = async (): Promise<{ joints: number; left: string[] }> => {
    const out = outFormat(options.out, '--out');
    if (!options.to) {
      // as the markers stand, in metres
      const clips = [{ name, motion: found.motion }];
      return {
        joints: found.rig.names.length,
        left: await save(options.out!, out, { rig: found.rig, figure: undefined, clips }, options),
      };
    }
    const solved = importSolved(format, file!, found, body !== undefined);
    const other = await load(options.to);
    const { motion } = retarget(party(solved), firstClip(solved, file!).motion, party(other));
    const content = { rig: other.rig, figure: other.figure, clips: [{ name, motion }] };
    return { joints: other.rig.names.length, left: await save(options.out!, out, content, options) };
  };
  const { joints, left } = await written();
  if (options['keep-body']) await writeOut(options['keep-body'], `${JSON.stringify(found.body)}\n`);
  const { cleaned, ...told } = found.report;
  const answer = {
    file,
    out: options.out,
    fps: found.motion.fps,
    ...told,
    cleaned: cleaned.map((c) => ({ ...c, markers: c.markers.map((m) => told.markers[m]!.label) })),
    joints: found.rig.names,
    jointsOff: told.joints,
    notes: [...notes, ...left],
    solveMs: Number(solveMs.toFixed(1)),
  };
  if (options.report) await writeOut(options.report, `${JSON.stringify(answer, null, 2)}\n`);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  const off = told.markers.map((m) => m.offMm).sort((a, b) => a - b);
  print(`${options.out} written: ${joints} joints, ${told.frames} frames, in ${(solveMs / 1000).toFixed(1)} s`);
  print(`  markers are off by ${off[off.length >> 1]} mm, half of them; the worst by ${off.at(-1)} mm`);
  for (const w of [...notes, ...left]) print(`  ${w}`);
}
