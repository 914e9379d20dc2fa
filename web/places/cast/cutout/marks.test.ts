import { bodyMapToJson, cutoutFromSvg, flatSkeleton, type JointMarks, putTogether } from '@velvet-reel/motion';
import { cookAnise } from '../../../../demo/cutouts/cook-anise';
import { gullCaptain } from '../../../../demo/cutouts/gull-captain';
import { inwards, marksFrom, placesOf, suggestMark } from './marks';

const figure = (svg: string) => {
  const { rig, art, map } = cutoutFromSvg(new TextEncoder().encode(svg));
  return { rig, art, map: bodyMapToJson(map, flatSkeleton(rig)) };
};
const captain = figure(gullCaptain());
const cook = figure(cookAnise());

test('marks begin on the joints that the body map knows', () => {
  const { rig, art, map } = captain;
  const marks = marksFrom(rig, art, map);
  const places = placesOf(rig, art);
  expect(marks.hips).toEqual(places[rig.names.indexOf(map.slots.hips!.joint!)]);
  expect(marks.shinL).toEqual(places[rig.names.indexOf(map.slots.shinL!.joint!)]);
  expect(marks.neck1 === undefined).toBe((map.slots.neck1?.joint ?? null) === null);
});

test.each([
  ['seen from the front', captain],
  ['in profile', cook],
])('a figure that was read well and is drawn %s is the same when it is put together by its own marks', (_, own) => {
  const made = putTogether({ rig: own.rig, art: own.art }, marksFrom(own.rig, own.art, own.map));
  const map = bodyMapToJson(made.map, flatSkeleton(made.rig));
  for (const [slot, { joint }] of Object.entries(own.map.slots)) {
    const partsOf = ({ names, parts }: typeof own.rig, name: string | null | undefined): string[] =>
      parts.filter((p) => names[p.joint] === name).map((p) => p.name);
    expect([slot, partsOf(made.rig, map.slots[slot]?.joint)]).toEqual([slot, partsOf(own.rig, joint)]);
  }
});

test('a limb in one piece is marked at its end, too', () => {
  const { rig, art, map } = captain;
  const none = { joint: null, state: 'missing' as const, why: '' };
  const slots = { ...map.slots, forearmL: none, handL: none, handR: none };
  const marks = marksFrom(rig, art, { ...map, slots });
  expect(marks.forearmL).toBeUndefined();
  const own = marksFrom(rig, art, map);
  // where the next piece is pinned, its bone ends
  expect(Math.hypot(marks.handL![0] - own.forearmL![0], marks.handL![1] - own.forearmL![1])).toBeLessThan(1);
  expect(Math.hypot(marks.handR![0] - own.handR![0], marks.handR![1] - own.handR![1])).toBeLessThan(1);
});

test('a joint that has no mark is suggested across from its partner, behind it in a profile', () => {
  const { shinL, ...marks } = marksFrom(captain.rig, captain.art, captain.map);
  const [x, y] = suggestMark('shinL', marks, captain.art, captain.rig);
  expect([x, y]).toEqual([2 * marks.hips![0] - marks.shinR![0], marks.shinR![1]]);
  const own = marksFrom(cook.rig, cook.art, cook.map);
  expect(suggestMark('shinL', { hips: own.hips!, shinR: own.shinR! }, cook.art, cook.rig)).toEqual(own.shinR);
});

test('without a partner it is where people have it, within the figure', () => {
  const { rig, art } = captain;
  const marks: JointMarks = { hips: [300, 400] };
  const [left, right] = [suggestMark('handL', marks, art, rig), suggestMark('handR', marks, art, rig)];
  expect(left[0] > 300).toBe(!rig.mirrored);
  expect(left[0] - 300).toBeCloseTo(300 - right[0], 6);
  expect(suggestMark('footL', marks, art, rig)[1]).toBeGreaterThan(suggestMark('shinL', marks, art, rig)[1]);
  const low = Math.max(...art.drawings.map((d) => d.box[1] + d.box[3]));
  expect(suggestMark('footL', marks, art, rig)[1]).toBeLessThan(low);
});

test('lines go inwards to the next joint that is marked', () => {
  const at: readonly [number, number] = [0, 0];
  expect(inwards('handL', { hips: at, upperArmL: at, forearmL: at, handL: at })).toBe('forearmL');
  expect(inwards('handL', { hips: at, upperArmL: at, handL: at })).toBe('upperArmL');
  expect(inwards('footR', { hips: at, footR: at, thighL: at })).toBe('hips');
  expect(inwards('head', { hips: at, head: at })).toBe('hips');
  expect(inwards('hips', { hips: at })).toBeUndefined();
});
