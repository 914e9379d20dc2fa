import fc from 'fast-check';
import { correct } from '../layer/correct';
import { angleBetweenQuats, invertQuat, mulQuat } from '../math/quat';
import { seeded } from '../math/random';
import { logQuat } from '../math/rotation-vector';
import { type Motion, worldPositions } from '../motion/motion';
import { resample } from '../motion/timing';
import { party, posedRig, standing, wander } from '../test/bodies';
import {
  itemFramesIn,
  type Overlay,
  onsetStrength,
  PLACEMENT_DEFAULTS,
  type Placement,
  type ReelMember,
  reelFramesIn,
  stretchLength,
  wayThrough,
} from './document';
import { ReelEvaluator, strengthAt } from './evaluate';
import { meetAt } from './meet-at';
import { placeStretch } from './place';
import { type PoseWish, poseKeys } from './pose-keys';

const rig = posedRig(60, 1, true);
const who = party(rig);
const items: Record<string, Motion> = {
  walk: wander(rig, 90, 1, 60, 0.2),
  wave: wander(rig, 60, 4, 30, 0.25),
  look: wander(rig, 40, 9, 60, 0.3),
};
const placement = (id: string, itemId: string, at: number, wish: Partial<Placement> = {}): Placement => ({
  id,
  itemId,
  at,
  ...PLACEMENT_DEFAULTS,
  ...wish,
});
const overlay = (id: string, at: number, wish: Partial<Overlay> = {}): Overlay => {
  const { inPlace: _i, offset: _o, join: _j, ...stretch } = placement(id, 'look', at);
  return {
    ...stretch,
    mode: 'replace',
    reference: 'first',
    regions: ['head'],
    joints: [],
    strength: [],
    holdFeet: true,
    order: 0,
    ...wish,
  };
};
type Doing = Pick<ReelMember, 'base' | 'overlays' | 'keys'>;
const doing: Doing = {
  base: [placement('a', 'walk', 0), placement('b', 'wave', 38), placement('c', 'walk', 100, { mirrored: true })],
  overlays: [overlay('o', 20, { strength: onsetStrength(20, 5) })],
  keys: [
    {
      joint: 'LeftForeArm',
      keys: [
        { frame: 10, turn: [0.1, 0, 0, 1] },
        { frame: 40, turn: [0, 0, 0, 1] },
      ],
    },
  ],
};
const of = ({ itemId }: { itemId: string }): Motion | undefined => items[itemId];
const fresh = (d: Doing, frames = 160): Motion => new ReelEvaluator(who, 30).evaluate(d, frames, of).motion;

describe('a reel', () => {
  test('plays what lies on it, and says where it passes from one to the next', () => {
    const { motion, joins } = new ReelEvaluator(who, 30).evaluate(doing, 160, of);
    expect([motion.frameCount, motion.fps]).toEqual([160, 30]);
    expect(joins.map((j) => [j.from, j.to, j.kind])).toEqual([
      ['a', 'b', 'crossfade'],
      ['b', 'c', 'decay'],
    ]);
  });

  test('evaluated again after any change is what a fresh one would be, to the bit', () => {
    const random = seeded(7);
    const kept = new ReelEvaluator(who, 30);
    let now: Doing = doing;
    const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
    for (let i = 0; i < 25; i++) {
      const change = Math.floor(random() * 6);
      const at = Math.floor(random() * 120);
      if (change === 0) now = { ...now, base: now.base.map((p) => (p.id === 'b' ? { ...p, at } : p)) };
      if (change === 1)
        now = {
          ...now,
          base: now.base.map((p) =>
            p.id === 'c' ? { ...p, join: { ...p.join, kind: pick(['cut', 'decay', 'bridge'] as const) } } : p,
          ),
        };
      if (change === 2)
        now = { ...now, overlays: now.overlays.map((o) => ({ ...o, strength: [{ frame: 0, value: random() }] })) };
      if (change === 3) now = { ...now, overlays: now.overlays.map((o) => ({ ...o, at, muted: random() < 0.3 })) };
      if (change === 4) now = { ...now, keys: [{ joint: 'Head', keys: [{ frame: at, turn: [random(), 0, 0, 1] }] }] };
      if (change === 5)
        now = {
          ...now,
          base: now.base.map((p) => (p.id === 'a' ? { ...p, muted: random() < 0.4, speed: pick([1, 0.5, 2]) } : p)),
        };
      const again = kept.evaluate(now, 160, of).motion;
      const once = fresh(now);
      expect(again.turns).toEqual(once.turns);
      expect(again.places).toEqual(once.places);
    }
  });

  test('changes only what a change is about', () => {
    const n = rig.names.length;
    const plain = fresh({ ...doing, overlays: [] });
    const laid = fresh(doing);
    const head = rig.names.indexOf('Head');
    const arm = rig.names.indexOf('RightArm');
    const apart = (f: number, j: number): number =>
      angleBetweenQuats(plain.turns, 4 * (f * n + j), laid.turns, 4 * (f * n + j));
    expect(apart(30, head)).toBeGreaterThan(0.01);
    expect(Math.max(apart(30, arm), apart(10, head), apart(60, head))).toBeLessThan(1e-6);
  });

  test('without anything on it stands at rest, and what is muted or missing is not played', () => {
    const rest = fresh({ base: [], overlays: [], keys: [] }, 20);
    expect(rest.turns.subarray(0, 8)).toEqual(rig.restR.subarray(0, 8));
    const one = fresh({ ...doing, base: doing.base.slice(0, 1), overlays: [], keys: [] });
    const muted = fresh({
      ...doing,
      base: [doing.base[0]!, { ...doing.base[1]!, muted: true }, placement('x', 'gone', 90)],
      overlays: [],
      keys: [],
    });
    expect(muted.turns).toEqual(one.turns);
  });
});

describe('a stretch of an item', () => {
  const stretch = { from: 0, to: null, speed: 1, repeats: 1, mirrored: false };

  test.each([
    [{}],
    [{ from: 10, to: 50 }],
    [{ speed: 2 }],
    [{ speed: 0.37, from: 3 }],
    [{ repeats: 3 }],
    [{ repeats: 2, speed: 1.4, from: 5, to: 70 }],
    [{ from: 400, to: 500 }],
    [
      {
        pace: [
          { frame: 0, speed: 2 },
          { frame: 30, speed: 0.5 },
        ],
      },
    ],
    [
      {
        pace: [
          { frame: 20, speed: 0.4 },
          { frame: 50, speed: 3 },
        ],
        speed: 1.3,
        repeats: 3,
        from: 8,
      },
    ],
    [{ pace: [{ frame: 500, speed: 3 }] }],
  ])('is as long as its length says: %j', (wish) => {
    const s = { ...stretch, ...wish };
    for (const motion of [items.walk!, items.wave!])
      expect(placeStretch(who, motion, s, 30).frameCount).toBe(stretchLength(s, motion, 30));
  });

  test('plays as its speeds along the way say, whatever is cut off it', () => {
    const pace = [
      { frame: 10, speed: 1 },
      { frame: 40, speed: 0.5 },
      { frame: 60, speed: 2 },
    ];
    const s = { ...stretch, pace };
    const [walk] = [items.walk!];
    // as fast throughout is the same as one speed
    const even = placeStretch(
      who,
      walk,
      {
        ...stretch,
        pace: [
          { frame: 0, speed: 2 },
          { frame: 80, speed: 2 },
        ],
      },
      60,
    );
    expect(even.turns).toEqual(placeStretch(who, walk, { ...stretch, speed: 2 }, 60).turns);
    // what is left of a cut plays as the whole did
    const cut = Math.round(reelFramesIn(s, walk, 60, 45));
    const [whole, rest] = [placeStretch(who, walk, s, 60), placeStretch(who, walk, { ...s, from: 45 }, 60)];
    const n = 4 * rig.names.length;
    for (const f of [0, 10, 25])
      expect(angleBetweenQuats(rest.turns, n * f + 4, whole.turns, n * (cut + f) + 4)).toBeLessThan(0.02);
  });

  test('frames of the reel and of the item lead to each other', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ frame: fc.integer({ min: 0, max: 89 }), speed: fc.double({ min: 0.1, max: 4, noNaN: true }) }),
          {
            maxLength: 5,
          },
        ),
        fc.double({ min: 0, max: 89, noNaN: true }),
        (keys, at) => {
          const pace = [...new Map(keys.map((k) => [k.frame, k])).values()].sort((a, b) => a.frame - b.frame);
          const s = { ...stretch, pace };
          const lasts = { frameCount: 90, fps: 60 };
          const there = reelFramesIn(s, lasts, 30, at);
          expect(itemFramesIn(s, lasts, 30, there)).toBeCloseTo(at, 6);
          expect(reelFramesIn(s, lasts, 30, at + 1)).toBeGreaterThan(there);
        },
      ),
    );
  });

  test('how far through a lap a stretch has got follows its speeds', () => {
    const lasts = { frameCount: 90, fps: 60 };
    expect(wayThrough({ ...stretch, pace: [] }, lasts)).toBeUndefined();
    const slowing = wayThrough(
      {
        ...stretch,
        pace: [
          { frame: 0, speed: 3 },
          { frame: 89, speed: 0.5 },
        ],
      },
      lasts,
    )!;
    expect(slowing(0)).toBe(0);
    expect(slowing(1)).toBeCloseTo(1, 9);
    // what begins quickly is past the middle when half the time has gone
    expect(slowing(0.5)).toBeGreaterThan(0.6);
    for (let i = 1; i <= 20; i++) expect(slowing(i / 20)).toBeGreaterThan(slowing((i - 1) / 20));
  });

  test('repeated goes on where it ended', () => {
    const twice = placeStretch(who, items.wave!, { ...stretch, repeats: 2 }, 30);
    const p = worldPositions(rig, twice);
    const n = 3 * rig.names.length;
    const step = (f: number): number => Math.hypot(p[n * f]! - p[n * (f - 1)]!, p[n * f + 2]! - p[n * (f - 1) + 2]!);
    const usual = Math.max(...[10, 20, 30, 40, 50].map(step));
    for (let f = 55; f < 70; f++) expect(step(f)).toBeLessThan(1.3 * usual);
    expect(() => placeStretch(who, items.wave!, { ...stretch, repeats: 0 }, 30)).toThrow('once at least');
  });

  test('played at the reel’s rate is the item', () => {
    const placed = placeStretch(who, items.walk!, stretch, 30);
    expect(placed.turns).toEqual(resample(rig, items.walk!, 30).turns);
  });
});

describe('meeting at a match', () => {
  const items_ = { previous: items.walk!, next: items.wave! };
  const place = (p: Placement): Motion => placeStretch(who, items[p.itemId]!, p, 30);

  test('cuts both so that the pair of frames falls on the middle of the crossfade', () => {
    const [a, b] = [placement('a', 'walk', 12), placement('b', 'wave', 70)];
    const match = { a: 30, b: 12 };
    const met = meetAt(a, b, match, items_, 30);
    const [before, after] = [
      { ...a, ...met.previous },
      { ...b, ...met.next },
    ];
    const [x, y] = [place(before), place(after)];
    // they overlap by the crossfade, and on its middle lie the frames that were to meet
    expect(before.at + x.frameCount - after.at).toBe(a.join.frames + 1);
    expect(after.at + 5).toBe(a.at + match.a);
    const n = 4 * rig.names.length;
    expect(x.turns.subarray(n * 30, n * 31)).toEqual(place(a).turns.subarray(n * 30, n * 31));
    expect(y.turns.subarray(n * 5, n * 6)).toEqual(place(b).turns.subarray(n * 12, n * 13));
  });

  test('leaves what repeats as long as it is', () => {
    const [a, b] = [placement('a', 'walk', 0, { repeats: 2 }), placement('b', 'wave', 70, { repeats: 2 })];
    const met = meetAt(a, b, { a: 80, b: 3 }, items_, 30);
    expect([met.previous.to, met.next.from, met.next.at]).toEqual([null, 0, 77]);
  });
});

describe('a pose put over what is there', () => {
  const n = rig.names.length;
  const beneath = items.walk!;
  const wish: PoseWish = {
    pose: items.look!,
    strength: 1,
    regions: ['left arm', 'head'],
    joints: [],
    mirror: null,
    hold: [],
    onset: 8,
  };
  const at = 40;
  const turned = (m: Motion, f: number, name: string): Float32Array => {
    const j = rig.names.indexOf(name);
    return m.turns.subarray(4 * (f * n + j), 4 * (f * n + j) + 4);
  };
  const apart = (a: Float32Array, b: Float32Array): number => angleBetweenQuats(a, 0, b, 0);

  test('is what is seen at that frame, comes in and goes, and leaves all else alone', () => {
    const { keys, written, leftAlone } = poseKeys(who, beneath, beneath, at, [], wish);
    const done = correct(who, beneath, keys);
    expect(apart(turned(done, at, 'LeftForeArm'), turned(items.look!, 0, 'LeftForeArm'))).toBeLessThan(1e-3);
    expect(apart(turned(done, at - 9, 'LeftForeArm'), turned(beneath, at - 9, 'LeftForeArm'))).toBeLessThan(1e-4);
    expect(apart(turned(done, at, 'RightForeArm'), turned(beneath, at, 'RightForeArm'))).toBeLessThan(1e-6);
    expect(written).toContain('LeftForeArm');
    expect(written).not.toContain('RightForeArm');
    expect(leftAlone).toEqual(expect.arrayContaining(['right arm', 'left leg', 'hips']));
  });

  test.each([-0.5, 0.5, 1.5])('by %d goes so far along the way to it', (strength) => {
    const done = correct(who, beneath, poseKeys(who, beneath, beneath, at, [], { ...wish, strength }).keys);
    const way = apart(turned(beneath, at, 'LeftForeArm'), turned(items.look!, 0, 'LeftForeArm'));
    expect(apart(turned(done, at, 'LeftForeArm'), turned(beneath, at, 'LeftForeArm'))).toBeCloseTo(
      Math.abs(strength) * way,
      2,
    );
  });

  test('about some axes alone leaves the others where they are, and all three are the whole pose', () => {
    const local = (m: Motion): number[] => {
      const o = 4 * (at * n + rig.names.indexOf('LeftForeArm'));
      const [q, v] = [
        [0, 0, 0, 1],
        [0, 0, 0],
      ];
      invertQuat(q, 0, beneath.turns, o);
      mulQuat(q, 0, q, 0, m.turns, o);
      logQuat(v, 0, q, 0);
      return v;
    };
    const of = (axes: PoseWish['axes']): Motion =>
      correct(who, beneath, poseKeys(who, beneath, beneath, at, [], { ...wish, axes }).keys);
    const whole = local(of(undefined));
    expect(whole.filter((x) => Math.abs(x) > 0.02).length).toBeGreaterThan(1);
    for (const [k, axis] of (['x', 'y', 'z'] as const).entries())
      local(of([axis])).forEach((x, i) => {
        expect(x).toBeCloseTo(i === k ? whole[k]! : 0, 3);
      });
    local(of(['x', 'y', 'z'])).forEach((x, i) => {
      expect(x).toBeCloseTo(whole[i]!, 4);
    });
    expect(poseKeys(who, beneath, beneath, at, [], { ...wish, axes: [] }).written).toEqual([]);
  });

  describe('that crouches', () => {
    const plain = posedRig(60);
    const body = party(plain);
    /** Hips 30 cm lower, knees bent, feet flat on the ground where they stand. */
    const bend = (name: string, angle: number) => [name, [Math.sin(angle / 2), 0, 0, Math.cos(angle / 2)]] as const;
    const crouch = standing(plain, 0.65, 2, (_, set) => {
      for (const side of ['Left', 'Right'])
        for (const [name, q] of [bend(`${side}UpLeg`, -0.85), bend(`${side}Leg`, 1.7), bend(`${side}Foot`, -0.85)])
          set(name, q);
    });
    const stood = standing(plain, 0.95, 60, () => {});
    const place = (m: Motion, f: number, name: string): number[] => {
      const j = plain.names.indexOf(name);
      return [...worldPositions(plain, m).subarray(3 * (f * n + j), 3 * (f * n + j) + 3)];
    };
    const put = (more: Partial<PoseWish>) =>
      poseKeys(body, stood, stood, 30, [], { ...wish, pose: crouch, regions: [], ...more });

    test('without moves leaves the body at its height', () => {
      const { keys, moved } = put({});
      expect(moved).toEqual([0, 0, 0]);
      expect(place(correct(body, stood, keys), 30, 'Hips')[1]).toBeCloseTo(0.95, 3);
    });

    test('lowers the body over feet that are held, and brings it up again', () => {
      const { keys, moved } = put({ moves: ['y'], hold: ['footL', 'footR'] });
      expect(moved[1]).toBeCloseTo(-0.3, 2);
      const done = correct(body, stood, keys);
      expect(place(done, 30, 'Hips')[1]).toBeCloseTo(0.65, 2);
      for (const foot of ['LeftFoot', 'RightFoot'])
        place(done, 30, foot).forEach((x, k) => {
          expect(x).toBeCloseTo(place(stood, 30, foot)[k]!, 3);
        });
      expect(place(done, 50, 'Hips')[1]).toBeCloseTo(0.95, 4);
    });

    test('takes feet that nobody holds along: the legs are those of the pose', () => {
      const done = correct(body, stood, put({ moves: ['x', 'y', 'z'] }).keys);
      expect(apart(turned(done, 30, 'LeftLeg'), turned(crouch, 0, 'LeftLeg'))).toBeLessThan(0.01);
      expect(place(done, 30, 'LeftFoot')[1]).toBeCloseTo(place(crouch, 0, 'LeftFoot')[1]!, 2);
    });

    test('moves half as far by half its strength, along the ways that are asked for alone, with the hips alone', () => {
      expect(put({ moves: ['y'], strength: 0.5 }).moved[1]).toBeCloseTo(-0.15, 2);
      // what only faces elsewhere lies over its feet all the same
      const away = standing(plain, 0.95, 2, (_, set) => set('Hips', [0, Math.SQRT1_2, 0, Math.SQRT1_2]));
      expect(put({ moves: ['x', 'z'], pose: crouch }).moved[1]).toBe(0);
      expect(put({ moves: ['x', 'y', 'z'], pose: away }).moved.every((x) => Math.abs(x) < 1e-6)).toBe(true);
      expect(put({ moves: ['y'], regions: ['head'] }).moved).toEqual([0, 0, 0]);
    });
  });

  test('over keys that are there goes from what they show, and is fenced in only where it stands alone', () => {
    const first = poseKeys(who, beneath, beneath, at, [], wish).keys;
    const now = correct(who, beneath, first);
    const none = poseKeys(who, beneath, now, at, first, { ...wish, strength: 0 });
    expect([none.written, none.keys]).toEqual([[], first]);
    const more = poseKeys(who, beneath, now, at + 3, first, { ...wish, pose: items.wave! });
    const done = correct(who, beneath, more.keys);
    expect(apart(turned(done, at + 3, 'LeftForeArm'), turned(items.wave!, 0, 'LeftForeArm'))).toBeLessThan(1e-3);
    const count = (keys: typeof first): number[] => keys.map((t) => t.keys.length);
    expect(count(first).every((c) => c === 3)).toBe(true);
    expect(count(more.keys).every((c) => c === 4)).toBe(true);
  });

  test('of the whole body keeps it where it is, and a foot that is held', () => {
    const { keys } = poseKeys(who, beneath, beneath, at, [], { ...wish, regions: [], hold: ['footR'] });
    const done = correct(who, beneath, keys);
    const place = (m: Motion, name: string): number[] => {
      const o = 3 * (at * n + rig.names.indexOf(name));
      return [...worldPositions(rig, m).subarray(o, o + 3)];
    };
    const far = (name: string): number => Math.hypot(...place(done, name).map((x, k) => x - place(beneath, name)[k]!));
    expect(far('Hips')).toBeLessThan(1e-6);
    expect(far('RightFoot')).toBeLessThan(0.02);
    expect(far('LeftFoot')).toBeGreaterThan(0.05);
  });

  test('mirrored is the other arm’s', () => {
    const both = { ...wish, regions: [], mirror: 'exchange' as const };
    const plain = correct(who, beneath, poseKeys(who, beneath, beneath, at, [], { ...wish, regions: [] }).keys);
    const other = correct(who, beneath, poseKeys(who, beneath, beneath, at, [], both).keys);
    expect(apart(turned(plain, at, 'LeftForeArm'), turned(other, at, 'LeftForeArm'))).toBeGreaterThan(0.05);
    expect(() => poseKeys(who, beneath, beneath, 500, [], wish)).toThrow('Frame 500');
  });
});

test('a strength comes in over its onset and goes again', () => {
  const keys = onsetStrength(60, 10);
  expect([0, 5, 10, 30, 49, 59].map((f) => strengthAt(keys, f))).toEqual([0, 0.5, 1, 1, 1, 0]);
  expect(onsetStrength(3).map((k) => k.frame)).toEqual([0, 1, 2, 3]);
  expect(strengthAt([], 5)).toBe(1);
});
