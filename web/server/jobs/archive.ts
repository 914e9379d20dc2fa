import { MAX_FILE_BYTES } from '@velvet-reel/motion';
import { Unzip, UnzipInflate } from 'fflate';
import { Refusal } from '../errors';

export interface Unpacked {
  name: string;
  bytes: Uint8Array;
}

const MOST_FILES = 20_000;
const MOST_BYTES = 8 * 2 ** 30;
/** Text that repeats itself packs 1 : 200 at most; more is made to burst. Small archives may. */
const MOST_RATIO = 400;
const SMALL_BYTES = 64 * 2 ** 20;
/** Folders within folders. */
const MOST_DEPTH = 32;
/** Files that are no motion: left out without a word. */
const NOISE = /(^|\/)(\.|__MACOSX\/|Thumbs\.db$|desktop\.ini$)/i;

/**
 * Unpacks an archive file by file, never more of it in memory than one file. Limits are checked on what really comes out,
 * not on what the archive says.
 * @throws Refusal on an archive that is broken, too large, or leads out of its folder
 */
export async function unpack(
  bytes: Uint8Array,
  name: string,
  each: (file: Unpacked) => Promise<void>,
): Promise<{ files: number }> {
  const ready: Unpacked[] = [];
  let files = 0;
  let total = 0;
  let fault: Refusal | undefined;
  const broken = (): Refusal => new Refusal(422, 'bad-archive', `${name}: the archive is broken. Pack it again.`);
  const unzip = new Unzip((file) => {
    if (file.name.split(/[\\/]/).includes('..') || file.name.startsWith('/')) {
      fault ??= new Refusal(422, 'bad-archive', `${name}: “${file.name.slice(0, 80)}” points outside the archive.`);
      return;
    }
    if (file.name.endsWith('/') || NOISE.test(file.name)) return;
    if (file.name.split(/[\\/]/).length > MOST_DEPTH) {
      fault ??= new Refusal(422, 'bad-archive', `${name}: its folders are nested more than ${MOST_DEPTH} deep.`);
      return;
    }
    // archives within archives have no end
    if (/\.(zip|gz|tgz|7z|rar|bz2|xz)$/i.test(file.name)) {
      fault ??= new Refusal(
        422,
        'nested-archive',
        `${name}: “${file.name.slice(0, 80)}” is an archive itself. Unpack it first.`,
      );
      return;
    }
    if (++files > MOST_FILES) {
      fault ??= new Refusal(422, 'too-large', `${name}: it has more than ${MOST_FILES} files.`);
      return;
    }
    const chunks: Uint8Array[] = [];
    let size = 0;
    file.ondata = (error, chunk, last) => {
      if (error) {
        fault ??= broken();
        return;
      }
      size += chunk.length;
      total += chunk.length;
      const burst = total > SMALL_BYTES && total > MOST_RATIO * bytes.length;
      if (size > MAX_FILE_BYTES || total > MOST_BYTES || burst) {
        fault ??= new Refusal(422, 'too-large', `${name}: “${file.name.slice(0, 80)}” is too large when unpacked.`);
        file.terminate();
        return;
      }
      chunks.push(chunk);
      if (last) ready.push({ name: file.name.replaceAll('\\', '/'), bytes: concat(chunks, size) });
    };
    file.start();
  });
  unzip.register(UnzipInflate);
  const STEP = 1 << 20;
  try {
    for (let at = 0; at < bytes.length && !fault; at += STEP) {
      unzip.push(bytes.subarray(at, at + STEP), at + STEP >= bytes.length);
      for (let file = ready.shift(); file && !fault; file = ready.shift()) await each(file);
      // the process has other things to do: signs of life above all
      await new Promise((resolve) => setImmediate(resolve));
    }
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw broken();
  }
  if (fault) throw fault;
  if (files === 0) throw new Refusal(422, 'empty', `${name}: it is empty.`);
  return { files };
}

function concat(chunks: readonly Uint8Array[], size: number): Uint8Array {
  const out = new Uint8Array(size);
  let at = 0;
  for (const c of chunks) {
    out.set(c, at);
    at += c.length;
  }
  return out;
}
