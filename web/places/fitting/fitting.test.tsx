import { expect, jest, test } from '@jest/globals';
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { useRig } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { RigAnswer } from '@/contract';
import { applyWrites } from '@/documents/cells';
import { RIG_SETUP } from '@/documents/rig-setup';
import type { Batch } from '@/documents/shared-document';
import { rigView } from '@/stage/rig-view';
import { turnedBy } from '@/stage/turned-by';
import { pick, Refused, type Sent, sentTo, stand, told } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { item, member } from '@/test/things';
import { Tabs } from '@/ui/tabs';
import { FIT_DEFAULTS, type FitSettings } from '@/wishes/wishes';
import { posedRig } from '../../../motion/test/bodies';
import { Braid } from './braid';
import { Lacking } from './lacking';
import { PaneTabs } from './panes/pane-tabs';
import { litJoints, slotOf } from './pointing';
import { SettingsPanel } from './settings-panel';
import { useKeep } from './use-keep';
import { type MapEditor, useMap } from './use-map';

const source = rigAnswer({ id: 'rig-s' });
const target = rigAnswer({ id: 'rig-t' }, posedRig(45, 0.8));
const withSlot = (rig: RigAnswer, slot: string, entry: Partial<RigAnswer['map']['slots'][string]>): RigAnswer => ({
  ...rig,
  map: { ...rig.map, slots: { ...rig.map.slots, [slot]: { ...rig.map.slots[slot]!, ...entry } as never } },
});

function braid(
  t: RigAnswer = target,
  moving: string[] = [],
  answers: Record<string, unknown> = {},
  from: RigAnswer = source,
) {
  const editor = {
    setSlot: jest.fn<MapEditor['setSlot']>(),
    acceptGuesses: jest.fn<MapEditor['acceptGuesses']>(),
    fill: jest.fn<MapEditor['fill']>(),
    saveProfile: jest.fn<MapEditor['saveProfile']>(async () => undefined),
    applyProfile: jest.fn<MapEditor['applyProfile']>(),
    removeProfile: jest.fn<MapEditor['removeProfile']>(),
  };
  const point = jest.fn();
  const choose = jest.fn();
  const stood = stand(
    <Braid
      source={from}
      target={t}
      editor={editor as unknown as MapEditor}
      moving={moving}
      marked={undefined}
      onPoint={point}
      onPick={choose}
    />,
    { answers },
  );
  return { ...stood, editor, point, choose };
}

test('a line that is dragged ends wherever it is let go, over the stage, too', () => {
  const { editor } = braid();
  const line = document.querySelector('[data-slot="head"] svg.cursor-grab')!;
  const held = (): boolean => document.querySelector('.fixed.z-50') !== null;
  const over = (slot: string | null): void => {
    document.elementFromPoint = () => (slot ? document.querySelector(`[data-slot="${slot}"]`) : document.body);
  };
  const drag = (slot: string | null, end: Event): void => {
    act(() => void line.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, clientX: 10, clientY: 10 })));
    expect(held()).toBe(true);
    over(slot);
    act(() => void window.dispatchEvent(new PointerEvent('pointermove', { clientX: 500, clientY: 90 })));
    act(() => void window.dispatchEvent(end));
    expect(held()).toBe(false);
  };
  drag(null, new PointerEvent('pointerup'));
  drag('neck1', new KeyboardEvent('keydown', { key: 'Escape' }));
  drag('neck1', new PointerEvent('pointercancel'));
  expect(editor.setSlot).not.toHaveBeenCalled();
  drag('neck1', new PointerEvent('pointerup'));
  expect(editor.setSlot).toHaveBeenCalledWith(source, 'neck1', 'Head');
});

const cell = (slot: string, side: string): HTMLElement =>
  screen.getByRole('button', { name: new RegExp(`^${slot} of the ${side}:`) });

test('every slot stands with both its joints, and states are counted in words', () => {
  braid();
  expect(cell('head', 'source')).toHaveTextContent('Head');
  expect(cell('upper arm L', 'target')).toHaveTextContent('LeftArm');
  expect(screen.getByText(/\d+ sure/)).toBeInTheDocument();
});

test('a joint is given to a slot from the list, by typing its name', async () => {
  const { user, editor } = braid();
  await user.click(cell('head', 'target'));
  await user.type(await screen.findByLabelText('Joint name'), 'neck{Enter}');
  expect(editor.setSlot).toHaveBeenCalledWith(target, 'head', expect.stringMatching(/neck/i));
  await waitFor(() => expect(screen.queryByLabelText('Joint name')).toBeNull());
});

test('a name that no joint has is said; a slot can be empty on purpose or picked in the stage', async () => {
  const { user, editor, choose } = braid();
  await user.click(cell('head', 'target'));
  await user.type(await screen.findByLabelText('Joint name'), 'tail');
  expect(screen.getByText('No joint with that name.')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Empty on purpose' }));
  expect(editor.setSlot).toHaveBeenCalledWith(target, 'head', null);
  await user.click(cell('head', 'source'));
  await user.click(await screen.findByRole('button', { name: /in the stage/ }));
  expect(choose).toHaveBeenCalledWith({ side: 'source', slot: 'head' });
});

test('a guess is told apart in words, is right at a word, or all are accepted', async () => {
  const guessed = withSlot(target, 'head', { state: 'guessed', why: 'at the top' });
  const { user, editor } = braid(guessed);
  expect(cell('head', 'target')).toHaveTextContent('Head ?');
  await user.click(cell('head', 'target'));
  await user.click(await screen.findByRole('button', { name: 'That’s right' }));
  expect(editor.setSlot).toHaveBeenCalledWith(guessed, 'head', 'Head');
  await user.click(screen.getByRole('button', { name: 'Accept guesses' }));
  expect(editor.acceptGuesses.mock.calls).toEqual([[guessed]]);
});

test('missing, empty on purpose and beyond this rig are three things', () => {
  const t = withSlot(withSlot(target, 'head', { joint: null, state: 'missing', why: 'not found' }), 'handL', {
    joint: null,
    state: 'empty',
    why: 'a hook',
  });
  braid(t);
  expect(cell('head', 'target')).toHaveTextContent('missing');
  expect(cell('hand L', 'target')).toHaveTextContent('empty on purpose');
  expect(screen.getByText('1 missing')).toBeInTheDocument();
});

test('rows tell the stage what is pointed at, and joints without a slot that move stand first', async () => {
  const without = withSlot(withSlot(source, 'toesL', { joint: null, state: 'missing', why: 'taken out' }), 'toesR', {
    joint: null,
    state: 'missing',
    why: 'taken out',
  });
  const { user, point } = braid(target, ['RightToe'], {}, without);
  fireEvent.pointerEnter(cell('head', 'source').parentElement!);
  expect(point).toHaveBeenLastCalledWith({ slot: 'head' });
  fireEvent.pointerLeave(cell('head', 'source').parentElement!);
  expect(point).toHaveBeenLastCalledWith(null);
  await user.click(screen.getByRole('button', { name: /Source joints without a slot.*2, 1 of them move/ }));
  const loose = screen.getAllByRole('listitem').map((l) => l.textContent);
  expect(loose).toEqual(['RightToe', 'LeftToe']);
  fireEvent.pointerEnter(screen.getAllByRole('listitem')[0]!);
  expect(point).toHaveBeenLastCalledWith({ joint: 'RightToe' });
});

test('a line that is dragged to another row gives its joint to that slot', () => {
  const { editor } = braid();
  const row = cell('neck 1', 'target').parentElement!;
  document.elementFromPoint = () => row;
  const line = cell('head', 'target').parentElement!.querySelectorAll('svg')[1]!;
  fireEvent.pointerDown(line, { clientX: 10, clientY: 10 });
  fireEvent.pointerMove(line, { clientX: 30, clientY: 40 });
  expect(screen.getByText(/becomes neck 1/)).toBeInTheDocument();
  fireEvent.pointerUp(line, { clientX: 30, clientY: 40 });
  expect(editor.setSlot).toHaveBeenCalledWith(target, row.getAttribute('data-slot')!, 'Head');
  expect(screen.queryByText(/becomes/)).toBeNull();
});

test('a side is filled, a map saved as a profile, and one laid on that says where it serves', async () => {
  const { user, editor } = braid(target, [], {
    'GET /api/v1/profiles': [
      { id: 'p1', name: 'Ferry bodies', slots: 21, byName: 'Bram', serves: [{ id: 'a', name: 'Winch' }], otherRigs: 2 },
      { id: 'p2', name: 'Nobody’s', slots: 4, byName: null, serves: [], otherRigs: 0 },
    ],
  });
  const more = async (words: string, which: number): Promise<void> => {
    await user.click(screen.getByRole('button', { name: 'More map actions' }));
    await user.click((await screen.findAllByRole('menuitem', { name: words }))[which]!);
  };
  await more('Fill the right side from the left', 1);
  expect(editor.fill).toHaveBeenCalledWith(target, 'L');
  await more('Save this map as a profile …', 0);
  await user.type(await screen.findByLabelText('Name'), 'Ferry bodies{Enter}');
  expect(editor.saveProfile).toHaveBeenCalledWith(source, 'Ferry bodies');
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  await more('Apply a profile …', 1);
  const dialog = await screen.findByRole('dialog', { name: 'Apply a profile' });
  expect(await within(dialog).findByText('21 slots, by Bram · serves Winch, 2 other skeletons')).toBeInTheDocument();
  expect(within(dialog).getByText('4 slots · serves no skeleton in this library')).toBeInTheDocument();
  await user.click(within(dialog).getByRole('button', { name: /^Delete Nobody’s/ }));
  expect(editor.removeProfile).toHaveBeenCalledWith(expect.objectContaining({ id: 'p2' }));
  await user.click(within(dialog).getAllByRole('button', { name: 'Apply' })[0]!);
  expect(editor.applyProfile).toHaveBeenCalledWith(target, expect.objectContaining({ id: 'p1' }));
});

let editor: MapEditor;
let shown: RigAnswer | undefined;
function Editor() {
  editor = useMap();
  shown = useRig('rig-t').data;
  return null;
}
const RIG = '/api/v1/rigs/rig-t';
/** A server that keeps what it is sent. */
const mapping = async (answers: Record<string, unknown> = {}, first: RigAnswer = target) => {
  let kept: RigAnswer = { ...first, mapVersion: 4 };
  shown = undefined;
  const stood = stand(<Editor />, {
    answers: {
      [`GET ${RIG}`]: () => kept,
      [`PATCH ${RIG}`]: ({ body }: Sent) => {
        const { map, match, limits, pairs, sets } = kept;
        const cells = applyWrites(
          RIG_SETUP.split({ slots: map.slots, match, limits, pairs, sets }),
          (body as Batch).writes,
        );
        const { slots, ...setting } = RIG_SETUP.join(cells);
        kept = { ...kept, ...setting, map: { ...map, slots }, mapVersion: kept.mapVersion + 1 } as RigAnswer;
        return kept;
      },
      ...answers,
    },
  });
  await waitFor(() => expect(shown).toBeDefined());
  return { ...stood, slots: () => kept.map.slots };
};
const step = async (): Promise<void> => act(async () => void (await useUndo.getState().steps.at(-1)!.undo()));

test('a joint serves one slot only: the one it is taken from is missing, with the reason', async () => {
  const { slots } = await mapping();
  act(() => editor.setSlot(target, 'neck', 'Head'));
  // the figure follows at once
  expect(shown!.map.slots.neck).toEqual({ joint: 'Head', state: 'sure', why: 'set by hand' });
  expect(shown!.map.slots.head).toEqual({ joint: null, state: 'missing', why: 'its joint now belongs to neck' });
  await waitFor(() => expect(slots().neck!.joint).toBe('Head'));
  await waitFor(() => expect(shown!.mapVersion).toBe(5));
  await step();
  expect(shown!.map.slots).toEqual(target.map.slots);
  await waitFor(() => expect(slots()).toEqual(target.map.slots));
});

test('what the server refuses goes back, with the reason; the next change is made on what it has', async () => {
  let locked = true;
  const { server, slots } = await mapping();
  const patch = server.keyed(`PATCH ${RIG}`) as (sent: Sent) => unknown;
  server.answer({
    [`PATCH ${RIG}`]: (sent: Sent) => (locked ? new Refused(400, 'This map is locked just now.') : patch(sent)),
  });
  act(() => editor.setSlot(target, 'head', null));
  expect(shown!.map.slots.head).toMatchObject({ state: 'empty' });
  expect(await told('This map is locked just now.')).toBeInTheDocument();
  await waitFor(() => expect(shown!.map.slots.head).toMatchObject({ state: 'sure' }));
  locked = false;
  act(() => editor.setSlot(target, 'chest', null));
  await waitFor(() => expect(slots().chest!.state).toBe('empty'));
  expect(slots().head!.state).toBe('sure');
});

test('a page that is left at once loses no change, also while one is on its way', async () => {
  const { server } = await mapping({ [`PATCH ${RIG}`]: () => new Promise(() => undefined) });
  act(() => editor.setSlot(target, 'head', null));
  await waitFor(() => expect(server.to('PATCH', RIG)).toHaveLength(1));
  act(() => editor.setSlot(target, 'neck1', null));
  window.dispatchEvent(new Event('pagehide'));
  await waitFor(() => expect(server.to('PATCH', RIG)).toHaveLength(2));
  const last = server.to('PATCH', RIG)[1]!.body as Batch;
  expect(last.number).toBe(2);
  expect(last.writes.map((w) => w.cell).sort()).toEqual(['slot/head', 'slot/neck1']);
});

test('a colleague’s change moves in beneath one’s own, and stays when that is taken back', async () => {
  const { server, client, slots } = await mapping();
  act(() => editor.setSlot(target, 'head', null));
  await waitFor(() => expect(slots().head!.state).toBe('empty'));
  const theirs = { joint: null, state: 'empty', why: 'by Bram' };
  const patch = server.keyed(`PATCH ${RIG}`) as (sent: Sent) => unknown;
  patch({ method: 'PATCH', path: RIG, body: { writes: [{ cell: 'slot/neck1', to: theirs }] } });
  await act(() => client.invalidateQueries({ queryKey: ['rig'] }));
  await waitFor(() => expect(shown!.map.slots.neck1).toEqual(theirs));
  await step();
  await waitFor(() => expect(slots().head!.state).toBe('sure'));
  expect(slots().neck1).toEqual(theirs);
});

test('what the server does next is done with what was set just now', async () => {
  const { server, slots } = await mapping({ 'POST /api/v1/profiles': { id: 'p1' } });
  act(() => editor.setSlot(target, 'head', null));
  await act(() => editor.saveProfile(target, 'Headless'));
  const order = server.sent.filter((s) => s.method !== 'GET').map((s) => `${s.method} ${s.path}`);
  expect(order).toEqual([`PATCH ${RIG}`, 'POST /api/v1/profiles']);
  expect(slots().head!.state).toBe('empty');
});

test('guesses are accepted with their reason, and a side with nothing to fill says so', async () => {
  const guessed = withSlot(target, 'head', { state: 'guessed', why: 'at the top' });
  const { slots } = await mapping({}, guessed);
  act(() => editor.acceptGuesses(guessed));
  await waitFor(() =>
    expect(slots().head).toEqual({ joint: 'Head', state: 'sure', why: 'at the top; accepted by hand' }),
  );
  editor.fill(target, 'L');
  expect(await told('Nothing to fill: the other side is already set.')).toBeInTheDocument();
  const half = withSlot(target, 'handR', { joint: null, state: 'missing', why: 'not found' });
  const other = await mapping({}, half);
  act(() => editor.fill(half, 'L'));
  await waitFor(() => expect(other.slots().handR!.joint).toBe('RightHand'));
});

test('a profile is laid on what was set before it; taken back, the map is as it was', async () => {
  const laid = { ...target.map.slots, head: { joint: null, state: 'empty', why: 'from the profile' } };
  const { server, slots } = await mapping({
    [`POST ${RIG}/profile`]: { map: { ...target.map, slots: laid }, mapVersion: 6 },
  });
  act(() => editor.setSlot(target, 'chest', null));
  await act(async () => editor.applyProfile(target, { id: 'p1', name: 'Deck hands' }));
  const asked = (await sentTo(server, 'POST', `${RIG}/profile`)).body;
  expect(slots().chest!.state).toBe('empty');
  expect(asked).toEqual({ profile: 'p1', version: 5 });
  await waitFor(() => expect(shown!.map.slots.head!.why).toBe('from the profile'));
  await step();
  expect(shown!.map.slots.head).toEqual(target.map.slots.head);
});

test('a profile that was taken away comes back whole', async () => {
  const whole = {
    name: 'Ferry bodies',
    map: { slots: { head: { joint: 'Head', state: 'sure', why: 'set by hand' } } },
  };
  const { server } = await mapping({ 'DELETE /api/v1/profiles/p1': { undo: whole }, 'PUT /api/v1/profiles/p1': {} });
  editor.removeProfile({ id: 'p1', name: 'Ferry bodies' });
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Deleted the map Ferry bodies'));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PUT', '/api/v1/profiles/p1')[0]!.body).toEqual(whole);
});

function panel(settings: FitSettings = FIT_DEFAULTS, more: Record<string, unknown> = {}) {
  const set = jest.fn();
  const done = {
    onItem: jest.fn(),
    onCast: jest.fn(),
    onKeep: jest.fn(),
    onExport: jest.fn(),
    onMany: jest.fn(),
    onAside: jest.fn(),
    onRetry: jest.fn(),
    onGiveUp: jest.fn(),
  };
  const report = {
    plants: [1, 2, 3],
    slip: { maxCm: 0.04 },
    floor: { maxDepthCm: 0 },
    direction: { meanDeg: 1.25, maxDeg: 9 },
  };
  const stood = stand(
    <SettingsPanel
      item={item({ id: 'i1', name: 'Deck walk' })}
      cast={[member(), member({ id: 'w2', heightM: 1.9 })]}
      member={member()}
      source={source}
      target={target}
      settings={settings}
      answer={{ score: 91, scale: 0.8, solveMs: 12, report } as never}
      keeping={false}
      stored="saved"
      trouble={null}
      aside={false}
      onSettings={set}
      {...done}
      {...more}
    />,
  );
  return { ...stood, set, done };
}

test('settings say what they do to this pair, and characters of one name are told apart', async () => {
  const { user, done, server } = panel();
  server.answer({ 'GET /api/v1/items': { items: [item({ id: 'i2', name: 'Haul' })], found: 1534, total: 1534 } });
  expect(screen.getByText('score 91')).toBeInTheDocument();
  expect(screen.getByText('leg length × 0.80')).toBeInTheDocument();
  expect(screen.getByText(/3 plants · worst slip 0\.0 cm/)).toBeInTheDocument();
  await pick(user, 'Character', 'Winch, 1.90 m');
  expect(done.onCast).toHaveBeenCalledWith('w2');
  await user.click(screen.getByRole('combobox', { name: 'Motion' }));
  await user.type(await screen.findByPlaceholderText(/Find by name/), 'hau');
  expect(await screen.findByText('1533 more: type to narrow the list')).toBeInTheDocument();
  await waitFor(() => expect(server.sent.at(-1)!.path).toContain('q=hau'));
  await user.click(await screen.findByRole('option', { name: /Haul/ }));
  expect(done.onItem).toHaveBeenCalledWith('i2');
});

test('what differs from the first is marked and goes back singly', async () => {
  const { user, set } = panel({ ...FIT_DEFAULTS, travel: 'none', leave: ['head'], plants: false });
  expect(screen.getAllByText('changed')).toHaveLength(3);
  await user.click(screen.getByRole('button', { name: 'Reset travel' }));
  await user.click(screen.getByRole('button', { name: 'Reset plants' }));
  await user.click(screen.getByRole('button', { name: 'Reset not taken from the source' }));
  expect(set.mock.calls.map(([change]) => change)).toEqual([{ travel: 'leg' }, { plants: true }, { leave: [] }]);
  panel();
  expect(screen.queryByText('changed')).toBeNull();
});

test('arms are kept out of the body, or let go; without a mesh it says why nothing comes of it', async () => {
  const skin = { around: [], ahead: [] } as never;
  const { user, set } = panel(FIT_DEFAULTS, { target: { ...target, skin } });
  expect(screen.getByText('forearms clear the body, and a swinging leg clears the other')).toBeInTheDocument();
  await user.click(screen.getByRole('switch', { name: /limbs out of one another|forearms stay out/ }));
  expect(set).toHaveBeenLastCalledWith({ clear: false }, 'Let limbs run into one another');
  const off = panel({ ...FIT_DEFAULTS, clear: false });
  expect(screen.getByText(/needs a mesh, to know/)).toBeInTheDocument();
  await off.user.click(screen.getByRole('button', { name: 'Reset clearance' }));
  expect(off.set).toHaveBeenLastCalledWith({ clear: true }, 'Reset clearance');
});

test('parts are left out and taken again by their words', async () => {
  const { user, set } = panel({ ...FIT_DEFAULTS, leave: ['head'] });
  const left = screen.getAllByRole('button', { pressed: true }).find((b) => b.textContent === 'head')!;
  await user.click(left);
  expect(set).toHaveBeenLastCalledWith({ leave: [] }, 'Included head from the source');
  await user.click(screen.getByRole('button', { name: 'fingers' }));
  expect(set).toHaveBeenLastCalledWith({ leave: ['head', 'fingers'] }, 'Left fingers out');
});

test('settings of another pair that are kept aside are offered; nothing can be kept before it is solved', async () => {
  const { user, done } = panel(FIT_DEFAULTS, { aside: true });
  await user.click(screen.getByRole('button', { name: 'Use those' }));
  expect(done.onAside).toHaveBeenCalledTimes(1);
  await user.click(screen.getByRole('button', { name: /Keep as item/ }));
  expect(done.onKeep).toHaveBeenCalledTimes(1);
  panel(FIT_DEFAULTS, { answer: undefined, stored: 'refused' });
  expect(screen.getByRole('button', { name: /Keep as item/ })).toBeDisabled();
  expect(screen.getByRole('button', { name: 'Export' })).toBeDisabled();
  expect(screen.getByRole('status')).toHaveTextContent('not saved');
});

test('what is pointed at lights up on both sides by its slot, or alone where it has none', () => {
  const at = (rig: RigAnswer, joint: string): number => rigView(rig).rig.names.indexOf(joint);
  expect(litJoints({ slot: 'head' }, source, target)).toEqual({
    source: at(source, 'Head'),
    target: at(target, 'Head'),
  });
  const without = withSlot(target, 'head', { joint: null, state: 'empty', why: 'none' });
  expect(litJoints({ slot: 'head' }, source, without)).toEqual({ source: at(source, 'Head'), target: undefined });
  expect(litJoints({ joint: 'nobody' }, source, target)).toEqual({ source: undefined, target: undefined });
  expect(slotOf('LeftHand', source, target)).toBe('handL');
  expect(slotOf('nobody', source, target)).toBeUndefined();
  expect(slotOf(undefined, source, target)).toBeUndefined();
});

test('panes are chosen, and say where something was done by hand or is wrong', async () => {
  const go = jest.fn();
  const edits = {
    frames: 9,
    plants: null,
    goals: [],
    looks: [{ point: [0, 0, 0], weight: 1 }],
    corrections: [],
  } as never;
  const { user } = stand(
    <Tabs value="trouble" onChange={go}>
      <PaneTabs troubles={3} edits={edits} />
    </Tabs>,
  );
  expect(screen.getByRole('tab', { name: 'Trouble lanes 3' })).toHaveAttribute('aria-selected', 'true');
  expect(screen.getAllByTitle('changed by hand')).toHaveLength(1);
  await user.click(screen.getByRole('tab', { name: 'By hand' }));
  expect(go).toHaveBeenCalledWith('hand');
  // arrow keys go from tab to tab
  screen.getByRole('tab', { name: 'Trouble lanes 3' }).focus();
  await user.keyboard('{ArrowRight}');
  expect(go).toHaveBeenLastCalledWith('plants');
});

test.each([
  ['motion', 'The library is empty', 'Bring files in', '/intake'],
  ['cast', 'The cast is empty', 'Bring files in', '/intake'],
  ['member', 'Put a cast member on hand', 'To the cast', '/cast'],
] as const)('without a %s the way to it is shown', async (what, words, button, way) => {
  const { user, router } = stand(<Lacking what={what} why="" onOther={() => undefined} />);
  expect(screen.getByText(new RegExp(words))).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: button }));
  expect(router.push).toHaveBeenCalledWith(way);
});

test('a motion that is gone says so and lets another be chosen', async () => {
  const other = jest.fn();
  const { user } = stand(<Lacking what="item" why="The item is not there." onOther={other} />);
  expect(screen.getByText('The item is not there.')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Choose another' }));
  expect(other).toHaveBeenCalledTimes(1);
});

function Keeper({ edited }: { edited: boolean }) {
  const edits = { frames: 9, plants: [], goals: [], looks: [], corrections: [] };
  const { keep, keeping } = useKeep(
    item({ id: 'i1', name: 'Deck walk' }),
    member(),
    FIT_DEFAULTS,
    edited ? edits : undefined,
  );
  return (
    <button type="button" onClick={keep}>
      {keeping ? 'keeping' : 'keep'}
    </button>
  );
}

test('a fitting is kept once however often it is asked, goes to the bin with undo, and can be shown', async () => {
  let answer: (kept: unknown) => void = () => undefined;
  const { user, server, router } = stand(<Keeper edited />, {
    answers: {
      'POST /api/v1/fittings': () => new Promise((resolve) => (answer = resolve)),
      'PATCH /api/v1/items/k1': {},
    },
  });
  await user.click(screen.getByText('keep'));
  await user.click(screen.getByText('keeping'));
  expect(server.to('POST', '/api/v1/fittings')).toHaveLength(1);
  expect(server.to('POST', '/api/v1/fittings')[0]!.body).toMatchObject({
    itemId: 'i1',
    castId: 'winch',
    name: 'Deck walk on Winch',
    edits: { plants: [] },
  });
  answer(item({ id: 'k1', name: 'Deck walk on Winch' }));
  await told('Deck walk on Winch is in the library');
  await user.click(screen.getByRole('button', { name: 'Show' }));
  expect(router.push).toHaveBeenCalledWith('/library?item=k1');
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/items/k1')[0]!.body).toEqual({ change: { binned: true } });
});

test('a fitting that cannot be kept says why; one without edits sends none', async () => {
  const { user, server } = stand(<Keeper edited={false} />, {
    answers: { 'POST /api/v1/fittings': new Refused(422, 'The map of Winch has no hips.') },
  });
  await user.click(screen.getByText('keep'));
  expect(await told('The map of Winch has no hips.')).toBeInTheDocument();
  expect(server.to('POST', '/api/v1/fittings')[0]!.body).not.toHaveProperty('edits');
  expect(screen.getByText('keep')).toBeInTheDocument();
});

test('a turn in the world becomes the joint’s own: none stays none, and about its own axis it is the same', () => {
  const s = Math.SQRT1_2;
  const close = (a: readonly number[], b: readonly number[]): void =>
    a.forEach((x, i) => expect(x).toBeCloseTo(b[i]!, 9));
  close(turnedBy([0, s, 0, s], [s, 0, 0, s], [0, 0, 0, 1]), [0, s, 0, s]);
  // a joint that stands as the world does takes the drag as it is
  close(turnedBy([0, 0, 0, 1], [0, 0, 0, 1], [0, 0, s, s]), [0, 0, s, s]);
  // one that was turned about x before sees a drag about y as one about −z
  close(turnedBy([0, 0, 0, 1], [s, 0, 0, s], [0, s, 0, s]), [0, 0, -s, s]);
});

test('a view of a rig knows its sides and limbs, and is made once for one map', () => {
  const view = rigView(source);
  expect(rigView({ ...source, mapVersion: 9 })).toBe(view);
  const at = (n: string): number => view.rig.names.indexOf(n);
  expect([view.side[at('LeftHand')], view.side[at('RightHand')], view.side[at('Hips')]]).toEqual([1, -1, 0]);
  expect(view.segments.some((s) => s.kind === 'head')).toBe(true);
  const limbs = view.segments.map((s) => `${s.a}:${s.b}`);
  expect(new Set(limbs).size).toBe(limbs.length);
  const bare = rigView({ ...source, map: { ...source.map, slots: {} } });
  expect(bare.segments).toHaveLength(view.rig.names.length - 1);
});
