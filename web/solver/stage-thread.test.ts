import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import type { Heard } from './stage-thread';

/** What the thread told, and answers of the server that it is given one after the other. */
let told: Heard[];
let answers: (() => Promise<Response>)[];
const scope = globalThis as unknown as { postMessage: unknown; fetch: unknown };
const before = { postMessage: scope.postMessage, fetch: scope.fetch };

/** A stream whose pieces are sent by hand. */
function stream(): { response: Response; send: (text: string) => Promise<void>; end: () => Promise<void> } {
  let controller!: ReadableStreamDefaultController<Uint8Array>;
  const body = new ReadableStream<Uint8Array>({
    start: (c) => {
      controller = c;
    },
  });
  const settle = async (): Promise<void> => {
    for (let i = 0; i < 20; i++) await Promise.resolve();
    await new Promise((r) => setImmediate(r));
  };
  return {
    response: new Response(body),
    send: async (text) => {
      controller.enqueue(new TextEncoder().encode(text));
      await settle();
    },
    end: async () => {
      controller.close();
      await settle();
    },
  };
}

beforeEach(() => {
  jest.useFakeTimers({ doNotFake: ['setImmediate', 'queueMicrotask', 'performance'] });
  jest.resetModules();
  told = [];
  answers = [];
  scope.postMessage = (heard: Heard) => told.push(heard);
  scope.fetch = () => (answers.shift() ?? (() => Promise.reject(new Error('nobody there'))))();
});
afterEach(() => {
  jest.useRealTimers();
  Object.assign(scope, before);
});

test('each line is a message with the moment at which it came, also where lines are cut into pieces', async () => {
  const { response, send } = stream();
  answers.push(async () => response);
  const began = Date.now();
  await import('./stage-thread');
  await send('{"number":1}\n{"num');
  expect(told).toEqual([{ type: 'message', message: { number: 1 }, at: expect.any(Number) }]);
  await send('ber":2}\n');
  expect(told[1]).toMatchObject({ message: { number: 2 } });
  const [first, second] = told.map((t) => (t.type === 'message' ? t.at : Number.NaN));
  expect(second).toBeGreaterThanOrEqual(first!);
  expect(Math.abs(first! - began)).toBeLessThan(60_000);
});

test('a line that is no message is passed over, and the server’s word that the stage is away is handed on', async () => {
  const { response, send } = stream();
  answers.push(async () => response);
  await import('./stage-thread');
  await send('no json\n{"type":"away"}\n{"number":3}\n');
  expect(told).toEqual([{ type: 'away' }, expect.objectContaining({ message: { number: 3 } })]);
});

test('where the stream ends, or never begins, it is looked for again', async () => {
  const [gone, back] = [stream(), stream()];
  answers.push(
    async () => gone.response,
    async () => new Response('busy', { status: 503 }),
    async () => back.response,
  );
  await import('./stage-thread');
  await gone.end();
  expect(told).toEqual([{ type: 'away' }]);
  await jest.advanceTimersByTimeAsync(2000);
  await new Promise((r) => setImmediate(r));
  expect(told).toHaveLength(2);
  await jest.advanceTimersByTimeAsync(2000);
  await back.send('{"number":4}\n');
  expect(told.at(-1)).toMatchObject({ message: { number: 4 } });
});
