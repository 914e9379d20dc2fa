// A small body as a pair of ASF and AMC files.

export const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

export const BONES: [name: string, parent: string, direction: string, length: number, axis: string, dof: string][] = [
  ['lhipjoint', 'root', '0.6 -0.8 0', 2, '0 0 0', ''],
  ['lfemur', 'lhipjoint', '0 -1 0', 7, '0 0 20', 'rx ry rz'],
  ['ltibia', 'lfemur', '0 -1 0', 7, '0 0 20', 'rx'],
  ['lfoot', 'ltibia', '0 -0.3 0.95', 2, '-90 0 0', 'rx rz'],
  ['rhipjoint', 'root', '-0.6 -0.8 0', 2, '0 0 0', ''],
  ['rfemur', 'rhipjoint', '0 -1 0', 7, '0 0 -20', 'rx ry rz'],
  ['rtibia', 'rfemur', '0 -1 0', 7, '0 0 -20', 'rx'],
  ['rfoot', 'rtibia', '0 -0.3 0.95', 2, '-90 0 0', 'rx rz'],
  ['lowerback', 'root', '0 1 0', 3, '0 0 0', 'rx ry rz'],
  ['thorax', 'lowerback', '0 1 0', 3, '0 0 0', 'rx ry rz'],
  ['head', 'thorax', '0 1 0', 2.5, '0 0 0', 'rx ry rz'],
  ['lclavicle', 'thorax', '1 0 0', 1.5, '0 0 0', 'ry rz'],
  ['lhumerus', 'lclavicle', '1 0 0', 4.5, '180 30 90', 'rx ry rz'],
  ['lradius', 'lhumerus', '1 0 0', 4, '180 30 90', 'rx'],
  ['lhand', 'lradius', '1 0 0', 1, '180 30 90', 'rx rz'],
  ['rclavicle', 'thorax', '-1 0 0', 1.5, '0 0 0', 'ry rz'],
  ['rhumerus', 'rclavicle', '-1 0 0', 4.5, '180 -30 -90', 'rx ry rz'],
  ['rradius', 'rhumerus', '-1 0 0', 4, '180 -30 -90', 'rx'],
  ['rhand', 'rradius', '-1 0 0', 1, '180 -30 -90', 'rx rz'],
];

export function asf(change: (text: string) => string = (t) => t): Uint8Array {
  const data = BONES.map(
    ([name, , direction, length, axis, dof], i) =>
      `  begin\n     id ${i + 1}\n     name ${name}\n     direction ${direction}\n     length ${length}\n     axis ${axis}  XYZ\n${
        dof
          ? `    dof ${dof}\n    limits ${dof
              .split(' ')
              .map(() => '(-180 180)')
              .join('\n           ')}\n`
          : ''
      }  end`,
  ).join('\n');
  const parents = [...new Set(BONES.map((b) => b[1]))];
  const tree = parents
    .map(
      (p) =>
        `    ${p} ${BONES.filter((b) => b[1] === p)
          .map((b) => b[0])
          .join(' ')}`,
    )
    .join('\n');
  return bytes(
    change(
      `# made by hand\n:version 1.10\n:name ferry\n:units\n  mass 1.0\n  length 0.45\n  angle deg\n:documentation\n   some words: 5 of them\n:root\n   order TX TY TZ RX RY RZ\n   axis XYZ\n   position 0 0 0\n   orientation 0 0 0\n:bonedata\n${data}\n:hierarchy\n  begin\n${tree}\n  end\n`,
    ),
  );
}
export const amc = (frames: string[]): Uint8Array =>
  bytes(`#!OML:ASF ferry\n:FULLY-SPECIFIED\n:DEGREES\n${frames.map((f, i) => `${i + 1}\n${f}`).join('\n')}\n`);
