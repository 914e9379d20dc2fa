import { expect, jest, test } from '@jest/globals';
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { createRef, useState } from 'react';
import { useUndo } from '@/client/undo';
import type { Item } from '@/contract';
import { TagColours, TagWords } from '@/parts/tag-words';
import { pick, Refused, sentTo, stand, told } from '@/test/interface';
import { folder, item, member } from '@/test/things';
import { BulkBar } from './bulk-bar';
import { COLUMNS, FIRST_COLUMNS } from './columns';
import { DescriptionFields } from './description-fields';
import { pathOf, treeOf } from './folder-tree';
import { ItemPanel } from './item-panel';
import { NarrowPanel, narrowingWords } from './narrow-panel';
import { PathBar } from './path-bar';
import { ReadingPanel } from './reading-panel';
import { SearchBar } from './search-bar';
import { SearchField } from './search-field';
import { useSelection } from './use-selection';

const COMPLETIONS = { tag: ['rope', 'rain'], kind: ['clip', 'cycle'] };

function Searching({ told: tell }: { told: (q: string) => void }) {
  const [q, setQ] = useState('');
  return (
    <SearchField
      ref={createRef()}
      q={q}
      onChange={(next) => {
        tell(next);
        setQ(next);
      }}
    />
  );
}
const searching = () => {
  const tell = jest.fn();
  return { tell, ...stand(<Searching told={tell} />, { answers: { 'GET /api/v1/completions': COMPLETIONS } }) };
};

test('words are searched for once the typing rests', async () => {
  const { user, tell } = searching();
  await user.type(screen.getByRole('combobox', { name: 'Search' }), 'rope haul');
  await waitFor(() => expect(tell).toHaveBeenCalled());
  expect(tell.mock.calls.at(-1)).toEqual(['rope haul']);
  expect(tell.mock.calls.length).toBeLessThan(4);
  await user.click(screen.getByRole('button', { name: 'Clear the search' }));
  expect(tell).toHaveBeenLastCalledWith('');
});

test('a narrowing is completed by key, leaves the field, and what is half typed waits', async () => {
  const { user, tell, server } = searching();
  await waitFor(() => expect(server.to('GET', '/api/v1/completions')).toHaveLength(1));
  const field = screen.getByRole<HTMLInputElement>('combobox', { name: 'Search' });
  await user.type(field, 'haul tag:r');
  expect(await screen.findByRole('option', { name: /tag:rope/ })).toHaveAttribute('aria-selected', 'true');
  await user.keyboard('{ArrowDown}');
  expect(screen.getByRole('option', { name: /tag:rain/ })).toHaveAttribute('aria-selected', 'true');
  expect(tell.mock.calls.flat().join()).not.toContain('tag:r');
  await user.keyboard('{Tab}');
  await waitFor(() => expect(tell.mock.calls.at(-1)![0]).toBe('haul tag:rain'));
  expect(field.value.trim()).toBe('haul');
  expect(field).toHaveFocus();
});

test('Escape first closes the offers, then leaves the field', async () => {
  const { user, server } = searching();
  await waitFor(() => expect(server.to('GET', '/api/v1/completions')).toHaveLength(1));
  const field = screen.getByRole('combobox', { name: 'Search' });
  await user.type(field, 'tag:');
  await screen.findByRole('listbox', { name: 'Suggestions' });
  await user.keyboard('{Escape}');
  expect(screen.queryByRole('listbox')).toBeNull();
  expect(field).toHaveFocus();
  await user.keyboard('{Escape}');
  expect(field).not.toHaveFocus();
});

const FACETS = {
  kind: [
    { value: 'cycle', n: 3 },
    { value: 'clip', n: 20 },
  ],
  loops: [{ value: 'yes', n: 3 }],
  tag: [],
};

test('narrowings stand with their counts, are put on and taken off', async () => {
  const change = jest.fn();
  const { user } = stand(<NarrowPanel facets={FACETS} q="rope kind:clip" onChange={change} />);
  await user.click(screen.getByRole('button', { name: /narrow/ }));
  expect(await screen.findByRole('button', { name: /^clip/ })).toHaveAttribute('aria-pressed', 'true');
  expect(screen.getByRole('button', { name: /^cycle/ })).toHaveTextContent('3');
  expect(screen.queryByRole('heading', { name: 'Tag' })).toBeNull();
  await user.click(screen.getByRole('button', { name: /^cycle/ }));
  expect(change.mock.calls[0]![0]).toMatch(/kind:cycle/);
  await user.click(screen.getByRole('button', { name: /^clip/ }));
  expect(change.mock.calls[1]![0]).toBe('rope');
});

test('a narrowing is told in plain words', () => {
  expect(narrowingWords({ field: 'loops', value: 'no', not: false } as never)).toBe('loops: does not loop');
  expect(narrowingWords({ field: 'support', value: 'left-foot', not: true } as never)).toBe('not support: left foot');
});

const VIEW = {
  q: 'rope kind:clip',
  folder: null,
  like: 'i9',
  pose: 'x',
  support: null,
  pack: 'p1',
  item: null,
  bin: null,
  view: 'strips',
  sort: 'name',
  backwards: null,
} as never;

test('what is active is in sight, each can be taken off, and what it hides is told', async () => {
  const change = jest.fn();
  const all = jest.fn();
  const list = {
    items: [],
    found: 4,
    total: 35,
    facets: null,
    guessed: [{ word: 'roep', meant: ['rope'] }],
    scores: {},
  };
  const { user } = stand(<SearchBar ref={createRef()} view={VIEW} list={list} onChange={change} onShowAll={all} />, {
    answers: {
      'GET /api/v1/items/i9': item({ name: 'Deck walk' }),
      'GET /api/v1/items/p1': item({ name: 'Night pack' }),
      'GET /api/v1/searches': [],
      'GET /api/v1/completions': COMPLETIONS,
    },
  });
  await user.click(await screen.findByRole('button', { name: 'Remove moves like Deck walk' }));
  await user.click(await screen.findByRole('button', { name: 'Remove in Night pack' }));
  await user.click(screen.getByRole('button', { name: 'Remove kind: clip' }));
  await user.click(screen.getByRole('button', { name: 'on the same feet' }));
  await user.click(screen.getByRole('button', { name: 'Remove has a pose like the one chosen' }));
  expect(change.mock.calls.flat()).toEqual([
    { like: null },
    { pack: null },
    { q: 'rope' },
    { support: true },
    { pose: null, support: null },
  ]);
  expect(screen.getByText('“roep” read as rope')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: /^31 hidden · show all/ }));
  expect(all).toHaveBeenCalledTimes(1);
  await pick(user, 'Order', 'newest first');
  expect(change).toHaveBeenLastCalledWith({ sort: 'new', backwards: null });
});

const FOLDERS = [
  folder(),
  folder({ id: 'f2', parentId: 'f1', name: 'Night', n: 4 }),
  folder({ id: 'f3', name: 'Vault', n: 1, restricted: true, open: false }),
];

test('folders are drawn below their parents with what lies in and below them; a ring of folders ends', () => {
  expect(treeOf(FOLDERS).map((r) => [r.folder.name, r.depth, r.total])).toEqual([
    ['Harbour', 0, 7],
    ['Night', 1, 4],
    ['Vault', 0, 1],
  ]);
  expect(pathOf(FOLDERS, 'f2')).toBe('Harbour / Night');
  expect(pathOf(FOLDERS, 'gone')).toBe('');
  const ring = [folder({ id: 'a', parentId: 'b' }), folder({ id: 'b', parentId: 'a' })];
  expect(pathOf(ring, 'a').split(' / ').length).toBeLessThanOrEqual(64);
  expect(treeOf(ring)).toEqual([]);
});

const bar = (
  folderId: string | null,
  more: Record<string, unknown> = {},
  role: 'viewer' | 'animator' | 'librarian' = 'librarian',
) => {
  const go = jest.fn();
  return {
    go,
    ...stand(
      <PathBar
        folderId={folderId}
        bin={false}
        found={3}
        total={35}
        running={false}
        onRun={() => undefined}
        columns={FIRST_COLUMNS}
        onColumns={() => undefined}
        onFolder={go}
        onLeaveBin={() => undefined}
        onEmptyBin={() => undefined}
        onSelectAll={() => undefined}
      />,
      { answers: { 'GET /api/v1/folders': FOLDERS, ...more }, me: { role } },
    ),
  };
};

test('a folder is made inside the one that is open, and that can be undone', async () => {
  const { user, server, go } = bar('f1', { 'POST /api/v1/folders': { id: 'f9' }, 'DELETE /api/v1/folders/f9': {} });
  await user.click(await screen.findByRole('button', { name: 'New folder in Harbour' }));
  await user.type(await screen.findByLabelText('Name'), 'Dawn{Enter}');
  expect((await sentTo(server, 'POST', '/api/v1/folders')).body).toEqual({ path: 'Harbour / Dawn' });
  await waitFor(() => expect(go).toHaveBeenCalledWith('f9'));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('DELETE', '/api/v1/folders/f9')).toHaveLength(1);
});

test('a folder is renamed, restricted and removed, each a step back; one that is not empty says so', async () => {
  const { user, server } = bar('f2', {
    'PATCH /api/v1/folders/f2': {},
    'PUT /api/v1/folders/f2/restricted': {},
    'DELETE /api/v1/folders/f2': new Refused(409, 'Night still holds 4 items.'),
  });
  await user.click(await screen.findByRole('button', { name: 'Rename Night' }));
  const name = await screen.findByLabelText('Name');
  await user.clear(name);
  await user.type(name, 'Late{Enter}');
  expect((await sentTo(server, 'PATCH', '/api/v1/folders/f2')).body).toEqual({ name: 'Late' });
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Renamed the folder Night to Late'));
  await user.click(screen.getByRole('button', { name: 'Restrict who can change Night' }));
  expect((await sentTo(server, 'PUT', '/api/v1/folders/f2/restricted')).body).toEqual({ restricted: true });
  await waitFor(() => expect(useUndo.getState().steps).toHaveLength(2));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PUT', '/api/v1/folders/f2/restricted').at(-1)!.body).toEqual({ restricted: false });
  await user.click(screen.getByRole('button', { name: /^Remove Night/ }));
  expect(await told('Night still holds 4 items.')).toBeInTheDocument();
});

test('a closed folder offers to ask, and nothing else that would be refused', async () => {
  const { user, server } = bar('f3', { 'POST /api/v1/folders/f3/requests': {} }, 'animator');
  await user.click(await screen.findByRole('button', { name: /Restricted/ }));
  await user.type(await screen.findByLabelText('What for'), 'night shift{Enter}');
  expect((await sentTo(server, 'POST', '/api/v1/folders/f3/requests')).body).toEqual({ note: 'night shift' });
  expect(await told('The librarians have been asked')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Rename Vault' })).toBeNull();
  bar(null, {}, 'viewer');
  await screen.findByText('3 of 35');
  expect(screen.queryByRole('button', { name: 'New folder' })).toBeNull();
});

const CHOSEN = [item({ id: 'a', name: 'Deck walk' }), item({ id: 'b', name: 'Haul' })];
const bulk = (
  answers: Record<string, unknown> = {},
  more: Partial<Parameters<typeof BulkBar>[0]> = {},
  role: 'viewer' | 'animator' | 'librarian' = 'librarian',
) =>
  stand(
    <BulkBar
      ids={['a', 'b']}
      loaded={(id) => CHOSEN.find((i) => i.id === id)}
      bin={false}
      onClear={() => undefined}
      onCompare={() => undefined}
      onBin={() => undefined}
      onDestroy={() => undefined}
      {...more}
    />,
    {
      answers: {
        'GET /api/v1/tags': [],
        'GET /api/v1/folders': FOLDERS,
        'PATCH /api/v1/items': { group: 'g', changed: 2 },
        ...answers,
      },
      me: { role },
    },
  );

test('what is chosen is put in sequence in the order of choosing, as one step', async () => {
  const { user, server } = bulk(
    {
      'POST /api/v1/sequences': {
        changed: [
          ['c', 'a'],
          ['a', 'b'],
        ],
      },
    },
    { ids: ['c', 'a', 'b'] },
  );
  await user.click(screen.getByRole('button', { name: 'Sequence' }));
  expect((await sentTo(server, 'POST', '/api/v1/sequences')).body).toEqual({
    steps: [
      ['c', 'a'],
      ['a', 'b'],
    ],
    follow: true,
  });
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Put 3 items in sequence'));
});

type Edits = { edits: { id: string; change: unknown }[]; label: string };

test('all that are chosen are tagged, moved, starred as one step each', async () => {
  const { user, server } = bulk();
  await user.click(screen.getByRole('button', { name: /Tags/ }));
  await user.type(await screen.findByLabelText('Tag to add to all of them'), ' night {Enter}');
  expect((await sentTo(server, 'PATCH', '/api/v1/items')).body).toEqual({
    edits: [
      { id: 'a', change: { addTags: ['night'] } },
      { id: 'b', change: { addTags: ['night'] } },
    ],
    label: 'Added night to 2 items',
  });
  await user.type(screen.getByLabelText('Tag to add to all of them'), 'rope');
  await user.click(screen.getByRole('button', { name: 'Remove' }));
  await waitFor(() =>
    expect((server.to('PATCH', '/api/v1/items').at(-1)!.body as Edits).label).toBe('Took rope off 2 items'),
  );
  await user.click(screen.getByRole('button', { name: /Folder/ }));
  await user.click(await screen.findByRole('button', { name: 'Move' }));
  await waitFor(() =>
    expect((server.to('PATCH', '/api/v1/items').at(-1)!.body as Edits).label).toBe('Took 2 items out of their folders'),
  );
  await user.click(screen.getByRole('button', { name: /Stars/ }));
  await user.click(await screen.findByRole('menuitem', { name: '★★★' }));
  await waitFor(() =>
    expect((server.to('PATCH', '/api/v1/items').at(-1)!.body as Edits).edits[1]!.change).toEqual({ rating: 3 }),
  );
  expect(server.to('PATCH', '/api/v1/items')).toHaveLength(4);
});

test('a pack is made of them and gone again with undo', async () => {
  const { user, server } = bulk({
    'POST /api/v1/packs': item({ id: 'p', name: 'Deck walk and 1 more', members: 2 }),
    'PATCH /api/v1/items/p': {},
  });
  await user.click(screen.getByRole('button', { name: /Pack/ }));
  expect((await sentTo(server, 'POST', '/api/v1/packs')).body).toEqual({
    name: 'Deck walk and 1 more',
    ids: ['a', 'b'],
  });
  expect(await told('Deck walk and 1 more holds 2 items')).toBeInTheDocument();
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/items/p')[0]!.body).toEqual({ change: { binned: true } });
});

test('renaming reads exactly what is chosen, however much that is', async () => {
  const ids = Array.from({ length: 900 }, (_, i) => `i${i}`);
  const { user, server } = bulk(
    {
      'GET /api/v1/items/some': (s: { path: string }) =>
        new URLSearchParams(s.path.split('?')[1])
          .get('ids')!
          .split(',')
          .map((id) => item({ id, name: `take ${id}` })),
    },
    { ids },
  );
  await user.click(screen.getByRole('button', { name: /Rename/ }));
  expect(await screen.findByRole('dialog', { name: 'Rename 900 items' })).toBeInTheDocument();
  expect(server.to('GET', '/api/v1/items/some')).toHaveLength(3);
  expect(screen.getByText('and 600 more')).toBeInTheDocument();
});

test('in the bin only coming back and destroying are offered; viewers change nothing', async () => {
  bulk({}, { bin: true });
  expect(screen.getByRole('button', { name: 'Restore' })).toBeInTheDocument();
  expect(screen.getByRole('button', { name: /Destroy/ })).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: /Rename/ })).toBeNull();
  bulk({}, { bin: true }, 'animator');
  expect(screen.queryByRole('button', { name: /Destroy/ })).toBeNull();
  bulk({}, {}, 'viewer');
  expect(screen.queryByRole('button', { name: 'Move to bin' })).toBeNull();
  bulk({}, { ids: Array.from({ length: 7 }, (_, i) => `i${i}`) });
  expect(screen.getByRole('button', { name: /Compare/ })).toBeDisabled();
});

test('a selection is one, a toggle, a stretch, and nothing again', () => {
  const s = useSelection.getState();
  act(() => s.only('a', 3));
  act(() => s.toggle('b', 5));
  act(() => s.toggle('a', 3));
  expect([...useSelection.getState().ids]).toEqual(['b']);
  expect(useSelection.getState().anchor).toBe(3);
  act(() => s.add(['c', 'b']));
  expect(useSelection.getState().ids.size).toBe(2);
  act(() => s.clear());
  expect(useSelection.getState().ids.size).toBe(0);
});

const OWN = [
  { id: 'c1', name: 'Take', type: 'number', options: [] },
  { id: 'c2', name: 'Deck', type: 'choice', options: ['upper', 'lower'] },
  { id: 'c3', name: 'Cleared', type: 'yes', options: [] },
];
const described = (more: Partial<Item> = {}, closed = false) => {
  const set = jest.fn();
  return {
    set,
    ...stand(<DescriptionFields item={item(more)} closed={closed} onSet={set} />, {
      answers: { 'GET /api/v1/fields': OWN },
    }),
  };
};

test('stars are given, taken again by the same star, and told', async () => {
  const { user, set } = described({ rating: 3 });
  await user.click(screen.getByRole('button', { name: '5 stars' }));
  await user.click(screen.getByRole('button', { name: '3 stars' }));
  expect(set.mock.calls).toEqual([
    [{ rating: 5 }, 'Gave Deck walk 5 stars'],
    [{ rating: 0 }, 'Gave Deck walk no stars'],
  ]);
});

test('props are added, measured with comma or point, and taken away', async () => {
  const { user, set } = described({ props: [{ name: 'crate', heightM: null }] });
  await user.type(screen.getByLabelText('Height of crate in metres'), '0,45{Enter}');
  expect(set).toHaveBeenLastCalledWith({ props: [{ name: 'crate', heightM: 0.45 }] }, 'Set the height of crate');
  await user.click(screen.getByRole('button', { name: 'Remove crate' }));
  expect(set).toHaveBeenLastCalledWith({ props: [] }, 'Deck walk needs no crate');
  await user.click(screen.getByRole('button', { name: /a prop that it needs/ }));
  expect(set.mock.calls.at(-1)![0]).toEqual({
    props: [
      { name: 'crate', heightM: null },
      { name: 'prop', heightM: null },
    ],
  });
});

test('the library’s own fields take what they are for', async () => {
  const { user, set } = described({ fields: { c2: 'upper' } });
  const take = await screen.findByLabelText('Take');
  await user.type(take, 'seven{Enter}');
  expect(set).not.toHaveBeenCalled();
  await user.clear(take);
  await user.type(take, '7{Enter}');
  expect(set).toHaveBeenLastCalledWith({ fields: { c1: 7 } }, 'Set Take of Deck walk');
  await pick(user, 'Deck', 'not said');
  expect(set).toHaveBeenLastCalledWith({ fields: { c2: '' } }, 'Set Deck of Deck walk');
  await user.click(screen.getByRole('switch', { name: 'Cleared' }));
  expect(set).toHaveBeenLastCalledWith({ fields: { c3: true } }, 'Set Cleared of Deck walk');
});

test('what may not be changed cannot be typed into', async () => {
  described({ props: [{ name: 'crate', heightM: 1 }] }, true);
  expect(await screen.findByLabelText('Take')).toHaveAttribute('readonly');
  expect(screen.getByLabelText('Heading')).toHaveAttribute('readonly');
  expect(screen.getByRole('button', { name: '5 stars' })).toBeDisabled();
  expect(screen.queryByRole('button', { name: /crate needed|a prop/ })).toBeNull();
});

const READING = {
  fit: { score: 72, reasons: ['legs are 30 % shorter', 'no toes'] },
  words: [
    { word: 'walk', confidence: 0.9, why: 'steps alternate' },
    { word: 'rope', confidence: 0.8, why: 'both hands pull' },
    { word: 'haul', confidence: 0.8, why: 'leans back' },
  ],
  props: [{ kind: 'seat', text: 'Sits on nothing: a seat at 0.45 m.' }],
} as never;

test('words a motion suggests are taken over one by one or all, never twice', async () => {
  const accept = jest.fn();
  const { user } = stand(
    <ReadingPanel reading={READING} tags={['walk']} performerName="Winch" closed={false} onAccept={accept} />,
  );
  expect(screen.queryByRole('button', { name: '+ walk' })).toBeNull();
  await user.click(screen.getByRole('button', { name: '+ rope' }));
  await user.click(screen.getByRole('button', { name: 'all' }));
  expect(accept.mock.calls).toEqual([[['rope']], [['rope', 'haul']]]);
  expect(screen.getByText('72')).toBeInTheDocument();
  expect(screen.getByText(/legs are 30 % shorter/)).toBeInTheDocument();
  expect(screen.getByText(/a seat at 0\.45 m/)).toBeInTheDocument();
  stand(<ReadingPanel reading={READING} tags={[]} performerName="Winch" closed onAccept={accept} />);
  expect(screen.queryByRole('button', { name: '+ rope' })).toBeNull();
  stand(<ReadingPanel reading={undefined} tags={[]} performerName="Winch" closed onAccept={accept} />);
  expect(screen.getByText('reading the motion …')).toBeInTheDocument();
});

test('columns say what stands in them, without a performer too', () => {
  const cells = (i: Item, score?: number) => Object.fromEntries(COLUMNS.map((c) => [c.id, c.cell(i, score)]));
  expect(cells(item({ rating: 2, madeForName: 'Winch', tags: ['a', 'b'] }), 88)).toMatchObject({
    name: 'Deck walk',
    length: '2.2 s',
    travel: '2.40 m',
    rating: '★★',
    rights: 'our own',
    fits: 88,
    made: 'Winch',
    new: '20 Nov 2026',
  });
  expect(cells(item())).toMatchObject({ fits: '', made: '', rating: '' });
  expect(new Set(COLUMNS.map((c) => c.id)).size).toBe(COLUMNS.length);
});

test('tags stand in a line, and those with a colour carry its dot', async () => {
  stand(
    <TagColours>
      <p>
        <TagWords tags={['rope', 'wet']} between=" · " />
      </p>
    </TagColours>,
    { answers: { 'GET /api/v1/tags': [{ id: 't', name: 'wet', colour: 'verdigris', synonyms: [], n: 1 }] } },
  );
  expect(screen.getByText(/rope · wet/)).toBeInTheDocument();
  await waitFor(() => expect(document.querySelectorAll('[data-colour]')).toHaveLength(1));
  expect(document.querySelector('[data-colour]')).toHaveAttribute('data-colour', 'verdigris');
});

const panel = (i: Item, more: Record<string, unknown> = {}, role: 'viewer' | 'animator' = 'animator') => {
  const done = Object.fromEntries(
    [
      'onChange',
      'onFit',
      'onExport',
      'onHold',
      'onLike',
      'onPose',
      'onBin',
      'onVersions',
      'onFavourite',
      'onOpenPack',
      'onShow',
      'onPlayOn',
    ].map((n) => [n, jest.fn()]),
  ) as Record<string, jest.Mock>;
  return {
    done,
    ...stand(
      <ItemPanel
        {...(done as never as Parameters<typeof ItemPanel>[0])}
        item={i}
        performer={member()}
        reading={undefined}
        playingOn={false}
      />,
      {
        answers: {
          'GET /api/v1/folders': FOLDERS,
          'GET /api/v1/fields': [],
          [`GET /api/v1/items/${i.id}/uses`]: {
            made: [],
            packs: [],
            from: null,
            variants: [],
            next: [],
            before: [],
            reels: [],
            plays: [],
          },
          'PATCH /api/v1/items': { group: 'g', changed: 1 },
          ...more,
        },
        me: { role },
      },
    ),
  };
};

test('an item is renamed in place, expecting the name that was shown', async () => {
  const { user, server } = panel(item({ id: 'i1' }));
  const name = screen.getByLabelText('Name');
  await user.clear(name);
  await user.type(name, 'Plank walk{Enter}');
  expect((await sentTo(server, 'PATCH', '/api/v1/items')).body).toMatchObject({
    edits: [{ id: 'i1', change: { name: 'Plank walk' }, expected: { name: 'Deck walk' } }],
  });
});

test('tags are told apart by commas, a folder by its path, and what is empty is dropped', async () => {
  const { user, server } = panel(item({ id: 'i1', folderId: 'f2' }));
  expect(await screen.findByDisplayValue('Harbour / Night')).toBeInTheDocument();
  await user.type(screen.getByLabelText('Tags, separated by commas'), 'rope, , wet deck{Enter}');
  expect((await sentTo(server, 'PATCH', '/api/v1/items')).body).toMatchObject({
    edits: [{ change: { tags: ['rope', 'wet deck'] }, expected: { tags: [] } }],
  });
});

test('everything that can be done with an item has its button', async () => {
  const { user, done } = panel(item({ id: 'i1' }));
  for (const [name, what] of [
    [/^Fit to Winch/, 'onFit'],
    [/Export/, 'onExport'],
    [/Change/, 'onChange'],
    ['More like this', 'onLike'],
    ['Poses like this frame', 'onPose'],
    ['Pick up', 'onHold'],
    ['Move to the bin', 'onBin'],
  ] as const) {
    await user.click(screen.getByRole('button', { name }));
    expect(done[what]).toHaveBeenCalledTimes(1);
  }
});

test('an item in a folder that is closed to me is read, not written', async () => {
  panel(item({ id: 'i1', folderId: 'f3' }));
  await screen.findByDisplayValue('Vault');
  expect(screen.getByLabelText('Name')).toHaveAttribute('readonly');
  expect(screen.getByRole('button', { name: 'Move to the bin' })).toBeDisabled();
  panel(item({ id: 'i1' }), {}, 'viewer');
  expect(screen.getByLabelText('Note')).toHaveAttribute('readonly');
  expect(screen.getByRole('button', { name: /Change/ })).toBeDisabled();
  expect(screen.getByRole('button', { name: /Export/ })).toBeEnabled();
});

test('a very long name stays whole for those who read it and breaks nothing', () => {
  const long = 'Tarred rope haul against the ebb at the ferry landing '.repeat(4).trim();
  panel(item({ id: 'i1', name: long }));
  expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe(long);
  fireEvent.focus(screen.getByLabelText('Name'));
  expect(within(document.body).getAllByDisplayValue(long)).toHaveLength(1);
});
