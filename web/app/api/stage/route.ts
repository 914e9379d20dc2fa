import { route } from '@/server/http';
import { stageAddress, stageStream } from '@/server/live/stage-stream';
import { takeStream } from '@/server/live/streams';

export const dynamic = 'force-dynamic';

/**
 * What the capture stage sends, a message a line. The address is the installation's own setting, so that nobody can make the
 * server call elsewhere.
 */
export const GET = route({ need: 'read' }, async ({ request, person }) => {
  const stream = stageStream(stageAddress(), request.signal, takeStream(person.id));
  return new Response(stream, {
    headers: {
      'content-type': 'application/x-ndjson; charset=utf-8',
      'cache-control': 'no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  });
});
