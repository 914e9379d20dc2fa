import {
  type BodyMap,
  bodyMapFromJson,
  evaluateFitting,
  FITTING_DEFAULTS,
  type FittingEdits,
  type FittingSettings,
  HAND_MODES,
  type Imported,
  MotionError,
  NO_EDITS,
  type Party,
  reportOfFitting,
  TRAVELS,
  TUNING_DEFAULTS,
} from '../../motion/index';
import { firstClip, load, outFormat, party, readJson, save, writeOut } from '../files';
import { type Options, readWord } from '../options';
import { UsageError } from '../usage';

export async function retargetCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  if (!options.to || !options.out) throw new UsageError('retarget needs --to CHARACTER and --out FILE');
  const format = outFormat(options.out, '--out');
  const travel = readWord(options.travel, 'travel', TRAVELS, 'leg');
  const hands = readWord(options.hands, 'hands', HAND_MODES, 'free');
  const source = await load(files[0]!, options);
  const target = await load(options.to);
  const clip = firstClip(source, files[0]!);
  const maps = options.map ? await readMaps(options.map, source, target) : {};
  const parties: [Party, Party] = [party(source, maps.source, options.rest), party(target, maps.target)];
  const start = performance.now();
  const document = options.fitting ? await readFitting(options.fitting) : { settings: {}, edits: NO_EDITS };
  const fitted = evaluateFitting(
    parties[0],
    clip.motion,
    parties[1],
    {
      ...FITTING_DEFAULTS,
      ...document.settings,
      ...(options['no-plants'] ? { plants: false } : {}),
      ...(options.travel ? { travel } : {}),
      ...(options.hands ? { hands } : {}),
      ...(options['no-clear'] ? { clear: false } : {}),
      ...(options.limits ? { limits: true } : {}),
    },
    document.edits,
  );
  const solveMs = performance.now() - start;
  const { lanes: _lanes, troubles, ...measured } = reportOfFitting(fitted);
  const warnings = [...source.warnings, ...target.warnings, ...measured.warnings];
  if (source.clips.length > 1) warnings.push(`The file holds ${source.clips.length} clips; "${clip.name}" was taken.`);
  warnings.push(
    ...(await save(
      options.out,
      format,
      {
        rig: target.rig,
        figure: target.figure,
        clips: [{ name: clip.name, motion: fitted.motion }],
      },
      options,
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

/** Settings and edits of a fitting; what is left out is as at first. The solve itself refuses what makes no sense. */
async function readFitting(path: string): Promise<{ settings: Partial<FittingSettings>; edits: FittingEdits }> {
  const json = (await readJson(path)) as {
    settings?: Partial<FittingSettings> | null;
    edits?: Partial<FittingEdits> | null;
  };
  if (typeof json !== 'object' || json === null || Array.isArray(json))
    throw new MotionError('bad-structure', 'A fitting is an object with "settings" and "edits".', { file: path });
  const strange = Object.keys(json.settings ?? {}).find((k) => !(k in FITTING_DEFAULTS));
  if (strange !== undefined)
    throw new MotionError('bad-structure', `A fitting has no setting called "${strange.slice(0, 40)}".`, {
      file: path,
    });
  return {
    settings: { ...json.settings, tuning: { ...TUNING_DEFAULTS, ...json.settings?.tuning } },
    edits: { ...NO_EDITS, ...json.edits },
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
