import {
  artFromJson,
  artToJson,
  type BodyMapJson,
  bodyMapFromJson,
  type CutoutChange,
  type DrawnFigure,
  drawingsOf,
  editCutout,
  flatSkeleton,
  type JointMarks,
  type MergeReport,
  MotionError,
  mergeDrawings,
  mergeWords,
  rigFromJson,
  rigIdentity,
  rigToJson,
  unpackMotion,
} from '@velvet-reel/motion';
import { eq } from 'drizzle-orm';
import type { CastRow, ItemRow } from '../../contract';
import type { Person } from '../auth/person';
import type { Database } from '../db/client';
import { bodyMaps } from '../db/schema';
import { Refusal } from '../errors';
import { drawingSetInThread, markJointsInThread } from '../threads/pool';
import { assetBytes, type CastChange, changeCast, getCast, keepFigure } from './cast';
import { addItem, getItem, motionBytes } from './items';
import { demandFolders } from './rights';
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
): Promise<ChangedCutout> {
  return db.transaction(async (tx) => {
    const figure = await drawnFigure(tx, castId, base);
    return keepDrawn(
      tx,
      person,
      figure,
      refusing(() => editCutout(figure.rig, figure.art, change)),
    );
  });
}

/**
 * Puts a cut-out together anew by joints that were marked; see putTogether. Its body map is what was marked.
 * @param base the rig that the page showed
 * @throws Refusal 409 where somebody else has changed the figure since, 422 for a body in space, 400 for marks that cannot be
 */
export async function markCutout(
  db: Database,
  person: Pick<Person, 'id'>,
  castId: string,
  base: string,
  marks: JointMarks,
): Promise<ChangedCutout> {
  const { rig, art } = await db.transaction((tx) => drawnFigure(tx, castId, base));
  const made = await markJointsInThread({ rig: rigToJson(rig), art: artToJson(art), marks });
  const next = rigFromJson(made.rig);
  if (next.kind !== 'cutout') throw new Error('A cut-out was made a body in space.');
  return db.transaction(async (tx) =>
    keepDrawn(tx, person, await drawnFigure(tx, castId, base), { rig: next, art: artFromJson(made.art) }, made.map),
  );
}

/** What bringing in another figure's drawings does, or did. */
export interface AddedDrawings {
  report: MergeReport;
  words: string[];
  /** Left out where it was only asked about, and where nothing is new. */
  changed?: ChangedCutout;
}

/**
 * Keeps drawings of some parts as an item, for other figures to take over.
 * @throws Refusal 422 for a body in space, 403 for a folder that is closed to this person
 */
export async function keepDrawings(
  db: Database,
  person: Person,
  castId: string,
  { name, parts, folderId }: { name: string; parts: readonly string[]; folderId: string | null },
): Promise<ItemRow> {
  const { member, known } = await db.transaction((tx) => drawnFigure(tx, castId));
  await demandFolders(db, person, [folderId]);
  const clip = await drawingSetInThread({ source: known, parts });
  return db.transaction((tx) =>
    addItem(tx, {
      name,
      kind: 'drawings',
      folderId,
      rigId: member.rigId,
      madeFor: castId,
      clip,
      personId: person.id,
      provenance: { how: 'drawings', cast: castId, castName: member.name, parts: [...parts] },
    }),
  );
}

/**
 * Adds another cut-out's drawings to those of the same parts here; see mergeDrawings.
 * @param only by name, the parts to take drawings for @param check says what would happen and keeps nothing
 * @throws Refusal 409 where somebody else has changed the figure since, 422 for a body in space
 */
export function addDrawings(
  db: Database,
  person: Pick<Person, 'id'>,
  castId: string,
  base: string,
  from: { cast: string } | { item: string },
  { only, check }: { only?: readonly string[] | undefined; check?: boolean | undefined } = {},
): Promise<AddedDrawings> {
  return db.transaction(async (tx) => {
    const figure = await drawnFigure(tx, castId, base);
    const other = await drawingsFrom(tx, from);
    const { report, ...merged } = refusing(() => mergeDrawings(figure, other, only));
    const told = { report, words: mergeWords(report) };
    if (check || report.drawings.every((d) => d.how === 'same')) return told;
    return { ...told, changed: await keepDrawn(tx, person, figure, merged) };
  });
}

/** A figure's drawings, or those that an item keeps of it. */
async function drawingsFrom(tx: Tx, from: { cast: string } | { item: string }): Promise<DrawnFigure> {
  if ('cast' in from) return drawnFigure(tx, from.cast);
  const item = await getItem(tx, from.item);
  if (item.kind !== 'drawings' || item.madeFor === null)
    throw new Refusal(400, 'no-drawings', `${item.name} is not a set of drawings.`);
  const figure = await drawnFigure(tx, item.madeFor);
  return drawingsOf(figure, unpackMotion(await motionBytes(tx, item.motionHash)));
}

interface ChangedCutout {
  member: CastRow;
  undo: CastChange;
}

type Tx = Parameters<Parameters<Database['transaction']>[0]>[0];

interface KeptFigure extends DrawnFigure {
  readonly member: CastRow;
  readonly known: Awaited<ReturnType<typeof getRig>>;
}

async function drawnFigure(tx: Tx, castId: string, base?: string): Promise<KeptFigure> {
  const member = await getCast(tx, castId);
  if (base !== undefined && member.rigId !== base)
    throw new Refusal(409, 'changed-meanwhile', 'Someone changed this figure in the meantime. Reload to see it.');
  const known = await getRig(tx, member.rigId);
  const rig = rigFromJson(known.rig);
  const bytes = await assetBytes(tx, member, 'art');
  if (rig.kind !== 'cutout' || !bytes)
    throw new Refusal(422, 'no-cutout', `${member.name} is no cut-out: it has no parts to set.`);
  const map = bodyMapFromJson(known.map, flatSkeleton(rig));
  return { member, known, rig, map, art: artFromJson(JSON.parse(new TextDecoder().decode(bytes))) };
}

async function keepDrawn(
  tx: Tx,
  person: Pick<Person, 'id'>,
  { member, known }: KeptFigure,
  next: DrawnFigure,
  map?: BodyMapJson,
): Promise<ChangedCutout> {
  const kept = await keepRig(tx, {
    rig: rigToJson(next.rig),
    identity: rigIdentity(next.rig),
    map: map ?? known.map,
    restKind: known.restKind,
    restPose: null,
    heightM: member.heightM,
  });
  if (!kept.known) {
    const { limits, pairs, sets } = known;
    // pairs and sets name joints: of those that were marked there may be others
    await tx
      .update(bodyMaps)
      .set(map ? { limits } : { limits, pairs, sets })
      .where(eq(bodyMaps.rigId, kept.id));
  }
  const art = await keepFigure(tx, undefined, new TextEncoder().encode(JSON.stringify(artToJson(next.art))));
  const { assets, floorM, skin, heightM, vertexCount } = member;
  return changeCast(tx as unknown as Database, person, member.id, {
    figure: { rigId: kept.id, assets: { ...assets, ...art }, floorM, skin, heightM, vertexCount },
  });
}

function refusing<T>(run: () => T): T {
  try {
    return run();
  } catch (error) {
    if (error instanceof MotionError) throw new Refusal(400, error.code, error.sentence());
    throw error;
  }
}
