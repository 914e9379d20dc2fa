import { expect, jest, test } from '@jest/globals';
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { defaultLimits } from '@velvet-reel/motion';
import { useUndo } from '@/client/undo';
import type { RigAnswer } from '@/contract';
import type { RigSetting } from '@/documents/rig-setup';
import { Clock } from '@/stage/clock';
import { pick, Refused, sentTo, stand, told } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { item, member } from '@/test/things';
import { buildRig, PLAIN, posedRig } from '../../../motion/test/bodies';
import { ExportCharacterDialog } from './export-character-dialog';
import { ProofWords } from './proof-words';
import { ReplaceDialog } from './replace-dialog';
import { SpaceRow } from './space-row';
import { StandInDialog } from './stand-in-dialog';
import { AboutTab } from './tabs/about-tab';
import { BodyTab } from './tabs/body-tab';
import { LimitsTab } from './tabs/limits-tab';
import { MadeTab } from './tabs/made-tab';
import { RestTab } from './tabs/rest-tab';
import { SidesTab } from './tabs/sides-tab';

const FOUND = {
  upAxis: 'y',
  facing: 'z',
  metresPerUnit: 0.01,
  certainty: 'sure',
  unitWhy: 'read as centimetres: the body is then 1.75 m tall',
} as never;
const WINCH = member({ found: FOUND });

test('what a character is stands beside what will and will not work with it', () => {
  stand(<AboutTab member={WINCH} rig={rigAnswer()} figure={undefined} variantOf={undefined} mayChange />);
  expect(screen.getByText('1.40 m')).toBeInTheDocument();
  expect(screen.getByText('1,200 vertices')).toBeInTheDocument();
  expect(screen.getByText(/the body is then 1\.75 m tall/)).toBeInTheDocument();
  const list = screen.getByText('What works and what does not').parentElement!;
  expect(within(list).getAllByRole('listitem').length).toBeGreaterThan(2);
});

test('a skeleton without hips is told to stop, before anybody tries', () => {
  const rig = rigAnswer();
  const hips = { ...rig.map.slots.hips!, joint: null, state: 'missing' as const };
  const without = { ...rig, map: { ...rig.map, slots: { ...rig.map.slots, hips } } };
  stand(
    <AboutTab
      member={WINCH}
      rig={without}
      figure={undefined}
      variantOf={member({ name: 'Old Winch' })}
      mayChange={false}
    />,
  );
  expect(screen.getAllByLabelText('does not work').length).toBeGreaterThan(0);
  expect(screen.getByText(/A copy of Old Winch; changing it leaves the original alone/)).toBeInTheDocument();
  expect(screen.queryByText('Imported wrongly?')).toBeNull();
});

test('a note is kept as a step that goes back', async () => {
  const { user, server } = stand(
    <AboutTab member={WINCH} rig={rigAnswer()} figure={undefined} variantOf={undefined} mayChange />,
    { answers: { 'PATCH /api/v1/cast/winch': { undo: { note: '' } } } },
  );
  await user.type(screen.getByLabelText('Note'), 'wheels for feet{Enter}');
  expect((await sentTo(server, 'PATCH', '/api/v1/cast/winch')).body).toEqual({ note: 'wheels for feet' });
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Changed the note of Winch'));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/cast/winch').at(-1)!.body).toEqual({ note: '' });
});

test('size and direction that were read wrongly are put right in one step; nothing is offered before one is chosen', async () => {
  const { user, server } = stand(<SpaceRow member={WINCH} />, {
    answers: {
      'POST /api/v1/cast/winch/space': { undo: { figure: { rigId: 'old' } } },
      'PATCH /api/v1/cast/winch': {},
    },
  });
  expect(screen.queryByRole('button', { name: 'Correct it' })).toBeNull();
  await pick(user, 'Size', '100 × smaller');
  await pick(user, 'Direction', 'turn around');
  await user.click(screen.getByRole('button', { name: 'Correct it' }));
  expect((await sentTo(server, 'POST', '/api/v1/cast/winch/space')).body).toEqual({ scale: 0.01, turn: 'around' });
  await waitFor(() => expect(useUndo.getState().steps).toHaveLength(1));
  await useUndo.getState().steps[0]!.undo();
  expect(server.to('PATCH', '/api/v1/cast/winch')[0]!.body).toEqual({ figure: { rigId: 'old' } });
});

test('proportions, the state of the map and face shapes are told; a shape is tried', async () => {
  const face = jest.fn();
  const { user } = stand(<BodyTab member={WINCH} rig={rigAnswer()} shapes={['smile']} faces={{}} onFace={face} />);
  expect(screen.getByText(/Compared with an average body of the same height, 1\.75 m/)).toBeInTheDocument();
  expect(screen.getAllByText(/^\d+\.\d cm$/).length).toBeGreaterThan(5);
  expect(screen.getByText(/\d+ sure, \d+ guessed, \d+ missing/)).toBeInTheDocument();
  expect(screen.getByRole('link', { name: 'open it in Fitting' })).toHaveAttribute('href', '/fitting?cast=winch');
  screen.getByRole('slider', { name: 'smile' }).focus();
  await user.keyboard('{ArrowRight}');
  expect(face).toHaveBeenCalledWith('smile', 0.05);
});

const limits = (rig: RigAnswer, set = jest.fn(), mayChange = true) => {
  stand(<LimitsTab rig={rig} mayChange={mayChange} onSet={set} />);
  return set;
};
const common = defaultLimits();
const degrees = (label: string): HTMLInputElement => screen.getByLabelText<HTMLInputElement>(label);
const write = (field: HTMLInputElement, value: string): void => {
  fireEvent.change(field, { target: { value } });
  fireEvent.blur(field);
};

test('a limit that is changed makes them the rig’s own, with everything else as it was', () => {
  const set = limits(rigAnswer());
  const swing = screen.getAllByLabelText(/^Swing of/)[0] as HTMLInputElement;
  const name = swing.getAttribute('aria-label')!.replace('Swing of ', '');
  write(swing, '33');
  const [setting, label] = set.mock.calls[0] as [RigSetting, string];
  expect(label).toBe(`Changed the limit of the ${name}`);
  const [slot] = Object.keys(common);
  expect(setting.limits![slot!]).toEqual({ ...common[slot!], cone: 33 });
  for (const other of Object.keys(common).slice(1)) expect(setting.limits![other]).toEqual(common[other]);
});

test('what no joint can do is not taken, and the field says again what is in force', () => {
  const set = limits(rigAnswer());
  const hinge = Object.entries(common).find(([, l]) => l?.hinge)!;
  const from = screen.getAllByLabelText(/bends from$/)[0] as HTMLInputElement;
  write(from, String(hinge[1]!.hinge!.to + 1));
  expect(Number(from.value)).toBe(hinge[1]!.hinge!.from);
  write(from, '');
  expect(set.mock.calls.length).toBeLessThanOrEqual(1);
  const swing = screen.getAllByLabelText(/^Swing of/)[0] as HTMLInputElement;
  write(swing, '-1');
  write(swing, '181');
  expect(Number(swing.value)).toBe(common[Object.keys(common)[0]!]!.cone);
});

test('own limits are marked, put back one by one, or all at once; whoever may only look changes none', async () => {
  const [slot] = Object.keys(common);
  const own = rigAnswer({ limits: { ...common, [slot!]: { ...common[slot!]!, cone: 12 } } });
  const set = limits(own);
  expect(screen.getByText(/It has its own limits/)).toBeInTheDocument();
  const back = screen.getAllByRole('button', { name: /to the standard limit$/ });
  fireEvent.click(back[0]!);
  expect((set.mock.calls[0]![0] as RigSetting).limits![slot!]).toEqual(common[slot!]);
  fireEvent.click(screen.getByRole('button', { name: 'Reset all to the standard limits' }));
  expect(set).toHaveBeenLastCalledWith({ limits: null }, 'Went back to the standard limits');
  limits(own, jest.fn(), false);
  expect(degrees(screen.getAllByLabelText(/^Swing of/)[0]!.getAttribute('aria-label')!)).toBeDisabled();
  expect(screen.queryByRole('button', { name: 'Reset all to the standard limits' })).toBeNull();
});

const rest = (rig: RigAnswer, set = jest.fn(), answers: Record<string, unknown> = {}) => ({
  set,
  ...stand(
    <RestTab
      member={WINCH}
      rig={rig}
      mayChange
      comparing={false}
      onCompare={() => undefined}
      posing={null}
      onPosing={() => undefined}
      onSet={set}
    />,
    {
      answers: {
        'GET /api/v1/cast': [WINCH, member({ id: 'pip', name: 'Pip' })],
        'GET /api/v1/items': { items: [], found: 0, total: 0 },
        ...answers,
      },
    },
  ),
});

test('the pose for matching says where it is from, and goes back to the bind pose', async () => {
  const { user, set } = rest(rigAnswer({ match: { turns: [], how: 'the left arm' } }));
  expect(screen.getByText(/A matching pose is set: the left arm\. The bind pose is unchanged/)).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Back to the bind pose' }));
  expect(set).toHaveBeenCalledWith(null, 'Went back to the bind pose');
  rest(rigAnswer());
  expect(screen.getByRole('button', { name: 'Back to the bind pose' })).toBeDisabled();
  expect(await screen.findByText('No motion with that name is on this skeleton.')).toBeInTheDocument();
});

test('a like rig’s pose is borrowed; one without a namesake lends nothing and says so', async () => {
  const lender = rigAnswer({ id: 'rig2' }, posedRig(45));
  const { user, set } = rest(rigAnswer(), jest.fn(), { 'GET /api/v1/cast/pip/rig': lender });
  const choose = async (): Promise<void> => {
    await pick(user, 'Whose pose', 'Pip');
    await waitFor(() => expect(screen.getByRole('button', { name: 'Copy' })).toBeEnabled());
    await user.click(screen.getByRole('button', { name: 'Copy' }));
  };
  await choose();
  const [match, label] = set.mock.calls[0] as [RigAnswer['match'], string];
  expect(label).toBe('Copied the pose of Pip');
  expect(match!.turns).toHaveLength(4 * lender.rig.joints.length);
  const strange = rigAnswer(
    { id: 'rig3' },
    buildRig(PLAIN, (n) => `x ${n}`),
  );
  const other = rest(rigAnswer(), jest.fn(), { 'GET /api/v1/cast/pip/rig': strange });
  await pick(other.user, 'Whose pose', 'Pip');
  await waitFor(() => expect(screen.getByRole('button', { name: 'Copy' })).toBeEnabled());
  await other.user.click(screen.getByRole('button', { name: 'Copy' }));
  expect(await told(/Winch and Pip have no joint names in common/)).toBeInTheDocument();
  expect(other.set).not.toHaveBeenCalled();
});

test('a frame outside the motion is refused with the frames there are', async () => {
  const takes = [
    item({ id: 't1', name: 'Roll call', rigId: 'rig1' }),
    item({ id: 't2', name: 'Roll over', rigId: 'another' }),
    item({ id: 't3', name: 'Rolls', rigId: 'rig1', kind: 'pack' }),
  ];
  const { user, set, server } = rest(rigAnswer(), jest.fn(), {
    'GET /api/v1/items': { items: takes, found: 3, total: 3 },
  });
  await user.type(screen.getByRole('searchbox', { name: 'Which motion' }), 'roll');
  await waitFor(() => expect(server.to('GET', '/api/v1/items').at(-1)!.path).toContain('q=roll'));
  // what is on another skeleton, or is no motion, is not offered
  expect(screen.queryByRole('button', { name: /^Roll over/ })).toBeNull();
  expect(screen.queryByRole('button', { name: /^Rolls/ })).toBeNull();
  await user.click(screen.getByRole('button', { name: /^Roll call/ }));
  await user.clear(screen.getByLabelText('Frame to take'));
  await user.type(screen.getByLabelText('Frame to take'), '66');
  await user.click(screen.getByRole('button', { name: 'Take' }));
  expect(await told('Enter a frame from 1 to 65.')).toBeInTheDocument();
  expect(set).not.toHaveBeenCalled();
});

const sides = (rig: RigAnswer, mayChange = true) => {
  const set = jest.fn();
  const lit = jest.fn();
  return { set, lit, ...stand(<SidesTab rig={rig} mayChange={mayChange} onLit={lit} onSet={set} />) };
};

test('partners are counted, light up when pointed at, and are paired by hand', async () => {
  const { user, set, lit } = sides(rigAnswer());
  expect(screen.getByText(/\d+ pairs/)).toBeInTheDocument();
  fireEvent.pointerEnter(screen.getAllByRole('listitem')[0]!);
  expect(lit).toHaveBeenLastCalledWith([expect.any(Number), expect.any(Number)]);
  fireEvent.pointerLeave(screen.getAllByRole('listitem')[0]!);
  expect(lit).toHaveBeenLastCalledWith(undefined);
  const names = rigAnswer().rig.joints.map((j) => j.name);
  const [left, right] = [names.find((n) => /^Left/.test(n))!, names.find((n) => /^Right/.test(n))!];
  await pick(user, 'Left joint', left);
  await pick(user, 'Right joint', right);
  await user.click(screen.getByRole('button', { name: 'Pair' }));
  expect(set).toHaveBeenCalledWith({ pairs: [[left, right]] }, `Paired ${left} with ${right}`);
});

test('a set of joints is gathered from regions, named, replaced under the same name, and taken away', async () => {
  const rig = rigAnswer({ sets: [{ name: 'arms', joints: ['RightHand', 'LeftHand', 'gone'] }] });
  const { user, set, lit } = sides(rig);
  const own = screen.getByTitle('RightHand, LeftHand, gone').parentElement!;
  fireEvent.pointerEnter(own);
  const names = rig.rig.joints.map((j) => j.name);
  expect(lit).toHaveBeenLastCalledWith([names.indexOf('LeftHand'), names.indexOf('RightHand')]);
  expect(screen.getByRole('button', { name: /^Keep/ })).toBeDisabled();
  await user.click(screen.getByRole('button', { name: 'left arm' }));
  await user.click(screen.getByRole('button', { name: 'right arm' }));
  await user.type(screen.getByLabelText('Name of the new set'), 'arms');
  await user.click(screen.getByRole('button', { name: /^Keep \d+/ }));
  const [{ sets }, label] = set.mock.calls[0] as [RigSetting, string];
  expect(label).toBe('Made the set arms');
  expect(sets).toHaveLength(1);
  expect(sets![0]!.joints).toEqual(expect.arrayContaining(['LeftHand', 'RightHand', 'LeftForeArm']));
  expect(sets![0]!.joints.some((j) => /Leg|Foot/.test(j))).toBe(false);
  await user.click(screen.getByRole('button', { name: 'Delete the set arms' }));
  expect(set).toHaveBeenLastCalledWith({ sets: [] }, 'Deleted the set arms');
  sides(rig, false);
  expect(screen.queryByLabelText('Name of the new set')).toBeNull();
});

test('a set can begin with what a stored item holds', async () => {
  const { user } = stand(<SidesTab rig={rigAnswer()} mayChange onLit={jest.fn()} onSet={jest.fn()} />, {
    answers: {
      'GET /api/v1/items': {
        items: [item({ id: 't0', name: 'A wave' }), item({ id: 't1', name: 'Wave', rigId: 'gone' })],
        found: 2,
        total: 2,
      },
      'GET /api/v1/rigs/gone': new Refused(404, 'The rig is not there any more.'),
    },
  });
  await user.click(screen.getByText('Take the joints of an item'));
  await user.type(screen.getByRole('searchbox', { name: 'Item to take the joints from' }), 'wave');
  // what is called so stands first
  await waitFor(() => expect(screen.getAllByRole('button', { name: /wave/i })[0]).toHaveTextContent(/^Wave/));
  await user.click(screen.getAllByRole('button', { name: /wave/i })[0]!);
  expect(await told('The rig is not there any more.')).toBeInTheDocument();
  expect(screen.getByRole('button', { name: 'Keep' })).toBeDisabled();
});

const MADE = [
  {
    id: 'm1',
    name: 'Walk on Winch',
    sourceId: 's1',
    sourceName: 'Deck walk',
    madeAt: '2026-11-20T10:00:00Z',
    reasons: [],
    possible: true,
    versionId: 'v1',
  },
  {
    id: 'm2',
    name: 'Haul on Winch',
    sourceId: 's2',
    sourceName: 'Haul',
    madeAt: '2026-11-19T10:00:00Z',
    reasons: ['its source was changed'],
    possible: true,
    versionId: 'v2',
  },
  {
    id: 'm3',
    name: 'Lost on Winch',
    sourceId: 's3',
    sourceName: 'Lost',
    madeAt: '2026-11-18T10:00:00Z',
    reasons: ['its source is gone'],
    possible: false,
    versionId: 'v3',
  },
];
const made = (list: unknown, answers: Record<string, unknown> = {}, role: 'animator' | 'viewer' = 'animator') =>
  stand(<MadeTab member={WINCH} mayChange={role !== 'viewer'} />, {
    answers: { 'GET /api/v1/cast/winch/fittings': list, ...answers },
    me: { role },
  });

test('fittings done with a character are listed, out of date ones first to be made again', async () => {
  const { user, server } = made(MADE, {
    'GET /api/v1/items/m2': item({ id: 'm2', versionId: 'v2' }),
    'POST /api/v1/items/m2/fit-again': { group: 'g' },
    'POST /api/v1/history/g/undo': {},
  });
  expect(await screen.findByText(/2 of 3 are out of date/)).toBeInTheDocument();
  expect(screen.getByText(/its source is gone/)).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Fit all of them again' }));
  expect((await sentTo(server, 'POST', '/api/v1/items/m2/fit-again')).body).toEqual({ seen: 'v2' });
  expect(server.to('POST', '/api/v1/items/m3/fit-again')).toHaveLength(0);
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Fitted Haul on Winch again'));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('POST', '/api/v1/history/g/undo')).toHaveLength(1);
});

test('a stand-in is added with its height and rest, and taken back; an impossible height is not', async () => {
  const [made, close] = [jest.fn(), jest.fn()];
  const { user, server } = stand(<StandInDialog onClose={close} onMade={made} />, {
    answers: {
      'POST /api/v1/cast/stand-in': member({ id: 'si', name: 'Deckhand' }),
      'PATCH /api/v1/cast/si': {},
    },
  });
  const height = screen.getByLabelText('Height in metres');
  await user.clear(height);
  await user.type(height, '9');
  expect(screen.getByRole('button', { name: 'Add to the cast' })).toBeDisabled();
  expect(screen.getByText('From 0.3 to 5 m.')).toBeInTheDocument();
  await user.clear(height);
  await user.type(height, '1,9');
  await user.clear(screen.getByLabelText('Name'));
  await user.type(screen.getByLabelText('Name'), 'Deckhand');
  await user.click(screen.getByRole('radio', { name: 'slanting down (A-pose)' }));
  await user.click(screen.getByRole('button', { name: 'Add to the cast' }));
  expect((await sentTo(server, 'POST', '/api/v1/cast/stand-in')).body).toEqual({
    name: 'Deckhand',
    rest: 'A',
    heightM: 1.9,
  });
  await waitFor(() => expect(made).toHaveBeenCalledWith('si'));
  expect(close).toHaveBeenCalled();
  await useUndo.getState().steps.at(-1)!.undo();
  expect((await sentTo(server, 'PATCH', '/api/v1/cast/si')).body).toEqual({ binned: true });
});

test('a character goes out with what was made for it on its skeleton, or without', async () => {
  URL.createObjectURL = () => 'blob:x';
  URL.revokeObjectURL = () => undefined;
  const close = jest.fn();
  const all = [
    item({ id: 'a', name: 'Haul on Winch', madeFor: 'winch', rigId: WINCH.rigId }),
    item({ id: 'b', name: 'Row on Winch', madeFor: 'winch', rigId: WINCH.rigId }),
    item({ id: 'c', name: 'On its old skeleton', madeFor: 'winch', rigId: 'older' }),
    item({ id: 'd', name: 'Made for a namesake', madeFor: 'other', rigId: WINCH.rigId }),
  ];
  const { user, server } = stand(<ExportCharacterDialog member={{ ...WINCH, assets: {} }} onClose={close} />, {
    answers: {
      'GET /api/v1/items': { items: all, found: 4, total: 4 },
      'POST /api/v1/cast/winch/export': new Uint8Array([1, 2, 3]),
    },
  });
  expect(await screen.findByText('Motion in it: 2 of 2')).toBeInTheDocument();
  expect(screen.getByText('This character has no mesh: the file will contain only joints.')).toBeInTheDocument();
  await user.click(screen.getByRole('checkbox', { name: /^Row on Winch/ }));
  expect(screen.queryByRole('switch', { name: 'Curves between the keys' })).toBeNull();
  await user.click(screen.getByRole('switch', { name: 'Leave out keys within 1 mm' }));
  await user.click(screen.getByRole('switch', { name: 'Curves between the keys' }));
  await user.click(screen.getByRole('button', { name: 'Save the file' }));
  expect((await sentTo(server, 'POST', '/api/v1/cast/winch/export')).body).toEqual({
    itemIds: ['a'],
    mesh: false,
    keys: 1,
    curves: 'smooth',
    vrm: false,
  });
  await told('Winch.glb is saved');
  expect(close).toHaveBeenCalled();
});

test('what should move now is said while the joints are tried, and what cannot', () => {
  const clock = new Clock();
  clock.load(90, 30);
  const steps = [
    { start: 0, text: 'the head nods', missing: [] },
    { start: 30, text: 'the fingers close', missing: ['thumb 1 left'] },
  ];
  stand(<ProofWords clock={clock} steps={steps} />);
  expect(screen.getByText('the head nods')).toBeInTheDocument();
  act(() => clock.seekFrame(45));
  expect(screen.getByText('the fingers close: skipped, no joint for thumb 1 left')).toBeInTheDocument();
});

test('several that are out of date are made again as one job; taking it back stops what is not done', async () => {
  const { user, server, router } = made(
    MADE.map((m) => ({ ...m, possible: true })),
    {
      'POST /api/v1/jobs/fit-again': { id: 'job7', parts: 2 },
      'POST /api/v1/jobs/job7/cancel': new Refused(400, 'It has ended.'),
      'POST /api/v1/history/job7/undo': {},
    },
  );
  await user.click(await screen.findByRole('button', { name: 'Fit all of them again' }));
  expect((await sentTo(server, 'POST', '/api/v1/jobs/fit-again')).body).toEqual({ itemIds: ['m2', 'm3'] });
  await told('Fitting 2 items again in one job; each becomes a new version of its item');
  await user.click(screen.getByRole('button', { name: 'Report' }));
  expect(router.push).toHaveBeenCalledWith('/intake?job=job7');
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('POST', '/api/v1/jobs/job7/cancel')).toHaveLength(1);
  expect(server.to('POST', '/api/v1/history/job7/undo')).toHaveLength(1);
});

test('a character that nothing was made for says what to do; one that cannot be read says why', async () => {
  made([]);
  expect(await screen.findByText(/No fittings for it yet/)).toBeInTheDocument();
  expect(screen.getByRole('link', { name: 'Fit a motion' })).toHaveAttribute('href', '/fitting?cast=winch');
  made(new Refused(500, 'The database is away.'));
  expect(await screen.findByText('The database is away.')).toBeInTheDocument();
  made(MADE, {}, 'viewer');
  await screen.findByText(/2 of 3 are out of date/);
  expect(screen.queryByRole('button', { name: /again/ })).toBeNull();
});

const REPORT = {
  differences: {
    same: false,
    added: ['Tail', 'TailTip'],
    removed: ['ToeL'],
    reparented: [{ joint: 'HandL', from: 'ForearmL', to: 'WristL' }],
    moved: [{ joint: 'Head', by: 0.034 }],
    turned: [{ joint: 'Hips', degrees: 90 }],
  },
  slotsKept: 17,
  slotsLost: [{ slot: 'toesL', joint: 'ToeL' }],
  setsCut: ['left foot'],
  itemsMadeFor: 3,
  fittings: 2,
  mesh: { before: 1200, after: 0 },
};

test('another file is weighed before it takes the place: what changes, what is lost, what is touched', async () => {
  const close = jest.fn();
  const { user, server } = stand(<ReplaceDialog member={WINCH} onClose={close} />, {
    answers: {
      'POST /api/v1/cast/winch/replacement?check=1': { report: REPORT },
      'POST /api/v1/cast/winch/replacement': { undo: { figure: { rigId: 'old' } } },
      'PATCH /api/v1/cast/winch': {},
    },
  });
  await user.upload(screen.getByLabelText('New file'), new File(['x'], 'winch2.glb'));
  expect(await screen.findByText('Tail, TailTip')).toBeInTheDocument();
  expect(screen.getByText('HandL from ForearmL to WristL')).toBeInTheDocument();
  expect(screen.getByText('Head by 3.4 cm')).toBeInTheDocument();
  expect(screen.getByText('Hips by 90°')).toBeInTheDocument();
  expect(screen.getByText(/1 lose their joint: .*\(ToeL\)/)).toBeInTheDocument();
  expect(screen.getByText(/Joint sets that lose joints: left foot/)).toBeInTheDocument();
  expect(
    screen.getByText(/The file has no mesh.*Made for it so far: 3 items, of which 2 fittings/),
  ).toBeInTheDocument();
  expect(server.sent.filter((s) => s.method === 'POST').map((s) => s.path)).toEqual([
    '/api/v1/cast/winch/replacement?check=1',
  ]);
  await user.click(screen.getByRole('button', { name: 'Replace' }));
  await waitFor(() => expect(close).toHaveBeenCalled());
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/cast/winch')[0]!.body).toEqual({ figure: { rigId: 'old' } });
});

test('a file that cannot be read says why, and another can be chosen', async () => {
  const { user } = stand(<ReplaceDialog member={WINCH} onClose={() => undefined} />, {
    answers: { 'POST /api/v1/cast/winch/replacement?check=1': new Refused(422, 'x.glb: there is no skeleton in it.') },
  });
  await user.upload(screen.getByLabelText('New file'), new File(['x'], 'x.glb'));
  expect(await told('x.glb: there is no skeleton in it.')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Replace' })).toBeNull();
  expect(screen.getByRole('button', { name: /Choose a GLB/ })).toBeEnabled();
});
