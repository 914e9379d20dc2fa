import { standIn } from '../body/stand-in';
import { axisAngleQuat } from '../math/quat';
import { PoseReader, restMotion } from '../motion/motion';
import type { FigureMesh } from './figure';
import { poseFigure } from './pose-figure';
import { restPose } from './rig';

const rig = standIn('T', 2);
const [upper, fore] = ['upperArmL', 'forearmL'].map((n) => rig.names.indexOf(n)) as [number, number];
const elbow = [...restPose(rig).p.subarray(3 * fore, 3 * fore + 3)];
const mesh = {
  positions: Float32Array.from([elbow[0]! + 0.1, elbow[1]!, elbow[2]!, elbow[0]!, elbow[1]! + 0.05, elbow[2]!]),
  joints: Uint16Array.from([fore, 0, 0, 0, upper, fore, 0, 0]),
  weights: Float32Array.from([1, 0, 0, 0, 0.5, 0.5, 0, 0]),
} as unknown as FigureMesh;

test('at rest a mesh stays where it is', () => {
  const out = poseFigure(rig, mesh, restPose(rig));
  out.forEach((x, i) => expect(x).toBeCloseTo(mesh.positions[i]!, 6));
});

test('a vertex goes with its joint, and one of two joints goes half the way', () => {
  const motion = restMotion(rig);
  axisAngleQuat(motion.turns, 4 * fore, 0, 0, 1, Math.PI / 2);
  const out = poseFigure(rig, mesh, new PoseReader(rig, motion).at(0));
  [elbow[0]!, elbow[1]! + 0.1, elbow[2]!].forEach((x, k) => expect(out[k]).toBeCloseTo(x, 5));
  // where it stays, and where a quarter turn brings it
  [elbow[0]! - 0.025, elbow[1]! + 0.025, elbow[2]!].forEach((x, k) => expect(out[3 + k]).toBeCloseTo(x, 5));
});
