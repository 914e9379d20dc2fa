import { DESCRIPTOR_WIDTH, POSE_RECORD, seeded } from '@velvet-reel/motion';
import fc from 'fast-check';
import { parseSearch } from '../../search/language';
import { countBits, eachBit, hasBit, newBits, setBit } from './bits';
import { Catalogue, NOWHERE } from './catalogue';
import { SORTS } from './order';
import { type CatalogueItem, isDefaultName, lengthBand, PARTS, supportOf, tempoBand } from './rows';
import { tokensOf, WordIndex, within } from './words';

const WORDS = ['rope', 'haul', 'walk', 'deck', 'gangway', 'coil', 'lantern', 'swell', 'crawl', 'turn'];
const TAGS = ['wet', 'two hands', 'night', 'limp'];

function someItem(i: number, random: () => number): CatalogueItem {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const duration = random() * 80;
  return {
    id: `i${String(i).padStart(5, '0')}`,
    kind: pick(['pose', 'clip', 'cycle', 'take']),
    name: `${pick(WORDS)} ${pick(WORDS)} ${i % 7}`,
    note: random() < 0.3 ? pick(WORDS) : '',
    heading: '',
    folderId: random() < 0.2 ? null : pick(['f1', 'f2', 'f3']),
    tags: TAGS.filter(() => random() < 0.25),
    by: pick(['p1', 'p2', null]),
    madeFor: pick([null, 'c1']),
    rights: pick(['own', 'free', 'unknown']),
    rating: Math.floor(random() * 6),
    binned: random() < 0.1,
    createdAt: Date.now() - Math.floor(random() * 30) * 86_400_000,
    updatedAt: Date.now(),
    frames: Math.round(duration * 30),
    fps: pick([24, 30, 120]),
    durationS: duration,
    travelM: random() * 5,
    inPlace: random() < 0.5,
    loops: random() < 0.3,
    tempo: random() < 0.2 ? 0 : random() * 200,
    left: random(),
    right: random(),
    parts: PARTS.filter(() => random() < 0.4),
    readingId: `r${i}`,
    descriptor: Int8Array.from({ length: DESCRIPTOR_WIDTH }, () => Math.round((random() - 0.5) * 20)),
    poses: Uint8Array.from({ length: 2 * POSE_RECORD }, (_, k) =>
      k % POSE_RECORD === 2 ? i % 4 : Math.floor(random() * 256),
    ),
  };
}

/** What a search means, said the slow way. */
function slowly(items: readonly CatalogueItem[], text: string): string[] {
  const search = parseSearch(text);
  const has = (i: CatalogueItem, word: string): boolean =>
    tokensOf(word).every((t) =>
      [...tokensOf(`${i.name} ${i.note} ${i.kind}`), ...i.tags.flatMap(tokensOf)].some((own) => own.startsWith(t)),
    );
  const meets = (i: CatalogueItem, field: string, value: string): boolean => {
    if (field === 'kind') return i.kind === value;
    if (field === 'tag') return i.tags.includes(value);
    if (field === 'longer') return Math.fround(i.durationS) > Number(value);
    if (field === 'loops') return i.loops === (value === 'yes');
    if (field === 'moves') return i.parts.includes(value);
    if (field === 'rated') return i.rating >= Number(value);
    if (field === 'rights') return i.rights === value;
    throw new Error(field);
  };
  return items
    .filter((i) => !i.binned)
    .filter((i) => search.words.every((w) => has(i, w.text) !== w.not))
    .filter((i) => {
      const fields = [...new Set(search.narrowings.map((n) => n.field))];
      return fields.every((f) => {
        const own = search.narrowings.filter((n) => n.field === f);
        const yes = own.filter((n) => !n.not);
        const all = f === 'tag' || f === 'moves';
        const in1 =
          yes.length === 0 || (all ? yes.every((n) => meets(i, f, n.value)) : yes.some((n) => meets(i, f, n.value)));
        return in1 && !own.some((n) => n.not && meets(i, f, n.value));
      });
    })
    .map((i) => i.id)
    .sort();
}

function filled(count: number, seed = 1): { catalogue: Catalogue; items: CatalogueItem[] } {
  const random = seeded(seed);
  const items = Array.from({ length: count }, (_, i) => someItem(i, random));
  const catalogue = new Catalogue();
  for (const i of items) catalogue.put(i);
  return { catalogue, items };
}
const me = { personId: 'p1' };

describe('sets of rows', () => {
  test('hold, count and visit just what was put in', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(999), { maxLength: 200 }), (rows) => {
        const bits = newBits(1000);
        for (const r of rows) setBit(bits, r);
        const seen: number[] = [];
        eachBit(bits, (r) => seen.push(r));
        expect(seen).toEqual([...rows].sort((a, b) => a - b));
        expect(countBits(bits)).toBe(rows.length);
        expect(rows.every((r) => hasBit(bits, r))).toBe(true);
      }),
    );
  });
});

describe('words', () => {
  test.each([
    ['gangway', 'gangwya', 1, true],
    ['gangway', 'ganway', 1, true],
    ['gangway', 'gangways', 1, true],
    ['gangway', 'gangbay', 1, true],
    ['gangway', 'gangbuy', 1, false],
    ['lantern', 'lntrn', 2, true],
    ['rope', 'hope', 0, false],
    ['', 'ab', 2, true],
  ])('%s and %s within %d: %s', (a, b, most, expected) => {
    expect(within(a, b, most)).toBe(expected);
    expect(within(b, a, most)).toBe(expected);
  });

  test('are found by their beginning; only where nothing begins so by a small error', () => {
    const index = new WordIndex();
    index.add(0, ['rope', 'ropes']);
    index.add(1, ['robe']);
    expect(index.meant('rop')).toEqual({ tokens: ['rope', 'ropes'], guessed: false });
    expect(index.meant('rope').tokens).toEqual(['rope', 'ropes']);
    expect(index.meant('rpoe')).toEqual({ tokens: ['rope'], guessed: true });
    expect(index.meant('xy')).toEqual({ tokens: [], guessed: false });
  });

  test('accents and capitals do not count', () => {
    expect(tokensOf('Fähre Écluse 12')).toEqual(['fahre', 'ecluse', '12']);
  });
});

describe('a search', () => {
  const { catalogue, items } = filled(600);

  test.each([
    'rope',
    'rope -haul',
    'wal dec',
    'kind:clip',
    'kind:clip kind:pose',
    '-kind:take rope',
    'tag:wet tag:night',
    'tag:wet -tag:night',
    'longer:20 loops:yes',
    'moves:arms moves:face',
    'rated:4 rights:own turn',
    'rope kind:cycle tag:"two hands" longer:3',
  ])('%s: the same as looking at every item', (text) => {
    const found = catalogue.search({ ...me, text, limit: 1000 });
    expect([...found.ids].sort()).toEqual(slowly(items, text));
    expect(found.found).toBe(found.ids.length);
    expect(found.total).toBe(items.filter((i) => !i.binned).length);
  });

  test('counts say what choosing the value would find', () => {
    const text = 'rope kind:clip tag:wet';
    const { facets } = catalogue.search({ ...me, text, facets: true });
    for (const { value, n } of facets!.kind!)
      expect([value, n]).toEqual([value, slowly(items, `rope tag:wet kind:${value}`).length]);
    for (const { value, n } of facets!.loops!)
      expect([value, n]).toEqual([value, slowly(items, `${text} loops:${value}`).length]);
    for (const { value, n } of facets!.moves!)
      expect([value, n]).toEqual([value, slowly(items, `${text} moves:${value}`).length]);
    for (const { value, n } of facets!.tag!)
      expect([value, n]).toEqual([value, slowly(items, `rope kind:clip tag:"${value}"`).length]);
  });

  test('the bin is a place of its own', () => {
    const bin = catalogue.search({ ...me, bin: true, limit: 1000 });
    expect([...bin.ids].sort()).toEqual(
      items
        .filter((i) => i.binned)
        .map((i) => i.id)
        .sort(),
    );
  });

  test('folders, members of a pack, people and synonyms narrow too', () => {
    catalogue.around = {
      ...NOWHERE,
      peopleNames: new Map([
        ['p1', 'Noor Lind'],
        ['p2', 'Teo Marsh'],
      ]),
      castNames: new Map([['c1', 'Winch']]),
      folderNames: new Map([
        ['f1', 'Deck'],
        ['f2', 'Shore'],
        ['f3', 'Galley'],
      ]),
      synonyms: new Map([['night', ['dark', 'after dusk']]]),
      favourites: new Map([['p1', new Set([items.find((i) => !i.binned)!.id])]]),
    };
    const live = items.filter((i) => !i.binned);
    const count = (text: string, more = {}) => catalogue.search({ ...me, text, ...more }).found;
    expect(count('', { folderIds: ['f1', 'f2'] })).toBe(
      live.filter((i) => i.folderId === 'f1' || i.folderId === 'f2').length,
    );
    expect(count('folder:gall')).toBe(live.filter((i) => i.folderId === 'f3').length);
    expect(count('by:noor')).toBe(live.filter((i) => i.by === 'p1').length);
    expect(count('made:winch')).toBe(live.filter((i) => i.madeFor === 'c1').length);
    expect(count('is:mine')).toBe(live.filter((i) => i.by === 'p1').length);
    expect(count('is:favourite')).toBe(1);
    expect(count('dark')).toBe(live.filter((i) => i.tags.includes('night')).length);
    expect(count('tag:dark')).toBe(live.filter((i) => i.tags.includes('night')).length);
    expect(count('', { among: [live[0]!.id, live[1]!.id, 'nobody'] })).toBe(2);
  });

  test('fit scores narrow once they are known', () => {
    const live = items.filter((i) => !i.binned);
    const scores = new Map(live.map((i, k) => [i.readingId, k % 101]));
    expect(catalogue.search({ ...me, text: 'fits:good', scores }).found).toBe(
      [...scores.values()].filter((s) => s >= 80).length,
    );
    expect(catalogue.search({ ...me, text: 'fits:good' }).found).toBe(0);
    const { facets } = catalogue.search({ ...me, scores, facets: true });
    expect(facets!.fits!.reduce((s, f) => s + f.n, 0)).toBe(live.length);
  });

  test('nobody’s words break it', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        const found = catalogue.search({ ...me, text, facets: true });
        expect(found.found).toBeLessThanOrEqual(found.total);
      }),
      { numRuns: 200 },
    );
  });
});

describe('change', () => {
  test('a fast catalogue after many edits answers as a fresh one', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(40), fc.constantFrom('put', 'remove', 'bin')), { maxLength: 120 }),
        fc.nat(1000),
        (steps, seed) => {
          const random = seeded(seed);
          const now = new Map<string, CatalogueItem>();
          const catalogue = new Catalogue();
          catalogue.search({ ...me });
          for (const [n, what] of steps) {
            const item = { ...someItem(n, random), binned: what === 'bin' };
            if (what === 'remove') {
              now.delete(item.id);
              catalogue.remove(item.id);
            } else {
              now.set(item.id, item);
              catalogue.put(item);
            }
            // orders are kept in step as they go, not made at the end
            catalogue.search({ ...me, sort: 'length', limit: 3 });
          }
          const fresh = new Catalogue();
          for (const i of now.values()) fresh.put(i);
          for (const sort of SORTS)
            for (const bin of [false, true])
              expect(catalogue.search({ ...me, sort, bin, limit: 1000 }).ids).toEqual(
                fresh.search({ ...me, sort, bin, limit: 1000 }).ids,
              );
          expect(catalogue.size).toBe(now.size);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('pages of any size put together are the whole list', () => {
    const { catalogue } = filled(230, 3);
    for (const sort of SORTS) {
      const whole = catalogue.search({ ...me, sort, limit: 1000 }).ids;
      for (const limit of [1, 7, 100]) {
        const pages: string[] = [];
        for (let offset = 0; offset < whole.length; offset += limit)
          pages.push(...catalogue.search({ ...me, sort, offset, limit }).ids);
        expect(pages).toEqual(whole);
      }
    }
  });
});

describe('likeness', () => {
  test('the item itself first, then by growing distance, nothing out of the bin', () => {
    const { catalogue, items } = filled(50, 5);
    const model = items.find((i) => !i.binned)!;
    const near = (d: number, id: string, binned = false): CatalogueItem => ({
      ...model,
      id,
      readingId: id,
      binned,
      descriptor: Int8Array.from(model.descriptor, (x) => x + d),
    });
    for (const [d, id, binned] of [
      [2, 'b', false],
      [1, 'a', false],
      [1, 'gone', true],
      [60, 'far', false],
    ] as const)
      catalogue.put(near(d, id, binned));
    const found = [...catalogue.alike(model.id).keys()];
    expect(found.slice(0, 3)).toEqual([model.id, 'a', 'b']);
    expect(found).not.toContain('gone');
    expect(found).not.toContain('far');
    const distances = [...catalogue.alike(model.id).values()];
    expect(distances).toEqual([...distances].sort((x, y) => x - y));
    expect(catalogue.alike('nobody').size).toBe(0);
    expect(catalogue.search({ ...me, like: model.id }).ids).toEqual(found);
  });

  test('an item without a descriptor is alike to itself alone', () => {
    const catalogue = new Catalogue();
    const bare = { ...someItem(1, seeded(1)), binned: false, descriptor: new Int8Array(0) };
    catalogue.put(bare);
    catalogue.put({ ...bare, id: 'other' });
    expect([...catalogue.alike(bare.id).keys()]).toEqual([bare.id]);
  });
});

describe('search by pose', () => {
  test('finds what passes through it, the likest first, on the same feet where that is asked', () => {
    const { catalogue, items } = filled(60, 8);
    const model = items.find((i) => !i.binned)!;
    const pose = model.poses.slice(POSE_RECORD, 2 * POSE_RECORD);
    const found = [...catalogue.withPose(pose, false)];
    expect(found[0]).toEqual([model.id, 0]);
    expect(found.map(([, d]) => d)).toEqual(found.map(([, d]) => d).sort((a, b) => a - b));
    const near = { ...model, id: 'near', readingId: 'near', poses: pose.slice() };
    near.poses[2] = (pose[2]! + 1) % 4;
    near.poses[5] = (near.poses[5]! + 2) % 256;
    catalogue.put(near);
    expect([...catalogue.withPose(pose, false).keys()].slice(0, 2)).toEqual([model.id, 'near']);
    expect([...catalogue.withPose(pose, true).keys()]).not.toContain('near');
    expect(catalogue.search({ ...me, pose }).ids.slice(0, 2)).toEqual([model.id, 'near']);
    expect(catalogue.withPose(new Uint8Array(3), false).size).toBe(0);
    catalogue.put({ ...near, binned: true });
    expect([...catalogue.withPose(pose, false).keys()]).not.toContain('near');
  });
});

describe('what is read off an item', () => {
  test.each([
    ['Take 01', true],
    ['clip_12', true],
    ['0034', true],
    ['12_03', true],
    ['untitled', true],
    ['', true],
    ['Deck walk', false],
    ['Take the rope', false],
    ['walk 01', false],
  ])('“%s” is a name that a tool gave: %s', (name, expected) => {
    expect(isDefaultName(name)).toBe(expected);
  });

  test('bands', () => {
    expect([1.9, 2, 4.9, 5, 59, 60].map(lengthBand)).toEqual([0, 1, 1, 2, 3, 4]);
    expect([0, 79, 80, 139, 140].map(tempoBand)).toEqual([0, 1, 2, 2, 3]);
    expect([supportOf(0.9, 0.1), supportOf(0.1, 0.9), supportOf(0.9, 0.9), supportOf(0, 0)]).toEqual([0, 1, 2, 3]);
  });
});
