import {
  anySkeletonFromJson,
  type BodyMapJson,
  bodyMapFromJson,
  bodyMapToJson,
  type MarkerBody,
  type SkeletonRig,
} from '@velvet-reel/motion';
import { and, desc, eq, isNotNull } from 'drizzle-orm';
import type { RigAnswer } from '../../contract';
import { diffCells } from '../../documents/cells';
import { RIG_SETUP, type RigSetup } from '../../documents/rig-setup';
import { rigSetup } from '../../documents/rig-setup-schema';
import type { Batch } from '../../documents/shared-document';
import { listed } from '../../naming/counts';
import type { Database, Queries } from '../db/client';
import { bodyMaps, rigs } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId, sha256 } from '../ids';
import type { ReadFile } from '../threads/work';
import { wasTaken, withBatch, withWrites } from './batches';
import { newGroup, record } from './history';

/** Keeps a rig, or finds the equal one that is kept already; its body map comes with it. */
export async function keepRig(
  db: Queries,
  read: Pick<ReadFile, 'rig' | 'identity' | 'map' | 'restKind' | 'restPose' | 'heightM' | 'worn'>,
): Promise<{ id: string; known: boolean }> {
  const identity = sha256(read.identity);
  const id = newId();
  await db
    .insert(rigs)
    .ignore()
    .values({
      id,
      identity,
      kind: read.rig.kind,
      jointCount: read.rig.joints.length,
      heightM: read.heightM,
      restKind: read.restKind,
      restPose: read.restPose,
      data: read.rig,
      found: read.rig.found,
      worn: read.worn ?? null,
    });
  const row = (await db.select({ id: rigs.id }).from(rigs).where(eq(rigs.identity, identity)))[0]!;
  if (row.id === id) await db.insert(bodyMaps).values({ rigId: id, map: read.map });
  return { id: row.id, known: row.id !== id };
}

/** So many bodies, the last ones, are tried for a take of markers. */
const BODIES = 12;

/** Bodies that were solved from markers, the last one first. */
export async function markerBodies(db: Queries): Promise<MarkerBody[]> {
  const rows = await db
    .select({ worn: rigs.worn })
    .from(rigs)
    .where(isNotNull(rigs.worn))
    .orderBy(desc(rigs.createdAt), desc(rigs.id))
    .limit(BODIES);
  return rows.flatMap(({ worn }) => worn ?? []);
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
    art: null,
    match: row.body_maps.match ?? null,
    limits: row.body_maps.limits ?? null,
    pairs: row.body_maps.pairs ?? null,
    sets: row.body_maps.sets,
  };
}

const setupOf = ({ map, match, limits, pairs, sets }: RigAnswer): RigSetup => ({
  slots: map.slots,
  match,
  limits,
  pairs,
  sets,
});

/** What joints are set to, with what was found by the way. @throws MotionError for what the rig cannot have */
function cleanMap(known: RigAnswer, slots: unknown): BodyMapJson {
  const rig = anySkeletonFromJson(known.rig);
  return bodyMapToJson({ ...bodyMapFromJson({ slots }, rig), warnings: known.map.warnings }, rig);
}

/**
 * Stores a whole body map.
 * @throws Refusal 409 for a version that somebody else has passed meanwhile, so that nothing is overwritten unseen
 */
export async function saveMap(
  db: Database,
  rigId: string,
  map: { slots: unknown },
  version: number,
  personId: string,
): Promise<{ map: BodyMapJson; mapVersion: number }> {
  const clean = cleanMap(await getRig(db, rigId), map.slots);
  await db.transaction(async (tx) => {
    const [done] = await tx
      .update(bodyMaps)
      .set({ map: clean, version: version + 1, changedBy: personId, changedAt: new Date() })
      .where(and(eq(bodyMaps.rigId, rigId), eq(bodyMaps.version, version)));
    if (done.affectedRows === 0)
      throw new Refusal(
        409,
        'changed-meanwhile',
        'Someone changed this body map in the meantime. Reload to see their version.',
      );
    await recordSetup(tx, rigId, personId, 'Changed a body map');
  });
  return { map: clean, mapVersion: version + 1 };
}

/**
 * Lays what a page set for a rig beside what others set meanwhile. The bind pose itself is never written.
 * @throws Refusal 404 where the rig is gone, 400 for what it cannot have
 */
export async function writeRigSetup(db: Database, personId: string, rigId: string, batch: Batch): Promise<RigAnswer> {
  await db.transaction(async (tx) => {
    const [row] = await tx.select().from(bodyMaps).where(eq(bodyMaps.rigId, rigId)).for('update');
    if (!row) throw notFound('The rig');
    if (wasTaken(row.taken, batch)) return;
    const known = await getRig(tx, rigId);
    const before = setupOf(known);
    const check = (setup: RigSetup): RigSetup => checkedSetup(known, setup);
    const { slots, ...setting } = withWrites(RIG_SETUP, before, batch, check);
    const changed = diffCells(RIG_SETUP.split(before), RIG_SETUP.split({ slots, ...setting }));
    await tx
      .update(bodyMaps)
      .set({
        ...(setting as Pick<typeof bodyMaps.$inferInsert, 'match' | 'limits' | 'pairs' | 'sets'>),
        map: cleanMap(known, slots),
        version: row.version + 1,
        taken: withBatch(row.taken, batch),
        changedBy: personId,
        changedAt: new Date(),
      })
      .where(eq(bodyMaps.rigId, rigId));
    const what = [...new Set(changed.map(({ cell }) => WHAT[cell.split('/')[0]!] ?? cell))];
    if (what.length > 0) await recordSetup(tx, rigId, personId, `Changed ${listed(what)} of a rig`);
  });
  return getRig(db, rigId);
}
const WHAT: Readonly<Record<string, string>> = {
  slot: 'the body map',
  match: 'the pose for matching',
  limit: 'the joint limits',
  'own limits': 'the joint limits',
  pairs: 'the pairing',
  set: 'the joint sets',
};

const recordSetup = (db: Queries, rigId: string, personId: string, label: string): Promise<void> =>
  record(db, [{ subject: 'rig', subjectId: rigId, groupId: newGroup(), personId, action: 'map', label }]);

/** @throws Refusal 400, MotionError for what the rig cannot have */
function checkedSetup(known: RigAnswer, given: RigSetup): RigSetup {
  const { slots, ...setting } = rigSetup.parse(given) as RigSetup;
  const rig = anySkeletonFromJson(known.rig);
  checkSetting(rig, setting);
  return { ...setting, slots: cleanMap(known, slots).slots };
}

function checkSetting(rig: SkeletonRig, { match, pairs, sets }: Omit<RigSetup, 'slots'>): void {
  if (match) {
    const { length } = rig.names;
    if (match.turns.length !== 4 * length)
      throw new Refusal(
        400,
        'invalid',
        `The pose for matching needs ${4 * length} numbers, four for each joint; it has ${match.turns.length}.`,
      );
    for (let o = 0; o < match.turns.length; o += 4)
      if (Math.abs(Math.hypot(...match.turns.slice(o, o + 4)) - 1) > 0.01)
        throw new Refusal(
          400,
          'invalid',
          `In the pose for matching, the rotation of ${rig.names[o / 4]} is not a unit quaternion.`,
        );
  }
  const known = new Set(rig.names);
  const paired = (pairs ?? []).flat();
  const stranger = [...paired, ...sets.flatMap((s) => s.joints)].find((j) => !known.has(j));
  if (stranger !== undefined) throw new Refusal(400, 'invalid', `The rig has no joint "${stranger.slice(0, 60)}".`);
  const twice = paired.find((j, i, all) => all.indexOf(j) !== i);
  if (twice !== undefined) throw new Refusal(400, 'invalid', `The joint "${twice.slice(0, 60)}" is in two pairs.`);
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
