import { describe, expect, jest, test } from '@jest/globals';
import { act, renderHook, screen, waitFor, within } from '@testing-library/react';
import { useUndo } from '@/client/undo';
import type { Item } from '@/contract';
import { Clock } from '@/stage/clock';
import { Refused, sentTo, stand, told } from '@/test/interface';
import { item } from '@/test/things';
import { BinDialog } from './bin-dialog';
import { RenameDialog } from './rename-dialog';
import { SavedSearches } from './saved-searches';
import { StaleLine } from './stale-line';
import { useRunThrough } from './use-run-through';
import { UsesLine } from './uses-line';
import { VersionsDialog } from './versions-dialog';

test('the bin destroys only what nobody uses, unless told otherwise', async () => {
  const close = jest.fn();
  const { user, server } = stand(<BinDialog open onOpenChange={close} ids={['a', 'b', 'c']} />, {
    answers: {
      'POST /api/v1/bin/uses': [{ id: 'b', name: 'Rail climb', by: ['Rail climb on Winch', 'Night pack'] }],
      'POST /api/v1/bin/destroy': { destroyed: 2 },
    },
  });
  expect(screen.getByText('This cannot be taken back.')).toBeInTheDocument();
  expect(await screen.findByText('3 items in the bin, 1 of them in use.')).toBeInTheDocument();
  expect(screen.getByText('used by Rail climb on Winch, Night pack')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Destroy 2 items' }));
  expect((await sentTo(server, 'POST', '/api/v1/bin/destroy')).body).toEqual({ ids: ['a', 'c'], evenInUse: false });
  expect(await told('Destroyed 2 items for good')).toBeInTheDocument();
  expect(close).toHaveBeenCalledWith(false);
});

test('the whole bin is asked for, and those in use go too when that is chosen', async () => {
  const { user, server } = stand(<BinDialog open onOpenChange={() => undefined} ids={undefined} />, {
    answers: {
      'GET /api/v1/items/ids': { ids: ['a', 'b'] },
      'POST /api/v1/bin/uses': [{ id: 'b', name: 'Rail climb', by: ['x'] }],
      'POST /api/v1/bin/destroy': new Refused(409, 'One of them was brought back just now.'),
    },
  });
  await user.click(await screen.findByRole('switch', { name: 'Destroy the ones in use as well' }));
  await user.click(screen.getByRole('button', { name: 'Destroy 2 items' }));
  expect((await sentTo(server, 'POST', '/api/v1/bin/destroy')).body).toEqual({ ids: ['a', 'b'], evenInUse: true });
  expect(await told('One of them was brought back just now.')).toBeInTheDocument();
  await waitFor(() => expect(screen.getByRole('button', { name: 'Destroy 2 items' })).toBeEnabled());
});

test('an empty bin destroys nothing, and one that cannot be read says so', async () => {
  const { server } = stand(<BinDialog open onOpenChange={() => undefined} ids={undefined} />, {
    answers: { 'GET /api/v1/items/ids': { ids: [] } },
  });
  expect(await screen.findByText('0 items in the bin, none in use.')).toBeInTheDocument();
  expect(screen.getByRole('button', { name: 'Destroy 0 items' })).toBeDisabled();
  expect(server.to('POST', '/api/v1/bin/uses')).toHaveLength(0);
  stand(<BinDialog open onOpenChange={() => undefined} ids={undefined} />, {
    answers: { 'GET /api/v1/items/ids': new Refused(500, 'The database is away.') },
  });
  expect(await screen.findByText('The database is away.')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: /Destroy/ })).toBeNull();
});

const SOME = [
  item({ id: 'a', name: 'take 01', kind: 'take', tags: ['rope'] }),
  item({ id: 'b', name: 'take 02', kind: 'take' }),
  item({ id: 'c', name: 'Deck walk' }),
];
const noFolder = (): string => '';

test('names are previewed by rule, and written as one step that knows what was there', async () => {
  const close = jest.fn();
  const { user, server } = stand(<RenameDialog open onOpenChange={close} items={SOME} folderOf={noFolder} />, {
    answers: { 'PATCH /api/v1/items': { group: 'g', changed: 2 } },
  });
  const go = screen.getByRole('button', { name: /^Rename/ });
  expect(go).toBeDisabled();
  await user.type(screen.getByLabelText('Find'), 'take');
  await user.type(screen.getByLabelText('Replace with'), 'Night haul');
  expect(screen.getByText('Night haul 01')).toBeInTheDocument();
  expect(screen.getByText('2 of 3 will be renamed')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Rename 2' }));
  expect((await sentTo(server, 'PATCH', '/api/v1/items')).body).toEqual({
    edits: [
      { id: 'a', change: { name: 'Night haul 01' }, expected: { name: 'take 01' } },
      { id: 'b', change: { name: 'Night haul 02' }, expected: { name: 'take 02' } },
    ],
    label: 'Renamed 2 items',
  });
  expect(close).toHaveBeenCalledWith(false);
  await waitFor(() => expect(useUndo.getState().steps).toHaveLength(1));
});

test('a pattern that cannot be read and names that cannot be taken are told, and nothing can be written', async () => {
  const { user } = stand(<RenameDialog open onOpenChange={() => undefined} items={SOME} folderOf={noFolder} />);
  await user.click(screen.getByRole('switch', { name: 'Use a pattern' }));
  await user.type(screen.getByLabelText('Find'), '(');
  expect(screen.getByRole('button', { name: /^Rename/ })).toBeDisabled();
  await user.clear(screen.getByLabelText('Find'));
  await user.type(screen.getByLabelText('Find'), '.*');
  expect(screen.getByText(/names would not be valid: change the rule/)).toBeInTheDocument();
  expect(screen.getByRole('button', { name: /^Rename/ })).toBeDisabled();
});

test('a whole new name is put together from what is known, with numbers', async () => {
  const { user } = stand(<RenameDialog open onOpenChange={() => undefined} items={SOME} folderOf={noFolder} />);
  const dialog = screen.getByRole('dialog');
  await user.click(within(dialog).getByRole('button', { name: 'kind' }));
  await user.click(within(dialog).getByRole('button', { name: 'n' }));
  expect(screen.getByLabelText<HTMLInputElement>('Or a completely new name').value).toBe('{kind} {n}');
  await user.clear(screen.getByLabelText('Numbers from'));
  await user.type(screen.getByLabelText('Numbers from'), '7');
  const after = within(dialog)
    .getAllByRole('row')
    .map((r) => r.children[1]!.textContent);
  expect(after).toHaveLength(3);
  expect(after[0]).toMatch(/take 0*7$/);
  expect(after[2]).toMatch(/clip 0*9$/);
});

const VERSIONS = [
  {
    id: 'v2',
    number: 2,
    current: true,
    readingId: 'r',
    motionHash: 'a'.repeat(64),
    rigId: 'rig1',
    frames: 65,
    fps: 30,
    note: '',
    byName: 'Ilse',
    createdAt: '2026-11-20T10:00:00Z',
  },
  {
    id: 'v1',
    number: 1,
    current: false,
    readingId: 'r',
    motionHash: 'b'.repeat(64),
    rigId: 'rig1',
    frames: 60,
    fps: 30,
    note: 'before the lean',
    byName: null,
    createdAt: '2026-11-19T10:00:00Z',
  },
];
const HISTORY = [
  {
    seq: 9,
    groupId: 'g9',
    personName: 'Bram',
    action: 'edit',
    label: 'Renamed',
    before: { name: 'Walk' },
    after: { name: 'Deck walk' },
    at: '2026-11-20T10:00:00Z',
  },
  {
    seq: 1,
    groupId: 'g1',
    personName: 'Ilse',
    action: 'add',
    label: 'Added',
    before: null,
    after: null,
    at: '2026-11-19T10:00:00Z',
  },
];
const versioned = (more: Partial<Item> = {}) => item({ id: 'i1', versions: 2, ...more });
const answers = { 'GET /api/v1/items/i1/versions': VERSIONS, 'GET /api/v1/items/i1/history': HISTORY };

test('an earlier version is put in force, and that can be undone', async () => {
  let force = 'v2';
  const restored = (id: string) => (): object => {
    force = id;
    return {};
  };
  const { user, server } = stand(
    <VersionsDialog open onOpenChange={() => undefined} item={versioned()} onUndo={async () => undefined} />,
    {
      answers: {
        ...answers,
        'GET /api/v1/items/i1/versions': () => VERSIONS.map((v) => ({ ...v, current: v.id === force })),
        'POST /api/v1/items/i1/versions/v1/restore': restored('v1'),
        'POST /api/v1/items/i1/versions/v2/restore': restored('v2'),
      },
    },
  );
  expect(await screen.findByText('60 frames at 30 · before the lean')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Make current' }));
  expect(await told('Version 1 of Deck walk is the current one')).toBeInTheDocument();
  const first = screen.getByText('version 1').parentElement!;
  expect(within(first).getByText('in force')).toBeInTheDocument();
  const step = useUndo.getState().steps.at(-1)!;
  expect(step.label).toBe('Restored version 1 of Deck walk');
  await step.undo();
  expect(server.to('POST', '/api/v1/items/i1/versions/v2/restore')).toHaveLength(1);
});

test('what was changed is taken back from the history; what was only added cannot be', async () => {
  const undo = jest.fn(async (_group: string) => undefined);
  const { user } = stand(<VersionsDialog open onOpenChange={() => undefined} item={versioned()} onUndo={undo} />, {
    answers,
  });
  await screen.findByText('Renamed');
  expect(screen.getAllByRole('button', { name: 'Undo this' })).toHaveLength(1);
  await user.click(screen.getByRole('button', { name: 'Undo this' }));
  expect(undo).toHaveBeenCalledWith('g9');
  expect(await told('Undid: Renamed')).toBeInTheDocument();
});

test('whoever may only look sees versions and history, and changes nothing', async () => {
  stand(<VersionsDialog open onOpenChange={() => undefined} item={versioned()} onUndo={async () => undefined} />, {
    answers,
    me: { role: 'viewer' },
  });
  await screen.findByText('version 1');
  expect(screen.queryByRole('button', { name: 'Make current' })).toBeNull();
  expect(screen.queryByRole('button', { name: 'Undo this' })).toBeNull();
  expect(screen.getByRole('button', { name: 'Compare with current' })).toBeInTheDocument();
});

const FITTED = item({
  id: 'i1',
  name: 'Deck walk on Winch',
  provenance: {
    how: 'fitting',
    sourceItem: 's1',
    sourceName: 'Deck walk',
    character: 'winch',
    characterName: 'Winch',
    settings: {},
  } as never,
});

test('a fitting that is out of date says why and is made again as one step', async () => {
  const { user, server } = stand(<StaleLine item={FITTED} mayChange />, {
    answers: {
      'GET /api/v1/items/i1/freshness': { reasons: ['the body map of Winch was changed'], possible: true },
      'POST /api/v1/items/i1/fit-again': { group: 'g3' },
      'POST /api/v1/history/g3/undo': {},
    },
  });
  expect(await screen.findByRole('status')).toHaveTextContent('Out of date: the body map of Winch was changed.');
  expect(screen.getByRole('link', { name: 'its fitting' })).toHaveAttribute('href', '/fitting?item=s1&cast=winch');
  await user.click(screen.getByRole('button', { name: 'Fit again' }));
  expect((await sentTo(server, 'POST', '/api/v1/items/i1/fit-again')).body).toEqual({ seen: 'v-i1' });
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Fitted Deck walk on Winch again'));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('POST', '/api/v1/history/g3/undo')).toHaveLength(1);
});

test.each([
  ['somebody who may not change it', false, true],
  ['a source that is gone', true, false],
])('nothing is offered to %s', async (_, mayChange, possible) => {
  stand(<StaleLine item={FITTED} mayChange={mayChange} />, {
    answers: { 'GET /api/v1/items/i1/freshness': { reasons: ['its source was changed'], possible } },
  });
  expect(await screen.findByRole('status')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Fit again' })).toBeNull();
});

test('what was brought in is never out of date, nor is it asked', () => {
  const { server } = stand(<StaleLine item={item()} mayChange />);
  expect(server.sent).toHaveLength(0);
  expect(screen.queryByRole('link')).toBeNull();
});

test('where an item came from, what was made from it and where it lies are ways to go', async () => {
  const show = jest.fn();
  const openPack = jest.fn();
  const many = Array.from({ length: 8 }, (_, i) => ({ id: `m${i}`, name: `Made ${i}`, how: 'fitting' }));
  const { user } = stand(<UsesLine item={item({ id: 'i1' })} onShow={show} onOpenPack={openPack} />, {
    answers: {
      'GET /api/v1/items/i1/uses': {
        made: many,
        packs: [{ id: 'p1', name: 'Night pack' }],
        from: { id: 's1', name: 'First take' },
        variants: [{ id: 'x1', name: 'Deck walk, slower' }],
        next: [],
        before: [],
        reels: [{ id: 'r1', name: 'Fog bell' }],
        plays: [{ id: 'y1', name: 'On deck' }],
      },
    },
  });
  await user.click(await screen.findByRole('button', { name: 'First take' }));
  await user.click(screen.getByRole('button', { name: 'Made 5' }));
  await user.click(screen.getByRole('button', { name: 'Deck walk, slower' }));
  await user.click(screen.getByRole('button', { name: 'Night pack' }));
  expect(show.mock.calls).toEqual([['s1'], ['m5'], ['x1']]);
  expect(openPack).toHaveBeenCalledWith('p1');
  expect(screen.queryByRole('button', { name: 'Made 6' })).toBeNull();
  expect(screen.getByText('and 2 more')).toBeInTheDocument();
  expect(screen.getByRole('link', { name: 'Fog bell' })).toHaveAttribute('href', '/reels?reel=r1');
});

const IN_SEQUENCE = {
  made: [],
  packs: [],
  from: null,
  variants: [],
  reels: [],
  plays: [],
  next: [{ id: 'n1', name: 'Up from the bollard' }],
  before: [{ id: 'b1', name: 'Deck walk' }],
};

test('a sequence is followed both ways, played on, and a step is taken out and put back', async () => {
  const show = jest.fn();
  const playOn = jest.fn();
  const sit = item({ id: 'i1', name: 'Sit on the bollard' });
  const { user, server } = stand(<UsesLine item={sit} onShow={show} onOpenPack={() => undefined} onPlayOn={playOn} />, {
    answers: {
      'GET /api/v1/items/i1/uses': IN_SEQUENCE,
      'POST /api/v1/sequences': { changed: [['i1', 'n1']] },
    },
  });
  await user.click(await screen.findByRole('button', { name: 'Up from the bollard' }));
  await user.click(screen.getByRole('button', { name: 'Deck walk' }));
  expect(show.mock.calls).toEqual([['n1'], ['b1']]);
  await user.click(screen.getByRole('button', { name: 'Play this, then what it leads to' }));
  expect(playOn).toHaveBeenCalledTimes(1);
  await user.click(screen.getByRole('button', { name: 'Remove Up from the bollard from the sequence' }));
  expect((await sentTo(server, 'POST', '/api/v1/sequences')).body).toEqual({ steps: [['i1', 'n1']], follow: false });
  const step = useUndo.getState().steps.at(-1)!;
  expect(step.label).toBe('Sit on the bollard no longer leads to Up from the bollard');
  await step.undo();
  expect(server.to('POST', '/api/v1/sequences')[1]!.body).toEqual({ steps: [['i1', 'n1']], follow: true });
  await user.click(screen.getByRole('button', { name: 'Remove Deck walk from the sequence' }));
  await waitFor(() => expect(server.to('POST', '/api/v1/sequences')).toHaveLength(3));
  expect(server.to('POST', '/api/v1/sequences')[2]!.body).toEqual({ steps: [['b1', 'i1']], follow: false });
});

test('what an item leads to is found by its name; itself and what follows already are not offered', async () => {
  const sit = item({ id: 'i1', name: 'Sit on the bollard' });
  const { user, server } = stand(<UsesLine item={sit} onShow={() => undefined} onOpenPack={() => undefined} />, {
    answers: {
      'GET /api/v1/items/i1/uses': IN_SEQUENCE,
      'GET /api/v1/items': {
        items: [sit, item({ id: 'n1', name: 'Up from the bollard' }), item({ id: 'n2', name: 'Casting a line' })],
        found: 3,
        total: 3,
      },
      'POST /api/v1/sequences': { changed: [] },
    },
  });
  await user.click(await screen.findByRole('button', { name: 'Choose what Sit on the bollard leads to' }));
  await user.click(await screen.findByRole('button', { name: /Casting a line/ }));
  expect((await sentTo(server, 'POST', '/api/v1/sequences')).body).toEqual({ steps: [['i1', 'n2']], follow: true });
  // a colleague was quicker: nothing changed, so there is nothing to take back
  expect(await screen.findByText('It already does')).toBeInTheDocument();
  expect(useUndo.getState().steps).toEqual([]);
  expect(screen.queryByLabelText('What Sit on the bollard leads to')).toBeNull();
});

test('in a closed folder sequences are only read', async () => {
  stand(<UsesLine item={item({ id: 'i1' })} closed onShow={() => undefined} onOpenPack={() => undefined} />, {
    answers: { 'GET /api/v1/items/i1/uses': IN_SEQUENCE },
  });
  expect(await screen.findByRole('button', { name: 'Up from the bollard' })).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: /out of the sequence/ })).toBeNull();
  expect(screen.queryByRole('button', { name: /Say what/ })).toBeNull();
});

describe('playing one item after the other', () => {
  /** A clock whose motion ends after a second. */
  const ready = (): Clock => {
    const clock = new Clock();
    clock.load(30, 30);
    return clock;
  };
  const toEnd = (clock: Clock): void => act(() => clock.advance(1.1));

  test('goes on until nothing comes next, then loops as before', () => {
    const clock = ready();
    const next = jest.fn<(through: string) => boolean>().mockReturnValueOnce(true).mockReturnValue(false);
    const { result } = renderHook(() => useRunThrough(clock, next));
    act(() => result.current.toggle('sequence'));
    expect(result.current.running).toBe('sequence');
    expect(clock.loop).toBe(false);
    toEnd(clock);
    expect(next.mock.calls).toEqual([['sequence']]);
    expect(clock.frame).toBe(0);
    expect(clock.playing).toBe(true);
    toEnd(clock);
    expect(result.current.running).toBe(false);
    expect(clock.loop).toBe(true);
  });

  test('the list and the sequence take turns, and pressing again stops', () => {
    const clock = ready();
    const { result } = renderHook(() => useRunThrough(clock, () => true));
    act(() => result.current.toggle('list'));
    act(() => result.current.toggle('sequence'));
    expect(result.current.running).toBe('sequence');
    act(() => result.current.toggle('sequence'));
    expect(result.current.running).toBe(false);
    expect(clock.loop).toBe(true);
  });
});

const VIEW = {
  q: 'rope kind:clip',
  folder: null,
  like: null,
  pose: null,
  support: null,
  pack: null,
  item: 'i1',
  bin: null,
  view: 'table',
  sort: 'new',
  backwards: true,
} as never;

test('a view is kept under a name, shared if wished, without the item that happens to be open', async () => {
  const { user, server } = stand(<SavedSearches view={VIEW} onOpen={() => undefined} icon={<i />} />, {
    answers: { 'GET /api/v1/searches': [], 'POST /api/v1/searches': {} },
  });
  await user.click(screen.getByRole('button', { name: 'Saved searches' }));
  expect(await screen.findByText('No saved searches yet.')).toBeInTheDocument();
  await user.type(screen.getByLabelText('Name for this search'), 'Ropes');
  await user.click(screen.getByRole('switch', { name: 'Share it with colleagues' }));
  await user.click(screen.getByRole('button', { name: 'Save the search' }));
  const sent = (await sentTo(server, 'POST', '/api/v1/searches')).body as { view: string };
  expect(sent).toMatchObject({ name: 'Ropes', shared: true });
  expect(JSON.parse(sent.view)).toEqual({ q: 'rope kind:clip', view: 'table', sort: 'new', backwards: true });
});

const KEPT = [
  { id: 's1', name: 'Ropes', view: '{"q":"rope","bin":true}', shared: true, mine: true, byName: 'Ilse' },
  { id: 's2', name: 'Broken one', view: '{', shared: true, mine: false, byName: 'Bram' },
];

test('a kept search replaces the whole view; one that cannot be read opens everything', async () => {
  const open = jest.fn();
  const { user } = stand(<SavedSearches view={VIEW} onOpen={open} icon={<i />} />, {
    answers: { 'GET /api/v1/searches': KEPT },
  });
  await user.click(await screen.findByRole('button', { name: '2 saved searches' }));
  await user.click(screen.getByRole('button', { name: /^Ropes/ }));
  expect(open.mock.calls[0]![0]).toMatchObject({ q: 'rope', bin: true, folder: null, sort: null });
  await user.click(screen.getByRole('button', { name: '2 saved searches' }));
  await user.click(screen.getByRole('button', { name: /^Broken one/ }));
  expect(Object.values(open.mock.calls[1]![0] as object).every((x) => x === null)).toBe(true);
});

test('only one’s own searches can be removed, and come back', async () => {
  const { user, server } = stand(<SavedSearches view={VIEW} onOpen={() => undefined} icon={<i />} />, {
    answers: { 'GET /api/v1/searches': KEPT, 'DELETE /api/v1/searches/s1': {}, 'POST /api/v1/searches': {} },
  });
  await user.click(await screen.findByRole('button', { name: '2 saved searches' }));
  expect(screen.queryByRole('button', { name: 'Remove Broken one' })).toBeNull();
  await user.click(screen.getByRole('button', { name: 'Remove Ropes' }));
  await user.click(await screen.findByRole('button', { name: 'Restore' }));
  expect((await sentTo(server, 'POST', '/api/v1/searches')).body).toEqual({
    name: 'Ropes',
    view: KEPT[0]!.view,
    shared: true,
  });
});

test('a search that could not be removed says so and stays', async () => {
  const { user } = stand(<SavedSearches view={VIEW} onOpen={() => undefined} icon={<i />} />, {
    answers: { 'GET /api/v1/searches': KEPT, 'DELETE /api/v1/searches/s1': new Refused(500, 'The database is away.') },
  });
  await user.click(await screen.findByRole('button', { name: '2 saved searches' }));
  await user.click(screen.getByRole('button', { name: 'Remove Ropes' }));
  expect(await told('The database is away.')).toBeInTheDocument();
  expect(screen.getByRole('button', { name: /^Ropes/ })).toBeInTheDocument();
});
