import { beforeEach, expect, jest, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
import { FIT_DEFAULTS } from '@/wishes/wishes';
import { Refused, sentTo, stand, told } from '../test/interface';
import { folder, item, member } from '../test/things';
import { ExportDialog } from './export-dialog';
import { FitManyDialog } from './fit-many-dialog';

beforeEach(() => localStorage.clear());

const FILE = new Uint8Array([1, 2, 3]);
const PLACES = [
  { id: 'd1', name: 'Engine room', wish: { format: 'glb', mesh: false, sparse: true, folders: true, fps: 24 } },
];

function stood(more: Partial<Parameters<typeof ExportDialog>[0]> = {}, answers: Record<string, unknown> = {}) {
  const close = jest.fn();
  const s = stand(<ExportDialog open onOpenChange={close} itemId="i1" name="Deck walk" fps={30} {...more} />, {
    answers: {
      'GET /api/v1/destinations': PLACES,
      'GET /api/v1/items/i1/export': FILE,
      'POST /api/v1/items/i1/export': FILE,
      'GET /api/v1/export': FILE,
      ...answers,
    },
  });
  return { ...s, close };
}
const query = (path: string): Record<string, string> => Object.fromEntries(new URLSearchParams(path.split('?')[1]));

test('an item is saved as it is set, and the dialog closes', async () => {
  const { user, server, close } = stood();
  await user.click(screen.getByRole('switch', { name: 'Include the character’s mesh' }));
  await user.click(screen.getByRole('switch', { name: 'Leave out keys within 1 mm' }));
  await user.click(screen.getByRole('button', { name: 'Save as GLB' }));
  expect(query((await sentTo(server, 'GET', '/api/v1/items/i1/export')).path)).toEqual({
    format: 'glb',
    mesh: '0',
    keys: '1',
  });
  expect(await told('Deck walk.glb is saved')).toBeInTheDocument();
  expect(close).toHaveBeenCalledWith(false);
});

test('curves between the keys are asked for where keys are left out', async () => {
  const { user, server } = stood();
  expect(screen.queryByRole('switch', { name: 'Curves between the keys' })).toBeNull();
  await user.click(screen.getByRole('switch', { name: 'Leave out keys within 1 mm' }));
  await user.click(screen.getByRole('switch', { name: 'Curves between the keys' }));
  await user.click(screen.getByRole('button', { name: 'Save as GLB' }));
  expect(query((await sentTo(server, 'GET', '/api/v1/items/i1/export')).path)).toMatchObject({
    keys: '1',
    curves: 'smooth',
  });
});

test('what was set last time is set again, says so, and goes back to the first', async () => {
  localStorage.setItem('velvet-export', JSON.stringify({ format: 'csv' }));
  const { user } = stood();
  expect(screen.getByRole('button', { name: 'Save as CSV' })).toBeInTheDocument();
  expect(screen.queryByRole('switch', { name: /mesh/ })).toBeNull();
  await user.click(screen.getByRole('button', { name: 'Reset' }));
  expect(screen.getByRole('button', { name: 'Save as GLB' })).toBeInTheDocument();
});

test('settings that cannot be read any more do no harm', () => {
  localStorage.setItem('velvet-export', '{broken');
  stood();
  expect(screen.getByRole('button', { name: 'Save as GLB' })).toBeEnabled();
});

test.each(['0', '-3', 'abc', '1001', ''])('"%s" frames a second cannot be written', async (rate) => {
  const { user } = stood();
  const field = screen.getByLabelText('Frames a second');
  await user.clear(field);
  if (rate) await user.type(field, rate);
  expect(screen.getByText('Enter a number above 0, at most 1000.')).toBeInTheDocument();
  expect(screen.getByRole('button', { name: /Save as/ })).toBeDisabled();
});

test('another rate goes along, the own one does not', async () => {
  const { user, server } = stood();
  const field = screen.getByLabelText('Frames a second');
  await user.clear(field);
  await user.type(field, '24');
  await user.click(screen.getByRole('button', { name: 'Save as GLB' }));
  expect(query((await sentTo(server, 'GET', '/api/v1/items/i1/export')).path).fps).toBe('24');
});

test('a destination brings its settings in sight, and says when they are not as remembered', async () => {
  const { user, server } = stood({}, { 'PUT /api/v1/destinations': {} });
  await user.type(screen.getByLabelText('Destination'), 'Engine room');
  expect(
    await screen.findByText(
      /Set as remembered for Engine room: GLB, without a mesh, keys left out within 1 mm, 24 frames/,
    ),
  ).toBeInTheDocument();
  expect(screen.getByLabelText<HTMLInputElement>('Frames a second').value).toBe('24');
  await user.click(screen.getByRole('switch', { name: /mesh/ }));
  expect(screen.getByText(/^Differs from what is remembered for Engine room: GLB, with the mesh/)).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Remember these settings' }));
  expect((await sentTo(server, 'PUT', '/api/v1/destinations')).body).toEqual({
    name: 'Engine room',
    wish: { format: 'glb', mesh: true, sparse: true, curved: false, folders: true, fps: 24 },
  });
});

test('many go out as one archive, each at its own rate unless one is given, onto the performer if wished', async () => {
  const { user, server } = stood({ many: ['a', 'b', 'c'], name: '3 items', performer: { id: 'pip', name: 'Pip' } });
  await user.click(screen.getByRole('switch', { name: 'Fit onto Pip first' }));
  await user.click(screen.getByRole('button', { name: 'Save 3 as ZIP' }));
  expect(query((await sentTo(server, 'GET', '/api/v1/export')).path)).toEqual({
    format: 'glb',
    mesh: '1',
    ids: 'a,b,c',
    folders: '1',
    onto: 'pip',
  });
});

test('more than an archive holds is said before', () => {
  stood({ many: Array.from({ length: 501 }, (_, i) => `i${i}`) });
  expect(screen.getByText(/at most 500 items/)).toBeInTheDocument();
  expect(screen.getByRole('button', { name: 'Save 500 as ZIP' })).toBeEnabled();
});

test('a fitting with edits by hand is sent in full, not in the address', async () => {
  const edits = { frames: 65, plants: [], goals: [], looks: [], corrections: [] };
  const { user, server } = stood({ onto: { id: 'winch', name: 'Winch', settings: FIT_DEFAULTS, edits } });
  expect(screen.getByText('fitted to Winch')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Save as GLB' }));
  expect((await sentTo(server, 'POST', '/api/v1/items/i1/export')).body).toEqual({
    format: 'glb',
    mesh: true,
    curves: 'straight',
    fps: null,
    keys: null,
    onto: 'winch',
    settings: FIT_DEFAULTS,
    edits,
  });
});

test('a file that cannot be written says why, and the dialog stays with everything set', async () => {
  const { user, close } = stood({}, { 'GET /api/v1/items/i1/export': new Refused(422, 'Its skeleton has no hips.') });
  await user.click(screen.getByRole('button', { name: 'Save as GLB' }));
  expect(await told('Its skeleton has no hips.')).toBeInTheDocument();
  expect(close).not.toHaveBeenCalled();
  await waitFor(() => expect(screen.getByRole('button', { name: 'Save as GLB' })).toBeEnabled());
});

const CAST = [member(), member({ id: 'pip', name: 'Pip' })];
const FOLDERS = [
  folder(),
  folder({ id: 'f2', parentId: 'f1', name: 'Night', n: 4 }),
  folder({ id: 'f3', name: 'Harbour wall', n: 9 }),
];

/** Goes away when it is closed, as on a page. */
function Closing({ onClose }: { onClose: () => void }) {
  const [open, setOpen] = useState(true);
  const close = (): void => {
    onClose();
    setOpen(false);
  };
  return open && <FitManyDialog onClose={close} items={[item({ id: 'a' }), item({ id: 'b' })]} castIds={['winch']} />;
}

test('a selection goes onto several characters as one job, with a report to open', async () => {
  const close = jest.fn();
  const { user, server, router } = stand(<Closing onClose={close} />, {
    answers: {
      'GET /api/v1/cast': CAST,
      'GET /api/v1/folders': FOLDERS,
      'POST /api/v1/jobs/fit': { id: 'job9', parts: 4 },
    },
  });
  expect(screen.getByRole('dialog', { name: 'Fit 2 items' })).toBeInTheDocument();
  await user.click(await screen.findByRole('checkbox', { name: 'Pip' }));
  const rule = screen.getByLabelText(/^Names/);
  await user.clear(rule);
  await user.type(rule, '{{character} {{item}');
  expect(screen.getByText('for example: Winch Deck walk')).toBeInTheDocument();
  await user.type(screen.getByLabelText('Into the folder'), ' Made / Night ');
  await user.click(screen.getByRole('button', { name: 'Fit onto Winch, Pip' }));
  expect((await sentTo(server, 'POST', '/api/v1/jobs/fit')).body).toMatchObject({
    itemIds: ['a', 'b'],
    castIds: ['winch', 'pip'],
    own: true,
    nameRule: '{character} {item}',
    folder: 'Made / Night',
  });
  expect(close).toHaveBeenCalledTimes(1);
  await told('4 fittings started');
  await user.click(screen.getByRole('button', { name: 'Report' }));
  expect(router.push).toHaveBeenCalledWith('/intake?job=job9');
});

test('settings are made for all, and otherwise for single ones', async () => {
  const { user, server } = stand(
    <FitManyDialog
      onClose={() => undefined}
      items={[item({ id: 'a', name: 'Haul' }), item({ id: 'b', name: 'Heave' }), item({ id: 'c', name: 'Row' })]}
      castIds={['winch']}
    />,
    {
      answers: {
        'GET /api/v1/cast': CAST,
        'GET /api/v1/folders': [],
        'POST /api/v1/jobs/fit': { id: 'j', parts: 3 },
      },
    },
  );
  await user.click(screen.getByRole('switch', { name: 'Keep both hands the same distance apart' }));
  // what is set for one begins with what is set for all
  await user.click(screen.getByRole('button', { name: /^Heave/ }));
  expect(screen.getByRole('switch', { name: 'Keep both hands the same distance apart' })).toBeChecked();
  await user.click(screen.getByRole('switch', { name: 'Hold planted soles in place' }));
  await user.click(screen.getByRole('button', { name: /^Row/ }));
  await user.click(screen.getByRole('switch', { name: 'Keep arms and head within joint limits' }));
  await user.click(screen.getByRole('button', { name: 'Row: same as all' }));
  expect(screen.getByRole('button', { name: /^Row/ })).toHaveTextContent('same as all');
  await user.click(await screen.findByRole('button', { name: 'Fit onto Winch' }));
  const { body } = await sentTo(server, 'POST', '/api/v1/jobs/fit');
  expect(body).toMatchObject({
    settings: { hands: 'together', plants: true, clear: true, limits: false },
    perItem: { b: { hands: 'together', plants: false } },
  });
  expect(Object.keys((body as { perItem: object }).perItem)).toEqual(['b']);
});

test('a whole folder counts what lies below it, and not its namesake', async () => {
  const { user, server } = stand(
    <FitManyDialog onClose={() => undefined} items={[]} folderId="f1" castIds={['winch']} />,
    {
      answers: {
        'GET /api/v1/cast': CAST,
        'GET /api/v1/folders': FOLDERS,
        'POST /api/v1/jobs/fit': { id: 'j', parts: 7 },
      },
    },
  );
  expect(await screen.findByText('Everything in Harbour and below, 7 items.')).toBeInTheDocument();
  await user.click(await screen.findByRole('button', { name: 'Fit onto Winch' }));
  expect((await sentTo(server, 'POST', '/api/v1/jobs/fit')).body).toMatchObject({ folderIds: ['f1'] });
});

test('without a character nothing can start; a refusal is told and the dialog stays', async () => {
  const close = jest.fn();
  const { user } = stand(<FitManyDialog onClose={close} items={[item({ kind: 'pack' })]} castIds={[]} />, {
    answers: {
      'GET /api/v1/cast': CAST,
      'GET /api/v1/folders': [],
      'POST /api/v1/jobs/fit': new Refused(403, 'Restricted folder.'),
    },
  });
  expect(screen.getByRole('button', { name: 'Choose a character' })).toBeDisabled();
  expect(screen.getByText(/Packs and links between variants are rebuilt/)).toBeInTheDocument();
  await user.click(await screen.findByRole('checkbox', { name: 'Pip' }));
  await user.click(screen.getByRole('button', { name: 'Fit onto Pip' }));
  expect(await told('Restricted folder.')).toBeInTheDocument();
  expect(close).not.toHaveBeenCalled();
});
