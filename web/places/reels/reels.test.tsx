import { expect, jest, test } from '@jest/globals';
import { fireEvent, screen, within } from '@testing-library/react';
import { JOIN_DEFAULTS, OVERLAY_DEFAULTS, type Overlay, PLACEMENT_DEFAULTS, type Placement } from '@velvet-reel/motion';
import type { ReelListed } from '@/contract';
import { REEL, type ReelContent } from '@/documents/reel';
import type { CheckedJoin } from '@/solver/solve-reel';
import { pick, sentTo, stand } from '@/test/interface';
import { item, member } from '@/test/things';
import { Awaited } from './awaited';
import { BakeDialog } from './bake-dialog';
import { HandPanel } from './hand-panel';
import { JoinInspector } from './join-inspector';
import { regionWord, troublesOf } from './join-words';
import { LibraryDrawer } from './library-drawer';
import { MemberInspector } from './member-inspector';
import { OverlayInspector } from './overlay-inspector';
import { newerThan } from './reel-lanes';
import { ReelList } from './reel-list';
import { PlacementInspector } from './stretch-inspector';

const walk = item({ id: 'walk', name: 'Deck walk' });
const frames = walk.facts.frameCount;
const placement: Placement = { ...PLACEMENT_DEFAULTS, id: 'p', itemId: 'walk', at: 10 };
const overlay: Overlay = { ...OVERLAY_DEFAULTS, id: 'o', itemId: 'walk', at: 5, regions: ['head'] };
const reel: ReelContent = {
  ...REEL.empty,
  name: 'Fog bell',
  frames: 120,
  members: [{ id: 'm', castId: 'c', order: 1, muted: false, base: [placement], overlays: [overlay], keys: [] }],
};
const SOUND: CheckedJoin = {
  from: 'a',
  to: 'p',
  kind: 'crossfade',
  start: 40,
  end: 50,
  carry: { turn: Math.PI / 6, by: [1.2, 0.5] },
  check: {
    placeCm: 0,
    placePercentLeg: 0,
    facingDeg: 0.1,
    stepRatio: 1.1,
    joint: 'Hand',
    stepSpeed: 1,
    slipPercentLeg: 0.01,
    slipCm: 0.02,
    floorCm: 0,
  },
};
const nothing = (): void => undefined;
const PLACEMENT_PROPS = {
  paper: false,
  of: placement,
  castId: 'c',
  item: walk,
  reel,
  mayChange: true,
  playhead: () => 30,
  onCopy: nothing,
  onRemove: nothing,
  onChange: nothing,
};
const JOIN_PROPS = {
  from: walk,
  to: walk,
  matches: undefined,
  trying: null,
  mayChange: true,
  onFind: nothing,
  onMatch: nothing,
  onChange: nothing,
};

test('what is wrong with a join is said in words, and only what would be seen', () => {
  expect(troublesOf(SOUND)).toEqual([]);
  const bad = { ...SOUND.check, slipPercentLeg: 9, slipCm: 4.2, stepRatio: 2.5, stepSpeed: 6, facingDeg: 3 };
  expect(troublesOf({ ...SOUND, check: bad })).toEqual([
    'feet slip 4.2 cm',
    'the body turns 3.0° at once',
    'Hand moves 2.5 times as fast as on either side',
  ]);
  // a bridge has nothing beside it that could tell how fast is usual, and slow is not seen
  expect(troublesOf({ kind: 'bridge', check: { ...SOUND.check, stepRatio: 9, stepSpeed: 9 } })).toEqual([]);
  expect(troublesOf({ ...SOUND, check: { ...SOUND.check, stepRatio: 9 } })).toEqual([]);
});

test.each([true, false])('only paper is turned over, all else is turned in space: %s', async (paper) => {
  const change = jest.fn();
  const { user } = stand(<PlacementInspector {...PLACEMENT_PROPS} paper={paper} onSplit={nothing} onChange={change} />);
  expect(screen.getByLabelText(/^ahead/)).toBeVisible();
  expect(screen.queryAllByLabelText(/^turned,/)).toHaveLength(paper ? 0 : 1);
  const over = screen.queryByRole('switch', { name: 'turned over' });
  expect(over !== null).toBe(paper);
  if (!over) return;
  await user.click(over);
  expect(change.mock.calls).toEqual([[{ offset: { x: 0, z: 0, turn: 180 } }, 'Turned over: Deck walk']]);
});

test('an item on the base lane is moved, cut and slowed by numbers, and wrong ones are put right', async () => {
  const change = jest.fn();
  const { user } = stand(<PlacementInspector {...PLACEMENT_PROPS} onSplit={nothing} onChange={change} />);
  const type = async (label: string, text: string): Promise<void> => {
    const field = screen.getByLabelText(label);
    await user.clear(field);
    await user.type(field, `${text}{Enter}`);
  };
  await type('begins at frame', '31');
  await type('speed', '0,5');
  await type('last frame of the item', '99999');
  await type('times', 'often');
  await user.click(screen.getByRole('switch', { name: 'mirrored' }));
  expect(change.mock.calls).toEqual([
    [{ at: 30 }, 'Moved Deck walk to frame 31'],
    [{ speed: 0.5 }, 'Deck walk at speed 0.50'],
    [{ mirrored: true }, 'Mirrored: Deck walk'],
  ]);
  // beyond the item is its last frame, which it is already; no number is none
  expect(screen.getByLabelText('last frame of the item')).toHaveValue(String(frames));
  expect(screen.getByLabelText('times')).toHaveValue('1');
  fireEvent.keyDown(screen.getByLabelText('begins at frame'), { key: 'ArrowUp' });
  expect(change).toHaveBeenLastCalledWith({ at: 11 }, 'Moved Deck walk to frame 12');
});

test('speeds along the way are set at the playhead, in the item’s own frames, changed and removed', async () => {
  const change = jest.fn();
  const at = (pace: Placement['pace']) => (
    <PlacementInspector {...PLACEMENT_PROPS} of={{ ...placement, at: 10, pace }} onChange={change} />
  );
  const within = Math.round((20 * walk.facts.fps) / reel.fps);
  const { user } = stand(at(undefined));
  await user.click(screen.getByRole('button', { name: 'Another speed from here' }));
  expect(change).toHaveBeenLastCalledWith(
    {
      pace: [
        { frame: 0, speed: 1 },
        { frame: within, speed: 1 },
      ],
    },
    `Set a speed of Deck walk at its frame ${within + 1}`,
  );
  const second = stand(
    at([
      { frame: 0, speed: 1 },
      { frame: 12, speed: 1 },
    ]),
  );
  const field = screen.getByLabelText('times as fast at its frame 13');
  await second.user.clear(field);
  await second.user.type(field, '0,5{Enter}');
  expect(change).toHaveBeenLastCalledWith(
    {
      pace: [
        { frame: 0, speed: 1 },
        { frame: 12, speed: 0.5 },
      ],
    },
    'Deck walk plays 0.50 times as fast at its frame 13',
  );
  await second.user.click(screen.getByRole('button', { name: 'Remove the speed at frame 1' }));
  expect(change).toHaveBeenLastCalledWith(
    { pace: [{ frame: 12, speed: 1 }] },
    'Removed the speed of Deck walk at its frame 1',
  );
});

test('a newer version is told, and taken only by a press', async () => {
  const pinned = { ...placement, versionId: 'v1' };
  const newest = (versionId: string) => ({ newest: new Map([['walk', { ...walk, versionId }]]) });
  expect(newerThan(pinned, newest('v2'))).toBe(true);
  expect(newerThan(pinned, newest('v1'))).toBe(false);
  expect(newerThan(placement, newest('v2'))).toBe(false);
  const take = jest.fn();
  const { user } = stand(<PlacementInspector {...PLACEMENT_PROPS} of={pinned} newer onNewest={take} />);
  await user.click(screen.getByRole('button', { name: 'Take it' }));
  expect(take).toHaveBeenCalled();
});

test('an item that is gone says so', () => {
  stand(<PlacementInspector {...PLACEMENT_PROPS} item={undefined} mayChange={false} />);
  expect(screen.getByText('This item is gone or in the bin. Bring it back, or remove it here.')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Remove' })).toBeNull();
});

test('a join says its kind, what it came to, and why it is not what was wished', async () => {
  const change = jest.fn();
  const find = jest.fn();
  const { user } = stand(
    <JoinInspector {...JOIN_PROPS} onFind={find} onChange={change} placement={placement} join={SOUND} />,
  );
  expect(screen.getByText('nothing that you would see')).toBeInTheDocument();
  expect(screen.getByText('second item moved 1.30 m, turned 30°')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'left foot' }));
  await user.click(screen.getByRole('button', { name: 'decay' }));
  await user.click(screen.getByRole('switch', { name: 'carry on at the height reached' }));
  expect(change.mock.calls.map(([c]) => c)).toEqual([{ meet: 'footL' }, { kind: 'decay' }, { level: true }]);
  await user.click(screen.getByRole('button', { name: /Find where they meet best/ }));
  expect(find).toHaveBeenCalled();
});

test('a bridge without a gap says what to do', () => {
  const bridged = { ...placement, join: { ...JOIN_DEFAULTS, kind: 'bridge' as const } };
  stand(<JoinInspector {...JOIN_PROPS} placement={bridged} join={{ ...SOUND, kind: 'decay' }} />);
  expect(screen.getByText(/There is no gap to bridge: move the second item away/)).toBeInTheDocument();
  expect(screen.queryByRole('slider', { name: 'length' })).toBeNull();
});

test('pairs of frames are listed, the most alike first, and taken by a press', async () => {
  const take = jest.fn();
  const { user } = stand(
    <JoinInspector
      from={walk}
      to={walk}
      placement={placement}
      join={SOUND}
      matches={[
        { a: 40, b: 5, apartPercentLeg: 3.21, sameFeet: true },
        { a: 22, b: 9, apartPercentLeg: 8, sameFeet: false },
      ]}
      trying={0}
      mayChange
      onChange={nothing}
      onFind={nothing}
      onMatch={take}
    />,
  );
  expect(screen.getByRole('button', { name: '41 and 6 3.2 % apart' })).toHaveAttribute('aria-pressed', 'true');
  await user.click(screen.getByRole('button', { name: '23 and 10 · other foot 8.0 % apart' }));
  expect(take).toHaveBeenCalledWith(1);
});

test('an overlay takes parts, is added or replaces, and comes in as strongly as it is told', async () => {
  const change = jest.fn();
  const { user } = stand(
    <OverlayInspector
      of={overlay}
      item={walk}
      reel={reel}
      mayChange
      playhead={() => 30}
      onCopy={nothing}
      onRemove={nothing}
      onChange={change}
    />,
  );
  await user.click(screen.getByRole('button', { name: 'right arm' }));
  await user.click(screen.getByRole('button', { name: 'head' }));
  await user.click(screen.getByRole('button', { name: 'is added' }));
  screen.getByRole('slider', { name: 'strength' }).focus();
  await user.keyboard('{ArrowLeft}');
  expect(change.mock.calls.map(([c]) => c)).toEqual([
    { regions: ['head', 'right arm'] },
    { regions: [] },
    { mode: 'add' },
    { strength: [{ frame: 0, value: 0.95 }] },
  ]);
  expect(screen.queryByText(/held whole poses/)).toBeNull();
  // the curve itself: its point is moved by the arrow keys, beyond 1, too
  screen.getByRole('slider', { name: 'Strength at frame 1' }).focus();
  await user.keyboard('{ArrowUp}');
  expect(change).toHaveBeenLastCalledWith(
    { strength: [{ frame: 0, value: 1.05 }] },
    'Strength of Deck walk',
    expect.any(String),
  );
});

test('of a cut-out, drawings alone can be laid over the base', async () => {
  expect([regionWord('face', true), regionWord('face', false), regionWord('head', true)]).toEqual([
    'drawings',
    'face',
    'head',
  ]);
  const change = jest.fn();
  const { user } = stand(
    <OverlayInspector
      of={{ ...overlay, regions: [] }}
      paper
      item={walk}
      reel={reel}
      mayChange
      playhead={() => 30}
      onCopy={nothing}
      onRemove={nothing}
      onChange={change}
    />,
  );
  await user.click(screen.getByRole('button', { name: 'drawings' }));
  expect(change).toHaveBeenLastCalledWith({ regions: ['face'] }, 'Deck walk: drawings');
});

test('an overlay that is added though it holds whole poses says so, and offers to replace', async () => {
  const change = jest.fn();
  const { user } = stand(
    <OverlayInspector
      of={{ ...overlay, mode: 'add', reference: 'rest' }}
      absolute
      item={walk}
      reel={reel}
      mayChange
      playhead={() => 30}
      onCopy={nothing}
      onRemove={nothing}
      onChange={change}
    />,
  );
  await user.click(screen.getByRole('button', { name: 'Replace instead' }));
  expect(change.mock.calls[0]![0]).toEqual({ mode: 'replace' });
});

test('a member is put on another character, baked, or taken off', async () => {
  const [same, bake, off] = [jest.fn(), jest.fn(), jest.fn()];
  const { user } = stand(
    <MemberInspector
      member={reel.members[0]!}
      who={member({ id: 'c', name: 'Big Tove' })}
      cast={[member({ id: 'c' }), member({ id: 'd', name: 'Skerry' }), member({ id: 'e', name: 'Pip' })]}
      mayChange
      onSameOn={same}
      onBake={bake}
      onRemove={off}
    />,
  );
  await pick(user, 'Character to copy to', 'Pip');
  await user.click(screen.getByRole('button', { name: 'Copy to this character' }));
  await user.click(screen.getByRole('button', { name: /Bake into an item/ }));
  await user.click(screen.getByRole('button', { name: 'Take off the reel' }));
  expect([same.mock.calls, bake.mock.calls.length, off.mock.calls.length]).toEqual([[['e']], 1, 1]);
});

test('baking asks for what is shown, says what is left out, and can be taken back', async () => {
  const made = item({ id: 'made', name: 'Baked' });
  const close = jest.fn();
  const show = jest.fn();
  const { user, server } = stand(
    <BakeDialog
      reelId="r"
      reel={reel}
      memberId="m"
      who="Big Tove"
      range={{ start: 10, end: 59 }}
      muted={['Deck walk']}
      others={['Pip']}
      onShow={show}
      onClose={close}
    />,
    { answers: { 'POST /api/v1/reels/r/bake': made, 'PATCH /api/v1/items/made': { item: made } } },
  );
  expect(screen.getByText('Left out, as it is muted: Deck walk.')).toBeInTheDocument();
  expect(screen.getByText(/not in this item: Pip/)).toBeInTheDocument();
  await user.clear(screen.getByLabelText('to frame'));
  await user.type(screen.getByLabelText('to frame'), '60{Enter}');
  expect(show).not.toHaveBeenCalled();
  await user.clear(screen.getByLabelText('to frame'));
  await user.type(screen.getByLabelText('to frame'), '61{Tab}');
  expect(show).toHaveBeenCalledWith(60);
  await user.click(screen.getByRole('button', { name: 'Bake 51 frames' }));
  const { body } = await sentTo(server, 'POST', '/api/v1/reels/r/bake');
  expect(body).toEqual({ memberId: 'm', start: 10, end: 60, name: 'Fog bell, Big Tove' });
  expect(await screen.findByText('Baked is in the library: 51 frames of Big Tove')).toBeInTheDocument();
  expect(close).toHaveBeenCalled();
});

test('the library is within reach: found by typing, laid by a press, dragged by its name', async () => {
  const [lay, insert, over, pose] = [jest.fn(), jest.fn(), jest.fn(), jest.fn()];
  const pack = item({ id: 'pack', name: 'Night pack', kind: 'pack' });
  const list = { items: [walk, pack], found: 90, total: 90, facets: null, guessed: [], scores: {} };
  const { user } = stand(
    <LibraryDrawer performer={undefined} onLay={lay} onInsert={insert} onOver={over} onPose={pose} />,
    { answers: { 'GET /api/v1/items': list } },
  );
  const entry = (await screen.findByText('Deck walk')).closest('li')!;
  await user.click(within(entry).getByRole('button', { name: 'Lay Deck walk behind' }));
  await user.click(
    within(entry).getByRole('button', { name: 'Insert Deck walk at the playhead; what follows moves on' }),
  );
  await user.click(within(entry).getByRole('button', { name: 'Lay Deck walk over the base' }));
  await user.click(within(entry).getByRole('button', { name: 'Try a pose of Deck walk' }));
  expect([lay, insert, over, pose].map((f) => f.mock.calls.length)).toEqual([1, 1, 1, 1]);
  const data = { setData: jest.fn(), effectAllowed: '' };
  fireEvent.dragStart(entry, { dataTransfer: data });
  expect(data.setData).toHaveBeenCalledWith('application/x-velvet-item', 'walk');
  expect(screen.getByText('88 more: type to narrow the list')).toBeInTheDocument();
});

test('keys by hand are kept to where they are set, taken away at a frame or altogether', async () => {
  const change = jest.fn();
  const hold = jest.fn();
  const keys = [{ handle: 'handR' as const, keys: [{ frame: 30, move: [0, 0.1, 0] as const }] }];
  const { user } = stand(
    <HandPanel
      keys={keys}
      joints={['Spine']}
      held={{ handle: 'handR' }}
      mode="move"
      frame={() => 30}
      fps={30}
      mayChange
      onHold={hold}
      onMode={nothing}
      onChange={change}
    />,
  );
  await user.click(screen.getByRole('button', { name: 'Only around here' }));
  await user.click(screen.getByRole('button', { name: 'Remove all of its keys' }));
  await pick(user, 'One joint', 'Spine');
  expect((change.mock.calls[0]![0] as typeof keys)[0]!.keys.map((k) => k.frame)).toEqual([20, 30, 40]);
  expect(change.mock.calls[1]![0]).toEqual([]);
  expect(hold).toHaveBeenCalledWith({ joint: 'Spine' });
});

test('whose motion is still worked out is told by name', () => {
  stand(
    <>
      <Awaited names={[]} />
      <Awaited names={['Big Tove', 'Pip']} />
    </>,
  );
  expect(screen.getAllByRole('status')).toHaveLength(1);
  expect(screen.getByRole('status')).toHaveTextContent('Working out what Big Tove and Pip do …');
});

test('reels are listed, opened, moved to the bin and brought back', async () => {
  const listed: ReelListed = {
    id: 'r',
    name: 'Fog bell',
    fps: 30,
    frames: 318,
    members: [{ id: 'c', name: 'Big Tove' }],
    items: 6,
    first: null,
    version: 3,
    changedByName: 'Noor',
    changedAt: '2026-11-29T10:00:00.000Z',
    binnedAt: null,
  };
  const open = jest.fn();
  const { user, server } = stand(
    <ReelList
      bin={false}
      mayChange
      onOpen={open}
      onNew={nothing}
      onField={nothing}
      onLive={nothing}
      onBin={nothing}
      onPlay={nothing}
      onNewPlay={nothing}
    />,
    {
      answers: { 'GET /api/v1/reels': [listed], 'PUT /api/v1/reels/r/bin': null, 'GET /api/v1/cast': [] },
    },
  );
  expect(await screen.findByText('10.6 s · 6 items · Noor, 11/29/2026')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: /^Fog bell/ }));
  expect(open).toHaveBeenCalledWith('r');
  await user.click(screen.getByRole('button', { name: 'Move Fog bell to the bin' }));
  expect((await sentTo(server, 'PUT', '/api/v1/reels/r/bin')).body).toEqual({ binned: true });
});

test('without any reel the first thing to do is offered', async () => {
  const begin = jest.fn();
  const { user } = stand(
    <ReelList
      bin={false}
      mayChange
      onOpen={nothing}
      onNew={begin}
      onField={nothing}
      onLive={nothing}
      onBin={nothing}
      onPlay={nothing}
      onNewPlay={nothing}
    />,
    {
      answers: { 'GET /api/v1/reels': [], 'GET /api/v1/cast': [] },
    },
  );
  await user.click(await screen.findByRole('button', { name: 'Begin a reel' }));
  expect(begin).toHaveBeenCalled();
});
