import { unzipSync } from 'fflate';
import { PLAY, type PlayContent } from '../../documents/play';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import { Worker } from '../jobs/worker';
import { readSkeleton, testDatabase, type World } from '../test/world';
import { inUse } from './bin';
import { addCast } from './cast';
import { changeItem } from './edits';
import { takeIn } from './intake';
import { getItem } from './items';
import { getJob } from './jobs';
import { binPlay, carryPlay, exportPlay, getPlay, listPlays, makePlay, writePlay } from './plays';
import { usesOf } from './uses';

let w: World;
let cast: string;
let own: string;
const item = { walk: '', wave: '' };

beforeAll(async () => {
  w = await testDatabase();
  const bare = async (name: string) =>
    (await takeIn(w.db, await readSkeleton(), { fileName: `${name}.glb`, bytes: 10 }, w.personId)).result.cast[0]!.id;
  cast = await bare('Understudy');
  item.walk = await w.bring(1, 'A walk');
  item.wave = await w.bring(2, 'A wave');
  const { rigId } = await getItem(w.db, item.walk);
  own = (await addCast(w.db, { name: 'Own', note: '', rigId, heightM: 1.7, figure: null, personId: w.personId })).id;
});
afterAll(() => w.close());

const shows = (id: string, itemId: string): PlayContent['states'][number] => ({
  id,
  name: `Shows ${id}`,
  at: [0, 0],
  content: { kind: 'item', itemId },
  speed: 1,
  repeats: true,
});
const content = (): Partial<PlayContent> & { name: string } => ({
  name: 'On deck',
  castId: own,
  start: 's',
  inputs: [{ id: 'k', name: 'Wave', kind: 'press', key: 'KeyE', lessKey: '', pad: -1, min: 0, max: 1 }],
  states: [shows('s', item.walk), shows('t', item.wave)],
  ways: [
    {
      id: 'w',
      from: 's',
      to: 't',
      when: [{ kind: 'pressed', input: 'k' }],
      join: { kind: 'decay', frames: 12, meet: 'hips' },
      entry: 'start',
    },
    {
      id: 'v',
      from: 't',
      to: 's',
      when: [{ kind: 'ended' }],
      join: { kind: 'crossfade', frames: 12, meet: 'hips' },
      entry: 'start',
    },
  ],
});

test('a play-through as cells says the same, ways and inputs in their order', () => {
  const play: PlayContent = { ...PLAY.empty, ...content() };
  expect(PLAY.join(PLAY.split(play))).toEqual(play);
  const turned = { ...play, ways: [...play.ways].reverse() };
  expect(PLAY.join(PLAY.split(turned)).ways.map((x) => x.id)).toEqual(['v', 'w']);
});

test('it is begun, listed, written by two pages at once, binned and brought back', async () => {
  const { id } = await makePlay(w.db, w.person, content());
  expect(await listPlays(w.db)).toMatchObject([{ id, name: 'On deck', states: 2, ways: 2, cast: { name: 'Own' } }]);
  await writePlay(w.db, w.person, id, { client: 'pageone00', number: 1, writes: [{ cell: 'name', to: 'At sea' }] });
  const moved = { ...shows('s', item.walk), at: [40, 60], order: 0 } as Record<string, unknown>;
  delete moved.id;
  await writePlay(w.db, w.person, id, { client: 'pagetwo00', number: 1, writes: [{ cell: 'state/s', to: moved }] });
  const { content: now, version } = await getPlay(w.db, id);
  expect([now.name, now.states[0]!.at, version]).toEqual(['At sea', [40, 60], 3]);
  await expect(
    writePlay(w.db, w.person, id, { client: 'pagetwo00', number: 2, writes: [{ cell: 'fps', to: 9999 }] }),
  ).rejects.toThrow();
  await binPlay(w.db, w.person, id, true);
  expect(await listPlays(w.db)).toEqual([]);
  expect(await listPlays(w.db, true)).toHaveLength(1);
  await binPlay(w.db, w.person, id, false);
  expect(await listPlays(w.db)).toHaveLength(1);
});

test('items name the play-throughs that show them, and destroying one is warned of', async () => {
  const { id } = await makePlay(w.db, w.person, { ...content(), name: 'Uses' });
  expect((await usesOf(w.db, item.wave)).plays).toContainEqual({ id, name: 'Uses' });
  await changeItem(w.db, w.person, item.wave, { binned: true });
  expect((await inUse(w.db, [item.wave]))[0]!.by).toContain('Uses');
  await changeItem(w.db, w.person, item.wave, { binned: false });
});

test('carried to another character, its items are fitted under the rule and a copy shows them', async () => {
  const { id } = await makePlay(w.db, w.person, content());
  const job = await carryPlay(w.db, w.person, id, {
    castId: cast,
    name: 'On deck, understudied',
    nameRule: '{n} {item} for {character}',
    folder: 'Understudy',
    settings: FIT_DEFAULTS,
  });
  expect(job.parts).toBe(2);
  const worker = new Worker(w.db, () => undefined, 'w');
  while (await worker.step());
  expect((await getJob(w.db, job.id)).counts).toMatchObject({ done: 2, refused: 0 });
  const made = (await listPlays(w.db)).filter((p) => p.name === 'On deck, understudied');
  expect(made).toHaveLength(1);
  const copy = (await getPlay(w.db, made[0]!.id)).content;
  expect(copy.castId).toBe(cast);
  const ids = copy.states.map((s) => (s.content.kind === 'item' ? s.content.itemId : ''));
  expect(await Promise.all(ids.map(async (i) => (await getItem(w.db, i)).name))).toEqual([
    '1 A walk for Understudy',
    '2 A wave for Understudy',
  ]);
  expect(copy.ways).toEqual(content().ways);
  // the one it was carried from shows what it showed
  expect((await getPlay(w.db, id)).content.states[0]!.content).toEqual({ kind: 'item', itemId: item.walk });
});

test('it is handed over as JSON, SCXML and a GLB with its clips, under the same names', async () => {
  const { id } = await makePlay(w.db, w.person, content());
  const { name, bytes } = await exportPlay(w.db, id);
  expect(name).toBe('On deck.zip');
  const files = unzipSync(bytes);
  expect(Object.keys(files).sort()).toEqual(['clips.glb', 'play.json', 'play.scxml']);
  const json = JSON.parse(new TextDecoder().decode(files['play.json'])) as {
    character: string;
    states: { content: { clip: string } }[];
  };
  const clips = json.states.map((s) => s.content.clip);
  expect([json.character, ...clips]).toEqual(['Own', 'A walk', 'A wave']);
  const glb = files['clips.glb']!;
  const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
  const gltf = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))) as {
    animations: { name: string }[];
  };
  expect(gltf.animations.map((a) => a.name)).toEqual(clips);
  const other = await makePlay(w.db, w.person, { ...content(), castId: cast });
  await expect(exportPlay(w.db, other.id)).rejects.toMatchObject({ code: 'other-skeleton' });
});
