import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { act, screen } from '@testing-library/react';
import { useUndo } from '@/client/undo';
import { type FakeServer, Refused, stand } from '@/test/interface';
import { FIT_DEFAULTS } from '@/workers/wishes';
import { carrySettings, useFittingDocument } from './use-fitting-document';

const NONE = { settings: null, edits: null, version: 0, changedByName: null };
let n = 0;
/** Each test has a pair of its own: documents outlive components. */
let item = '';
beforeEach(() => {
  item = `i${++n}`;
  jest.useFakeTimers();
});
afterEach(() => {
  act(() => jest.runOnlyPendingTimers());
  jest.useRealTimers();
});
const at = (): string => `/api/v1/cast/winch/fittings/${item}`;

type Doc = ReturnType<typeof useFittingDocument>;
let doc: Doc;
function Holder({ of, may = true }: { of: string; may?: boolean }) {
  doc = useFittingDocument(of, 'winch', may);
  return <p>{doc.state}</p>;
}
const settle = (ms = 0): Promise<void> => act(async () => void (await jest.advanceTimersByTimeAsync(ms)));
async function open(answers: Record<string, unknown> = {}, may = true): Promise<FakeServer> {
  const { server } = stand(<Holder of={item} may={may} />, { answers: { [`GET ${at()}`]: NONE, ...answers } });
  await settle();
  return server;
}
const lower = (by: number, label = 'Moved the hips'): void =>
  act(() => doc.change({ settings: { ...doc.settings, lower: by } }, label));

test('a change shows at once and is stored after a rest, as one however quick they come', async () => {
  const server = await open({ [`PUT ${at()}`]: { version: 1 } });
  lower(0.01);
  lower(0.02);
  lower(0.03);
  expect(doc.settings.lower).toBe(0.03);
  expect(doc.state).toBe('waiting');
  expect(server.to('PUT', at())).toHaveLength(0);
  await settle(600);
  expect(server.to('PUT', at()).map((s) => s.body)).toEqual([
    expect.objectContaining({ settings: { ...FIT_DEFAULTS, lower: 0.03 }, version: 0 }),
  ]);
  expect([doc.state, doc.version]).toEqual(['saved', 1]);
});

test('a drag is one step back; another thing, or the same after a while, is another', async () => {
  await open({ [`PUT ${at()}`]: { version: 1 } });
  lower(0.01);
  lower(0.02);
  await settle(2000);
  lower(0.05);
  lower(0.06, 'Reset plants');
  expect(useUndo.getState().steps.map((s) => s.label)).toEqual(['Moved the hips', 'Moved the hips', 'Reset plants']);
  act(() => void useUndo.getState().pop()!.undo());
  expect(doc.settings.lower).toBe(0.05);
  act(() => void useUndo.getState().pop()!.undo());
  expect(doc.settings.lower).toBe(0.02);
  act(() => void useUndo.getState().pop()!.undo());
  expect(doc.settings.lower).toBe(0);
});

test('what changes while it is being stored is stored after it, on its version', async () => {
  let answer: (v: { version: number }) => void = () => undefined;
  const server = await open({
    [`PUT ${at()}`]: () =>
      new Promise((resolve) => {
        answer = resolve;
      }),
  });
  lower(0.01);
  await settle(600);
  lower(0.02, 'another');
  await settle(600);
  expect(server.to('PUT', at())).toHaveLength(1);
  answer({ version: 1 });
  await settle(600);
  expect(server.to('PUT', at())).toHaveLength(2);
  expect(server.to('PUT', at())[1]!.body).toMatchObject({ settings: { lower: 0.02 }, version: 1 });
  answer({ version: 2 });
  await settle();
  expect([doc.state, doc.version]).toEqual(['saved', 2]);
});

test('a server that is away is told once and tried again until it is back', async () => {
  const server = await open({ [`PUT ${at()}`]: new Refused(503, 'The database is starting.') });
  lower(0.04);
  await settle(600);
  expect(doc.state).toBe('refused');
  expect(screen.getAllByText(/not stored yet; it is tried again: The database is starting/)).toHaveLength(1);
  await settle(4100);
  expect(server.to('PUT', at())).toHaveLength(2);
  server.answer({ [`PUT ${at()}`]: { version: 1 } });
  await settle(4100);
  expect(server.to('PUT', at()).at(-1)!.body).toMatchObject({ settings: { lower: 0.04 } });
  expect(doc.state).toBe('saved');
});

test('what is refused for good is not sent again and again', async () => {
  const server = await open({ [`PUT ${at()}`]: new Refused(403, 'Only some may change this.') });
  lower(0.04);
  await settle(20_000);
  expect(server.to('PUT', at())).toHaveLength(1);
  expect([doc.state, doc.settings.lower]).toEqual(['refused', 0.04]);
});

test('a colleague’s newer version is taken over, and said', async () => {
  const theirs = { ...NONE, settings: { ...FIT_DEFAULTS, lower: 0.1 }, version: 5, changedByName: 'Bram' };
  const server = await open({
    [`PUT ${at()}`]: new Refused(409, 'Bram changed this fitting just now.', { code: 'changed-meanwhile' }),
  });
  lower(0.04);
  server.answer({ [`GET ${at()}`]: theirs });
  await settle(600);
  expect(screen.getByText('Bram changed this fitting just now.')).toBeInTheDocument();
  expect([doc.settings.lower, doc.version, doc.state]).toEqual([0.1, 5, 'saved']);
});

test('whoever may only look tries settings that are never sent', async () => {
  const server = await open({}, false);
  lower(0.04);
  await settle(5000);
  expect(doc.settings.lower).toBe(0.04);
  expect(server.to('PUT', at())).toHaveLength(0);
});

test('settings go along to the next source; what that pair had stored is kept aside and comes back', async () => {
  const stored = { ...NONE, settings: { ...FIT_DEFAULTS, lower: 0.07 }, version: 3 };
  act(() => carrySettings({ ...FIT_DEFAULTS, lower: 0.02 }));
  await open({ [`GET ${at()}`]: stored, [`PUT ${at()}`]: { version: 4 } });
  expect([doc.settings.lower, doc.aside?.lower]).toEqual([0.02, 0.07]);
  act(() => doc.useAside());
  expect([doc.settings.lower, doc.aside]).toEqual([0.07, null]);
  act(() => void useUndo.getState().pop()!.undo());
  expect(doc.settings.lower).toBe(0.02);
});

test('what has still to be stored is sent when its page is left', async () => {
  const server = await open({ [`PUT ${at()}`]: { version: 1 } });
  lower(0.04);
  act(() => void window.dispatchEvent(new Event('pagehide')));
  await settle();
  expect(server.to('PUT', at())).toHaveLength(1);
});
