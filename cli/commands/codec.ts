import { largestError, MotionError, packMotion, unpackMotion } from '../../motion/index';
import { firstClip, load, outFormat, readBytes, save, writeOut } from '../files';
import { type Options, readNumber } from '../options';
import { UsageError } from '../usage';

export async function codec(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const [what, from, to] = files as [string, string, string];
  if (what === 'pack') return pack(from, to, options, print);
  if (what === 'unpack') return unpack(from, to, options, print);
  throw new UsageError('codec takes pack or unpack');
}

async function pack(from: string, to: string, options: Options, print: (text: string) => void): Promise<void> {
  const bound = readNumber(options.bound, 'bound', 0.001, 1000) ?? 0.5;
  const file = await load(from, options);
  const { motion } = firstClip(file, from);
  const packed = packMotion(file.rig, motion, { bound: bound / 1000 });
  await writeOut(to, packed);
  const raw = motion.turns.byteLength + motion.places.reduce((s, t) => s + t.values.byteLength, 0);
  const answer = {
    out: to,
    bytes: packed.length,
    float32Bytes: raw,
    ratio: Number((raw / packed.length).toFixed(2)),
    boundMm: bound,
    largestErrorMm: Number((1000 * largestError(file.rig, motion, unpackMotion(packed))).toFixed(4)),
  };
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(
    `${to} written: ${answer.bytes} bytes, ${answer.ratio} : 1, no point moves by more than ${answer.largestErrorMm} mm`,
  );
}

async function unpack(from: string, to: string, options: Options, print: (text: string) => void): Promise<void> {
  if (!options.rig) throw new UsageError('codec unpack needs --rig FILE, whose skeleton the motion moves');
  const format = outFormat(to, 'the output');
  const motion = unpackMotion(await readBytes(from));
  const file = await load(options.rig);
  if (motion.turns.length !== 4 * file.rig.names.length * motion.frameCount)
    throw new MotionError(
      'wrong-count',
      `The packed motion moves ${motion.turns.length / 4 / motion.frameCount} joints, the skeleton has ${file.rig.names.length}.`,
      { file: options.rig },
    );
  const name = from.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');
  const warnings = await save(to, format, { rig: file.rig, figure: file.figure, clips: [{ name, motion }] }, options);
  if (options.json)
    return print(JSON.stringify({ out: to, frames: motion.frameCount, fps: motion.fps, warnings }, null, 2));
  print(`${to} written: ${motion.frameCount} frames`);
}
