import { itemsOf as shownBy, withItems, writeScxml } from '@velvet-reel/motion';
import { eq } from 'drizzle-orm';
import { zipSync } from 'fflate';
import type { PlayRow } from '../../contract';
import { PLAY, type PlayContent } from '../../documents/play';
import { asPlay } from '../../documents/play-schema';
import type { FitSettings } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { playItems, plays } from '../db/schema';
import { Refusal } from '../errors';
import { getCast, listCast } from './cast';
import { namedDocuments } from './document-rows';
import { openFit } from './fit-jobs';
import { exportCharacter } from './fittings';
import { getItems } from './items';

/** Items that a play-through shows. */
const itemsOf = ({ states }: PlayContent): string[] => [...new Set(states.flatMap(shownBy))];

async function noteItems(db: Queries, playId: string, content: PlayContent): Promise<void> {
  await db.delete(playItems).where(eq(playItems.playId, playId));
  const now = itemsOf(content);
  if (now.length > 0) await db.insert(playItems).values(now.map((itemId) => ({ playId, itemId })));
}

const rows = namedDocuments<PlayContent>({
  table: plays,
  kind: PLAY,
  check: asPlay,
  subject: 'play',
  word: 'play-through',
  note: noteItems,
});
export const { get: getPlay, make: makePlay, write: writePlay, bin: binPlay } = rows;

/** All play-throughs, those changed last first. */
export async function listPlays(db: Queries, bin = false): Promise<PlayRow[]> {
  const [found, cast] = await Promise.all([rows.list(db, bin), listCast(db)]);
  const names = new Map(cast.map((c) => [c.id, c.name]));
  return found.map(({ id, name, content, changedByName, changedAt, binnedAt }) => ({
    id,
    name,
    cast:
      content.castId === null
        ? null
        : { id: content.castId, name: names.get(content.castId) ?? 'a character that is gone' },
    states: content.states.length,
    ways: content.ways.length,
    changedByName,
    changedAt,
    binnedAt,
  }));
}

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
  await rows.makeIn(tx, person, { ...withItems(content, copies), name, castId });
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
