import { beforeEach, expect, jest, test } from '@jest/globals';
import { act, cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { useUndo } from '@/client/undo';
import { Refused, sentTo, stand, told } from '@/test/interface';
import { job, part } from '@/test/things';
import { IntakePlace } from './intake-place';
import { JobCard } from './job-card';
import { TableDialog } from './table-dialog';
import { useIntake } from './use-intake';
import { useUploads } from './use-job-upload';

beforeEach(() => act(() => useUploads.setState({ sending: {} })));

const file = (name: string, path = ''): File => {
  const f = new File([`content of ${name}`], name);
  if (path) Object.defineProperty(f, 'webkitRelativePath', { value: path });
  return f;
};
const ROW = {
  id: 'r1',
  fileName: 'Deck walk.bvh',
  bytes: 2_400_000,
  state: 'done',
  message: '',
  code: '',
  result: {
    items: [{ id: 'i1', name: 'Deck walk', frames: 65, fps: 30 }],
    cast: [],
    rigId: 'rig1',
    known: true,
    warnings: ['It was read as centimetres.'],
    format: 'bvh',
  },
  createdAt: '2026-11-20T10:00:00.000Z',
};
const REFUSED = {
  ...ROW,
  id: 'r2',
  fileName: 'cut.bvh',
  bytes: 400,
  state: 'refused',
  message: 'cut.bvh, line 12: a number is due.',
  result: { items: [], cast: [], known: false, warnings: [] },
};
afterEach(() => useIntake.setState({ pending: [], ended: 0 }));

const empty = { 'GET /api/v1/intake': [], 'GET /api/v1/jobs': [] };
const choose = (label: string, files: File[]): void => {
  fireEvent.change(screen.getByLabelText(label), { target: { files } });
};

test('an empty intake says what it takes; whoever may only look is told so', async () => {
  stand(<IntakePlace />, { answers: empty });
  expect(screen.getByText('Drop files here, or click to choose')).toBeInTheDocument();
  stand(<IntakePlace />, { answers: empty, me: { role: 'viewer' } });
  expect(screen.getByText('You can look around, but not import files')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Choose a folder …' })).toBeNull();
});

test('a few files are sent one by one and end in the report, with what was found', async () => {
  let rows: unknown[] = [];
  const { server, user } = stand(<IntakePlace />, {
    answers: {
      ...empty,
      'GET /api/v1/intake': () => rows,
      'POST /api/v1/intake': () => {
        rows = [ROW, REFUSED];
        return ROW;
      },
    },
  });
  await user.upload(screen.getByLabelText('Choose files'), [file('Deck walk.bvh')]);
  expect((await sentTo(server, 'POST', '/api/v1/intake')).body).toEqual(['Deck walk.bvh']);
  expect(await screen.findByText('2 files, 1 refused')).toBeInTheDocument();
  expect(screen.getByRole('link', { name: 'Deck walk' })).toHaveAttribute('href', '/library?item=i1');
  expect(screen.getByText('65 frames at 30')).toBeInTheDocument();
  expect(screen.getByText('2.4 MB · BVH')).toBeInTheDocument();
  expect(screen.getByText('It was read as centimetres.')).toBeInTheDocument();
  expect(screen.getByText(/skeleton is already in the library/)).toBeInTheDocument();
  expect(screen.getByText('cut.bvh, line 12: a number is due.')).toBeInTheDocument();
});

test('a motion in two files goes with its skeleton, which does not come in by itself', async () => {
  const { server, user } = stand(<IntakePlace />, { answers: { ...empty, 'POST /api/v1/intake': ROW } });
  await user.upload(screen.getByLabelText('Choose files'), [file('mate.asf'), file('mate_01.amc')]);
  await waitFor(() => expect(server.to('POST', '/api/v1/intake')).toHaveLength(1));
  expect(server.to('POST', '/api/v1/intake')[0]!.body).toEqual(['mate_01.amc', 'mate.asf']);
});

test('a file that could not be sent says why, is tried again, or taken off the list', async () => {
  const { server, user } = stand(<IntakePlace />, {
    answers: { ...empty, 'POST /api/v1/intake': new Refused(413, 'A file has at most 512 MB.') },
  });
  await user.upload(screen.getByLabelText('Choose files'), [file('huge.bvh')]);
  expect(await screen.findByText('A file has at most 512 MB.')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Try again' }));
  await waitFor(() => expect(server.to('POST', '/api/v1/intake')).toHaveLength(2));
  await screen.findByText('A file has at most 512 MB.');
  await user.click(screen.getByRole('button', { name: 'Remove from the list' }));
  await waitFor(() => expect(screen.queryByText('huge.bvh')).toBeNull());
});

test('what was dropped goes on while another place is open, and is there when one comes back', async () => {
  const finish: (() => void)[] = [];
  const answers = { ...empty, 'POST /api/v1/intake': () => new Promise((resolve) => finish.push(() => resolve(ROW))) };
  const { server, user } = stand(<IntakePlace />, { answers });
  await user.upload(
    screen.getByLabelText('Choose files'),
    ['a.bvh', 'b.bvh', 'c.bvh'].map((n) => file(n)),
  );
  await waitFor(() => expect(finish).toHaveLength(2));
  cleanup();
  finish[0]!();
  // the third one sets out though the place is closed
  await waitFor(() => expect(finish).toHaveLength(3));
  expect(server.to('POST', '/api/v1/intake').map((s) => s.body)).toEqual([['a.bvh'], ['b.bvh'], ['c.bvh']]);
  stand(<IntakePlace />, { answers });
  expect(screen.getAllByRole('progressbar')).toHaveLength(2);
  finish[1]!();
  finish[2]!();
  await waitFor(() => expect(screen.queryAllByRole('progressbar')).toEqual([]));
});

test('only two files travel at a time, and a cancelled one is gone', async () => {
  const { server, user } = stand(<IntakePlace />, {
    answers: { ...empty, 'POST /api/v1/intake': () => new Promise(() => undefined) },
  });
  await user.upload(
    screen.getByLabelText('Choose files'),
    ['a.bvh', 'b.bvh', 'c.bvh'].map((n) => file(n)),
  );
  await waitFor(() => expect(server.to('POST', '/api/v1/intake')).toHaveLength(2));
  expect(screen.getAllByRole('progressbar')).toHaveLength(3);
  await user.click(screen.getAllByRole('button', { name: 'Cancel' })[0]!);
  await waitFor(() => expect(server.to('POST', '/api/v1/intake')).toHaveLength(3));
  expect(screen.queryByText('a.bvh')).toBeNull();
});

test('a folder comes in as one job, its structure kept, into the folder that was named', async () => {
  const { server, user, address } = stand(<IntakePlace />, {
    answers: {
      ...empty,
      'POST /api/v1/jobs/intake': { id: 'job5' },
      'PUT /api/v1/jobs/job5/files/0': {},
      'PUT /api/v1/jobs/job5/files/1': {},
    },
  });
  await user.type(screen.getByLabelText(/Library folder/), 'Capture');
  await user.click(screen.getByRole('checkbox', { name: 'import files again even if they are in the library' }));
  choose('Choose a folder', [file('a.bvh', 'night/a.bvh'), file('b.bvh', 'night/deep/b.bvh')]);
  expect((await sentTo(server, 'POST', '/api/v1/jobs/intake')).body).toEqual({
    title: 'night',
    folder: 'Capture',
    again: true,
    files: [
      { name: 'night/a.bvh', bytes: 16 },
      { name: 'night/deep/b.bvh', bytes: 16 },
    ],
  });
  await waitFor(() => expect(server.sent.filter((s) => s.method === 'PUT')).toHaveLength(2));
  await waitFor(() => expect(address().get('job')).toBe('job5'));
  await waitFor(() => expect(useUploads.getState().sending).toEqual({}));
});

test('what is missing of a broken intake is sent from the same folder, chosen again, and only that', async () => {
  const broken = job({ counts: { waiting: 1, ready: 0, running: 0, done: 1, refused: 0, cancelled: 0 } });
  const { server, user } = stand(<IntakePlace />, {
    answers: {
      'GET /api/v1/intake': [],
      'GET /api/v1/jobs': [broken],
      'GET /api/v1/jobs/job1/missing': [{ number: 1, name: 'night/b.bvh' }],
      'PUT /api/v1/jobs/job1/files/1': {},
    },
  });
  expect(await screen.findByText(/1 file did not arrive/)).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Choose the folder again to send them' }));
  choose('Choose the folder again', [file('a.bvh', 'night/a.bvh'), file('b.bvh', 'night/b.bvh')]);
  expect(await told('Sending 1 file')).toBeInTheDocument();
  expect((await sentTo(server, 'PUT', '/api/v1/jobs/job1/files/1')).body).toEqual(['b.bvh']);
  expect(server.to('PUT', '/api/v1/jobs/job1/files/0')).toHaveLength(0);
  choose('Choose the folder again', [file('z.bvh', 'other/z.bvh')]);
  expect(await told('None of these files is missing from the import')).toBeInTheDocument();
});

test('sending that stopped says why', async () => {
  stand(<IntakePlace />, {
    answers: {
      ...empty,
      'POST /api/v1/jobs/intake': { id: 'job1' },
      'GET /api/v1/jobs': [job({ counts: { waiting: 1, ready: 0, running: 0, done: 0, refused: 0, cancelled: 0 } })],
      'PUT /api/v1/jobs/job1/files/0': new Refused(403, 'Only who started it may send.'),
    },
  });
  choose('Choose a folder', [file('a.bvh', 'night/a.bvh')]);
  expect(await screen.findByText('Sending stopped: Only who started it may send.')).toBeInTheDocument();
});

test('a take’s bare skeleton joins the cast, and can leave it again', async () => {
  const { server, user } = stand(<IntakePlace />, {
    answers: {
      'GET /api/v1/intake': [ROW],
      'GET /api/v1/jobs': [],
      'POST /api/v1/cast': { id: 'c9', name: 'Deck walk skeleton' },
      'PATCH /api/v1/cast/c9': {},
    },
  });
  await user.click(await screen.findByRole('button', { name: 'Add its skeleton to the cast' }));
  expect((await sentTo(server, 'POST', '/api/v1/cast')).body).toEqual({ rigId: 'rig1', name: 'Deck walk skeleton' });
  expect(await told('Deck walk skeleton is in the cast')).toBeInTheDocument();
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/cast/c9')[0]!.body).toEqual({ binned: true });
});

const card = (j = job(), answers: Record<string, unknown> = {}, open = false) =>
  stand(
    <JobCard job={j} open={open} onOpen={() => undefined} onTable={() => undefined} onSendRest={() => undefined} />,
    {
      answers,
    },
  );
const counts = (more: Partial<ReturnType<typeof job>['counts']>) => ({ ...job().counts, ...more });

test.each([
  [45, '45 s left'],
  [600, '10 min left'],
  [9000, '2.5 h left'],
])('%d seconds are told as %s', (leftS, words) => {
  card(job({ leftS, counts: counts({ ready: 10, done: 10 }) }));
  expect(screen.getByText(new RegExp(`10 of 20 · ${words}`))).toBeInTheDocument();
  expect(screen.getByRole('progressbar')).toHaveAttribute('aria-valuenow', '50');
});

test('a job is paused, gone on with and cancelled; one that ended is not', async () => {
  const { user, server } = card(job({ counts: counts({ ready: 3 }) }), {
    'POST /api/v1/jobs/job1/pause': {},
    'POST /api/v1/jobs/job1/cancel': new Refused(403, 'Only who started a job can steer it.'),
  });
  await user.click(screen.getByRole('button', { name: 'Pause night' }));
  await sentTo(server, 'POST', '/api/v1/jobs/job1/pause');
  await user.click(screen.getByRole('button', { name: 'Cancel night; what is done stays' }));
  expect(await told('Only who started a job can steer it.')).toBeInTheDocument();
  const paused = card(job({ state: 'paused', counts: counts({ ready: 3 }) }), { 'POST /api/v1/jobs/job1/resume': {} });
  await paused.user.click(screen.getByRole('button', { name: 'Resume night' }));
  await sentTo(paused.server, 'POST', '/api/v1/jobs/job1/resume');
  const done = card(job({ state: 'done', endedAt: '2026-11-20T11:00:00Z', counts: counts({ done: 2, refused: 1 }) }), {
    'POST /api/v1/jobs/job1/retry': {},
  });
  expect(screen.queryByRole('button', { name: /Cancel|Pause/ })).toBeNull();
  expect(screen.getByText('1 refused')).toBeInTheDocument();
  await done.user.click(screen.getByRole('button', { name: 'Retry the refused files' }));
  await sentTo(done.server, 'POST', '/api/v1/jobs/job1/retry');
});

const report = (score: number, worst = '') => ({
  from: 's1',
  castId: 'winch',
  items: [{ id: `made${score}`, name: `Made ${score}` }],
  report: { score, slipCm: 0.02, floorCm: 0, directionDeg: 1.2, troubles: 0, worst },
});
const FITS = [
  part({ id: 'p1', number: 0, name: 'good', result: report(99) }),
  part({ id: 'p2', number: 1, name: 'poor', result: report(41, 'left knee snaps') }),
  part({ id: 'p3', number: 2, name: 'broken', state: 'refused', message: 'Its skeleton has no hips.' }),
  part({ id: 'p4', number: 3, name: 'fair', result: report(90) }),
  part({ id: 'p5', number: 4, name: 'not yet', state: 'ready' }),
];
const fit = job({ kind: 'fit', state: 'done', title: 'All onto Winch', counts: counts({ done: 3, refused: 1 }) });

test('the report of fittings stands worst first and opens each where it can be mended', async () => {
  card(fit, { 'GET /api/v1/jobs/job1/parts': FITS }, true);
  const names = (await screen.findAllByRole('checkbox')).map((c) => c.getAttribute('aria-label'));
  expect(names).toEqual(['Choose broken', 'Choose poor', 'Choose fair', 'Choose good']);
  expect(screen.getByRole('link', { name: 'poor' })).toHaveAttribute('href', '/fitting?item=s1&cast=winch');
  expect(screen.getByText(/slip 0\.02 cm · direction 1\.2° · left knee snaps/)).toBeInTheDocument();
  expect(screen.getByText('Its skeleton has no hips.')).toBeInTheDocument();
});

test('the bad ones are chosen at once and done again with other settings', async () => {
  const { user, server } = card(
    fit,
    { 'GET /api/v1/jobs/job1/parts': FITS, 'POST /api/v1/jobs/job1/redo': { again: 3 } },
    true,
  );
  await user.click(await screen.findByRole('button', { name: 'select all below 95' }));
  await user.click(screen.getByRole('button', { name: 'Do 3 again …' }));
  const dialog = await screen.findByRole('dialog', { name: 'Do 3 again' });
  await user.click(within(dialog).getByRole('switch', { name: 'Hold planted soles in place' }));
  await user.click(within(dialog).getByRole('switch', { name: 'Keep both hands the same distance apart' }));
  await user.click(within(dialog).getByRole('button', { name: 'Make them again' }));
  const sent = (await sentTo(server, 'POST', '/api/v1/jobs/job1/redo')).body as { parts: string[] };
  expect([...sent.parts].sort()).toEqual(['p2', 'p3', 'p4']);
  expect(sent).toMatchObject({ settings: { plants: false, hands: 'together' } });
  expect(await told('Making 3 fittings again; each becomes a new version of its item')).toBeInTheDocument();
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  expect(screen.getByRole('button', { name: 'Do chosen again …' })).toBeDisabled();
});

test('a redo that is refused keeps the dialog and what was set', async () => {
  const { user } = card(
    fit,
    {
      'GET /api/v1/jobs/job1/parts': FITS,
      'POST /api/v1/jobs/job1/redo': new Refused(409, 'The job is still going on.'),
    },
    true,
  );
  await user.click(await screen.findByRole('checkbox', { name: 'Choose fair' }));
  await user.click(screen.getByRole('button', { name: 'Do 1 again …' }));
  await user.click(await screen.findByRole('button', { name: 'Make them again' }));
  expect(await told('The job is still going on.')).toBeInTheDocument();
  expect(screen.getByRole('dialog')).toBeInTheDocument();
});

const CSV = `file,what,keyword
a.bvh,Hauls the line,rope
zz.bvh,Nobody has it,gone
`;
const intakeOf = (name: string, id: string) => ({
  ...ROW,
  id: `row-${id}`,
  fileName: `night/${name}.bvh`,
  result: { ...ROW.result, items: [{ id, name, frames: 10, fps: 30 }] },
});
const joined = (answers: Record<string, unknown> = {}) =>
  stand(<TableDialog open onOpenChange={closed} jobId="job1" given={null} />, {
    answers: { 'GET /api/v1/intake': [intakeOf('a', 'ia'), intakeOf('b', 'ib')], ...answers },
  });
const closed = jest.fn();
const table = (text: string, name = 'index.csv'): File => {
  const f = new File([text], name);
  // jsdom files cannot be read as text
  Object.defineProperty(f, 'text', { value: async () => text });
  return f;
};

test('a table is joined to files, previewed in three heaps, and written as one step', async () => {
  const { user, server } = joined({ 'PATCH /api/v1/items': { group: 'g', changed: 1 } });
  await user.upload(screen.getByLabelText('Choose a table'), table(CSV));
  expect(await screen.findByText('index.csv: 2 rows, 2 files')).toBeInTheDocument();
  expect(screen.getByRole('tab', { name: '1 matched' })).toHaveAttribute('aria-selected', 'true');
  await user.click(screen.getByRole('tab', { name: '1 row without a file' }));
  expect(screen.getByText('zz.bvh · Nobody has it · gone')).toBeInTheDocument();
  await user.click(screen.getByRole('tab', { name: '1 file without a row' }));
  expect(screen.getByText('night/b.bvh')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Describe 1 item' }));
  const { edits, label } = (await sentTo(server, 'PATCH', '/api/v1/items')).body as {
    edits: { id: string; change: Record<string, unknown> }[];
    label: string;
  };
  expect(label).toBe('Described 1 item from index.csv');
  expect(edits.map((e) => e.id)).toEqual(['ia']);
  expect(JSON.stringify(edits[0]!.change)).toContain('Hauls the line');
});

test.each([
  ['an empty table', '', 'empty.csv', /empty\.csv/],
  ['a quote that is not closed', 'file,what\na.bvh,"open', 'quote.csv', /quote is not closed/],
])('%s is refused with a sentence', async (_, text, name, words) => {
  const { user } = joined();
  await user.upload(screen.getByLabelText('Choose a table'), table(text, name));
  expect(await screen.findByText(words)).toBeInTheDocument();
  expect(screen.queryByRole('tablist')).toBeNull();
});

test('a column that was guessed wrongly is said to be something else, and only one column is each', async () => {
  const { user } = joined();
  await user.upload(screen.getByLabelText('Choose a table'), table(CSV));
  const what = await screen.findByRole('combobox', { name: 'What the column keyword holds' });
  await user.click(what);
  await user.click(await screen.findByRole('option', { name: 'file' }));
  expect(what).toHaveTextContent('file');
  expect(screen.getByRole('combobox', { name: 'What the column file holds' })).toHaveTextContent('not used');
  expect(screen.getByRole('tab', { name: '0 matched' })).toBeInTheDocument();
  expect(screen.getByRole('button', { name: 'Describe 0 items' })).toBeDisabled();
});
