import type { SkinJson } from '@velvet-reel/motion';
import { and, asc, eq, isNotNull, isNull, sql } from 'drizzle-orm';
import type { AssetRole, Assets, CastRow, RigAnswer } from '../../contract';
import type { Person } from '../auth/person';
import { insertFile } from '../db/bytes';
import type { Database, Queries } from '../db/client';
import { bodyMaps, castMembers, files, people, rigs } from '../db/schema';
import { notFound } from '../errors';
import { newId, sha256 } from '../ids';
import { newGroup, record } from './history';
import { copyRig, getRig } from './rigs';

const columns = {
  id: castMembers.id,
  name: castMembers.name,
  note: castMembers.note,
  rigId: castMembers.rigId,
  assets: castMembers.assets,
  floorM: castMembers.floorM,
  skin: castMembers.skin,
  heightM: castMembers.heightM,
  vertexCount: castMembers.vertexCount,
  variantOf: castMembers.variantOf,
  binnedAt: castMembers.binnedAt,
  jointCount: rigs.jointCount,
  restKind: rigs.restKind,
  found: rigs.found,
  map: bodyMaps.map,
};

const joined = (db: Queries) =>
  db
    .select(columns)
    .from(castMembers)
    .innerJoin(rigs, eq(rigs.id, castMembers.rigId))
    .innerJoin(bodyMaps, eq(bodyMaps.rigId, castMembers.rigId));

export const listCast = (db: Queries, bin = false): Promise<CastRow[]> =>
  joined(db)
    .where(bin ? isNotNull(castMembers.binnedAt) : isNull(castMembers.binnedAt))
    .orderBy(asc(castMembers.createdAt), asc(castMembers.name));

export async function getCast(db: Queries, id: string): Promise<CastRow> {
  const row = (await joined(db).where(eq(castMembers.id, id)))[0];
  if (!row) throw notFound('The cast member');
  return row;
}

/** A cut-out that has a rig; undefined where nobody in the cast has it. @param art drawn like this and in no other way */
export async function castWithArt(db: Queries, rigId: string, art?: Uint8Array): Promise<CastRow | undefined> {
  const drawn = sql`json_value(${castMembers.assets}, '$.art')`;
  const rows = await joined(db).where(
    and(eq(castMembers.rigId, rigId), art ? eq(drawn, sha256(art)) : isNotNull(drawn)),
  );
  return rows.find((r) => r.binnedAt === null) ?? rows[0];
}

/** A rig, and the pictures of whoever is drawn on it. */
export async function drawnRig(db: Queries, id: string): Promise<RigAnswer> {
  const rig = await getRig(db, id);
  return rig.rig.kind === 'cutout' ? { ...rig, art: (await castWithArt(db, id))?.assets.art ?? null } : rig;
}

/** The rig of a cast member with what its mesh tells: the ground it stands on and how thick it is. */
export const castRig = async (db: Queries, id: string): Promise<RigAnswer> => rigOfMember(db, await getCast(db, id));

export async function rigOfMember(db: Queries, member: CastRow): Promise<RigAnswer> {
  return {
    ...(await getRig(db, member.rigId)),
    floorM: member.floorM,
    skin: member.skin,
    art: member.assets.art ?? null,
  };
}

export interface NewCast {
  name: string;
  note?: string;
  rigId: string;
  heightM: number;
  figure: { glb: Uint8Array; floorM: number | null; skin: SkinJson | null; vertexCount: number } | null;
  /** Pictures of a cut-out, as JSON. */
  art?: Uint8Array | undefined;
  personId: string;
}

/** Keeps the files of a cast member: a mesh, or the pictures of a cut-out. @returns its assets */
export async function keepFigure(db: Queries, glb: Uint8Array | undefined, art?: Uint8Array): Promise<Assets> {
  const out: Assets = {};
  for (const [role, mime, bytes] of [
    ['figure', 'model/gltf-binary', glb],
    ['art', 'application/json', art],
  ] as const) {
    if (!bytes) continue;
    const hash = sha256(bytes);
    await insertFile(db, hash, mime, bytes);
    out[role] = hash;
  }
  return out;
}

/** The bytes of a cast member's file; null where it has none for this. */
export const assetBytes = async (db: Queries, { assets }: CastRow, role: AssetRole): Promise<Uint8Array | null> =>
  assets[role] === undefined ? null : (await fileBytes(db, assets[role])).bytes;

export async function addCast(db: Queries, cast: NewCast): Promise<CastRow> {
  const assets = await keepFigure(db, cast.figure?.glb, cast.art);
  const id = newId();
  await db.insert(castMembers).values({
    id,
    name: cast.name.slice(0, 200),
    note: cast.note ?? '',
    rigId: cast.rigId,
    assets,
    floorM: cast.figure?.floorM ?? null,
    skin: cast.figure?.skin ?? null,
    heightM: cast.heightM,
    vertexCount: cast.figure?.vertexCount ?? 0,
    createdBy: cast.personId,
  });
  await record(db, [
    {
      subject: 'cast',
      subjectId: id,
      groupId: newGroup(),
      personId: cast.personId,
      action: 'add',
      label: `${cast.name} joined the cast`,
    },
  ]);
  return getCast(db, id);
}

/**
 * Measures the skin of characters that came in before skins were measured. A figure that tells nothing is marked as measured.
 * @returns how many were measured
 */
export async function measureSkins(
  db: Queries,
  measure: (glb: Uint8Array) => Promise<SkinJson | null>,
): Promise<number> {
  const open = await db
    .select({ id: castMembers.id, assets: castMembers.assets })
    .from(castMembers)
    .where(and(sql`json_exists(${castMembers.assets}, '$.figure')`, isNull(castMembers.skin)));
  for (const { id, assets } of open) {
    const skin = await measure((await fileBytes(db, assets.figure!)).bytes).catch(() => null);
    await db
      .update(castMembers)
      .set({ skin: skin ?? { around: [], ahead: [] } })
      .where(and(eq(castMembers.id, id), isNull(castMembers.skin)));
  }
  return open.length;
}

/** What of a cast member its file decides. */
export interface CastFigure {
  rigId: string;
  assets: Assets;
  floorM: number | null;
  skin?: SkinJson | null | undefined;
  heightM: number;
  vertexCount: number;
}

export interface CastChange {
  name?: string | undefined;
  note?: string | undefined;
  binned?: boolean | undefined;
  /** Another file in its place, or the former one back. */
  figure?: CastFigure | undefined;
}

export async function changeCast(
  db: Queries,
  person: Pick<Person, 'id'>,
  id: string,
  change: CastChange,
): Promise<{ member: CastRow; undo: CastChange }> {
  const before = await getCast(db, id);
  const undo: CastChange = {};
  const set: Partial<typeof castMembers.$inferInsert> = {};
  if (change.name !== undefined) {
    set.name = change.name;
    undo.name = before.name;
  }
  if (change.note !== undefined) {
    set.note = change.note;
    undo.note = before.note;
  }
  if (change.binned !== undefined) {
    set.binnedAt = change.binned ? new Date() : null;
    undo.binned = before.binnedAt !== null;
  }
  if (change.figure !== undefined) {
    await getRig(db, change.figure.rigId);
    for (const hash of Object.values(change.figure.assets)) await fileBytes(db, hash);
    Object.assign(set, change.figure);
    const { rigId, assets, floorM, skin, heightM, vertexCount } = before;
    undo.figure = { rigId, assets, floorM, skin, heightM, vertexCount };
  }
  if (Object.keys(set).length > 0) {
    await db.transaction(async (tx) => {
      await tx.update(castMembers).set(set).where(eq(castMembers.id, id));
      await record(tx, [
        {
          subject: 'cast',
          subjectId: id,
          groupId: newGroup(),
          personId: person.id,
          action: 'edit',
          label: `Changed ${before.name} in the cast`,
          before: { ...undo },
          after: { ...change },
        },
      ]);
    });
  }
  return { member: await getCast(db, id), undo };
}

/** A copy with everything: figure, body map, pose, limits, pairs, sets. Nothing done to it touches the original. */
export async function copyCast(db: Database, person: Pick<Person, 'id'>, id: string, name: string): Promise<CastRow> {
  return db.transaction(async (tx) => {
    const member = await getCast(tx, id);
    const copy = newId();
    await tx.insert(castMembers).values({
      id: copy,
      name: name.slice(0, 200),
      note: member.note,
      rigId: await copyRig(tx, member.rigId),
      assets: member.assets,
      floorM: member.floorM,
      skin: member.skin,
      heightM: member.heightM,
      vertexCount: member.vertexCount,
      variantOf: id,
      createdBy: person.id,
    });
    await record(tx, [
      {
        subject: 'cast',
        subjectId: copy,
        groupId: newGroup(),
        personId: person.id,
        action: 'add',
        label: `Copied ${member.name} as ${name}`,
      },
    ]);
    return getCast(tx, copy);
  });
}

export async function fileBytes(db: Queries, hash: string): Promise<{ bytes: Uint8Array; mime: string }> {
  const row = (await db.select().from(files).where(eq(files.hash, hash)))[0];
  if (!row) throw notFound('The file');
  return row;
}

/** Puts a cast member on hand for a person, or nobody. */
export async function choosePerformer(db: Database, personId: string, castId: string | null): Promise<void> {
  if (castId !== null) await getCast(db, castId);
  await db
    .update(people)
    .set({ performerId: castId })
    .where(and(eq(people.id, personId)));
}
