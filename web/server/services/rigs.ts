import { type BodyMapJson, bodyMapFromJson, bodyMapToJson, rigFromJson } from '@velvet-reel/motion';
import { and, eq } from 'drizzle-orm';
import type { ReadFile } from '../../workers/heavy';
import type { PartyJson } from '../../workers/party';
import type { Queries } from '../db/client';
import { bodyMaps, rigs } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId, sha256 } from '../ids';
import { newGroup, record } from './history';

/** Keeps a rig, or finds the equal one that is kept already; its body map comes with it. */
export async function keepRig(
  db: Queries,
  read: Pick<ReadFile, 'rig' | 'identity' | 'map' | 'restKind' | 'restPose' | 'heightM'>,
): Promise<{ id: string; known: boolean }> {
  const identity = sha256(read.identity);
  const id = newId();
  await db.insert(rigs).ignore().values({
    id,
    identity,
    kind: 'skeleton',
    jointCount: read.rig.joints.length,
    heightM: read.heightM,
    restKind: read.restKind,
    restPose: read.restPose,
    data: read.rig,
    found: read.rig.found,
  });
  const row = (await db.select({ id: rigs.id }).from(rigs).where(eq(rigs.identity, identity)))[0]!;
  if (row.id === id) await db.insert(bodyMaps).values({ rigId: id, map: read.map });
  return { id: row.id, known: row.id !== id };
}

export interface RigAnswer extends PartyJson {
  id: string;
  mapVersion: number;
  restKind: string;
  heightM: number;
}

export async function getRig(db: Queries, id: string): Promise<RigAnswer> {
  const row = (await db.select().from(rigs).innerJoin(bodyMaps, eq(bodyMaps.rigId, rigs.id)).where(eq(rigs.id, id)))[0];
  if (!row) throw notFound('The rig');
  return {
    id,
    rig: row.rigs.data,
    map: row.body_maps.map,
    mapVersion: row.body_maps.version,
    restPose: row.rigs.restPose,
    restKind: row.rigs.restKind,
    heightM: row.rigs.heightM,
    floorM: null,
  };
}

/** Stores a corrected body map. A version that somebody else has passed meanwhile is refused, so nothing is overwritten unseen. */
export async function saveMap(
  db: Queries,
  rigId: string,
  map: unknown,
  version: number,
  personId: string,
): Promise<{ map: BodyMapJson; mapVersion: number }> {
  const known = await getRig(db, rigId);
  const rig = rigFromJson(known.rig);
  const clean = bodyMapToJson({ ...bodyMapFromJson(map, rig), warnings: known.map.warnings }, rig);
  const [done] = await db
    .update(bodyMaps)
    .set({ map: clean, version: version + 1, changedBy: personId, changedAt: new Date() })
    .where(and(eq(bodyMaps.rigId, rigId), eq(bodyMaps.version, version)));
  if (done.affectedRows === 0)
    throw new Refusal(
      409,
      'changed-meanwhile',
      'Somebody changed this body map meanwhile. Reload to see their version.',
    );
  await record(db, [
    { subject: 'rig', subjectId: rigId, groupId: newGroup(), personId, action: 'map', label: 'Changed a body map' },
  ]);
  return { map: clean, mapVersion: version + 1 };
}
