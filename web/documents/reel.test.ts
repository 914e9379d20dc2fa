import { JOIN_DEFAULTS, PLACEMENT_DEFAULTS, seeded } from '@velvet-reel/motion';
import { applyWrites, diffCells } from './cells';
import { REEL, type ReelContent } from './reel';
import { asReel } from './reel-schema';

const placement = (id: string, at: number) => ({
  id,
  itemId: 'walk',
  at,
  ...PLACEMENT_DEFAULTS,
});
const reel: ReelContent = {
  name: 'Fog bell',
  fps: 30,
  frames: 200,
  markers: [{ id: 'm', frame: 9, name: 'bell' }],
  cameras: [
    {
      id: 'wide',
      name: 'from the quay',
      keys: [
        { frame: 0, eye: [0, 1, 4], target: [0, 1, 0], fov: 30 },
        { frame: 60, eye: [3, 1.5, 2], target: [0, 1, 0], fov: 24, ease: 'linear' },
      ],
    },
  ],
  members: [
    {
      id: 'one',
      castId: 'tove',
      order: 1,
      muted: false,
      base: [placement('a', 0), placement('b', 60)],
      overlays: [
        {
          ...(({ inPlace: _i, offset: _o, join: _j, ...rest }) => rest)(placement('o', 20)),
          mode: 'add',
          reference: 'first',
          regions: ['head'],
          joints: ['Hat/brim 1'],
          strength: [{ frame: 0, value: 0.5, ease: [0.2, 0, 0.8, 1] }],
          holdFeet: true,
          order: 1,
        },
      ],
      keys: [
        { handle: 'footL', keys: [{ frame: 3, move: [0, 0.1, 0] }] },
        {
          joint: 'Spine/2',
          keys: [
            { frame: 12, turn: [0, 0, 0, 1], ease: 'step' },
            { frame: 40, turn: [0, 0, 0, 1] },
          ],
        },
      ],
      labels: [
        {
          name: 'view of Head/2',
          keys: [
            { frame: 3, label: 'side' },
            { frame: 30, label: null },
          ],
        },
      ],
      numbers: [{ name: 'smile', keys: [{ frame: 0, value: 0.5, ease: 'smooth' }] }],
    },
    { id: 'two', castId: 'pip', order: 2, muted: true, base: [], overlays: [], keys: [] },
  ],
};

test('a reel is what its cells say, whatever names joints have', () => {
  expect(asReel(reel)).toEqual(reel);
  expect(REEL.join(REEL.split(reel))).toEqual(reel);
  expect(REEL.join(REEL.split(REEL.empty))).toEqual(REEL.empty);
});

test('two who change different things do not meet', () => {
  const base = REEL.split(reel);
  const [one, two] = reel.members;
  const mine = diffCells(
    base,
    REEL.split({ ...reel, members: [{ ...one!, base: [one!.base[0]!, { ...one!.base[1]!, at: 80 }] }, two!] }),
  );
  const theirs = diffCells(base, REEL.split({ ...reel, name: 'Fog horn', members: [one!, { ...two!, muted: false }] }));
  const both = REEL.join(applyWrites(applyWrites(base, mine), theirs));
  expect([both.name, both.members[0]!.base[1]!.at, both.members[1]!.muted]).toEqual(['Fog horn', 80, false]);
  expect(mine).toHaveLength(1);
});

test('what somebody lays on a member whom another takes off meanwhile goes with the member', () => {
  const base = REEL.split(reel);
  const gone = diffCells(base, REEL.split({ ...reel, members: [reel.members[1]!] }));
  const laid = { cell: 'member/one/base/c', to: (({ id: _, ...rest }) => rest)(placement('c', 120)) };
  for (const writes of [
    [...gone, laid],
    [laid, ...gone],
  ]) {
    const cells = REEL.tidy!(applyWrites(base, writes));
    expect(REEL.join(cells).members.map((m) => m.id)).toEqual(['two']);
    expect(REEL.split(REEL.join(cells))).toEqual(cells);
  }
});

test('a camera that somebody takes away goes with the keys that another sets meanwhile', () => {
  const base = REEL.split(reel);
  const { cameras, ...without } = reel;
  const gone = diffCells(base, REEL.split(without));
  const { frame: _, ...shot } = cameras![0]!.keys[0]!;
  const set = { cell: 'camera/wide/90', to: shot };
  for (const writes of [
    [...gone, set],
    [set, ...gone],
  ])
    expect(REEL.join(REEL.tidy!(applyWrites(base, writes))).cameras).toBeUndefined();
  // two who set keys of one camera at different frames keep both
  const both = REEL.join(applyWrites(base, [set, { cell: 'camera/wide/120', to: { ...shot, fov: 40 } }]));
  expect(both.cameras![0]!.keys.map((k) => k.frame)).toEqual([0, 60, 90, 120]);
});

test('undone step by step, a thousand changes come back to the first reel', () => {
  const random = seeded(18);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const first = REEL.split(reel);
  let now = reel;
  const back: ReturnType<typeof diffCells>[] = [];
  for (let i = 0; i < 1000; i++) {
    const m = pick(now.members);
    const next: ReelContent = {
      ...now,
      members: now.members.map((x) =>
        x.id !== m.id
          ? x
          : pick<() => typeof x>([
              () => ({ ...x, muted: !x.muted }),
              () => ({ ...x, base: [...x.base, placement(`n${i}`, Math.floor(random() * 500))] }),
              () => ({ ...x, base: x.base.map((p) => ({ ...p, at: Math.floor(random() * 500) })) }),
              () => ({ ...x, base: x.base.slice(1) }),
              () => ({ ...x, keys: [{ handle: 'head', keys: [{ frame: i, move: [random(), 0, 0] }] }] }),
            ])(),
      ),
    };
    back.push(diffCells(REEL.split(next), REEL.split(now)));
    now = REEL.join(REEL.split(next));
  }
  let cells = REEL.split(now);
  for (const writes of back.reverse()) cells = applyWrites(cells, writes);
  expect(JSON.stringify(Object.entries(cells).sort())).toBe(JSON.stringify(Object.entries(first).sort()));
});

test.each([
  ['a name of nothing', { name: ' ' }],
  ['no frames', { frames: 0 }],
  ['an unknown part', { lights: [] }],
  [
    'a join of a kind there is not',
    { members: [{ ...reel.members[0]!, base: [{ ...placement('a', 0), join: { ...JOIN_DEFAULTS, kind: 'magic' } }] }] },
  ],
  ['a speed of nothing', { members: [{ ...reel.members[0]!, base: [{ ...placement('a', 0), speed: 0 }] }] }],
])('%s is refused', (_, wrong) => {
  expect(() => asReel({ ...reel, ...wrong })).toThrow();
});
