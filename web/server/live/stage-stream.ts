import { WebSocket } from 'ws';

/** Where the capture stage is that live takes come from: VELVET_STAGE, or the stand-in on this machine. */
export const stageAddress = (): string => process.env.VELVET_STAGE ?? 'ws://127.0.0.1:4720';

/** A message longer than this is none of a capture stage's. */
const LONGEST = 2 ** 20;
/** Whoever reads too slowly is not sent more frames than this beforehand. */
const WAITING = 600;

/**
 * What a capture stage sends, a message a line, until it goes away or nobody reads any more; its going is told by a last line,
 * {"type":"away"}. Frames are left out for a reader that lags: it knows them by their numbers.
 * @param left called once, when it is over
 */
export function stageStream(address: string, signal: AbortSignal, left: () => void): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let close = (): void => undefined;
  return new ReadableStream<Uint8Array>(
    {
      start(controller) {
        const stage = new WebSocket(address, { maxPayload: LONGEST, handshakeTimeout: 5000 });
        let open = true;
        const send = (text: string): void => {
          if (!open) return;
          if ((controller.desiredSize ?? 0) < -WAITING && text.startsWith('{"type":"frame"')) return;
          try {
            controller.enqueue(encoder.encode(`${text}\n`));
          } catch {
            close();
          }
        };
        close = () => {
          if (!open) return;
          open = false;
          left();
          stage.terminate();
          try {
            controller.close();
          } catch {
            // closed already from the other side
          }
        };
        stage.on('message', (data) => send(String(data).replace(/[\r\n]+/g, ' ')));
        // what went wrong is followed by the end
        stage.on('error', () => undefined);
        stage.on('close', () => {
          send(JSON.stringify({ type: 'away' }));
          close();
        });
        signal.addEventListener('abort', () => close());
      },
      cancel: () => close(),
    },
    { highWaterMark: 64 },
  );
}
