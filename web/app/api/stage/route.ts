import { WebSocket } from 'ws';
import { route } from '@/server/http';
import { stageAddress } from '@/server/live/stage-address';
import { takeStream } from '@/server/live/streams';

export const dynamic = 'force-dynamic';

/** A message longer than this is none of a capture stage's. */
const LONGEST = 2 ** 20;
/** Whoever reads too slowly is not sent more than this beforehand, in messages. */
const WAITING = 600;

/**
 * What the capture stage sends, a message a line. The address is the installation's own setting, so that nobody can make the
 * server call elsewhere.
 */
export const GET = route({ need: 'read' }, async ({ request, person }) => {
  const leaveStream = takeStream(person.id);
  const encoder = new TextEncoder();
  let close = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>(
    {
      start(controller) {
        const stage = new WebSocket(stageAddress(), { maxPayload: LONGEST, handshakeTimeout: 5000 });
        let open = true;
        const send = (text: string): void => {
          if (!open) return;
          // frames may be left out for a page that lags; it knows them by their numbers
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
          leaveStream();
          stage.terminate();
          try {
            controller.close();
          } catch {
            // closed already from the other side
          }
        };
        stage.on('message', (data) => send(String(data).replace(/[\r\n]+/g, ' ')));
        stage.on('error', () => send(JSON.stringify({ type: 'away' })));
        stage.on('close', () => {
          send(JSON.stringify({ type: 'away' }));
          close();
        });
        request.signal.addEventListener('abort', () => close());
      },
      cancel: () => close(),
    },
    { highWaterMark: 64 },
  );
  return new Response(stream, {
    headers: {
      'content-type': 'application/x-ndjson; charset=utf-8',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  });
});
