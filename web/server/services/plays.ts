import { itemsOf as shownBy, withItems, writeScxml } from '@velvet-reel/motion';
import { desc, eq, isNotNull, isNull } from 'drizzle-orm';
import { zipSync } from 'fflate';
import type { PlayRow } from '../../contract';
import { PLAY, type PlayContent } from '../../documents/play';
import { asPlay } from '../../documents/play-schema';
import type { Batch } from '../../documents/shared-document';
import type { FitSettings } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { people, playItems, plays } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { wasTaken, withBatch, withWrites } from './batches';
import { getCast, listCast } from './cast';
import { openFit } from './fit-jobs';
import { exportCharacter } from './fittings';
import { newGroup, record } from './history';
import { getItems } from './items';

const MOST_PLAYS = 500;

/** Items that a play-through shows. */
const itemsOf = ({ states }: PlayContent): string[] => [...new Set(states.flatMap(shownBy))];

/** All play-throughs, those changed last first. */
export async function listPlays(db: Queries, bin = false): Promise<PlayRow[]> {
  const [rows, cast] = await Promise.all([
    db
      .select({ play: plays, by: people.name })
      .from(plays)
      .leftJoin(people, eq(people.id, plays.changedBy))
      .where(bin ? isNotNull(plays.binnedAt) : isNull(plays.binnedAt))
      .orderBy(desc(plays.changedAt), desc(plays.id))
      .limit(MOST_PLAYS),
    listCast(db),
  ]);
  const names = new Map(cast.map((c) => [c.id, c.name]));
  return rows.map(({ play: { id, name, content, changedAt, binnedAt }, by }) => ({
    id,
    name,
    cast:
      content.castId === null
        ? null
        : { id: content.castId, name: names.get(content.castId) ?? 'a character that is gone' },
    states: content.states.length,
    ways: content.ways.length,
    changedByName: by,
    changedAt,
    binnedAt,
  }));
}

/** @throws Refusal 404 */
export async function getPlay(db: Queries, id: string) {
  const [row] = await db
    .select({ play: plays, by: people.name })
    .from(plays)
    .leftJoin(people, eq(people.id, plays.changedBy))
    .where(eq(plays.id, id));
  if (!row) throw notFound('The play-through');
  const { content, version, binnedAt } = row.play;
  return { id, content: asPlay(content), version, changedByName: row.by, binnedAt };
}

/** Makes a play-through: an empty one, or one that holds what is given. */
export const makePlay = (
  db: Database,
  person: Pick<Person, 'id'>,
  given: Partial<PlayContent> & { name: string },
): Promise<{ id: string }> => db.transaction((tx) => makePlayIn(tx, person, given));

export async function makePlayIn(
  db: Queries,
  person: Pick<Person, 'id'>,
  given: Partial<PlayContent> & { name: string },
): Promise<{ id: string }> {
  const content = asPlay({ ...PLAY.empty, ...given });
  const id = newId();
  await db.insert(plays).values({
    id,
    name: content.name,
    content,
    createdBy: person.id,
    changedBy: person.id,
    changedAt: new Date(),
  });
  await noteItems(db, id, content);
  await tell(db, person.id, id, 'add', `Began the play-through ${content.name}`);
  return { id };
}

/** As writeReel. */
export async function writePlay(db: Database, person: Pick<Person, 'id'>, id: string, batch: Batch) {
  await db.transaction(async (tx) => {
    const [row] = await tx.select().from(plays).where(eq(plays.id, id)).for('update');
    if (!row) throw notFound('The play-through');
    if (wasTaken(row.taken, batch)) return;
    const content = withWrites(PLAY, asPlay(row.content), batch, asPlay);
    await tx
      .update(plays)
      .set({
        name: content.name,
        content,
        version: row.version + 1,
        taken: withBatch(row.taken, batch),
        changedBy: person.id,
        changedAt: new Date(),
      })
      .where(eq(plays.id, id));
    await noteItems(tx, id, content);
    await tell(tx, person.id, id, 'edit', `Worked on the play-through ${content.name}`);
  });
  return getPlay(db, id);
}

/** Moves a play-through to the bin, or brings it back. */
export async function binPlay(db: Database, person: Pick<Person, 'id'>, id: string, binned: boolean): Promise<void> {
  await db.transaction(async (tx) => {
    const [row] = await tx.select({ name: plays.name }).from(plays).where(eq(plays.id, id)).for('update');
    if (!row) throw notFound('The play-through');
    await tx
      .update(plays)
      .set({ binnedAt: binned ? new Date() : null })
      .where(eq(plays.id, id));
    await tell(tx, person.id, id, 'edit', `${binned ? 'Moved to the bin' : 'Brought back'}: ${row.name}`);
  });
}

async function noteItems(db: Queries, playId: string, content: PlayContent): Promise<void> {
  await db.delete(playItems).where(eq(playItems.playId, playId));
  const now = itemsOf(content);
  if (now.length > 0) await db.insert(playItems).values(now.map((itemId) => ({ playId, itemId })));
}

const tell = (db: Queries, personId: string, subjectId: string, action: 'add' | 'edit', label: string) =>
  record(db, [{ subject: 'play', subjectId, groupId: newGroup(), personId, action, label }]);

export interface CarryWish {
  readonly castId: string;
  /** Of the copy. */
  readonly name: string;
  /** Of the items; {item}, {character} and {n} stand for what they say. */
  readonly nameRule: string;
  readonly folder: string;
  readonly settings: FitSettings;
}

/**
 * Carries a play-through to another character with everything it shows: the items are fitted as one job, and when the last one
 * has ended a copy of the play-through shows them.
 */
export async function carryPlay(
  db: Database,
  person: Person,
  id: string,
  wish: CarryWish,
): Promise<{ id: string; parts: number }> {
  const { content } = await getPlay(db, id);
  const itemIds = itemsOf(content);
  if (itemIds.length === 0)
    throw new Refusal(400, 'empty', 'The play-through shows nothing yet: put items on its states first.');
  const { castId, name, nameRule, folder, settings } = wish;
  const carried = { itemIds, folderIds: [], castIds: [castId], settings, perItem: {}, own: true, nameRule };
  return openFit(db, person, { ...carried, packRule: nameRule, folder }, [{ id, name, items: itemIds }]);
}

/** The copy of a play-through whose items were fitted onto a character; what could not be fitted is shown as it was. */
export async function carriedCopy(
  tx: Queries,
  person: Pick<Person, 'id'>,
  playId: string,
  name: string,
  castId: string,
  copies: ReadonlyMap<string, string>,
): Promise<void> {
  const { content } = await getPlay(tx, playId);
  await makePlayIn(tx, person, { ...withItems(content, copies), name, castId });
}

/**
 * A play-through for others to run: its graph as JSON and as SCXML, and a GLB with all its clips on its character.
 * @throws Refusal 400 without a character, or with items of another skeleton
 */
export async function exportPlay(db: Database, id: string): Promise<{ name: string; bytes: Uint8Array }> {
  const { content } = await getPlay(db, id);
  if (content.castId === null)
    throw new Refusal(400, 'no-character', 'The play-through has no character: choose one first.');
  const member = await getCast(db, content.castId);
  const rows = await getItems(db, itemsOf(content));
  const glb = await exportCharacter(db, member.id, { itemIds: rows.map((r) => r.id), mesh: true, keyTolerance: null });
  // the GLB numbers clips of one name by the order in which they come
  const seen = new Map<string, number>();
  const clips = new Map(
    rows.map((r) => {
      const n = (seen.get(r.name) ?? 0) + 1;
      seen.set(r.name, n);
      return [r.id, n === 1 ? r.name : `${r.name} ${n}`];
    }),
  );
  const clipOf = (itemId: string): string => clips.get(itemId) ?? '';
  const { name, castId: _, ...graph } = content;
  const json = {
    format: 'velvet reel play-through',
    version: 1,
    name,
    character: member.name,
    ...graph,
    states: graph.states.map(({ content: shown, ...s }) => ({
      ...s,
      content:
        shown.kind === 'item'
          ? { kind: 'clip', clip: clipOf(shown.itemId) }
          : { ...shown, items: shown.items.map((i) => ({ value: i.value, clip: clipOf(i.itemId) })) },
    })),
  };
  const text = (s: string): Uint8Array => new TextEncoder().encode(s);
  const bytes = zipSync({
    'play.json': text(`${JSON.stringify(json, null, 2)}\n`),
    'play.scxml': text(writeScxml(graph, name, clipOf)),
    'clips.glb': [glb.bytes, { level: 0 }],
  });
  return { name: `${name}.zip`, bytes };
}
