import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { act, cleanup } from '@testing-library/react';
import { type FakeServer, type Stood, stand } from '../test/interface';
import { job } from '../test/things';
import { useLive, useLiveConnection, useOthersAt, useTellPlayhead } from './live';

/** A connection that is told things by hand. */
class Source {
  static last: Source;
  onopen?: () => void;
  onerror?: () => void;
  onmessage?: (m: { data: string }) => void;
  static readonly CLOSED = 2;
  static made = 0;
  closed = false;
  readyState = 1;
  constructor(readonly url: string) {
    Source.last = this;
    Source.made++;
  }
  close(): void {
    this.closed = true;
  }
  tell(event: unknown): void {
    act(() => this.onmessage?.({ data: JSON.stringify(event) }));
  }
}

let others: string[] = [];
function Listener() {
  useLiveConnection();
  others = useOthersAt('i1', 'me');
  return null;
}
let stood: Stood;
let server: FakeServer;
let asked: jest.SpiedFunction<Stood['client']['invalidateQueries']>;
beforeEach(() => {
  jest.useFakeTimers();
  globalThis.EventSource = Source as never;
  act(() => useLive.setState({ connected: true, present: [], subjectId: null }));
  stood = stand(<Listener />, { answers: { 'POST /api/presence': {} } });
  server = stood.server;
  asked = jest.spyOn(stood.client, 'invalidateQueries');
});
afterEach(() => {
  cleanup();
  jest.useRealTimers();
});
const again = (): string[] => asked.mock.calls.map(([filter]) => String(filter?.queryKey?.[0])).sort();

test('what a colleague did is asked for again where it shows, once for many changes', () => {
  Source.last.tell({ type: 'changes', changes: [{ subject: 'tag', personId: 'bram' }] });
  Source.last.tell({ type: 'changes', changes: [{ subject: 'tag', personId: 'bram' }] });
  expect(again()).toEqual([]);
  act(() => void jest.advanceTimersByTime(200));
  expect(again()).toEqual(['activity', 'completions', 'items', 'tags']);
});

test('something that shows nowhere asks for nothing', () => {
  Source.last.tell({ type: 'changes', changes: [{ subject: 'moonlight', personId: 'bram' }] });
  act(() => void jest.advanceTimersByTime(200));
  expect(again()).toEqual([]);
});

test('a lost connection is said, and everything asked anew once it is back', () => {
  act(() => Source.last.onopen?.());
  expect(again()).toEqual([]);
  act(() => Source.last.onerror?.());
  expect(useLive.getState().connected).toBe(false);
  act(() => Source.last.onopen?.());
  expect(useLive.getState().connected).toBe(true);
  expect(asked).toHaveBeenCalledTimes(1);
  expect(asked.mock.calls[0]![0]).toBeUndefined();
});

test('a connection that was refused, which a browser gives up, is opened again, ever more seldom', () => {
  const refused = (): void => {
    Source.last.readyState = Source.CLOSED;
    act(() => Source.last.onerror?.());
  };
  const before = Source.made;
  const waited = [1000, 2000, 4000].map((ms) => {
    refused();
    act(() => void jest.advanceTimersByTime(ms - 1));
    const early = Source.made;
    act(() => void jest.advanceTimersByTime(1));
    return Source.made - early;
  });
  expect([waited, Source.made - before]).toEqual([[1, 1, 1], 3]);
  act(() => Source.last.onopen?.());
  expect(useLive.getState().connected).toBe(true);
  expect(asked).toHaveBeenCalledTimes(1);
});

test('jobs are kept up in place, new ones stand first', () => {
  stood.client.setQueryData(['jobs'], [job({ id: 'a' }), job({ id: 'b' })]);
  Source.last.tell({ type: 'jobs', jobs: [job({ id: 'b', state: 'done' }), job({ id: 'c' })] });
  const jobs = stood.client.getQueryData<{ id: string; state: string }[]>(['jobs'])!;
  expect(jobs.map((j) => [j.id, j.state])).toEqual([
    ['c', 'queued'],
    ['a', 'queued'],
    ['b', 'done'],
  ]);
});

test('who else has the same open is told by name, once each, without me', () => {
  const at = (clientId: string, personId: string, name: string, subjectId = 'i1') => ({
    clientId,
    personId,
    name,
    subjectId,
  });
  Source.last.tell({
    type: 'present',
    present: [at('x', 'bram', 'Bram'), at('y', 'bram', 'Bram'), at('z', 'noor', 'Noor', 'i2'), at('w', 'me', 'Ilse')],
  });
  expect(others).toEqual(['Bram']);
});

test('what is open here is said at once, again and again, and when it is left', async () => {
  const said = () =>
    server.to('POST', '/api/presence').map((s) => s.body as { subjectId: string | null; leaving: boolean });
  await act(async () => void (await jest.advanceTimersByTimeAsync(0)));
  expect(said().at(-1)).toMatchObject({ subjectId: null, leaving: false });
  act(() => useLive.getState().look('i1'));
  expect(said().at(-1)).toMatchObject({ subjectId: 'i1', leaving: false });
  const before = said().length;
  act(() => void jest.advanceTimersByTime(25_000));
  expect(said().length).toBe(before + 2);
  act(() => void window.dispatchEvent(new Event('pagehide')));
  expect(said().at(-1)).toMatchObject({ leaving: true });
  const source = Source.last;
  cleanup();
  expect(source.closed).toBe(true);
});

test('a playhead is told while somebody else is there, seldom however fast it goes, and the last place for certain', () => {
  const ticks = new Set<() => void>();
  const head = {
    frame: 7,
    onTick: (run: () => void) => {
      ticks.add(run);
      return () => ticks.delete(run);
    },
  };
  const to = (frame: number): void => {
    head.frame = frame;
    act(() => {
      for (const run of ticks) run();
    });
  };
  const told = (): unknown[] =>
    server.to('POST', '/api/presence').map((s) => (s.body as { frame: number | null }).frame);
  function Reel() {
    useTellPlayhead('i1', head);
    return null;
  }
  act(() => useLive.getState().look('i1'));
  server = stand(
    <>
      <Listener />
      <Reel />
    </>,
    { answers: { 'POST /api/presence': {} } },
  ).server;
  to(8);
  act(() => void jest.advanceTimersByTime(2000));
  expect(told().every((f) => f === null)).toBe(true);
  const bram = { clientId: 'x', personId: 'bram', name: 'Bram', subjectId: 'i1', frame: null };
  Source.last.tell({ type: 'present', present: [bram] });
  const before = told().length;
  for (let f = 9; f <= 40; f++) to(f);
  act(() => void jest.advanceTimersByTime(1000));
  expect(told().slice(before)).toEqual([40]);
});
