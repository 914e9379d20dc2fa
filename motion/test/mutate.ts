const TOKENS = [
  'NaN',
  '-1',
  '1e308',
  '99999999999',
  '0',
  '"',
  '{',
  '}',
  '\n',
  'CHANNELS 6',
  'Frames: 1000000',
  ':root',
  'null',
  '[',
  ']',
  '\u0000',
  '1e-400',
  'begin',
  'End Site',
];

/** Damages bytes as files get damaged: bits, runs, cuts, repeats, words put in, counts made huge. */
export function mutate(bytes: Uint8Array, random: () => number): Uint8Array {
  let out: Uint8Array = bytes.slice();
  const times = 1 + Math.floor(random() * 4);
  for (let i = 0; i < times; i++) {
    const at = Math.floor(random() * out.length);
    const length = Math.floor(random() ** 3 * Math.min(400, out.length - at));
    const kind = Math.floor(random() * 8);
    if (kind === 0 && out.length > 0) out[at] = out[at]! ^ (1 << Math.floor(random() * 8));
    else if (kind === 1) out = out.slice(0, at);
    else if (kind === 2) out = join(out.subarray(0, at), out.subarray(at + length));
    else if (kind === 3) out = join(out.subarray(0, at), out.subarray(at, at + length), out.subarray(at));
    else if (kind === 4) out.fill(Math.floor(random() * 256), at, at + length);
    else if (kind === 5)
      out = join(
        out.subarray(0, at),
        new TextEncoder().encode(TOKENS[Math.floor(random() * TOKENS.length)]!),
        out.subarray(at),
      );
    else if (kind === 6 && out.length > 8) {
      // a count in a head made huge
      new DataView(out.buffer, out.byteOffset).setUint32(
        Math.min(out.length - 4, Math.floor(random() * 64) & ~3),
        Math.floor(random() * 2 ** 32),
        true,
      );
    } else if (out.length > 0)
      for (let k = 0; k < 8; k++) out[Math.floor(random() * out.length)] = Math.floor(random() * 256);
  }
  return out;
}

function join(...parts: Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((s, p) => s + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}
