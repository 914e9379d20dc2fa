import { PoseReader } from '../motion/motion';
import { party, posedRig, wander } from '../test/bodies';
import { planRetarget } from './plan';
import { PoseTransfer, transfer } from './transfer';

describe('poses carried over one at a time', () => {
  const source = party(posedRig(90));
  const plan = planRetarget(source, party(posedRig(40, 0.7, true)));
  const motion = wander(source.rig, 40);
  const options = { travel: 'leg', sourceFloor: 0 } as const;
  const n = plan.target.rig.names.length;
  const whole = transfer(plan, motion, options);

  test('are those of the whole motion, whatever came before them', () => {
    const reader = new PoseReader(source.rig, motion);
    const poses = new PoseTransfer(plan, options);
    const out = new Float32Array(4 * n);
    const hip = new Float32Array(3);
    const places = whole.places.find((t) => t.joint === plan.carrier)!.values;
    for (const f of [0, 39, 7, 7, 21]) {
      poses.carry(reader.at(f), motion.turns, 4 * source.rig.names.length * f, out, 0, -1, hip, 0);
      for (let o = 0; o < 4 * n; o += 4) {
        let dot = 0;
        for (let k = 0; k < 4; k++) dot += out[o + k]! * whole.turns[4 * n * f + o + k]!;
        expect(Math.abs(dot)).toBeCloseTo(1, 6);
      }
      hip.forEach((x, k) => expect(x).toBeCloseTo(places[3 * f + k]!, 6));
    }
  });

  test('that stay in place stay over where the first of them stood', () => {
    const reader = new PoseReader(source.rig, motion);
    const way = (travel: 'none' | 'leg'): number => {
      const poses = new PoseTransfer(plan, { travel, sourceFloor: 0 });
      const [out, hip] = [new Float32Array(4 * n), new Float32Array(6)];
      for (const [i, f] of [3, 33].entries())
        poses.carry(reader.at(f), motion.turns, 4 * source.rig.names.length * f, out, 0, -1, hip, 3 * i);
      return Math.hypot(hip[3]! - hip[0]!, hip[5]! - hip[2]!);
    };
    // the hips still sway about the centre that stays
    expect(way('none')).toBeLessThan(0.3 * way('leg'));
  });
});
