import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { act, screen } from '@testing-library/react';
import { useState } from 'react';
import { undoStep, useUndo } from '@/client/undo';
import type { Batch } from '@/documents/shared-document';
import { type FakeServer, Refused, stand } from '@/test/interface';
import { FIT_DEFAULTS } from '@/wishes/wishes';
import { useFittingDocument } from './use-fitting-document';

const NONE = { settings: null, edits: null, version: 0, changedByName: null };
const AT = '/api/v1/cast/winch/fittings/haul';
beforeEach(() => {
  localStorage.clear();
  jest.useFakeTimers();
});
afterEach(() => {
  act(() => jest.runOnlyPendingTimers());
  jest.useRealTimers();
});

type Doc = ReturnType<typeof useFittingDocument>;
let doc: Doc;
function Holder({ of = 'haul', may = true }: { of?: string; may?: boolean }) {
  doc = useFittingDocument(of, 'winch', may);
  return <p>{doc.state}</p>;
}
const settle = (ms = 0): Promise<void> => act(async () => void (await jest.advanceTimersByTimeAsync(ms)));
/** As the server has it with the hips lowered. */
const stored = (lower: number, version: number) => ({ ...NONE, settings: { ...FIT_DEFAULTS, lower }, version });
async function open(answers: Record<string, unknown> = {}, may = true): Promise<FakeServer> {
  const { server } = stand(<Holder may={may} />, { answers: { [`GET ${AT}`]: NONE, ...answers } });
  await settle();
  return server;
}
const lower = (by: number, label = 'Moved the hips', gesture?: string): void =>
  act(() => doc.change({ settings: { ...doc.settings, lower: by } }, label, gesture));
const sent = (server: FakeServer): Batch[] => server.to('PATCH', AT).map((s) => s.body as Batch);
const undo = (): Promise<void> => act(async () => void (await undoStep(async () => undefined)));

test('a change shows at once and is saved after a rest, the last value alone', async () => {
  const server = await open({ [`PATCH ${AT}`]: stored(0.03, 1) });
  lower(0.01);
  lower(0.02);
  lower(0.03);
  expect([doc.settings.lower, doc.state]).toEqual([0.03, 'waiting']);
  expect(sent(server)).toEqual([]);
  await settle(600);
  expect(sent(server)).toEqual([
    { client: expect.stringMatching(/^[a-z0-9]{12}$/), number: 1, writes: [{ cell: 'settings/lower', to: 0.03 }] },
  ]);
  expect(doc.state).toBe('saved');
});

test('a drag is one step to take back; what has no gesture is a step each time', async () => {
  await open({ [`PATCH ${AT}`]: NONE });
  lower(0.01, 'Moved the hips', 'g1');
  lower(0.02, 'Moved the hips', 'g1');
  lower(0.03, 'Moved the hips', 'g2');
  lower(0.04);
  expect(useUndo.getState().steps.map((s) => s.label)).toHaveLength(3);
  await undo();
  expect(doc.settings.lower).toBe(0.03);
  await undo();
  expect(doc.settings.lower).toBe(0.02);
  await undo();
  expect(doc.settings.lower).toBe(0);
});

test('taking back leaves what a colleague has set since, and says so', async () => {
  const server = await open({ [`PATCH ${AT}`]: stored(0.04, 1) });
  lower(0.04);
  await settle(600);
  // Bram sets the same and something else
  const theirs = { ...stored(0.1, 2), settings: { ...FIT_DEFAULTS, lower: 0.1, limits: true, clear: false } };
  server.answer({ [`PATCH ${AT}`]: theirs });
  act(() => doc.change({ settings: { ...doc.settings, clear: false } }, 'Let limbs run into one another'));
  await settle(600);
  expect(doc.settings).toMatchObject({ lower: 0.1, limits: true });
  await undo();
  await undo();
  await settle(50);
  expect(doc.settings).toMatchObject({ lower: 0.1, limits: true, clear: true });
  expect(screen.getByText('Somebody has changed part of this since. Their change was kept.')).toBeInTheDocument();
});

test('a server that is away is tried again until it is back, and what was changed meanwhile follows', async () => {
  const server = await open({ [`PATCH ${AT}`]: new Refused(503, 'The database is starting.') });
  lower(0.04);
  await settle(600);
  expect([doc.state, doc.trouble]).toEqual(['offline', 'The database is starting.']);
  await settle(2100);
  expect(sent(server)).toHaveLength(2);
  // the same batch, so that it cannot count twice
  expect(sent(server)[1]).toEqual(sent(server)[0]);
  act(() => doc.change({ settings: { ...doc.settings, limits: true } }, 'Turned joint limits on'));
  server.answer({ [`PATCH ${AT}`]: stored(0.04, 1) });
  await settle(4100);
  expect(sent(server).map((b) => [b.number, b.writes.map((w) => w.cell)])).toEqual([
    [1, ['settings/lower']],
    [1, ['settings/lower']],
    [1, ['settings/lower']],
    [2, ['settings/limits']],
  ]);
  expect([doc.state, localStorage.length]).toEqual(['saved', 0]);
});

test('what a page could not save before it was closed is saved by the next one that opens the fitting', async () => {
  const left: Batch = { client: 'anotherpage1', number: 4, writes: [{ cell: 'settings/lower', to: 0.05 }] };
  localStorage.setItem(
    `velvet-unsaved me ${AT} anotherpage1`,
    JSON.stringify({ at: Date.now() - 3_600_000, batches: [left] }),
  );
  // of a page that is open somewhere it is none of this one's business
  const open_ = `velvet-unsaved me ${AT} anotherpage2`;
  localStorage.setItem(
    open_,
    JSON.stringify({ at: Date.now() - 3000, batches: [{ ...left, client: 'anotherpage2' }] }),
  );
  // nor is what somebody else left who worked in this browser
  const theirs = `velvet-unsaved noor ${AT} anotherpage3`;
  localStorage.setItem(theirs, JSON.stringify({ at: 0, batches: [{ ...left, client: 'anotherpage3' }] }));
  const server = await open({ [`PATCH ${AT}`]: stored(0.05, 9) });
  expect(doc.settings.lower).toBe(0.05);
  await settle(600);
  expect(sent(server)).toEqual([left]);
  expect(Object.keys(localStorage).sort()).toEqual([open_, theirs].sort());
});

test('what is refused is not sent again and again, and can be given up', async () => {
  const server = await open({ [`PATCH ${AT}`]: new Refused(403, 'Restricted.') });
  lower(0.04);
  await settle(20_000);
  expect(sent(server)).toHaveLength(1);
  expect([doc.state, doc.settings.lower, doc.trouble]).toEqual(['refused', 0.04, 'Restricted.']);
  act(() => doc.giveUp());
  expect([doc.state, doc.settings.lower]).toEqual(['saved', 0]);
});

test('whoever may only look tries settings that are never sent', async () => {
  const server = await open({}, false);
  lower(0.04);
  await settle(5000);
  expect([doc.settings.lower, doc.state]).toEqual([0.04, 'saved']);
  expect(sent(server)).toEqual([]);
});

test('settings go along to the next source; what that pair had stored is a click away, and back', async () => {
  const tail = '/api/v1/cast/winch/fittings/tail';
  let go: (to: string) => void = () => undefined;
  function Two() {
    const [of, setOf] = useState('haul');
    go = setOf;
    doc = useFittingDocument(of, 'winch', true);
    return null;
  }
  const { server } = stand(<Two />, {
    answers: { [`GET ${AT}`]: stored(0.02, 1), [`GET ${tail}`]: stored(0.07, 3) },
  });
  await settle();
  act(() => doc.carry());
  act(() => go('tail'));
  await settle();
  expect([doc.settings.lower, doc.aside]).toEqual([0.02, true]);
  act(() => doc.useAside());
  expect([doc.settings.lower, doc.aside]).toEqual([0.07, false]);
  await undo();
  expect(doc.settings.lower).toBe(0.02);
  // the first change makes those that came along this pair's own
  server.answer({ [`PATCH ${tail}`]: stored(0.02, 4) });
  act(() => doc.change({ settings: { ...doc.settings, clear: false } }, 'Let limbs run into one another'));
  await settle(600);
  expect((server.to('PATCH', tail)[0]!.body as Batch).writes.map((w) => w.cell)).toEqual([
    'settings/clear',
    'settings/lower',
  ]);
});

test('what has still to be saved is sent when its page is left', async () => {
  const server = await open({ [`PATCH ${AT}`]: stored(0.04, 1) });
  lower(0.04);
  act(() => void window.dispatchEvent(new Event('pagehide')));
  await settle();
  expect(sent(server)).toHaveLength(1);
});
