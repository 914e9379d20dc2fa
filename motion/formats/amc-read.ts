import { MotionError } from '../errors';
import { alignTurns, mulQuat, normalizeQuat } from '../math/quat';
import { MAX_FRAMES, MAX_NUMBERS, type Motion } from '../motion/motion';
import { type AsfFile, turnInOrder } from './asf-read';

/** AMC files name no rate; captures of this kind are taken at 120 frames a second. */
export const AMC_FPS = 120;

/**
 * Reads the motion of an Acclaim pair (AMC) onto its skeleton. Turns come in the joint's frame of the rig, whose axes are
 * parallel to the file's world at rest: C · R · C⁻¹ with C the bone's axes. Bones that a frame leaves out keep their turn.
 * Throws MotionError only, with the line.
 * @param fps frames a second; the format does not say
 */
export function readAmc(bytes: Uint8Array, asf: AsfFile, fps = AMC_FPS): Motion {
  if (bytes.length === 0) throw new MotionError('empty', 'The file is empty.');
  const n = asf.rig.names.length;
  const frames = countFrames(bytes);
  if (frames === 0) throw new MotionError('no-motion', 'The file holds no frames.');
  if (frames > MAX_FRAMES || frames * n * 4 > MAX_NUMBERS)
    throw new MotionError('too-large', `${frames} frames are more than the limit.`);
  const index = new Map(asf.bones.map((b, j) => [b.name, j]));
  const turns = new Float32Array(4 * n * frames);
  const places = new Float32Array(3 * frames);
  const local = new Float64Array(4 * n);
  for (let j = 0; j < n; j++) local[4 * j + 3] = 1;
  const place = [0, 0, 0];
  let frame = -1;
  let radians = asf.angle;
  const q = [0, 0, 0, 1];
  const angles: number[] = [];
  const finish = (): void => {
    if (frame < 0) return;
    turns.set(local, 4 * n * frame);
    places.set(place, 3 * frame);
  };
  for (const { text, line } of eachLine(bytes)) {
    if (text.startsWith('#')) continue;
    if (text.startsWith(':')) {
      if (/^:radians/i.test(text)) radians = 1;
      if (/^:degrees/i.test(text)) radians = Math.PI / 180;
      continue;
    }
    const words = text.split(/\s+/);
    if (words.length === 1 && /^\d+$/.test(words[0]!)) {
      finish();
      frame++;
      continue;
    }
    const j = index.get(words[0]!);
    if (j === undefined)
      throw new MotionError(
        'bad-structure',
        `The motion names the bone "${words[0]!.slice(0, 40)}", which the skeleton does not have.`,
        { line },
      );
    if (frame < 0) throw new MotionError('bad-structure', 'A bone stands before the first frame number.', { line });
    const bone = asf.bones[j]!;
    if (words.length - 1 !== bone.dof.length)
      throw new MotionError(
        'wrong-count',
        `"${bone.name}" has ${words.length - 1} numbers; it needs ${bone.dof.length}.`,
        { line, frame },
      );
    let order = '';
    angles.length = 0;
    for (let i = 0; i < bone.dof.length; i++) {
      const x = Number(words[i + 1]);
      if (!Number.isFinite(x))
        throw new MotionError('bad-number', `"${words[i + 1]!.slice(0, 24)}" is not a number.`, {
          line,
          frame,
          joint: bone.name,
        });
      const letter = bone.dof[i]!;
      if (letter >= 'X' && letter <= 'Z') {
        order += letter;
        angles.push(x * radians);
      } else if (j === 0 && letter !== 'l') place[letter.charCodeAt(0) - 120] = x * asf.lengthScale;
    }
    turnInOrder(q, order, angles);
    // C · R · C⁻¹
    const c = bone.axes;
    mulQuat(q, 0, c, 0, q, 0);
    mulQuat(q, 0, q, 0, [-c[0]!, -c[1]!, -c[2]!, c[3]!], 0);
    normalizeQuat(q, 0);
    local.set(q, 4 * j);
  }
  finish();
  alignTurns(turns, n, frames);
  return { fps, frameCount: frames, turns, places: [{ joint: 0, values: places }], numbers: [], scales: [], steps: [] };
}

function countFrames(bytes: Uint8Array): number {
  let count = 0;
  for (const { text } of eachLine(bytes)) if (/^\d+$/.test(text)) count++;
  return count;
}

/** Lines without their ends and outer blanks; blank ones left out. Nothing is held but one line at a time. */
function* eachLine(bytes: Uint8Array): Generator<{ text: string; line: number }> {
  const decoder = new TextDecoder();
  let line = 0;
  for (let at = 0; at < bytes.length; ) {
    let end = bytes.indexOf(10, at);
    if (end < 0) end = bytes.length;
    line++;
    if (end - at > 1_000_000)
      throw new MotionError('bad-structure', 'A line has more than a million characters.', { line });
    const text = decoder.decode(bytes.subarray(at, end)).trim();
    if (text) yield { text, line };
    at = end + 1;
  }
}
