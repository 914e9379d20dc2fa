import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { act } from '@testing-library/react';
import { useState } from 'react';
import type { ItemList } from '@/contract';
import { type FakeServer, type Sent, stand } from '@/test/interface';
import { item } from '@/test/things';
import { type Library, type LibraryView, PAGE, useLibrary } from './use-library';

const VIEW = {
  q: 'rope',
  folder: null,
  like: null,
  pose: null,
  support: null,
  pack: null,
  item: null,
  bin: null,
  view: 'table',
  sort: 'name',
  backwards: null,
} as unknown as LibraryView;
const FOUND = 1000;
const page = ({ path }: Sent): ItemList => {
  const offset = Number(new URLSearchParams(path.split('?')[1]).get('offset'));
  return {
    items: Array.from({ length: Math.min(PAGE, FOUND - offset) }, (_, i) =>
      item({ id: `i${offset + i}`, name: `Item ${offset + i}` }),
    ),
    found: FOUND,
    total: 5000,
    facets: offset === 0 ? {} : null,
    guessed: [],
    scores: { [`i${offset}`]: 90 },
  };
};
const NAMES = { names: Array.from({ length: FOUND }, (_, i) => [`Item ${i}`, 'clip']) };

let library: Library;
function Reader({ view }: { view: LibraryView }) {
  library = useLibrary(view);
  return null;
}
const settle = (ms = 0): Promise<void> => act(async () => void (await jest.advanceTimersByTimeAsync(ms)));
async function read(view = VIEW, answers: Record<string, unknown> = {}): Promise<FakeServer> {
  const { server } = stand(<Reader view={view} />, {
    answers: { 'GET /api/v1/items': page, 'GET /api/v1/items/names': NAMES, ...answers },
  });
  await settle();
  return server;
}
const offsets = (server: FakeServer): number[] =>
  server
    .to('GET', '/api/v1/items')
    .map((s) => Number(new URLSearchParams(s.path.split('?')[1]).get('offset')))
    .sort((a, b) => a - b);

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

test('the first page comes alone, with counts of what could narrow it', async () => {
  const server = await read();
  expect([library.count, library.at(0)?.name, library.at(PAGE)]).toEqual([FOUND, 'Item 0', undefined]);
  const [first] = server.to('GET', '/api/v1/items');
  expect(Object.fromEntries(new URLSearchParams(first!.path.split('?')[1]))).toEqual({
    q: 'rope',
    sort: 'name',
    offset: '0',
    limit: '100',
    facets: '1',
  });
});

test('where somebody looks the pages around are read, and only once', async () => {
  const server = await read();
  act(() => library.showing(420, 440));
  await settle();
  expect(offsets(server)).toEqual([0, 300, 400, 500]);
  expect(library.at(444)?.name).toBe('Item 444');
  expect([library.indexOf('i455'), library.indexOf('i999'), library.score('i400'), library.score('i455')]).toEqual([
    455,
    -1,
    90,
    undefined,
  ]);
  act(() => library.showing(425, 445));
  await settle();
  expect(offsets(server)).toHaveLength(4);
});

test('the end of a list asks for no page beyond it that would matter', async () => {
  await read();
  act(() => library.showing(985, 1000));
  await settle();
  expect(library.at(999)?.name).toBe('Item 999');
  expect(library.at(1000)).toBeUndefined();
});

test('names come once the first page stands a while, or at once when somebody scrolls on', async () => {
  const resting = await read();
  expect(resting.to('GET', '/api/v1/items/names')).toHaveLength(0);
  await settle(1500);
  expect(resting.to('GET', '/api/v1/items/names')).toHaveLength(1);
  await settle(20);
  expect(library.nameAt(777)).toEqual(['Item 777', 'clip']);
  const scrolling = await read();
  act(() => library.showing(300, 320));
  await settle();
  expect(scrolling.to('GET', '/api/v1/items/names')).toHaveLength(1);
});

test('a search that is still being typed asks for no names', async () => {
  const typing: { to?: (q: string) => void } = {};
  function Typing() {
    const [q, setQ] = useState('r');
    typing.to = setQ;
    return <Reader view={{ ...VIEW, q } as LibraryView} />;
  }
  const { server } = stand(<Typing />, { answers: { 'GET /api/v1/items': page, 'GET /api/v1/items/names': NAMES } });
  for (const q of ['ro', 'rop', 'rope']) {
    await settle(800);
    act(() => typing.to!(q));
  }
  await settle(800);
  expect(server.to('GET', '/api/v1/items/names')).toHaveLength(0);
  await settle(600);
  expect(
    server.to('GET', '/api/v1/items/names').map((s) => new URLSearchParams(s.path.split('?')[1]).get('q')),
  ).toEqual(['rope']);
});

test('an answer that takes long is said to be out, a quick one is not', async () => {
  const turn: { to?: (q: string) => void } = {};
  function Asking() {
    const [q, setQ] = useState('rope');
    turn.to = setQ;
    return <Reader view={{ ...VIEW, q } as LibraryView} />;
  }
  const slow = (sent: Sent): unknown =>
    sent.path.includes('q=slow') ? new Promise((resolve) => setTimeout(() => resolve(page(sent)), 2000)) : page(sent);
  stand(<Asking />, { answers: { 'GET /api/v1/items': slow, 'GET /api/v1/items/names': NAMES } });
  await settle(700);
  act(() => turn.to!('slow'));
  await settle(300);
  // what was found before stays meanwhile
  expect([library.late, library.count]).toEqual([false, FOUND]);
  await settle(400);
  expect([library.late, library.count]).toEqual([true, FOUND]);
  await settle(1600);
  expect(library.late).toBe(false);
});

test('a short list needs no names', async () => {
  const few = (s: Sent): ItemList => ({ ...page(s), found: 150 });
  const server = await read(VIEW, { 'GET /api/v1/items': few });
  await settle(3000);
  expect(server.to('GET', '/api/v1/items/names')).toHaveLength(0);
  expect(library.nameAt(3)).toBeUndefined();
});

test('a performer, a pose and the bin are part of the question', async () => {
  const { server } = stand(
    <Reader
      view={{ ...VIEW, q: null, pose: 'p', support: true, bin: true, sort: 'new', backwards: true } as LibraryView}
    />,
    { answers: { 'GET /api/v1/items': page }, me: { performerId: 'winch' } },
  );
  await settle();
  const asked = new URLSearchParams(server.to('GET', '/api/v1/items')[0]!.path.split('?')[1]);
  for (const [name, value] of [
    ['pose', 'p'],
    ['support', '1'],
    ['bin', '1'],
    ['performer', 'winch'],
    ['sort', 'new'],
    ['backwards', '1'],
  ])
    expect([name, asked.get(name!)]).toEqual([name, value]);
  expect(asked.has('q')).toBe(false);
});
