import type { BodyMapJson } from '@velvet-reel/motion';
import { and, asc, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { CastFittingRow, FittingProvenance, Freshness, MatchPose } from '../../contract';
import type { Queries } from '../db/client';
import { bodyMaps, castMembers, items, itemVersions, readings } from '../db/schema';
import { getItem } from './items';

interface Kept {
  id: string;
  rigId: string;
  provenance: FittingProvenance;
}

/** How a kept item stands to what it was made of. Null for one that was not made by a fitting. */
export async function freshnessOf(db: Queries, itemId: string): Promise<Freshness | null> {
  const item = await getItem(db, itemId);
  if (item.provenance.how !== 'fitting') return null;
  const found = await freshness(db, [{ id: itemId, rigId: item.rigId, provenance: item.provenance }]);
  return found.get(itemId)!;
}

/** The same for many at once: a handful of queries however many they are. */
export async function freshness(db: Queries, kept: readonly Kept[]): Promise<Map<string, Freshness>> {
  const out = new Map<string, Freshness>();
  if (kept.length === 0) return out;
  const unique = (ids: string[]): string[] => [...new Set(ids)];
  const sources = new Map(
    (
      await db
        .select({
          id: items.id,
          versionId: items.versionId,
          number: itemVersions.number,
          motionHash: readings.motionHash,
          rigId: readings.rigId,
          binnedAt: items.binnedAt,
        })
        .from(items)
        .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
        .innerJoin(readings, eq(readings.id, itemVersions.readingId))
        .where(inArray(items.id, unique(kept.map((k) => k.provenance.sourceItem))))
    ).map((r) => [r.id, r]),
  );
  // the same motion under another version number is no change
  const before = new Map(
    (
      await db
        .select({ id: itemVersions.id, motionHash: readings.motionHash })
        .from(itemVersions)
        .innerJoin(readings, eq(readings.id, itemVersions.readingId))
        .where(inArray(itemVersions.id, unique(kept.map((k) => k.provenance.sourceVersion))))
    ).map((r) => [r.id, r.motionHash]),
  );
  const members = new Map(
    (
      await db
        .select({
          id: castMembers.id,
          name: castMembers.name,
          rigId: castMembers.rigId,
          binnedAt: castMembers.binnedAt,
        })
        .from(castMembers)
        .where(inArray(castMembers.id, unique(kept.map((k) => k.provenance.character))))
    ).map((r) => [r.id, r]),
  );
  const rigIds = unique([...[...sources.values()].map((s) => s.rigId), ...[...members.values()].map((m) => m.rigId)]);
  const maps = new Map(
    rigIds.length === 0
      ? []
      : (
          await db
            .select({ id: bodyMaps.rigId, map: bodyMaps.map, match: bodyMaps.match, limits: bodyMaps.limits })
            .from(bodyMaps)
            .where(inArray(bodyMaps.rigId, rigIds))
        ).map((r) => [r.id, r]),
  );
  for (const { id, rigId, provenance: p } of kept) {
    const reasons: string[] = [];
    const source = sources.get(p.sourceItem);
    const member = members.get(p.character);
    if (!source) reasons.push(`${p.sourceName}, which it was made of, is not there any more`);
    else {
      if (source.versionId !== p.sourceVersion && before.get(p.sourceVersion) !== source.motionHash)
        reasons.push(`${p.sourceName} is at version ${source.number} now`);
      const now = maps.get(source.rigId);
      if (now && !sameMap(now.map, p.sourceMap)) reasons.push('the body map of the source was changed');
      if (now && !samePose(now.match, p.sourceMatch)) reasons.push('the pose for matching of the source was changed');
    }
    if (!member) reasons.push(`${p.characterName} is not in the cast any more`);
    else {
      if (member.rigId !== rigId) reasons.push(`${member.name} has another skeleton now`);
      const now = maps.get(member.rigId);
      if (now && !sameMap(now.map, p.targetMap)) reasons.push(`the body map of ${member.name} was changed`);
      if (now && !samePose(now.match, p.targetMatch))
        reasons.push(`the pose for matching of ${member.name} was changed`);
      if (now && p.targetLimits !== undefined && JSON.stringify(now.limits ?? null) !== JSON.stringify(p.targetLimits))
        reasons.push(`the joint limits of ${member.name} were changed`);
    }
    out.set(id, { reasons, possible: Boolean(source && member) });
  }
  return out;
}

/** Two maps that give the same joints to the same slots solve alike, whatever their states and reasons say. */
function sameMap(a: BodyMapJson, b: BodyMapJson | undefined): boolean {
  if (!b) return true;
  const told = (m: BodyMapJson): string =>
    JSON.stringify(
      Object.entries(m.slots)
        .flatMap(([slot, e]) => (e.joint !== null || e.state === 'empty' ? [[slot, e.joint]] : []))
        .sort(([x], [y]) => String(x).localeCompare(String(y))),
    );
  return told(a) === told(b);
}

const samePose = (a: MatchPose | null, b: MatchPose | null | undefined): boolean =>
  b === undefined || JSON.stringify(a?.turns ?? null) === JSON.stringify(b?.turns ?? null);

/** Fittings kept for a cast member, the newest first. */
export async function fittingsOf(db: Queries, castId: string, limit = 500): Promise<CastFittingRow[]> {
  const rows = await db
    .select({
      id: items.id,
      name: items.name,
      rigId: readings.rigId,
      provenance: itemVersions.provenance,
      madeAt: itemVersions.createdAt,
    })
    .from(items)
    .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
    .innerJoin(readings, eq(readings.id, itemVersions.readingId))
    .where(
      and(
        eq(items.madeFor, castId),
        isNull(items.binnedAt),
        eq(sql`json_value(${itemVersions.provenance}, '$.how')`, 'fitting'),
      ),
    )
    .orderBy(desc(itemVersions.createdAt), asc(items.name))
    .limit(limit);
  const kept = rows.flatMap((r) => (r.provenance.how === 'fitting' ? [{ ...r, provenance: r.provenance }] : []));
  const fresh = await freshness(db, kept);
  return kept.map((r) => ({
    id: r.id,
    name: r.name,
    sourceId: r.provenance.sourceItem,
    sourceName: r.provenance.sourceName,
    madeAt: r.madeAt,
    report: r.provenance.report,
    ...fresh.get(r.id)!,
  }));
}
