import { type Motion, skinStretch } from '../index';
import { axisAngleQuat } from '../math/quat';
import type { SkinEdges } from '../rig/skin-edges';
import { buildRig, party } from '../test/bodies';

const rig = buildRig();
const { map } = party(rig);
const n = rig.names.length;
const at = (name: string): number => rig.names.indexOf(name);

/** One edge along the arm over the left elbow, one end on the upper arm and one on the forearm. */
function elbowEdge(): SkinEdges {
  const rest = (j: number): number[] => {
    const out = [0, 0, 0];
    for (let i = j; i >= 0; i = rig.parents[i]!) for (let k = 0; k < 3; k++) out[k] = out[k]! + rig.restT[3 * i + k]!;
    return out;
  };
  const [x, y, z] = rest(at('LeftForeArm')) as [number, number, number];
  return {
    places: Float32Array.of(x - 0.05, y + 0.04, z, x + 0.05, y + 0.04, z),
    joints: Uint16Array.of(at('LeftArm'), 0, 0, 0, at('LeftForeArm'), 0, 0, 0),
    weights: Float32Array.of(1, 0, 0, 0, 1, 0, 0, 0),
  };
}

const still = (frames: number): Motion => {
  const turns = new Float32Array(4 * n * frames);
  for (let f = 0; f < frames; f++) turns.set(rig.restR, 4 * n * f);
  return { fps: 30, frameCount: frames, turns, places: [], numbers: [], scales: [], steps: [] };
};

test('a bent elbow is as usual, whatever it does to the skin; a forearm left behind is not', () => {
  const edges = elbowEdge();
  const bent = still(20);
  const q = [0, 0, 0, 1];
  for (let f = 0; f < 20; f++) {
    axisAngleQuat(q, 0, 0, 0, 1, -0.08 * f);
    bent.turns.set(q, 4 * (f * n + at('LeftForeArm')));
  }
  expect(skinStretch(rig, map, bent, edges).max).toBeLessThan(1.1);
  const behind: Motion = {
    ...still(20),
    places: [
      {
        joint: at('LeftForeArm'),
        values: Float32Array.from({ length: 60 }, (_, i) =>
          i >= 30 && i % 3 === 0 ? 1 : rig.restT[3 * at('LeftForeArm') + (i % 3)]!,
        ),
      },
    ],
  };
  const found = skinStretch(rig, map, behind, edges);
  expect(found.max).toBeGreaterThan(2);
  expect(found.frame).toBe(10);
  expect(found.lane[5]).toBe(1);
  expect(found.lane[15]).toBeGreaterThan(2);
});
