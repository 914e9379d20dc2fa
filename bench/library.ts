// The library at scale: search with words, narrowings and live counts; likeness; loading. Run by npm run bench:library.
import { performance } from 'node:perf_hooks';
import { DESCRIPTOR_WIDTH, seeded } from '../motion/index';
import { Catalogue } from '../web/server/catalogue/catalogue';
import { LiveCatalogue } from '../web/server/catalogue/live';
import { openDatabase } from '../web/server/db/client';
import { items } from '../web/server/db/schema';
import { fillLarge } from '../web/server/demo/large';
import { editItems } from '../web/server/services/edits';
import { searchLibrary } from '../web/server/services/search';
import { testDatabase } from '../web/server/test/world';

const sizes = (process.argv[2] ?? '100000').split(',').map(Number);
const quantile = (times: number[], q: number): number =>
  [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(q * times.length))]!;
const row = (name: string, value: string): void => console.log(`| ${name.padEnd(64)} | ${value.padStart(22)} |`);
const ms = (x: number): string => `${x.toFixed(1)} ms`;

const QUERIES = [
  'rope',
  'walks gangway',
  'haul kind:take tag:wet',
  'lantern night loops:yes rights:own',
  'tove -crate travel:travels',
  'kind:cycle tempo:walking',
  'boom swell kind:clip rated:3',
  'stoker mops tag:rope tag:night',
  '"fog bell" length:short',
  'belays longer:2 moves:fingers',
  'gangwya kind:take',
  'c kind:take travel:in-place',
];

for (const size of sizes) {
  const world = await testDatabase();
  try {
    for (let seed = 1; seed <= 30; seed++) await world.bring(seed, `Seed ${seed}`);
    let start = performance.now();
    await fillLarge(world.db, size);
    row(`${size} items: filled in`, `${((performance.now() - start) / 1000).toFixed(0)} s`);
    const { db, pool } = openDatabase(world.url, 8);
    const library = new LiveCatalogue(db);
    start = performance.now();
    await library.open();
    row('catalogue loaded from the database', `${((performance.now() - start) / 1000).toFixed(1)} s`);
    row('memory of the process with it', `${Math.round(process.memoryUsage().rss / 2 ** 20)} MiB`);
    const ask = async (text: string, more = {}): Promise<number> => {
      const t = performance.now();
      await searchLibrary(db, library, world.person, { text, facets: true, limit: 100, ...more });
      return performance.now() - t;
    };
    for (const q of QUERIES) await ask(q);
    const times: number[] = [];
    for (let round = 0; round < 10; round++) for (const q of QUERIES) times.push(await ask(q));
    row('search, words, narrowings, live counts, 100 rows: p50', ms(quantile(times, 0.5)));
    row('                                                  p95', ms(quantile(times, 0.95)));
    const open: number[] = [];
    for (let i = 0; i < 10; i++) open.push(await ask('', { offset: 100 * i }));
    row('everything, first pages with counts: p95', ms(quantile(open, 0.95)));
    const deep: number[] = [];
    for (let i = 0; i < 10; i++) deep.push(await ask('', { offset: size - 100 * (i + 1), facets: false }));
    row('the last pages: p95', ms(quantile(deep, 0.95)));
    const many = await db.select({ id: items.id }).from(items).limit(1500);
    for (const tag of ['wet deck', 'night shift', 'for tuesday']) {
      start = performance.now();
      await editItems(
        db,
        world.person,
        many.map(({ id }) => ({ id, change: { addTags: [tag] } })),
      );
      row(`${many.length} items tagged as one step`, ms(performance.now() - start));
    }
    await pool.end();
    library.close();
  } finally {
    await world.close();
  }
  // likeness on descriptors that all differ, which shared motions would not show
  const random = seeded(3);
  const catalogue = new Catalogue();
  const plain = {
    kind: 'take',
    name: 'x',
    note: '',
    heading: '',
    folderId: null,
    tags: [],
    by: null,
    madeFor: null,
    rights: 'own',
    rating: 0,
    binned: false,
    createdAt: 0,
    updatedAt: 0,
    frames: 1,
    fps: 30,
    durationS: 1,
    travelM: 0,
    inPlace: true,
    loops: false,
    tempo: 0,
    left: 0,
    right: 0,
    parts: [],
    poses: new Uint8Array(0),
  };
  for (let i = 0; i < Math.min(size, 100_000); i++) {
    const centre = (i % 200) / 10;
    catalogue.put({
      ...plain,
      id: `i${i}`,
      readingId: `r${i}`,
      descriptor: Int8Array.from({ length: DESCRIPTOR_WIDTH }, (_, k) =>
        Math.round(20 * Math.sin(centre * (k + 1)) + 12 * (random() - 0.5)),
      ),
    });
  }
  const likes: number[] = [];
  for (let i = 0; i < 12; i++) {
    const t = performance.now();
    catalogue.alike(`i${i * 997}`);
    if (i >= 2) likes.push(performance.now() - t);
  }
  row(`likeness in ${Math.min(size, 100_000)}: median`, ms(quantile(likes, 0.5)));
}
process.exit(0);
