import { posedRig } from '../../motion/test/bodies';
import { rigAnswer } from '../test/rigs';
import { propPlaces } from './prop-marks';
import { rigView } from './rig-view';

const view = rigView(rigAnswer({}, posedRig(90)));
/** Walks along x and comes lowest at the given frame. */
function squat(lowest: number, frames = 20) {
  const n = view.rig.names.length;
  const turns = new Float32Array(4 * n * frames);
  for (let f = 0; f < frames; f++) turns.set(view.rig.restR, 4 * n * f);
  const values = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) values.set([0.1 * f, 0.9 - (f === lowest ? 0.4 : 0), 2], 3 * f);
  return { fps: 30, frameCount: frames, turns, places: [{ joint: 0, values }], numbers: [], scales: [], steps: [] };
}

test('a seat stands where the hips come lowest, as high as the shown body needs it', () => {
  const [seat] = propPlaces(view, squat(12), [{ name: 'crate', heightM: 0.45 }], 0.5);
  expect(seat).toMatchObject({ name: 'crate' });
  expect(seat!.x).toBeCloseTo(1.2, 5);
  expect(seat!.z).toBeCloseTo(2, 5);
  expect(seat!.height).toBeCloseTo(0.225, 9);
});

test('props without a height stand beside the start, none in another', () => {
  const places = propPlaces(
    view,
    squat(12),
    [
      { name: 'bucket', heightM: null },
      { name: 'lamp', heightM: null },
      { name: 'pit', heightM: -1 },
    ],
    1,
  );
  expect(places.map((p) => p.x).every((x, i, all) => i === 0 || x - all[i - 1]! > 0.44)).toBe(true);
  expect(places.every((p) => p.height > 0 && p.x > 0.4)).toBe(true);
});
