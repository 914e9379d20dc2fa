import {
  anySkeletonFromJson,
  bodyMapFromJson,
  borrowTurns,
  compareRigs,
  type RigDifferences,
} from '@velvet-reel/motion';
import { count, eq } from 'drizzle-orm';
import type { CastRow, RigAnswer } from '../../contract';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { bodyMaps, items } from '../db/schema';
import { Refusal } from '../errors';
import { respaceInThread } from '../threads/pool';
import type { ReadFile, SpaceTurn } from '../threads/work';
import { assetBytes, type CastChange, changeCast, getCast, keepFigure } from './cast';
import { fittingsOf } from './freshness';
import { getRig, keepRig } from './rigs';

/** What another file in a cast member's place would mean. */
export interface Replacement {
  differences: RigDifferences;
  /** Slots whose joint the new skeleton has too, and those whose joint is gone. */
  slotsKept: number;
  slotsLost: { slot: string; joint: string }[];
  setsCut: string[];
  /** Items made for it, and fittings among them that will be out of date. */
  itemsMadeFor: number;
  fittings: number;
  mesh: { before: number; after: number };
}

/** Looks at a file that is to stand in for a cast member's; nothing is written. */
export async function weighReplacement(db: Queries, castId: string, read: ReadFile): Promise<Replacement> {
  const member = await getCast(db, castId);
  const known = await getRig(db, member.rigId);
  const [made] = await db.select({ n: count() }).from(items).where(eq(items.madeFor, castId));
  const names = new Set(read.rig.joints.map((j) => j.name));
  const filled = Object.entries(known.map.slots).flatMap(([slot, e]) =>
    e.joint === null ? [] : [{ slot, joint: e.joint }],
  );
  return {
    differences: compareRigs(anySkeletonFromJson(known.rig), anySkeletonFromJson(read.rig)),
    slotsKept: filled.filter((s) => names.has(s.joint)).length,
    slotsLost: filled.filter((s) => !names.has(s.joint)),
    setsCut: known.sets.filter((s) => s.joints.some((j) => !names.has(j))).map((s) => s.name),
    itemsMadeFor: made?.n ?? 0,
    fittings: (await fittingsOf(db, castId)).length,
    mesh: { before: member.vertexCount, after: read.figure?.vertexCount ?? 0 },
  };
}

/** Puts another file in a cast member's place; map, pose, limits, pairs and sets go along as far as the joints do. */
export async function replaceFile(
  db: Database,
  person: Pick<Person, 'id'>,
  castId: string,
  read: ReadFile,
): Promise<{ member: CastRow; undo: CastChange; report: Replacement }> {
  if (read.rig.joints.length === 0) throw new Refusal(422, 'no-joints', 'The file holds no skeleton.');
  const report = await weighReplacement(db, castId, read);
  return db.transaction(async (tx) => {
    const member = await getCast(tx, castId);
    const old = await getRig(tx, member.rigId);
    const rig = await keepRig(tx, read);
    // a skeleton that is known already has been described; a new one takes over what was said of the former
    if (!rig.known) await tx.update(bodyMaps).set(carriedOver(old, read)).where(eq(bodyMaps.rigId, rig.id));
    // what else it has, a picture for one, stays
    const { figure: _f, art: _a, ...others } = member.assets;
    const assets = { ...others, ...(await keepFigure(tx, read.figure?.glb, read.art)) };
    const { member: changed, undo } = await changeCast(tx, person, castId, {
      figure: {
        rigId: rig.id,
        assets,
        floorM: read.figure?.floorM ?? null,
        skin: read.figure?.skin ?? null,
        heightM: read.heightM,
        vertexCount: read.figure?.vertexCount ?? 0,
      },
    });
    return { member: changed, undo, report };
  });
}

/** Puts a character right that was read in a wrong size or direction; what was made for it stays with the former skeleton. */
export async function respaceCast(
  db: Database,
  person: Pick<Person, 'id'>,
  castId: string,
  scale: number,
  turn: SpaceTurn,
): Promise<{ member: CastRow; undo: CastChange; report: Replacement }> {
  const member = await getCast(db, castId);
  const rig = await getRig(db, member.rigId);
  const read = await respaceInThread({
    rig: rig.rig,
    map: rig.map,
    glb: await assetBytes(db, member, 'figure'),
    scale,
    turn,
  });
  return replaceFile(db, person, castId, read);
}

function carriedOver(old: RigAnswer, read: ReadFile): Partial<typeof bodyMaps.$inferInsert> {
  const rig = anySkeletonFromJson(read.rig);
  const names = new Set(rig.names);
  const slots = { ...read.map.slots };
  const taken = new Set<string>();
  for (const [slot, e] of Object.entries(old.map.slots)) {
    if (e.joint === null ? e.state === 'empty' : names.has(e.joint)) {
      slots[slot] = e;
      if (e.joint !== null) taken.add(e.joint);
    }
  }
  // what was guessed anew gives way where its joint is spoken for
  for (const [slot, e] of Object.entries(slots))
    if (e.joint !== null && taken.has(e.joint) && old.map.slots[slot]?.joint !== e.joint)
      slots[slot] = { joint: null, state: 'missing', why: 'its joint serves another slot' };
  const map = { ...read.map, slots };
  bodyMapFromJson(map, rig);
  return {
    map,
    match: old.match
      ? { turns: borrowTurns(rig, anySkeletonFromJson(old.rig), old.match.turns).turns, how: old.match.how }
      : null,
    limits: old.limits,
    pairs: old.pairs?.filter((p) => p.every((j) => names.has(j))) ?? null,
    sets: old.sets
      .map((s) => ({ ...s, joints: s.joints.filter((j) => names.has(j)) }))
      .filter((s) => s.joints.length > 0),
  };
}
