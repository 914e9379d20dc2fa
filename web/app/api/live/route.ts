import { route } from '@/server/http';
import { hub } from '@/server/live/hub';

export const dynamic = 'force-dynamic';

/** Server-sent events: what is done in the library, how jobs go, who is here. */
export const GET = route({ need: 'read' }, async ({ request }) => {
  const encoder = new TextEncoder();
  let close = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string): void => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          close();
        }
      };
      send('retry: 1500\n\n: here\n\n');
      const unlisten = hub().listen((event) => send(`data: ${JSON.stringify(event)}\n\n`));
      const beat = setInterval(() => send(': still here\n\n'), 15_000);
      close = () => {
        unlisten();
        clearInterval(beat);
        try {
          controller.close();
        } catch {
          // closed by the other side
        }
      };
      request.signal.addEventListener('abort', () => close());
    },
    cancel: () => close(),
  });
  return new Response(stream, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  });
});
