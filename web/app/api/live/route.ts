import { whoAsks } from '@/server/auth/session';
import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { hub } from '@/server/live/hub';
import { takeStream } from '@/server/live/streams';
import { hiddenFrom } from '@/server/services/hidden';

export const dynamic = 'force-dynamic';

const BEAT_MS = 15_000;

/** Server-sent events: what is done in the library, how jobs go, who is here. */
export const GET = route({ need: 'read' }, async ({ request, person }) => {
  const leaveStream = takeStream(person.id);
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
      // one after the other, each without what this person does not see
      let told = Promise.resolve();
      const unlisten = hub().listen((event) => {
        told = told
          .then(async () => (await hiddenFrom(database(), person))?.sift(event) ?? event)
          .then((seen) => send(`data: ${JSON.stringify(seen)}\n\n`))
          .catch(() => close());
      });
      // whoever was shut out, or signed out elsewhere, hears no more
      const beat = setInterval(
        () =>
          void whoAsks('read', request.headers).then(
            () => send(': still here\n\n'),
            () => close(),
          ),
        BEAT_MS,
      );
      close = () => {
        unlisten();
        leaveStream();
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
