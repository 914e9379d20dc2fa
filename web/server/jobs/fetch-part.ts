import { and, eq, inArray } from 'drizzle-orm';
import { z } from 'zod';
import type { Database, Transaction } from '../db/client';
import { items, jobs, packMembers, people, supplied } from '../db/schema';
import { Refusal } from '../errors';
import { sha256 } from '../ids';
import { takeInto } from '../services/intake';
import { getItems } from '../services/items';
import { makePackIn } from '../services/packs';
import { keepRig } from '../services/rigs';
import { linkedClient } from '../services/supplier';
import { saveOverIn } from '../services/versions';
import { IN_A_JOB, supplierAddress } from '../supplier/client';
import { readInThread } from '../threads/pool';
import type { ReadFile } from '../threads/work';
import { endPart, type Job, type Part } from './queue';

const payload = z.object({
  take: z.string(),
  issue: z.int(),
  tags: z.array(z.string()),
  note: z.string(),
  buy: z.object({ what: z.string(), price: z.int() }).optional(),
});
const order = z.object({
  folder: z.string(),
  pack: z.object({ name: z.string(), takes: z.array(z.string()) }).optional(),
});

/**
 * Owns one take, brings its file in and says so, however often it is begun anew: owning twice costs once, and the row that
 * says what was taken is written together with the item.
 */
export async function runFetchPart(db: Database, job: Job, part: Part): Promise<void> {
  const wanted = payload.parse(part.payload);
  const client = await linkedClient(db, IN_A_JOB);
  if (wanted.buy) await client.own(wanted.buy.what, wanted.buy.price);
  const issue = await client.issue(wanted.take, wanted.issue);
  const bytes = await client.file(wanted.take, issue);
  const fileName = `${part.name}.bvh`;
  const read = await readInThread(bytes, fileName);
  if (read.clips.length === 0)
    throw new Refusal(422, 'no-motion', `${part.name}: the supplier’s file holds no motion.`);
  const supplier = await client.name();
  await endPart(db, part, async (tx) => {
    // the row is there before it is read, so that two jobs with the same take go one after the other
    const own = { address: supplierAddress(), takeId: wanted.take };
    await tx
      .insert(supplied)
      .values({ ...own, issue: 0, itemId: null })
      .onDuplicateKeyUpdate({ set: own });
    const at = and(eq(supplied.address, own.address), eq(supplied.takeId, own.takeId));
    const [row] = await tx.select().from(supplied).where(at).for('update');
    const there = row?.itemId ? (await getItems(tx, [row.itemId]))[0] : undefined;
    if (there && row!.issue >= wanted.issue)
      return {
        state: 'done',
        message: `It is in the library already, as ${there.name}.`,
        result: { items: [{ id: there.id, name: there.name }], same: true },
      };
    const origin = { fileName, bytes: bytes.length, fileHash: sha256(bytes), jobId: job.id };
    const from = { name: supplier, take: wanted.take, issue: wanted.issue };
    const itemId = there
      ? await nextIssue(tx, job, there, read, { ...origin, from, changes: issue.changes })
      : (
          await takeInto(tx, read, origin, job.personId, {
            item: {
              name: part.name,
              note: wanted.note,
              tags: wanted.tags,
              source: supplier,
              folder: order.parse(job.order).folder,
            },
            supplier: from,
          })
        ).result.items[0]!.id;
    await tx.update(supplied).set({ issue: wanted.issue, itemId, takenAt: new Date() }).where(at);
    await packIfWhole(tx, job);
    return {
      state: 'done',
      message: there ? `Issue ${wanted.issue} is the version in force now.` : '',
      result: { items: [{ id: itemId, name: there?.name ?? part.name }] },
    };
  });
}

/** A corrected issue is the next version of its item: whoever uses the item is told that it is out of date. */
async function nextIssue(
  tx: Transaction,
  job: Job,
  item: { id: string; name: string; versionId: string; rigId: string },
  read: ReadFile,
  origin: { fileName: string; bytes: number; from: { name: string; take: string; issue: number }; changes: string },
): Promise<string> {
  const [person] = await tx.select().from(people).where(eq(people.id, job.personId));
  const clip = read.clips[0]!;
  const rig = await keepRig(tx, read);
  await saveOverIn(
    tx,
    person!,
    item.id,
    {
      rigId: rig.id,
      clip,
      provenance: {
        how: 'intake',
        file: origin.fileName,
        clip: clip.name,
        format: read.format,
        bytes: origin.bytes,
        supplier: origin.from,
      },
      note: `Issue ${origin.from.issue}: ${origin.changes}`,
    },
    item.versionId,
    job.id,
  );
  return item.id;
}

/** When the last take of a pack is here, the items become a pack in the library. */
async function packIfWhole(tx: Transaction, job: Job): Promise<void> {
  const { pack } = order.parse(job.order);
  if (!pack) return;
  // workers that end parts of one job at once look one after the other
  await tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, job.id)).for('update');
  const rows = await tx
    .select({ takeId: supplied.takeId, itemId: supplied.itemId })
    .from(supplied)
    .innerJoin(items, eq(items.id, supplied.itemId))
    .where(and(eq(supplied.address, supplierAddress()), inArray(supplied.takeId, pack.takes)));
  const here = new Map(rows.map((r) => [r.takeId, r.itemId!]));
  const ids = pack.takes.flatMap((t) => here.get(t) ?? []);
  if (ids.length < pack.takes.length) return;
  const packed = await tx
    .select({ packId: packMembers.packId })
    .from(packMembers)
    .where(inArray(packMembers.itemId, ids));
  const holds = new Map<string, number>();
  for (const { packId } of packed) holds.set(packId, (holds.get(packId) ?? 0) + 1);
  if ([...holds.values()].includes(ids.length)) return;
  const [person] = await tx.select().from(people).where(eq(people.id, job.personId));
  await makePackIn(tx, person!, pack.name, ids, job.id);
}
