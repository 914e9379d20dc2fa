import { guessBodyMap } from '../bodymap/guess';
import { reportOf, retarget } from '../retarget/retarget';
import { assertRig, restPose } from '../rig/rig';
import { party, posedRig, wander } from '../test/bodies';
import { measureBody } from './body';
import { findPairing } from './pairing';
import { proportionsOf } from './proportions';
import { readinessOf } from './readiness';
import { restKind } from './rest-kind';
import { standIn } from './stand-in';

test.each(['T', 'A'] as const)('a stand-in in %s rest is a whole body that is understood at once', (rest) => {
  const rig = standIn(rest, 1.6);
  expect(() => assertRig(rig)).not.toThrow();
  const map = guessBodyMap(rig);
  expect(restKind(restPose(rig), map)).toBe(rest);
  for (const name of rig.names) expect([name, map.slots[name]]).toMatchObject([name, { state: 'sure' }]);
  const body = measureBody(rig, map);
  expect(body.floor).toBeCloseTo(0, 2);
  expect(body.soles.L && body.soles.R).toBeTruthy();
});

test('its proportions are the common body’s, whatever its height', () => {
  for (const height of [0.5, 1.75, 3]) {
    const rig = standIn('T', height);
    const found = proportionsOf(rig, guessBodyMap(rig), height);
    expect(found.length).toBeGreaterThan(7);
    for (const p of found) expect([p.name, Math.abs(p.ratio - 1) < 0.02]).toEqual([p.name, true]);
  }
});

test('both rests are one body: a motion comes out alike on either', () => {
  const source = party(posedRig(90));
  const motion = wander(source.rig, 40, 2);
  for (const rest of ['T', 'A'] as const) {
    const report = reportOf(retarget(source, motion, party(standIn(rest)), { plants: false }));
    expect([rest, report.direction.maxDeg < 0.05]).toEqual([rest, true]);
  }
});

test('nothing is missing for fitting', () => {
  const rig = standIn('A');
  const map = guessBodyMap(rig);
  const ready = readinessOf(rig, map, findPairing(rig, map), 'A', false);
  expect(ready.filter((r) => r.state === 'stops')).toEqual([]);
  // nothing but that there is no mesh to see
  expect(
    ready
      .filter((r) => r.state === 'limits')
      .map((r) => r.text)
      .join(),
  ).not.toMatch(/Feet|Hands|neck|back|guess/);
});

test.each([0, -1, 0.1, 20, Number.NaN])('a height of %d m is refused', (height) => {
  expect(() => standIn('T', height)).toThrow(/m tall/);
});
