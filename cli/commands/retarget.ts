import {
  type BodyMap,
  bodyMapFromJson,
  figureFloor,
  type Imported,
  MotionError,
  type Party,
  PoseReader,
  reportOf,
  retarget,
  TRAVELS,
} from '../../motion/index';
import { load, outFormat, readJson, save, writeOut } from '../files';
import { type Options, readFps } from '../options';
import { UsageError } from '../usage';

export async function retargetCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  if (!options.to || !options.out) throw new UsageError('retarget needs --to CHARACTER and --out FILE');
  const format = outFormat(options.out);
  if (!format) throw new UsageError('--out must end in .bvh or .glb');
  const travel = TRAVELS.find((t) => t === (options.travel ?? 'leg'));
  if (!travel) throw new UsageError(`--travel takes ${TRAVELS.join(', ')}`);
  const fps = readFps(options.fps);
  const source = await load(files[0]!);
  const target = await load(options.to);
  const clip = source.clips[0];
  if (!clip) throw new MotionError('no-motion', 'It holds no motion to carry over.', { file: files[0]! });
  const maps = options.map ? await readMaps(options.map, source, target) : {};
  const parties: [Party, Party] = [party(source, maps.source), party(target, maps.target)];
  const start = performance.now();
  const done = retarget(parties[0], clip.motion, parties[1], { plants: !options['no-plants'], travel });
  const solveMs = performance.now() - start;
  const { lanes: _lanes, troubles, ...measured } = reportOf(done);
  const warnings = [...source.warnings, ...target.warnings, ...measured.warnings];
  if (source.clips.length > 1) warnings.push(`The file holds ${source.clips.length} clips; "${clip.name}" was taken.`);
  warnings.push(
    ...(await save(
      options.out,
      format,
      {
        rig: target.rig,
        figure: options['no-mesh'] ? undefined : target.figure,
        clips: [{ name: clip.name, motion: done.motion }],
      },
      fps,
    )),
  );
  const report = {
    ...measured,
    solveMs: Number(solveMs.toFixed(3)),
    framesPerSecond: Math.round((1000 * clip.motion.frameCount) / solveMs),
    troubles,
    warnings,
  };
  if (options.report) await writeOut(options.report, `${JSON.stringify(report, null, 2)}\n`);
  if (options.json) return print(JSON.stringify(report, null, 2));
  print(`${options.out} written: ${report.frames} frames in ${solveMs.toFixed(0)} ms`);
  print(
    `  plants ${report.plants.length}, largest slip ${report.slip.maxCm.toFixed(2)} cm, deepest sole ${report.floor.maxDepthCm.toFixed(2)} cm, direction ${report.direction.meanDeg.toFixed(2)}° mean`,
  );
  for (const t of troubles) print(`  trouble: ${t.text}`);
  for (const w of warnings) print(`  note: ${w}`);
}

function party(file: Imported, map: BodyMap | undefined): Party {
  const first = file.clips[0]?.motion;
  return {
    rig: file.rig,
    map: map ?? file.map,
    pose: file.restFrom === 'first frame' && first ? new PoseReader(file.rig, first).at(0) : undefined,
    floor: file.figure && figureFloor(file.figure),
  };
}

/** A map file holds one map, for the character or else for the motion, or both under "source" and "target". */
async function readMaps(
  path: string,
  source: Imported,
  target: Imported,
): Promise<{ source?: BodyMap; target?: BodyMap }> {
  const json = (await readJson(path)) as { source?: unknown; target?: unknown } | null;
  const withFile = <T>(read: () => T): T => {
    try {
      return read();
    } catch (error) {
      if (error instanceof MotionError)
        throw new MotionError(error.code, error.message, { ...error.place, file: path });
      throw error;
    }
  };
  if (json && (json.source || json.target)) {
    return withFile(() => ({
      ...(json.source ? { source: bodyMapFromJson(json.source, source.rig) } : {}),
      ...(json.target ? { target: bodyMapFromJson(json.target, target.rig) } : {}),
    }));
  }
  try {
    return { target: bodyMapFromJson(json, target.rig) };
  } catch (error) {
    try {
      return { source: bodyMapFromJson(json, source.rig) };
    } catch {
      return withFile(() => {
        throw error;
      });
    }
  }
}
