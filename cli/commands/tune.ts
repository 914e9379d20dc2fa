import { MotionError, mirror, type TuneStep, toRootJoint, tune } from '../../motion/index';
import { firstClip, load, outFormat, party, readJson, save } from '../files';
import { type Options, readNumber, readWhole, readWord } from '../options';
import { UsageError } from '../usage';

/** Steps that the options ask for, in the order in which the help lists them. */
function stepsOf(options: Options): TuneStep[] {
  const steps: TuneStep[] = [];
  const number = (
    name: 'energy' | 'arms' | 'stance' | 'stride' | 'lean' | 'speed' | 'smooth',
    low: number,
    high: number,
  ): number | undefined => readNumber(options[name], name, low, high);
  if (options.despike) steps.push({ op: 'despike' });
  if (options['fill-gaps']) steps.push({ op: 'fillGaps' });
  const cutoffHz = number('smooth', 0.01, 500);
  if (cutoffHz !== undefined) steps.push({ op: 'smooth', cutoffHz });
  if (options.trim !== undefined) {
    const span = /^(\d+):(\d+)$/.exec(options.trim);
    if (!span) throw new UsageError('--trim takes the first and the last frame, for instance 10:80');
    steps.push({ op: 'trim', start: Number(span[1]), end: Number(span[2]) });
  }
  const amount = number('energy', 0, 3);
  if (amount !== undefined) steps.push({ op: 'energy', amount });
  const degrees = number('arms', -60, 60);
  if (degrees !== undefined) steps.push({ op: 'arms', degrees });
  const stance = number('stance', 0.3, 3);
  if (stance !== undefined) steps.push({ op: 'stance', scale: stance });
  const stride = number('stride', 0.3, 2);
  if (stride !== undefined) steps.push({ op: 'stride', scale: stride });
  const forward = number('lean', -45, 45);
  if (forward !== undefined) steps.push({ op: 'lean', forward });
  const speed = number('speed', 0.05, 20);
  if (speed !== undefined) steps.push({ op: 'speed', speed });
  if (options.reverse) steps.push({ op: 'reverse' });
  const after = readWhole(options.hold, 'hold');
  if (after !== undefined) steps.push({ op: 'hold', after });
  if (options.place !== undefined) {
    const [x, z, heading] = options.place.split(',').map(Number) as [number, number, number];
    if (![x, z, heading].every(Number.isFinite))
      throw new UsageError('--place takes x, z and a heading, for instance 0,1.5,90');
    steps.push({ op: 'place', at: [x, z], heading });
  }
  if (options.floor) steps.push({ op: 'floor' });
  if (options['in-place']) steps.push({ op: 'inPlace' });
  return steps;
}

async function readSteps(path: string): Promise<TuneStep[]> {
  const json = await readJson(path);
  if (!Array.isArray(json) || json.some((s) => typeof s !== 'object' || s === null || typeof s.op !== 'string'))
    throw new MotionError('bad-structure', 'It needs a list of steps, each with its "op".', { file: path });
  return json as TuneStep[];
}

export async function tuneCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const format = outFormat(options.out, '--out');
  if (options['in-place'] && options['root-joint'])
    throw new UsageError('--in-place and --root-joint exclude each other');
  const file = await load(files[0]!, options);
  const steps = options.steps ? [...(await readSteps(options.steps)), ...stepsOf(options)] : stepsOf(options);
  if (steps.length === 0 && !options['root-joint']) throw new UsageError('nothing to tune was asked for');
  firstClip(file, files[0]!);
  const self = party(file);
  const clips = file.clips.map((c) => ({ name: c.name, motion: tune(self, c.motion, steps) }));
  const warnings = [...file.warnings];
  let rig = file.rig;
  let figure = file.figure;
  let done = clips;
  if (options['root-joint']) {
    const rooted = clips.map((c) => ({ name: c.name, ...toRootJoint(self, c.motion) }));
    rig = rooted[0]!.rig;
    done = rooted.map(({ name, motion }) => ({ name, motion }));
    if (rooted[0]!.added && figure)
      figure = { ...figure, meshes: figure.meshes.map((m) => ({ ...m, joints: m.joints.map((j) => j + 1) })) };
    warnings.push(
      `The travel is on the joint "${rig.names[rooted[0]!.root]}"${rooted[0]!.added ? ', which was added' : ''}.`,
    );
  }
  warnings.push(...(await save(options.out!, format, { rig, figure, clips: done }, options)));
  const answer = {
    out: options.out,
    steps: [...steps.map((s) => s.op), ...(options['root-joint'] ? ['rootJoint'] : [])],
    clips: done.map((c, i) => ({
      name: c.name,
      framesBefore: file.clips[i]!.motion.frameCount,
      frames: c.motion.frameCount,
    })),
    warnings,
  };
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${options.out} written: ${answer.steps.join(', ')}`);
  for (const w of warnings) print(`  note: ${w}`);
}

export async function mirrorCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const format = outFormat(options.out, '--out');
  const mode = readWord(options.mode, 'mode', ['exchange', 'leftToRight', 'rightToLeft'] as const, 'exchange');
  const plane = readWord(options.plane, 'plane', ['start', 'world'] as const, 'start');
  const file = await load(files[0]!, options);
  firstClip(file, files[0]!);
  const clips = file.clips.map((c) => ({
    name: c.name,
    motion: mirror(file.rig, file.map, c.motion, { mode, plane }),
  }));
  const warnings = [
    ...file.warnings,
    ...(await save(options.out!, format, { rig: file.rig, figure: file.figure, clips }, options)),
  ];
  if (options.json)
    return print(JSON.stringify({ out: options.out, mode, plane, clips: clips.map((c) => c.name), warnings }, null, 2));
  print(`${options.out} written, mirrored (${mode})`);
  for (const w of warnings) print(`  note: ${w}`);
}
