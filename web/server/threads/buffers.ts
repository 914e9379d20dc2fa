/** Smaller ones are copied as quickly as they are handed over. */
const WORTH_BYTES = 1 << 16;
const DEPTH = 6;

/**
 * Memory in a result that can be handed to another thread whole: of views that cover all of theirs, each once. What a view only
 * shares, as small buffers of Node do, is left out: handing it over would take it from others.
 */
export function buffersIn(result: unknown): ArrayBuffer[] {
  const found = new Set<ArrayBuffer>();
  const visit = (x: unknown, depth: number): void => {
    if (ArrayBuffer.isView(x)) {
      const { buffer, byteLength } = x;
      if (isPlainMemory(buffer) && buffer.byteLength === byteLength && byteLength >= WORTH_BYTES) found.add(buffer);
    } else if (x !== null && typeof x === 'object' && depth < DEPTH)
      for (const y of Object.values(x)) visit(y, depth + 1);
  };
  visit(result, 0);
  return [...found];
}

/** Whether it is memory of one thread alone; told by its kind, for threads and tests have constructors of their own. */
const isPlainMemory = (buffer: ArrayBufferLike): buffer is ArrayBuffer =>
  Object.prototype.toString.call(buffer) === '[object ArrayBuffer]';
