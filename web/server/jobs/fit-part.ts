import { z } from 'zod';
import { type FitSettings, fitSettings } from '../../workers/settings';
import type { Database } from '../db/client';
import { getCast } from '../services/cast';
import { fitOrder, keepFitted } from '../services/fittings';
import { endPart, type Job, type Part } from './queue';
import { fitInThread } from './threads';

export const fitPayload = z.object({ itemId: z.string(), castId: z.string() });
export const fitJobOrder = z.object({
  settings: fitSettings,
  /** {item}, {character} and {n} stand for what they say. */
  nameRule: z.string().max(200).default('{item} on {character}'),
  folder: z.string().max(600).default(''),
});

/** Name of a fitted item by the rule of its job. */
export const fittedName = (rule: string, item: string, character: string, number: number): string =>
  (rule.trim() || '{item} on {character}')
    .replaceAll('{item}', item)
    .replaceAll('{character}', character)
    .replaceAll('{n}', String(number + 1))
    .slice(0, 200);

/** Fits one item onto one cast member and keeps the result. */
export async function runFitPart(db: Database, job: Job, part: Part): Promise<void> {
  const { itemId, castId } = fitPayload.parse(part.payload);
  const { settings, nameRule, folder } = fitJobOrder.parse(job.order);
  const { item, order } = await fitOrder(db, itemId, castId, settings as FitSettings);
  const member = await getCast(db, castId);
  const { report, ...clip } = await fitInThread(order);
  await endPart(db, part, async (tx) => {
    const kept = await keepFitted(tx, {
      item,
      member,
      order,
      clip,
      report,
      settings,
      name: fittedName(nameRule, item.name, member.name, part.number),
      folder,
      personId: job.personId,
    });
    return {
      state: 'done',
      result: { items: [{ id: kept.id, name: kept.name }], report: summaryOf(report), from: item.id, castId },
    };
  });
}

/** The figures of a report by which fittings are compared, and what is worst. */
export function summaryOf(report: unknown): Record<string, unknown> {
  const r = report as {
    slip: { meanPercentLegPerPlantSecond: number; maxCm: number };
    floor: { maxDepthCm: number };
    direction: { meanDeg: number };
    troubles: { text: string; frame: number }[];
  };
  return {
    slipCm: r.slip.maxCm,
    floorCm: r.floor.maxDepthCm,
    directionDeg: r.direction.meanDeg,
    troubles: r.troubles.length,
    worst: r.troubles[0]?.text ?? '',
  };
}
