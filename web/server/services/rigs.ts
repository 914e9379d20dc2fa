import {
  type BodyMapJson,
  bodyMapFromJson,
  bodyMapToJson,
  type Limits,
  type SkeletonRig,
  skeletonFromJson,
} from '@velvet-reel/motion';
import { and, eq } from 'drizzle-orm';
import type { ReadFile } from '../../workers/heavy';
import type { PartyJson } from '../../workers/party';
import type { Queries } from '../db/client';
import { bodyMaps, type JointSet, type MatchPose, rigs } from '../db/schema';
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
  match: MatchPose | null;
  limits: Limits | null;
  pairs: [string, string][] | null;
  sets: JointSet[];
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
    skin: null,
    match: row.body_maps.match ?? null,
    limits: row.body_maps.limits ?? null,
    pairs: row.body_maps.pairs ?? null,
    sets: row.body_maps.sets,
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
  const rig = skeletonFromJson(known.rig);
  const clean = bodyMapToJson({ ...bodyMapFromJson(map, rig), warnings: known.map.warnings }, rig);
  await write(db, rigId, version, personId, { map: clean }, 'Changed a body map');
  return { map: clean, mapVersion: version + 1 };
}

async function write(
  db: Queries,
  rigId: string,
  version: number,
  personId: string,
  set: Partial<typeof bodyMaps.$inferInsert>,
  label: string,
): Promise<void> {
  await db.transaction(async (tx) => {
    const [done] = await tx
      .update(bodyMaps)
      .set({ ...set, version: version + 1, changedBy: personId, changedAt: new Date() })
      .where(and(eq(bodyMaps.rigId, rigId), eq(bodyMaps.version, version)));
    if (done.affectedRows === 0)
      throw new Refusal(
        409,
        'changed-meanwhile',
        'Someone changed this body map in the meantime. Reload to see their version.',
      );
    await record(tx, [{ subject: 'rig', subjectId: rigId, groupId: newGroup(), personId, action: 'map', label }]);
  });
}

/** What is set by hand for a rig besides its body map; what is left out stays, null goes back to what was found. */
export interface RigSetting {
  match?: MatchPose | null | undefined;
  limits?: Limits | null | undefined;
  pairs?: [string, string][] | null | undefined;
  sets?: JointSet[] | undefined;
}

/** Stores what was set by hand for a rig. The bind pose itself is never written. */
export async function saveRigSetting(
  db: Queries,
  rigId: string,
  setting: RigSetting,
  version: number,
  personId: string,
): Promise<RigAnswer> {
  const known = await getRig(db, rigId);
  const rig = skeletonFromJson(known.rig);
  checkSetting(rig, setting);
  const names = Object.keys(setting).filter((k) => setting[k as keyof RigSetting] !== undefined);
  if (names.length === 0)
    throw new Refusal(400, 'nothing-to-do', 'Nothing is set: give a pose, limits, pairs or sets.');
  await write(
    db,
    rigId,
    version,
    personId,
    setting as Partial<typeof bodyMaps.$inferInsert>,
    `Changed ${names.map((n) => WHAT[n as keyof RigSetting]).join(', ')} of a rig`,
  );
  return getRig(db, rigId);
}
const WHAT: Readonly<Record<keyof RigSetting, string>> = {
  match: 'the pose for matching',
  limits: 'the joint limits',
  pairs: 'the pairing',
  sets: 'the joint sets',
};

function checkSetting(rig: SkeletonRig, { match, pairs, sets }: RigSetting): void {
  if (match) {
    if (match.turns.length !== 4 * rig.names.length)
      throw new Refusal(400, 'invalid', `match: ${4 * rig.names.length} numbers are due, four a joint`);
    for (let o = 0; o < match.turns.length; o += 4)
      if (Math.abs(Math.hypot(...match.turns.slice(o, o + 4)) - 1) > 0.01)
        throw new Refusal(400, 'invalid', `match: the turn of ${rig.names[o / 4]} is not a unit quaternion`);
  }
  const known = new Set(rig.names);
  const stranger = [...(pairs ?? []).flat(), ...(sets ?? []).flatMap((s) => s.joints)].find((j) => !known.has(j));
  if (stranger !== undefined) throw new Refusal(400, 'invalid', `The rig has no joint "${stranger.slice(0, 60)}".`);
  const twice = (pairs ?? []).flat().find((j, i, all) => all.indexOf(j) !== i);
  if (twice !== undefined) throw new Refusal(400, 'invalid', `pairs: "${twice.slice(0, 60)}" stands in two pairs`);
}

/** A rig of its own with everything that is set for another: what is changed on one does not touch the other. */
export async function copyRig(db: Queries, rigId: string): Promise<string> {
  const [row] = await db.select().from(rigs).innerJoin(bodyMaps, eq(bodyMaps.rigId, rigs.id)).where(eq(rigs.id, rigId));
  if (!row) throw notFound('The rig');
  const id = newId();
  // salted, so that files with this skeleton still find the original
  await db
    .insert(rigs)
    .values({ ...row.rigs, id, identity: sha256(`${row.rigs.identity} ${id}`), createdAt: new Date() });
  await db.insert(bodyMaps).values({ ...row.body_maps, rigId: id, version: 1, changedAt: new Date() });
  return id;
}
