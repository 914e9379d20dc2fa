import {
  artFromJson,
  artToJson,
  type CutoutChange,
  editCutout,
  MotionError,
  rigFromJson,
  rigIdentity,
  rigToJson,
} from '@velvet-reel/motion';
import { eq } from 'drizzle-orm';
import type { CastRow } from '../../contract';
import type { Person } from '../auth/person';
import type { Database } from '../db/client';
import { bodyMaps } from '../db/schema';
import { Refusal } from '../errors';
import { assetBytes, type CastChange, changeCast, getCast, keepFigure } from './cast';
import { getRig, keepRig } from './rigs';

/**
 * Sets pivots, drawing order and hinges of a cut-out. The figure gets a rig of its own for them; what was made for the former
 * one stays with that.
 * @param base the rig that the page showed
 * @throws Refusal 409 where somebody else has changed the figure since, 422 for a body in space; MotionError for what it cannot have
 */
export function changeCutout(
  db: Database,
  person: Pick<Person, 'id'>,
  castId: string,
  base: string,
  change: CutoutChange,
): Promise<{ member: CastRow; undo: CastChange }> {
  return db.transaction(async (tx) => {
    const member = await getCast(tx, castId);
    if (member.rigId !== base)
      throw new Refusal(409, 'changed-meanwhile', 'Someone changed this figure in the meantime. Reload to see it.');
    const known = await getRig(tx, member.rigId);
    const rig = rigFromJson(known.rig);
    const bytes = await assetBytes(tx, member, 'art');
    if (rig.kind !== 'cutout' || !bytes)
      throw new Refusal(422, 'no-cutout', `${member.name} is no cut-out: it has no parts to set.`);
    const edited = edit(() => editCutout(rig, artFromJson(JSON.parse(new TextDecoder().decode(bytes))), change));
    const kept = await keepRig(tx, {
      rig: rigToJson(edited.rig),
      identity: rigIdentity(edited.rig),
      map: known.map,
      restKind: known.restKind,
      restPose: null,
      heightM: member.heightM,
    });
    if (!kept.known) {
      const { limits, pairs, sets } = known;
      await tx.update(bodyMaps).set({ limits, pairs, sets }).where(eq(bodyMaps.rigId, kept.id));
    }
    const art = await keepFigure(tx, undefined, new TextEncoder().encode(JSON.stringify(artToJson(edited.art))));
    const { rigId: _, ...same } = member;
    return changeCast(tx as unknown as Database, person, castId, {
      figure: {
        rigId: kept.id,
        assets: { ...member.assets, ...art },
        floorM: same.floorM,
        skin: same.skin,
        heightM: same.heightM,
        vertexCount: same.vertexCount,
      },
    });
  });
}

function edit<T>(run: () => T): T {
  try {
    return run();
  } catch (error) {
    if (error instanceof MotionError) throw new Refusal(400, error.code, error.sentence());
    throw error;
  }
}
