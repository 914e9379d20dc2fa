import { type Report, scoreReport } from '@velvet-reel/motion';
import { and, eq, inArray, ne, sql } from 'drizzle-orm';
import { z } from 'zod';
import { asEdits, fitEdits, fitSettings } from '../../wishes/settings';
import type { FitEdits, FitSettings } from '../../wishes/wishes';
import type { Database, Transaction } from '../db/client';
import { itemLinks, jobParts, jobs, people } from '../db/schema';
import { Refusal } from '../errors';
import { getCast } from '../services/cast';
import { fitLinks } from '../services/fit-jobs';
import { getFitting } from '../services/fitting-documents';
import { fitOrder, keepFitted, provenanceOf } from '../services/fittings';
import { getItem } from '../services/items';
import { makePackIn } from '../services/packs';
import { carriedCopy } from '../services/plays';
import { saveOverIn } from '../services/versions';
import { fitInThread } from '../threads/pool';
import { endPart, type Job, type Part } from './queue';

const fitPayload = z.object({
  itemId: z.string(),
  castId: z.string(),
  /** Other settings than the job's. */
  settings: fitSettings.optional(),
  edits: fitEdits.optional(),
  /** What was set in Fitting is passed over. */
  plain: z.boolean().optional(),
  /** The item whose next version the result is. */
  over: z.string().optional(),
  /** All results of the job are one step to take back. */
  together: z.boolean().optional(),
});
const fitJobOrder = z.object({
  settings: fitSettings,
  own: z.boolean().default(false),
  /** {item}, {character} and {n} stand for what they say. */
  nameRule: z.string().max(200).default('{item} on {character}'),
  packRule: z.string().max(200).default('{item} on {character}'),
  folder: z.string().max(600).default(''),
  links: fitLinks.default({ packs: [], variants: [], next: [], plays: [] }),
});

/** Name of a fitted item by the rule of its job. */
export const fittedName = (rule: string, item: string, character: string, number: number): string =>
  (rule.trim() || '{item} on {character}')
    .replaceAll('{item}', item)
    .replaceAll('{character}', character)
    .replaceAll('{n}', String(number + 1))
    .slice(0, 200);

/** Fits one item onto one cast member and keeps the result, as a new item or as the next version of one. */
export async function runFitPart(db: Database, job: Job, part: Part): Promise<void> {
  const payload = fitPayload.parse(part.payload);
  const order = fitJobOrder.parse(job.order);
  const { itemId, castId } = payload;
  let settings: FitSettings = payload.settings ?? order.settings;
  let edits: FitEdits | undefined = payload.edits && asEdits(payload.edits);
  if (order.own && !payload.plain && !payload.settings) {
    const document = await getFitting(db, itemId, castId);
    settings = document.settings ?? settings;
    edits = document.edits ?? undefined;
  }
  const { item, member, order: solve } = await fitOrder(db, itemId, castId, settings, edits);
  const { report, ...clip } = await fitInThread(solve);
  await endPart(db, part, async (tx) => {
    let kept: { id: string; name: string };
    if (payload.over !== undefined) {
      const [person] = await tx.select().from(people).where(eq(people.id, job.personId));
      if (!person) throw new Refusal(404, 'not-found', 'The person who started this no longer has an account.');
      const before = await getItem(tx, payload.over);
      await saveOverIn(
        tx,
        person,
        before.id,
        {
          rigId: member.rigId,
          clip,
          provenance: provenanceOf({ item, member, settings, edits, order: solve, report }),
          note: 'fitted again',
        },
        before.versionId,
        payload.together ? job.id : undefined,
      );
      kept = before;
    } else {
      kept = await keepFitted(tx, {
        item,
        member,
        order: solve,
        clip,
        report,
        settings,
        edits,
        name: fittedName(order.nameRule, item.name, member.name, part.number),
        folder: order.folder,
        personId: job.personId,
      });
      await linkCopies(tx, job, part, kept.id);
    }
    return {
      state: 'done',
      result: { items: [{ id: kept.id, name: kept.name }], report: summaryOf(report), from: item.id, castId },
    };
  });
}

/**
 * Makes packs, variants, sequences and play-throughs anew among the copies, as soon as all that one needs has ended. Called within the transaction
 * that ends a part, so that a worker that dies leaves neither half a pack nor two.
 */
export async function linkCopies(tx: Transaction, job: Job, part: Part, keptId: string | null): Promise<void> {
  const payload = fitPayload.safeParse(part.payload).data;
  const order = fitJobOrder.safeParse(job.order).data;
  if (!payload || !order || payload.over !== undefined) return;
  const { itemId, castId } = payload;
  const packs = order.links.packs.filter((p) => p.items.includes(itemId));
  const plays = order.links.plays.filter((p) => p.items.includes(itemId));
  const pairs = (['variant', 'next'] as const).flatMap((kind) =>
    order.links[kind === 'next' ? 'next' : 'variants']
      .filter((pair) => pair.includes(itemId))
      .map(([from, to]) => ({ kind, from, to })),
  );
  if (packs.length === 0 && plays.length === 0 && pairs.length === 0) return;
  // parts of one job end one after the other here: exactly one of a pack's sees that all others have ended
  await tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, job.id)).for('update');
  const needed = [
    ...new Set([...[...packs, ...plays].flatMap((p) => p.items), ...pairs.flatMap(({ from, to }) => [from, to])]),
  ];
  const others = await tx
    .select({
      state: jobParts.state,
      result: jobParts.result,
      itemId: sql<string>`json_value(${jobParts.payload}, '$.itemId')`,
    })
    .from(jobParts)
    .where(
      and(
        eq(jobParts.jobId, job.id),
        ne(jobParts.id, part.id),
        eq(sql`json_value(${jobParts.payload}, '$.castId')`, castId),
        inArray(sql`json_value(${jobParts.payload}, '$.itemId')`, needed),
      ),
    );
  const copies = new Map<string, string>();
  const open = new Set<string>();
  for (const o of others) {
    const made = (o.result as { items?: { id: string }[] } | null)?.items?.[0]?.id;
    if (o.state === 'done' && made) copies.set(o.itemId, made);
    else if (o.state === 'ready' || o.state === 'running' || o.state === 'waiting') open.add(o.itemId);
  }
  if (keptId !== null) copies.set(itemId, keptId);
  for (const { kind, from, to } of pairs) {
    const [fromId, toId] = [copies.get(from), copies.get(to)];
    if (fromId && toId) await tx.insert(itemLinks).ignore().values({ fromId, toId, kind });
  }
  const whole = packs.filter((p) => p.items.every((i) => !open.has(i)));
  const playable = plays.filter((p) => p.items.every((i) => !open.has(i)));
  if (whole.length === 0 && playable.length === 0) return;
  const member = await getCast(tx, castId);
  const [person] = await tx.select().from(people).where(eq(people.id, job.personId));
  for (const play of playable) if (person) await carriedCopy(tx, person, play.id, play.name, castId, copies);
  for (const pack of whole) {
    const ids = pack.items.flatMap((i) => copies.get(i) ?? []);
    if (person && ids.length > 0)
      await makePackIn(tx, person, fittedName(order.packRule, pack.name, member.name, part.number), ids);
  }
}

/** The figures of a report by which fittings are compared, and what is worst. */
export function summaryOf(report: unknown): Record<string, unknown> {
  const r = report as Report;
  return {
    score: scoreReport(r),
    slipCm: r.slip.maxCm,
    floorCm: r.floor.maxDepthCm,
    directionDeg: r.direction.meanDeg,
    troubles: r.troubles.length,
    worst: r.troubles[0]?.text ?? '',
    frame: r.troubles[0]?.frame ?? 0,
  };
}
