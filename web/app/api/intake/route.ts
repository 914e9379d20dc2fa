import { database } from '@/server/db/client';
import { Refusal } from '@/server/errors';
import { readUpload } from '@/server/files/upload';
import { route } from '@/server/http';
import { readInThread } from '@/server/jobs/threads';
import { listIntakes, refuseIn, takeIn } from '@/server/services/intake';

export const GET = route({ need: 'read' }, () => listIntakes(database()));

/** Takes one file in. A refused file is answered with its report too: the report is the answer, not an error. */
export const POST = route({ need: 'change' }, async ({ request, person }) => {
  const { name, bytes, skeleton } = await readUpload(request);
  const size = bytes.length + (skeleton?.length ?? 0);
  try {
    const read = await readInThread(bytes, name, skeleton);
    return await takeIn(database(), read, name, size, person.id);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return refuseIn(database(), name, size, person.id, error.code, error.message);
  }
});
