import fc from 'fast-check';
import { type Nameable, NO_RENAME, readPattern, renameAll } from './rename';
import {
  descriptionOf,
  guessRoles,
  type Joinable,
  joinTable,
  likeness,
  type Role,
  readTable,
  readTextIndex,
} from './table-join';

const item = (id: string, name: string, more: Partial<Nameable> = {}): Nameable => ({
  id,
  name,
  kind: 'take',
  tags: [],
  folder: '',
  character: '',
  steps: 0,
  seconds: 1,
  turnDeg: 0,
  ...more,
});

describe('renaming', () => {
  const two = [item('a', 'Take 1'), item('b', 'Take 2')];
  const renamed = (rule: Partial<typeof NO_RENAME>, items = two) =>
    renameAll(items, { ...NO_RENAME, ...rule }).map((r) => r.after);

  test.each([
    [{}, ['Take 1', 'Take 2']],
    [{ find: 'Take', replace: 'Haul' }, ['Haul 1', 'Haul 2']],
    [{ find: '.', replace: 'x' }, ['Take 1', 'Take 2']],
    [{ find: '(\\w+) (\\d)', replace: '$2 $1', pattern: true }, ['1 Take', '2 Take']],
    [{ prefix: 'Ines ', suffix: ' (raw)' }, ['Ines Take 1 (raw)', 'Ines Take 2 (raw)']],
    [{ form: 'Haul {n}', start: 9, digits: 3 }, ['Haul 009', 'Haul 010']],
    [{ form: '{name} {nothing}' }, ['Take 1 {nothing}', 'Take 2 {nothing}']],
  ])('%j', (rule, expected) => {
    expect(renamed(rule)).toEqual(expected);
  });

  test('facts fill a form: character, action, side', () => {
    const items = [
      item('a', 'x', {
        character: 'Winch',
        tags: ['walk'],
        turnDeg: 90,
        folder: 'Ferry / Deck',
        steps: 4,
        seconds: 2.04,
      }),
      item('b', 'y', { character: 'Winch', tags: ['walk', 'right'], kind: 'clip' }),
      item('c', 'z', { character: 'Pip', tags: [], kind: 'pose' }),
    ];
    expect(renamed({ form: '{character} {tag} {side}' }, items)).toEqual([
      'Winch walk left',
      'Winch walk right',
      'Pip',
    ]);
    expect(renamed({ form: '{folder}, {steps} steps in {seconds} s, {kind}' }, items)[0]).toBe(
      'Deck, 4 steps in 2.0 s, take',
    );
  });

  test('faults are told beside the name: empty, too long, twice, taken', () => {
    const faults = (rule: Partial<typeof NO_RENAME>, taken: string[] = []) =>
      renameAll(two, { ...NO_RENAME, ...rule }, new Set(taken)).map((r) => r.fault);
    expect(faults({ find: 'Take \\d', pattern: true })).toEqual(Array(2).fill('the name would be empty'));
    expect(faults({ suffix: 'x'.repeat(200) })[0]).toMatch(/more than 200/);
    expect(faults({ form: 'Haul' })).toEqual(Array(2).fill('several items would get this name'));
    expect(faults({ find: 'Take', replace: 'Haul' }, ['haul 2'])).toEqual([null, 'another item already has this name']);
    // what stays as it is has no fault
    expect(faults({}, ['take 1'])).toEqual([null, null]);
  });

  test('a broken pattern is told, never thrown', () => {
    expect(typeof readPattern('(')).toBe('string');
    expect(readPattern('a+')).toBeInstanceOf(RegExp);
    expect(renamed({ find: '(', pattern: true })).toEqual(['Take 1', 'Take 2']);
  });

  test('one name for every item, in order, whatever the rule', () => {
    fc.assert(
      fc.property(
        fc.record({
          find: fc.string({ maxLength: 5 }),
          replace: fc.string({ maxLength: 5 }),
          prefix: fc.string({ maxLength: 5 }),
          suffix: fc.string({ maxLength: 5 }),
          form: fc.string({ maxLength: 20 }),
          pattern: fc.boolean(),
        }),
        (rule) => {
          const out = renameAll(two, { ...NO_RENAME, ...rule });
          expect(out.map((r) => r.id)).toEqual(['a', 'b']);
          for (const r of out) expect(r.fault !== null || (r.after !== '' && r.after.length <= 200)).toBe(true);
        },
      ),
    );
  });
});

describe('tables', () => {
  test('titles are found, and headings between the rows', () => {
    const t = readTable([
      ['Subject', 'Take', 'Description', 'Category'],
      ['Hauling, first day', '', '', ''],
      ['7', '1', 'haul, slow', 'rope'],
      ['7', '2', 'haul, fast', 'rope'],
      ['', '', '', ''],
      ['Second day', '', '', ''],
      ['8', '1', 'limp', 'walk'],
    ]);
    expect(t.columns).toEqual(['Subject', 'Take', 'Description', 'Category']);
    expect(t.rows.map((r) => [r.heading, r.line])).toEqual([
      ['Hauling, first day', 3],
      ['Hauling, first day', 4],
      ['Second day', 7],
    ]);
    expect(guessRoles(t)).toEqual(['subject', 'number', 'description', 'category']);
  });

  test('columns without titles are known by what is in them', () => {
    const t = readTable([
      ['deck_01.bvh', '1', 'a slow walk over the deck', 'walk'],
      ['deck_02.bvh', '2', 'a faster walk over the deck', 'walk'],
    ]);
    expect(t.rows).toHaveLength(2);
    expect(guessRoles(t)).toEqual(['file', 'number', 'description', 'category']);
  });

  test('of two columns of numbers the one that repeats is the subject', () => {
    const t = readTable([
      ['7', '1', 'haul'],
      ['7', '2', 'coil'],
      ['7', '3', 'belay'],
      ['8', '4', 'walk'],
    ]);
    expect(guessRoles(t)).toEqual(['subject', 'number', 'description']);
  });

  test('an index in plain text: numbers, blanks, words; other lines are headings', () => {
    const t = readTextIndex('Ropes:\n07_01  haul, slow\n07_02: haul, fast\n\nWalks\n08_01) over the gangway\n');
    expect(t.rows.map((r) => [r.heading, ...r.cells])).toEqual([
      ['Ropes', '07_01', 'haul, slow'],
      ['Ropes', '07_02', 'haul, fast'],
      ['Walks', '08_01', 'over the gangway'],
    ]);
  });

  test('every role is given once, whatever is in the cells', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.string({ maxLength: 8 }), { minLength: 1, maxLength: 6 }), { maxLength: 12 }),
        (cells) => {
          const t = readTable(cells);
          const roles = guessRoles(t).filter((r) => r !== 'nothing');
          expect(new Set(roles).size).toBe(roles.length);
          for (const r of t.rows) expect(r.cells).toHaveLength(t.columns.length);
        },
      ),
    );
  });
});

describe('joining', () => {
  const files: Joinable[] = ['deck/07_01.bvh', 'deck/07_02.bvh', 'deck/08_01.bvh', 'Gangway walk.bvh'].map(
    (file, i) => ({
      id: `i${i}`,
      file,
      name: file.replace(/^.*\/|\.bvh$/g, ''),
    }),
  );
  const join = (cells: string[][], roles: Role[]) => joinTable(readTable(cells), roles, files);
  const pairs = (r: ReturnType<typeof join>) =>
    r.joined.map((j) => `${j.row.cells.join(' ')} > ${j.item.file} ${j.by}`).sort();

  test('by file name, with or without its ending and folder', () => {
    const r = join(
      [
        ['07_01', 'haul'],
        ['other/08_01.BVH', 'limp'],
      ],
      ['file', 'description'],
    );
    expect(pairs(r)).toEqual(['07_01 haul > deck/07_01.bvh file', 'other/08_01.BVH limp > deck/08_01.bvh file']);
    expect(r.filesWithoutRow.map((f) => f.file)).toEqual(['deck/07_02.bvh', 'Gangway walk.bvh']);
  });

  test('by the numbers of subject and take, leading noughts aside', () => {
    const r = join(
      [
        ['7', '2', 'coil'],
        ['8', '1', 'limp'],
        ['9', '1', 'lost'],
      ],
      ['subject', 'number', 'description'],
    );
    expect(pairs(r)).toEqual(['7 2 coil > deck/07_02.bvh numbers', '8 1 limp > deck/08_01.bvh numbers']);
    expect(r.rowsWithoutFile.map((x) => x.cells[2])).toEqual(['lost']);
  });

  test('the subject may stand in the heading', () => {
    const r = join(
      [
        ['Subject 8', ''],
        ['1', 'limp'],
      ],
      ['number', 'description'],
    );
    expect(pairs(r)).toEqual(['1 limp > deck/08_01.bvh numbers']);
  });

  test('a number that several files end with is left in doubt, not guessed', () => {
    const r = join(
      [
        ['1', 'which?'],
        ['2', 'coil'],
      ],
      ['number', 'description'],
    );
    expect(pairs(r)).toEqual(['2 coil > deck/07_02.bvh numbers']);
    expect(r.doubtful.map((d) => d.files.length)).toEqual([2]);
  });

  test('by similarity of words where nothing else joins', () => {
    const r = join([['gangway-walk', 'up and over']], ['name', 'description']);
    expect(pairs(r)).toEqual(['gangway-walk up and over > Gangway walk.bvh alike']);
    expect(likeness('haul', 'haul')).toBe(1);
    expect(likeness('haul', 'xyz')).toBe(0);
  });

  test('each row and each file is used once at most', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('07_01', '07_02', '1', '8 1', 'gangway', ''), fc.string({ maxLength: 6 })), {
          maxLength: 10,
        }),
        (cells) => {
          const t = readTable(cells);
          const r = joinTable(t, ['file', 'description'], files);
          expect(new Set(r.joined.map((j) => j.item.id)).size).toBe(r.joined.length);
          expect(r.joined.length + r.rowsWithoutFile.length + r.doubtful.length).toBe(t.rows.length);
        },
      ),
    );
  });

  test('what a row says becomes name, note, heading and tags', () => {
    const [row] = readTable([
      ['Ropes', '', '', ''],
      ['7', '1', 'Haul on deck; slow, wet', 'rope'],
    ]).rows;
    expect(descriptionOf(row!, ['subject', 'number', 'description', 'category'])).toEqual({
      name: 'Haul on deck',
      note: 'Haul on deck; slow, wet',
      heading: 'Ropes',
      addTags: ['rope'],
    });
    expect(descriptionOf({ ...row!, heading: '' }, ['subject', 'number', 'nothing', 'nothing'])).toEqual({
      heading: 'Subject 7',
    });
  });
});
