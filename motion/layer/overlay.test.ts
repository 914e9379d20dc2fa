import { MotionError } from '../errors';
import { angleBetweenQuats } from '../math/quat';
import { type Motion, restMotion, worldPositions } from '../motion/motion';
import { hold, resample } from '../motion/timing';
import { lengthTrack, ORDER_TRACK, viewTrack } from '../motion/tracks';
import { party, posedRig, standing, wander } from '../test/bodies';
import { jointsOf, layOver, looksAbsolute, type OverlayOptions } from './overlay';

const rig = posedRig(60, 1, true);
const who = party(rig);
const beneath = wander(rig, 80, 1, 60, 0.2);
const over = wander(rig, 40, 6, 60, 0.3);
const n = rig.names.length;
const options = (wish: Partial<OverlayOptions> = {}): OverlayOptions => ({
  mode: 'replace',
  reference: 'first',
  regions: ['head', 'left arm'],
  joints: [],
  at: 20,
  strength: () => 1,
  ...wish,
});
const turn = (m: Motion, f: number, j: number): Float32Array => m.turns.subarray(4 * (f * n + j), 4 * (f * n + j) + 4);
const apart = (a: Float32Array, b: Float32Array): number => angleBetweenQuats(a, 0, b, 0);
const taken = jointsOf(who, options());
const left = [...Array(n).keys()].filter((j) => !taken.includes(j));

describe('an overlay', () => {
  test('replaces its own joints for as long as it lasts, and nothing else', () => {
    const laid = layOver(who, beneath, over, options());
    for (const j of taken) {
      expect(apart(turn(laid, 40, j), turn(over, 20, j))).toBeLessThan(1e-4);
      expect(apart(turn(laid, 70, j), turn(beneath, 70, j))).toBeLessThan(1e-6);
    }
    for (const j of left) expect(apart(turn(laid, 40, j), turn(beneath, 40, j))).toBeLessThan(1e-6);
    expect(beneath.turns).toEqual(wander(rig, 80, 1, 60, 0.2).turns);
  });

  test('comes in by its strength, and goes beyond both where that is above 1 or below 0', () => {
    const j = taken[0]!;
    const at = (w: number): number =>
      apart(turn(layOver(who, beneath, over, options({ strength: () => w })), 40, j), turn(beneath, 40, j));
    const whole = at(1);
    expect(at(0)).toBeLessThan(1e-6);
    expect(at(0.25)).toBeCloseTo(0.25 * whole, 3);
    expect(at(1.5)).toBeCloseTo(1.5 * whole, 3);
    expect(at(-0.5)).toBeCloseTo(0.5 * whole, 3);
  });

  test('added puts its departure on top, from its first frame or from rest', () => {
    const same = hold(rig, { ...over, frameCount: 1, turns: over.turns.slice(0, 4 * n), places: [] }, 0, 39);
    const first = layOver(who, beneath, same, options({ mode: 'add' }));
    for (const j of taken) expect(apart(turn(first, 40, j), turn(beneath, 40, j))).toBeLessThan(1e-4);
    const rest = layOver(who, beneath, same, options({ mode: 'add', reference: 'rest' }));
    for (const j of taken)
      expect(apart(turn(rest, 40, j), turn(beneath, 40, j))).toBeCloseTo(
        apart(turn(same, 0, j), rig.restR.subarray(4 * j, 4 * j + 4)),
        3,
      );
  });

  test('keeps the signs of turns going on to the end', () => {
    const laid = layOver(who, beneath, over, options({ regions: [] }));
    for (let f = 1; f < laid.frameCount; f++)
      for (let j = 0; j < n; j++) {
        const [a, b] = [turn(laid, f - 1, j), turn(laid, f, j)];
        expect(a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]! + a[3]! * b[3]!).toBeGreaterThan(-1e-3);
      }
  });

  test('outside the motion changes nothing, and another rate or an unknown joint is refused', () => {
    expect(layOver(who, beneath, over, options({ at: 500 }))).toBe(beneath);
    expect(() => layOver(who, beneath, resample(rig, over, 30), options())).toThrow(MotionError);
    expect(() => layOver(who, beneath, over, options({ joints: ['Tail'] }))).toThrow('no joint “Tail”');
  });

  test('of the hips leaves feet that stand where they are, unless they are given up', () => {
    const plain = party(posedRig(60));
    const still = standing(plain.rig, plain.rig.restT[1]!, 60, () => undefined);
    const low: Motion = {
      ...still,
      places: [{ joint: 0, values: still.places[0]!.values.map((x, i) => (i % 3 === 1 ? x - 0.15 : x)) }],
    };
    const held = { L: new Uint8Array(60).fill(3), R: new Uint8Array(60).fill(3) };
    const foot = plain.map.slots.footL!.joint;
    const height = (m: Motion): number => worldPositions(plain.rig, m)[3 * (30 * plain.rig.names.length + foot) + 1]!;
    const hips = { regions: ['hips' as const], at: 0 };
    expect(height(layOver(plain, still, low, options({ ...hips, held })))).toBeCloseTo(height(still), 2);
    expect(height(layOver(plain, still, low, options(hips)))).toBeCloseTo(height(still) - 0.15, 3);
  });
});

test('a motion that tells poses outright is known before it is added to rest', () => {
  const bent = (size: number): Motion =>
    standing(rig, 1, 40, (f, set) => set('LeftForeArm', [size + 0.02 * Math.sin(f / 5), 0, 0, 1]));
  const regions = { regions: ['left arm' as const], joints: [] };
  expect(looksAbsolute(who, hold(rig, restMotion(rig, 60), 0, 20), { ...regions, reference: 'rest' })).toBe(false);
  expect(looksAbsolute(who, bent(0.6), { ...regions, reference: 'rest' })).toBe(true);
  expect(looksAbsolute(who, bent(0.6), { ...regions, reference: 'first' })).toBe(false);
});

describe('what an overlay holds besides turns and places', () => {
  const labelled = (m: Motion, name: string, label: string): Motion => ({
    ...m,
    steps: [...m.steps, { name, labels: [label], values: new Uint16Array(m.frameCount) }],
  });
  const shown = (m: Motion, name: string, f: number): string | undefined => {
    const track = m.steps.find((t) => t.name === name);
    return track?.labels[track.values[f]!];
  };

  test('drawings alone replace drawings, where they are more than half there, and leave every joint alone', () => {
    const base = labelled(labelled(beneath, 'eye L', 'open'), ORDER_TRACK, 'as drawn');
    const blink = labelled(labelled(over, 'eye L', 'shut'), ORDER_TRACK, 'arm behind');
    const strength = (f: number): number => (f < 30 ? 0.4 : 1);
    const laid = layOver(who, base, blink, options({ regions: ['face'], strength }));
    expect(laid.turns).toEqual(base.turns);
    expect(laid.places).toEqual(base.places);
    expect([19, 29, 30, 59, 60].map((f) => shown(laid, 'eye L', f))).toEqual(['open', 'open', 'shut', 'shut', 'open']);
    expect(shown(laid, ORDER_TRACK, 40)).toBe('as drawn');
    expect(shown(layOver(who, base, blink, options({ regions: [] })), ORDER_TRACK, 40)).toBe('arm behind');
    expect(shown(layOver(who, base, blink, options()), 'eye L', 40)).toBe('open');
    expect(shown(base, 'eye L', 40)).toBe('open');
  });

  test('what belongs to a joint goes with it: its view, its length, its size', () => {
    const head = rig.names.findIndex((_, j) => taken.includes(j));
    const name = rig.names[head]!;
    const sized: Motion = {
      ...labelled(over, viewTrack(name), 'side'),
      scales: [{ joint: head, values: new Float32Array(120).map((_, i) => (i % 3 === 0 ? -1 : 1)) }],
      numbers: [{ name: lengthTrack(name), values: new Float32Array(40).fill(0.5) }],
    };
    const laid = layOver(who, labelled(beneath, viewTrack(name), 'front'), sized, options());
    expect([10, 40, 70].map((f) => shown(laid, viewTrack(name), f))).toEqual(['front', 'side', 'front']);
    expect([10, 40, 70].map((f) => laid.numbers[0]!.values[f])).toEqual([1, 0.5, 1]);
    expect([10, 40, 70].map((f) => laid.scales[0]!.values[3 * f])).toEqual([1, -1, 1]);
    const elsewhere = layOver(who, beneath, sized, options({ regions: ['right arm'] }));
    expect([elsewhere.numbers, elsewhere.scales, elsewhere.steps]).toEqual([[], [], []]);
  });
});
