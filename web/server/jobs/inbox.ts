import { mkdir, readdir, stat } from 'node:fs/promises';
import { basename, join, relative } from 'node:path';
import { pairSkeletons } from '@velvet-reel/motion';
import { eq, inArray } from 'drizzle-orm';
import { many } from '../../naming/counts';
import type { Database } from '../db/client';
import { jobParts, people } from '../db/schema';
import { faultOf, log } from '../log';
import { addJob } from '../services/jobs';

const LOOK_MS = 5000;
/** A file that has not grown for so long is whole. */
const STILL_MS = 2000;
const TAKEN = /\.(bvh|glb|gltf|amc|asf|c3d|trc|csv|zip)$/i;
const MOST = 20_000;

interface Found {
  path: string;
  name: string;
  bytes: number;
  /** Tells a file that was written anew from the one brought in before. */
  mark: string;
}

/** Folders that were told not to be readable. */
const closed = new Set<string>();

async function filesIn(folder: string): Promise<Found[]> {
  const out: Found[] = [];
  const visit = async (path: string): Promise<void> => {
    // one folder that may not be read keeps nobody from the others
    const entries = await readdir(path, { withFileTypes: true }).catch((error) => {
      if (path === folder) throw error;
      if (!closed.has(path))
        log.warn({ folder: path, ...faultOf(error) }, 'a folder in the watched folder cannot be read');
      closed.add(path);
      return [];
    });
    for (const entry of entries) {
      if (out.length >= MOST) return;
      const full = join(path, entry.name);
      if (entry.name.startsWith('.')) continue;
      // links are not followed: they could lead anywhere
      if (entry.isDirectory()) await visit(full);
      else if (entry.isFile() && TAKEN.test(entry.name)) {
        const { size, mtimeMs } = await stat(full);
        if (Date.now() - mtimeMs > STILL_MS)
          out.push({
            path: full,
            name: relative(folder, full).replaceAll('\\', '/'),
            bytes: size,
            mark: `${full}:${size}:${Math.round(mtimeMs)}`,
          });
      }
    }
  };
  await visit(folder);
  return out;
}

/** Opens an intake for files of a folder that have not been brought in yet. Answers with the job, if there was anything. */
export async function takeInbox(db: Database, folder: string): Promise<string | undefined> {
  const found = await filesIn(folder);
  if (found.length === 0) return undefined;
  // several workers may watch one folder: one at a time looks at what is known and opens the job
  return db.transaction(async (tx) => {
    const [admin] = await tx
      .select({ id: people.id })
      .from(people)
      .where(eq(people.role, 'admin'))
      .orderBy(people.id)
      .limit(1)
      .for('update');
    if (!admin) return undefined;
    const known = new Set<string>();
    for (let i = 0; i < found.length; i += 500) {
      const names = found.slice(i, i + 500).map((f) => f.name.slice(0, 400));
      const rows = await tx.select({ payload: jobParts.payload }).from(jobParts).where(inArray(jobParts.name, names));
      for (const { payload } of rows)
        for (const mark of [payload.mark, payload.skeletonMark]) if (typeof mark === 'string') known.add(mark);
    }
    // a skeleton that came before its motion serves it, too
    const wanted = pairSkeletons(
      found.filter((f) => !known.has(f.mark)),
      found.filter((f) => known.has(f.mark)),
    );
    if (wanted.length === 0) return undefined;
    const { id } = await addJob(tx, admin, {
      kind: 'intake',
      title: `${many(wanted.length, 'file')} from the watched folder ${basename(folder)}`,
      order: { folder: '', keepFolders: true },
      parts: wanted.map(({ file, skeleton }) => ({
        name: file.name,
        bytes: file.bytes,
        state: 'ready',
        payload: {
          path: file.path,
          mark: file.mark,
          ...(skeleton && { skeletonPath: skeleton.path, skeletonMark: skeleton.mark }),
        },
      })),
    });
    return id;
  });
}

/** Looks into a folder every few seconds. Returns how to stop. */
export function watchInbox(db: Database, folder: string): () => void {
  let busy = false;
  const look = async (): Promise<void> => {
    if (busy) return;
    busy = true;
    try {
      await mkdir(folder, { recursive: true });
      await takeInbox(db, folder);
    } catch (error) {
      log.error({ folder, ...faultOf(error) }, 'watched folder');
    } finally {
      busy = false;
    }
  };
  const timer = setInterval(() => void look(), LOOK_MS);
  timer.unref();
  return () => clearInterval(timer);
}
