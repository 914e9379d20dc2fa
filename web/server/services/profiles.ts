import type { BodyMapJson } from '@velvet-reel/motion';
import { asc, eq, isNull } from 'drizzle-orm';
import type { ProfileRow } from '../../contract';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { castMembers, mapProfiles, people, rigs } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from './history';
import { getRig, saveMap } from './rigs';

const MOST_RIGS = 1000;

/** Saved body maps, each with the rigs it can be laid on. */
export async function listProfiles(db: Queries): Promise<ProfileRow[]> {
  const rows = await db
    .select({ profile: mapProfiles, by: people.name })
    .from(mapProfiles)
    .leftJoin(people, eq(people.id, mapProfiles.createdBy))
    .orderBy(asc(mapProfiles.name));
  if (rows.length === 0) return [];
  const known = await db.select({ id: rigs.id, data: rigs.data }).from(rigs).limit(MOST_RIGS);
  const cast = await db
    .select({ id: castMembers.id, name: castMembers.name, rigId: castMembers.rigId })
    .from(castMembers)
    .where(isNull(castMembers.binnedAt));
  const names = known.map((r) => ({ id: r.id, names: new Set(r.data.joints.map((j) => j.name)) }));
  return rows.map(({ profile, by }) => {
    const joints = jointsOf(profile.map);
    const serving = new Set(names.filter((r) => joints.every((j) => r.names.has(j))).map((r) => r.id));
    const members = cast.filter((c) => serving.has(c.rigId));
    return {
      id: profile.id,
      name: profile.name,
      slots: joints.length,
      byName: by,
      createdAt: profile.createdAt,
      serves: members.map(({ id, name }) => ({ id, name })),
      otherRigs: [...serving].filter((id) => !members.some((m) => m.rigId === id)).length,
    };
  });
}

const jointsOf = (map: BodyMapJson): string[] =>
  Object.values(map.slots).flatMap((s) => (s.joint === null ? [] : [s.joint]));

/** Saves a rig's body map under a name. */
export async function addProfile(
  db: Queries,
  person: Pick<Person, 'id'>,
  rigId: string,
  name: string,
): Promise<{ id: string; name: string }> {
  const { map } = await getRig(db, rigId);
  const id = newId();
  await db.insert(mapProfiles).values({ id, name, map, createdBy: person.id });
  await record(db, [
    {
      subject: 'profile',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: 'add',
      label: `Saved the body map ${name}`,
    },
  ]);
  return { id, name };
}

/** Takes a saved map away and hands back what it takes to bring it back. */
export async function removeProfile(
  db: Queries,
  person: Pick<Person, 'id'>,
  id: string,
): Promise<{ undo: { name: string; map: BodyMapJson } }> {
  const [row] = await db.select().from(mapProfiles).where(eq(mapProfiles.id, id));
  if (!row) throw notFound('The profile');
  await db.delete(mapProfiles).where(eq(mapProfiles.id, id));
  await record(db, [
    {
      subject: 'profile',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: 'remove',
      label: `Deleted the body map ${row.name}`,
    },
  ]);
  return { undo: { name: row.name, map: row.map } };
}

/** Brings a saved map back that was taken away, under its own id. */
export async function restoreProfile(
  db: Queries,
  person: Pick<Person, 'id'>,
  id: string,
  { name, map }: { name: string; map: BodyMapJson },
): Promise<{ id: string; name: string }> {
  if ((await db.select().from(mapProfiles).where(eq(mapProfiles.id, id))).length > 0)
    throw new Refusal(409, 'taken', 'The body map is there already.');
  await db.insert(mapProfiles).values({ id, name, map, createdBy: person.id });
  await record(db, [
    {
      subject: 'profile',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: 'add',
      label: `Restored the body map ${name}`,
    },
  ]);
  return { id, name };
}

/** Lays a saved map on a rig. Joints the rig lacks refuse it, with their names. */
export async function applyProfile(
  db: Database,
  person: Pick<Person, 'id'>,
  id: string,
  rigId: string,
  version: number,
): Promise<{ map: BodyMapJson; mapVersion: number }> {
  const [profile] = await db.select().from(mapProfiles).where(eq(mapProfiles.id, id));
  if (!profile) throw notFound('The profile');
  const rig = await getRig(db, rigId);
  const names = new Set(rig.rig.joints.map((j) => j.name));
  const lost = jointsOf(profile.map).filter((j) => !names.has(j));
  if (lost.length > 0)
    throw new Refusal(
      422,
      'unmappable',
      `${profile.name} names ${lost.length} joints that this rig does not have: ${lost.slice(0, 5).join(', ')}.`,
    );
  return saveMap(db, rigId, profile.map, version, person.id);
}
