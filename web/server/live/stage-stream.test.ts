import type { AddressInfo } from 'node:net';
import { type WebSocket, WebSocketServer } from 'ws';
import { stageStream } from './stage-stream';

let server: WebSocketServer;
let address: string;
beforeEach(async () => {
  server = new WebSocketServer({ host: '127.0.0.1', port: 0 });
  await new Promise<void>((done) => server.once('listening', () => done()));
  address = `ws://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterEach(() => {
  for (const client of server.clients) client.terminate();
  server.close();
});
const joined = (): Promise<WebSocket> => new Promise((done) => server.once('connection', done));

/** Lines of a stream, one after the other. */
async function* lines(stream: ReadableStream<Uint8Array>): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  let rest = '';
  for await (const bytes of stream as unknown as AsyncIterable<Uint8Array>) {
    const all = (rest + decoder.decode(bytes)).split('\n');
    rest = all.pop()!;
    yield* all;
  }
}

test('every message is a line, whatever it holds, and the stage’s going is the last one', async () => {
  let left = 0;
  const stream = stageStream(address, new AbortController().signal, () => left++);
  const stage = await joined();
  stage.send('{"type":"hello"}');
  stage.send('{"type":\n"frame"}');
  stage.close();
  const got: string[] = [];
  for await (const line of lines(stream)) got.push(line);
  expect(got).toEqual(['{"type":"hello"}', '{"type": "frame"}', '{"type":"away"}']);
  expect(left).toBe(1);
});

test('a stage that is not there is away at once', async () => {
  server.close();
  let left = 0;
  const got: string[] = [];
  for await (const line of lines(stageStream('ws://127.0.0.1:1', new AbortController().signal, () => left++)))
    got.push(line);
  expect(got).toEqual(['{"type":"away"}']);
  expect(left).toBe(1);
});

test('who goes away is let go by the stage, and gives the place back once', async () => {
  let left = 0;
  const abort = new AbortController();
  const reader = stageStream(address, abort.signal, () => left++).getReader();
  const stage = await joined();
  stage.send('{"type":"hello"}');
  expect((await reader.read()).done).toBe(false);
  const gone = new Promise<void>((done) => stage.once('close', () => done()));
  abort.abort();
  await gone;
  await reader.cancel().catch(() => undefined);
  expect(left).toBe(1);
});

test('a reader that lags misses frames, never a greeting', async () => {
  let stream!: ReadableStream<Uint8Array>;
  const over = new Promise<void>((left) => {
    stream = stageStream(address, new AbortController().signal, left);
  });
  const stage = await joined();
  for (let i = 0; i < 3000; i++) stage.send(`{"type":"frame","number":${i}}`);
  stage.send('{"type":"hello","late":true}');
  stage.close();
  // all of it has come before anything is read
  await over;
  const got: string[] = [];
  for await (const line of lines(stream)) got.push(line);
  expect(got.length).toBeLessThan(1500);
  expect(got).toContain('{"type":"hello","late":true}');
});
