/** A small take as BVH; every number gives another one. */
export function take(number) {
  const lines = [
    'HIERARCHY',
    'ROOT Hips',
    '{',
    'OFFSET 0 95 0',
    'CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation',
  ];
  const limb = (names, offsets) => {
    names.forEach((name, i) =>
      lines.push(`JOINT ${name}`, '{', `OFFSET ${offsets[i]}`, 'CHANNELS 3 Zrotation Xrotation Yrotation'),
    );
    lines.push('End Site', '{', 'OFFSET 0 5 5', '}', ...names.map(() => '}'));
  };
  limb(['Spine', 'Neck', 'Head'], ['0 10 0', '0 40 0', '0 10 2']);
  for (const [side, x] of [
    ['Left', 1],
    ['Right', -1],
  ]) {
    limb([`${side}UpLeg`, `${side}Leg`, `${side}Foot`], [`${9 * x} -3 0`, '0 -42 1', '0 -41 -2']);
    limb([`${side}Arm`, `${side}ForeArm`, `${side}Hand`], [`${17 * x} 45 0`, `${28 * x} 0 0`, `${25 * x} 0 0`]);
  }
  lines.push('}', 'MOTION', 'Frames: 30', 'Frame Time: 0.0333333');
  const joints = 15;
  for (let f = 0; f < 30; f++)
    lines.push(
      [
        0,
        95,
        f,
        ...Array.from({ length: 3 * (joints + 1) }, (_, k) => (10 * Math.sin(f / 6 + k + number)).toFixed(4)),
      ].join(' '),
    );
  return lines.join('\n');
}
