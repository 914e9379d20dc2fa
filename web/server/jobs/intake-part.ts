import { readFile, stat } from 'node:fs/promises';
import { dirname, extname, resolve, sep } from 'node:path';
import { MAX_FILE_BYTES, pairSkeletons } from '@velvet-reel/motion';
import { eq, inArray, max } from 'drizzle-orm';
import { many } from '../../naming/counts';
import { insertUpload } from '../db/bytes';
import type { Database } from '../db/client';
import { jobParts, uploads } from '../db/schema';
import { Refusal } from '../errors';
import { holdsDrawings } from '../files/pictures';
import { sha256 } from '../ids';
import { knownFile, refuseIn, takeInto } from '../services/intake';
import { addParts } from '../services/jobs';
import { readForLibrary } from '../services/read-for-library';
import { personOf } from '../services/rights';
import { unpack } from './archive';
import { endPart, type Job, type Part } from './queue';

interface Order {
  folder?: string;
  again?: boolean;
  keepFolders?: boolean;
}

interface Found {
  bytes: Uint8Array;
  skeleton: Uint8Array | undefined;
}

/** Bytes of a part: uploaded ones, or a file of a watched folder on this machine. */
async function bytesOf(db: Database, part: Part): Promise<Found> {
  const { hash, skeleton, path, skeletonPath } = part.payload as {
    hash?: string;
    skeleton?: string;
    path?: string;
    skeletonPath?: string;
  };
  if (path !== undefined)
    return { bytes: await watched(part, path), skeleton: skeletonPath ? await watched(part, skeletonPath) : undefined };
  const rows = await db
    .select()
    .from(uploads)
    .where(
      inArray(
        uploads.hash,
        [hash, skeleton].filter((h) => h !== undefined),
      ),
    );
  const bytes = rows.find((r) => r.hash === hash)?.bytes;
  if (!bytes) throw new Refusal(422, 'no-file', `${part.name}: its content has been deleted. Send it again.`);
  return { bytes, skeleton: rows.find((r) => r.hash === skeleton)?.bytes };
}

/** A file of the watched folder. @throws Refusal 422 where it lies elsewhere, is gone, may not be read, or is too large */
async function watched(part: Part, path: string): Promise<Uint8Array> {
  const inbox = resolve(process.env.VELVET_INBOX ?? '/nowhere');
  const full = resolve(path);
  if (!full.startsWith(inbox + sep))
    throw new Refusal(422, 'wrong-place', `${part.name}: it is not in the watched folder of this machine.`);
  const found = await stat(full).catch(() => undefined);
  if (!found) throw new Refusal(422, 'no-file', `${part.name}: it is no longer in the watched folder.`);
  if (found.size > MAX_FILE_BYTES) throw new Refusal(422, 'too-large', `${part.name}: it is too large.`);
  const bytes = await readFile(full).catch(() => {
    throw new Refusal(
      422,
      'not-readable',
      `${part.name}: the library has no permission to read it. Make it readable for everyone.`,
    );
  });
  return new Uint8Array(bytes);
}

/** Brings one file of a job in. Everything it writes comes with the part's end, or not at all. */
export async function runIntakePart(db: Database, job: Job, part: Part): Promise<void> {
  const { bytes, skeleton } = await bytesOf(db, part);
  if (/\.zip$/i.test(part.name) && !holdsDrawings(bytes)) return expand(db, job, part, bytes);
  const order = job.order as Order;
  const fileHash = sha256(bytes);
  const origin = { fileName: part.name, bytes: bytes.length + (skeleton?.length ?? 0), fileHash, jobId: job.id };
  if (!order.again) {
    const same = await knownFile(db, fileHash, await personOf(db, job.personId));
    if (same.length > 0) {
      await endPart(db, part, async () => ({
        state: 'done',
        message: `The same file is already in the library, as ${same[0]!.name}.`,
        result: { items: same, same: true },
      }));
      return;
    }
  }
  try {
    await readForLibrary(db, bytes, part.name, skeleton, (read) =>
      endPart(db, part, async (tx) => {
        const report = await takeInto(tx, read, origin, job.personId, { item: { folder: folderOf(order, part.name) } });
        return { state: 'done', result: { ...report.result, intakeId: report.id } };
      }),
    );
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await endPart(db, part, async (tx) => {
      await refuseIn(tx, origin, job.personId, error.code, error.message);
      return { state: 'refused', message: error.message };
    });
  }
}

export function folderOf(order: Order, name: string): string {
  const own = order.keepFolders === false ? '' : dirname(name.replaceAll('\\', '/'));
  return [order.folder ?? '', own === '.' ? '' : own].filter(Boolean).join('/');
}

/** An archive becomes parts of the same job, one for each file in it. */
async function expand(db: Database, job: Job, part: Part, bytes: Uint8Array): Promise<void> {
  const found: { name: string; hash: string; bytes: number }[] = [];
  try {
    await unpack(bytes, part.name, async (file) => {
      const hash = sha256(file.bytes);
      await insertUpload(db, hash, file.bytes);
      found.push({ name: file.name, hash, bytes: file.bytes.length });
    });
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await endPart(db, part, async () => ({ state: 'refused', message: error.message }));
    return;
  }
  const own = part.name.replace(/\.zip$/i, '').replaceAll('\\', '/');
  await endPart(db, part, async (tx) => {
    const [last] = await tx
      .select({ n: max(jobParts.number) })
      .from(jobParts)
      .where(eq(jobParts.jobId, job.id));
    await addParts(
      tx,
      job.id,
      (last?.n ?? 0) + 1,
      pairSkeletons(found)
        .filter(({ file }) => !/\.(txt|md|csv|tsv|xlsx|pdf|png|jpe?g)$/i.test(extname(file.name)))
        .map(({ file, skeleton }) => ({
          name: `${own}/${file.name}`,
          bytes: file.bytes,
          state: 'ready',
          payload: { hash: file.hash, ...(skeleton && { skeleton: skeleton.hash }) },
        })),
    );
    return { state: 'done', message: `${many(found.length, 'file')} in it`, result: { files: found.length } };
  });
}
