import { type Placement, stretchLength } from '@velvet-reel/motion';
import { REEL, type ReelContent } from '@/documents/reel';
import {
  addCamera,
  addMember,
  changeCamera,
  changePlacement,
  copyStretch,
  endOfLane,
  type Layable,
  landmarks,
  lay,
  layBehind,
  layBetween,
  layOverBase,
  moveCameraKey,
  moveKeys,
  removeCamera,
  removeKeys,
  removeLevelKey,
  removeStretch,
  sameOn,
  setCameraKey,
  setLabelKey,
  setLabelKeys,
  setLevelKey,
  split,
  trimmed,
  withMember,
} from './reel-edits';

const walk: Layable = { id: 'walk', versionId: 'w1', name: 'Deck walk', frameCount: 61, fps: 60, loops: true };
const sit: Layable = { id: 'sit', versionId: 's1', name: 'Sit', frameCount: 91, fps: 30, loops: false };
const known: Record<string, Layable> = { walk, sit };
const lengthOf = (s: Pick<Placement, 'itemId' | 'from' | 'to' | 'speed' | 'repeats'>): number =>
  stretchLength(s, known[s.itemId]!, 30);
const begun = addMember({ ...REEL.empty, name: 'x', frames: 10 }, 'tove');
const on = (reel: ReelContent) => reel.members[0]!;

test('items laid behind each other overlap by a crossfade, and the reel grows to hold them', () => {
  const first = layBehind(begun.reel, begun.id, walk, lengthOf);
  const second = layBehind(first.reel, begun.id, sit, lengthOf);
  expect(on(second.reel).base.map((p) => [p.itemId, p.at])).toEqual([
    ['walk', 0],
    ['sit', 21],
  ]);
  expect(endOfLane(on(second.reel), lengthOf)).toBe(112);
  expect(second.reel.frames).toBe(112);
});

test('whoever is new begins beside the others, where nobody stands, until somebody lays them otherwise', () => {
  const x = (reel: ReelContent): number[] => reel.members.map((m) => m.base[0]?.offset.x ?? 0);
  const first = lay(begun.reel, begun.id, walk, 0);
  const pip = addMember(first.reel, 'pip');
  const second = lay(pip.reel, pip.id, sit, 40);
  expect(x(second.reel)).toEqual([0, 1]);
  // only what is laid first says where somebody begins
  expect(x(lay(second.reel, pip.id, walk, 0).reel)).toEqual([0, 1]);
  const third = sameOn(second.reel, pip.id, 'winch');
  expect(x(third.reel)).toEqual([0, 1, 2]);
  const gone = { ...third.reel, members: third.reel.members.filter((m) => m.id !== pip.id) };
  expect(x(sameOn(gone, begun.id, 'skerry').reel)).toEqual([0, 2, 1]);
});

test('moving one leaves the rest, or takes what begins after it along', () => {
  const a = lay(begun.reel, begun.id, sit, 10);
  const b = lay(a.reel, begun.id, sit, 100);
  const at = (reel: ReelContent) => on(reel).base.map((p) => p.at);
  expect(at(changePlacement(b.reel, begun.id, a.id, { at: 30 }))).toEqual([30, 100]);
  expect(at(changePlacement(b.reel, begun.id, a.id, { at: 30 }, true))).toEqual([30, 120]);
  expect(at(changePlacement(b.reel, begun.id, b.id, { at: 90 }, true))).toEqual([10, 90]);
});

test('cut in two, speeds along the way stay where they are in the item', () => {
  const pace = [
    { frame: 0, speed: 1 },
    { frame: 60, speed: 3 },
  ];
  const a = lay(begun.reel, begun.id, sit, 10);
  const paced = changePlacement(a.reel, begun.id, a.id, { pace });
  const whole = stretchLength(on(paced).base[0]!, sit, 30);
  const cut = split(paced, begun.id, a.id, 40, sit)!;
  const [x, y] = on(cut.reel).base;
  expect([x!.pace, y!.pace]).toEqual([pace, pace]);
  expect(Math.abs(y!.at + stretchLength(y!, sit, 30) - 10 - whole)).toBeLessThanOrEqual(1);
  expect(Math.abs(x!.at + stretchLength(x!, sit, 30) - 1 - y!.at)).toBeLessThanOrEqual(1);
});

test('an item is inserted where another plays: that one is cut, and what follows moves on by as much', () => {
  const a = lay(begun.reel, begun.id, sit, 0);
  const b = lay(a.reel, begun.id, walk, 100);
  const made = layBetween(b.reel, begun.id, walk, 40, (p) => known[p.itemId]);
  const rows = on(made.reel).base.map((p) => [p.itemId, p.at, p.from, p.to] as const);
  // a walk of 31 frames of the reel, mixed over 10 with what is before it and behind it
  expect([...rows].sort((x, y) => x[1] - y[1])).toEqual([
    ['sit', 0, 0, 40],
    ['walk', 30, 0, null],
    ['sit', 51, 40, null],
    ['walk', 111, 0, null],
  ]);
  expect(on(made.reel).base.find((p) => p.id === made.id)!.at).toBe(30);
  expect(on(made.reel).base.find((p) => p.at === 51)!.join.kind).not.toBe('cut');
  expect(made.reel.frames).toBe(142);
});

test('inserted where something repeats it waits for its end; before everything nothing is mixed', () => {
  const a = lay(begun.reel, begun.id, walk, 0);
  const twice = changePlacement(a.reel, begun.id, a.id, { repeats: 2 });
  const inside = layBetween(twice, begun.id, sit, 10, (p) => known[p.itemId]);
  expect(on(inside.reel).base.map((p) => [p.itemId, p.at])).toEqual([
    ['walk', 0],
    ['sit', lengthOf(on(twice).base[0]!) - 10],
  ]);
  const first = layBetween(a.reel, begun.id, sit, 0, (p) => known[p.itemId]);
  expect(on(first.reel).base.map((p) => [p.itemId, p.at])).toEqual([
    ['walk', 81],
    ['sit', 0],
  ]);
});

test('what is laid and set over what follows moves on with it, and what lies before stays', () => {
  const a = lay(begun.reel, begun.id, sit, 0);
  const b = lay(a.reel, begun.id, walk, 100);
  const early = layOverBase(b.reel, begun.id, walk, 20, ['head']);
  const late = layOverBase(early.reel, begun.id, walk, 105, ['head']);
  const turn = [0, 0, 0, 1] as const;
  const key = (frame: number) => ({ frame, turn });
  const keyed = {
    ...late.reel,
    members: late.reel.members.map((m) => ({
      ...m,
      keys: [{ joint: 'head', keys: [key(10), key(110)] }],
      numbers: [
        {
          name: 'smile',
          keys: [
            { frame: 95, value: 1 },
            { frame: 120, value: 0 },
          ],
        },
      ],
      labels: [{ name: 'mouth', keys: [{ frame: 100, label: 'open' }] }],
    })),
  };
  const frames = (m: ReturnType<typeof on>) => [
    m.overlays.map((o) => o.at),
    m.keys.map((t) => t.keys.map((k) => k.frame)),
    m.numbers!.map((l) => l.keys.map((k) => k.frame)),
    m.labels!.map((l) => l.keys.map((k) => k.frame)),
  ];
  // the walk that is inserted takes 31 frames, of which 10 on either side are mixed
  const inserted = layBetween(keyed, begun.id, walk, 90, (p) => known[p.itemId]).reel;
  const by = on(inserted).base.find((p) => p.itemId === 'walk' && p.at > 100)!.at - 100;
  expect(by).toBeGreaterThan(0);
  expect(frames(on(inserted))).toEqual([[20, 105 + by], [[10, 110 + by]], [[95 + by, 120 + by]], [[100 + by]]]);
  // moved with what follows it: ten frames earlier, over a key that stood there
  const moved = changePlacement(keyed, begun.id, b.id, { at: 90 }, true);
  expect(frames(on(moved))).toEqual([[20, 95], [[10, 100]], [[95, 110]], [[90]]]);
  const alone = changePlacement(keyed, begun.id, b.id, { at: 90 });
  expect(frames(on(alone))).toEqual(frames(on(keyed)));
});

test('an overlay takes some of the body, and its strength comes in and goes', () => {
  const laid = layOverBase(begun.reel, begun.id, sit, 5, ['head']);
  const [over] = on(laid.reel).overlays;
  expect(over).toMatchObject({ at: 5, regions: ['head'], mode: 'replace', holdFeet: true });
  expect(over!.strength.map((k) => [k.frame, k.value])).toEqual([
    [0, 0],
    [10, 1],
    [80, 1],
    [90, 0],
  ]);
});

test('cut in two, both parts play what the whole did', () => {
  const a = lay(begun.reel, begun.id, sit, 10);
  const cut = split(a.reel, begun.id, a.id, 40, sit)!;
  const [x, y] = on(cut.reel).base;
  expect([x!.from, x!.to, y!.from, y!.to, y!.at]).toEqual([0, 30, 30, null, 40]);
  expect(x!.at + lengthOf(x!) - 1).toBe(y!.at);
  expect(endOfLane(on(cut.reel), lengthOf)).toBe(endOfLane(on(a.reel), lengthOf));
  expect(split(a.reel, begun.id, a.id, 10, sit)).toBeUndefined();
  expect(split(a.reel, begun.id, a.id, 300, sit)).toBeUndefined();
});

describe('an end that is dragged', () => {
  const of = (item: Layable, change: Partial<Placement> = {}): Placement => {
    const made = lay(begun.reel, begun.id, item, 50);
    return { ...on(made.reel).base[0]!, ...change };
  };
  test('cuts into the item, at its own rate', () => {
    expect(trimmed(of(sit), { start: 60, end: 140 }, sit, 30)).toEqual({ at: 60, from: 10, to: null, repeats: 1 });
    expect(trimmed(of(sit), { start: 50, end: 100 }, sit, 30)).toEqual({ at: 50, from: 0, to: 50, repeats: 1 });
    expect(trimmed(of(walk), { start: 60, end: 80 }, walk, 30)).toMatchObject({ at: 60, from: 20 });
  });
  test('never reaches beyond the item, but a cycle repeats', () => {
    expect(trimmed(of(sit), { start: 30, end: 400 }, sit, 30)).toEqual({ at: 50, from: 0, to: null, repeats: 1 });
    expect(trimmed(of(walk), { start: 50, end: 141 }, walk, 30)).toEqual({ at: 50, from: 0, to: null, repeats: 3 });
    expect(trimmed(of(walk, { repeats: 3 }), { start: 50, end: 81 }, walk, 30)).toMatchObject({ repeats: 1 });
  });
});

test('copies lie behind, and what is removed is gone', () => {
  const a = lay(begun.reel, begun.id, sit, 0);
  const b = copyStretch(a.reel, begun.id, a.id, lengthOf);
  expect(on(b.reel).base.map((p) => p.at)).toEqual([0, 91]);
  expect(new Set(on(b.reel).base.map((p) => p.id)).size).toBe(2);
  expect(on(removeStretch(b.reel, begun.id, a.id)).base).toHaveLength(1);
});

test('the same on another character shares no names with the first, and leaves keys of its joints behind', () => {
  const a = layOverBase(lay(begun.reel, begun.id, sit, 0).reel, begun.id, sit, 5, ['head']);
  const keyed: ReelContent = {
    ...a.reel,
    members: [
      {
        ...on(a.reel),
        keys: [
          { joint: 'Hat', keys: [{ frame: 1 }] },
          { handle: 'head', keys: [{ frame: 1 }] },
        ],
      },
    ],
  };
  const made = sameOn(keyed, begun.id, 'pip');
  const [one, two] = made.reel.members;
  expect([two!.castId, two!.keys.length]).toEqual(['pip', 1]);
  const names = [one!, two!].flatMap((m) => [m.id, ...m.base.map((p) => p.id), ...m.overlays.map((o) => o.id)]);
  expect(new Set(names).size).toBe(names.length);
  expect(two!.order).toBeGreaterThan(one!.order);
});

test('others are laid against where something begins or ends', () => {
  const a = lay(begun.reel, begun.id, sit, 7);
  const marks = landmarks({ ...a.reel, markers: [{ id: 'm', frame: 33, name: 'bell' }] }, lengthOf, 'other');
  expect(marks).toEqual([0, 7, 33, 97, 98]);
  expect(landmarks(a.reel, lengthOf, a.id)).toEqual([0, 97]);
});

test('keys of a frame move together, give way joint by joint, and go together', () => {
  const key = (frame: number) => ({ frame, move: [0, 0, frame], turn: [0, 0, 0, 1] }) as const;
  const reel: ReelContent = {
    ...begun.reel,
    members: [
      {
        ...on(begun.reel),
        keys: [
          { handle: 'head', keys: [key(3), key(9)] },
          { joint: 'Spine', keys: [key(9)] },
        ],
      },
    ],
  };
  const frames = (of: ReelContent) => on(of).keys.map((t) => t.keys.map((k) => [k.frame, k.move?.[2]]));
  // the head's key at 9 gives way to the one that comes; the spine has none to bring, and keeps its own
  expect(frames(moveKeys(reel, begun.id, 3, 9))).toEqual([[[9, 3]], [[9, 9]]]);
  expect(frames(moveKeys(reel, begun.id, 9, 1))).toEqual([
    [
      [1, 9],
      [3, 3],
    ],
    [[1, 9]],
  ]);
  expect(moveKeys(reel, begun.id, 3, 3)).toBe(reel);
  expect(frames(removeKeys(reel, begun.id, 9))).toEqual([[[3, 3]]]);
});

test('a key of a number or of drawings is taken out, and a lane without keys is gone', () => {
  const member = {
    ...on(begun.reel),
    numbers: [{ name: 'smile', keys: [{ frame: 3, value: 1 }] }],
    labels: [
      {
        name: 'eye',
        keys: [
          { frame: 2, label: 'shut' },
          { frame: 6, label: null },
        ],
      },
    ],
  };
  const reel = withMember(begun.reel, member);
  const once = removeLevelKey(reel, begun.id, 'labels', 'eye', 2);
  expect(on(once).labels).toEqual([{ name: 'eye', keys: [{ frame: 6, label: null }] }]);
  expect(on(once).numbers).toBe(member.numbers);
  expect(on(removeLevelKey(once, begun.id, 'labels', 'eye', 6))).not.toHaveProperty('labels');
  expect(on(removeLevelKey(once, begun.id, 'numbers', 'smile', 3))).not.toHaveProperty('numbers');
});

test('a camera is set up from a view, given keys, moved in time, renamed and removed', () => {
  const shot = { eye: [0, 1, 4], target: [0, 1, 0], fov: 30 } as const;
  const made = addCamera(begun.reel, 'camera 1', 12, shot);
  const set = setCameraKey(made.reel, made.id, 40, { ...shot, fov: 50 });
  expect(set.cameras![0]!.keys.map((k) => [k.frame, k.fov])).toEqual([
    [12, 30],
    [40, 50],
  ]);
  expect(setCameraKey(set, made.id, 40, { ...shot, fov: 20 }).cameras![0]!.keys[1]!.fov).toBe(20);
  expect(moveCameraKey(set, made.id, 12, 60).cameras![0]!.keys.map((k) => k.frame)).toEqual([40, 60]);
  expect(moveCameraKey(set, made.id, 12, 40).cameras![0]!.keys.map((k) => [k.frame, k.fov])).toEqual([[40, 30]]);
  expect(moveCameraKey(set, made.id, 13, 60)).toBe(set);
  expect(changeCamera(set, made.id, { name: 'quay' }).cameras![0]!.name).toBe('quay');
  expect(setCameraKey(set, made.id, 12, null).cameras![0]!.keys).toHaveLength(1);
  expect(removeCamera(set, made.id)).toEqual(begun.reel);
});

test('a number is set key by key on a lane of its own, and lets go again', () => {
  const one = setLevelKey(begun.reel, begun.id, 'smile', 20, 0.6);
  const two = setLevelKey(setLevelKey(one, begun.id, 'smile', 5, 0), begun.id, 'blink', 9, 1);
  expect(on(two).numbers).toEqual([
    { name: 'blink', keys: [{ frame: 9, value: 1 }] },
    {
      name: 'smile',
      keys: [
        { frame: 5, value: 0 },
        { frame: 20, value: 0.6 },
      ],
    },
  ]);
  const again = setLevelKey(two, begun.id, 'smile', 20, null);
  expect(on(again).numbers![1]!.keys).toEqual([
    { frame: 5, value: 0 },
    { frame: 20, value: null },
  ]);
});

test('a drawing shows from its key on; one that repeats what shows goes, and a lane without keys with it', () => {
  const shut = setLabelKey(begun.reel, begun.id, 'eye', 20, 'shut');
  const both = setLabelKey(setLabelKey(shut, begun.id, 'eye', 5, 'open'), begun.id, 'hand', 9, 'fist');
  expect(on(both).labels).toEqual([
    {
      name: 'eye',
      keys: [
        { frame: 5, label: 'open' },
        { frame: 20, label: 'shut' },
      ],
    },
    { name: 'hand', keys: [{ frame: 9, label: 'fist' }] },
  ]);
  const same = setLabelKey(both, begun.id, 'eye', 12, 'open');
  expect(on(same).labels).toEqual(on(both).labels);
  const gone = setLabelKey(both, begun.id, 'hand', 9, null);
  expect(on(gone).labels!.map((l) => l.name)).toEqual(['eye']);
  const left = setLabelKey(both, begun.id, 'eye', 30, null);
  expect(on(left).labels![0]!.keys.at(-1)).toEqual({ frame: 30, label: null });
  expect(on(setLabelKeys(shut, begun.id, 'eye', [])).labels).toBeUndefined();
});
