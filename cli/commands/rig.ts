import { looseParts, marksFromJson, readMeshFile, rigMesh, stoodUpright, type Tie, writeGlb } from '../../motion/index';
import { readBytes, readJson, writeOut } from '../files';
import type { Options } from '../options';
import { UsageError } from '../usage';

/** velvet-reel rig MESH --out FILE.glb: a skeleton and skin weights for a mesh that has none. */
export async function rigCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const [file] = files;
  if (!options.out || !/\.glb$/i.test(options.out)) throw new UsageError('rig needs --out FILE.glb');
  const marks = options.marks === undefined ? {} : marksFromJson(await readJson(options.marks));
  const { format, model } = await readMeshFile(await readBytes(file!), file!);
  const start = performance.now();
  const ties = tiesOf(options.tie);
  const found = rigMesh(model, marks, { ties, fingers: !options['no-fingers'] });
  const solveMs = performance.now() - start;
  // these formats tell neither units nor which way is up
  const told = format === 'obj' || format === 'stl' ? stoodUpright(found) : found;
  await writeOut(options.out, await writeGlb({ rig: told.rig, figure: told.figure }));
  const round = (at: readonly number[]): number[] => at.map((x) => Number(x.toPrecision(7)));
  const answer = {
    file,
    out: options.out,
    triangles: model.meshes.reduce((n, m) => n + m.indices.length / 3, 0),
    height: Number((1 / found.frame.scale).toPrecision(7)),
    up: round(found.frame.turn.slice(3, 6)),
    ahead: round(found.frame.turn.slice(6, 9)),
    marks: Object.fromEntries(
      Object.entries(found.marks).map(([slot, at]) => [
        slot,
        { at: round(at), from: found.sources[slot as keyof typeof found.sources] },
      ]),
    ),
    joints: Object.fromEntries(Object.entries(found.places).map(([slot, at]) => [slot, round(at)])),
    parts: looseParts(model).map(({ name, triangles }, i) => ({
      part: i + 1,
      name,
      triangles,
      tiedTo: ties.find((t) => t.part === i)?.joint ?? null,
    })),
    fingers: found.fingers,
    influences: 4,
    solveMs: Number(solveMs.toFixed(1)),
  };
  if (options.report) await writeOut(options.report, `${JSON.stringify(answer, null, 2)}\n`);
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${options.out} written: ${found.rig.names.length} joints in ${(solveMs / 1000).toFixed(1)} s`);
  if (!options['no-fingers']) print(`  fingers: ${found.fingers.L} left, ${found.fingers.R} right`);
  for (const [slot, { from }] of Object.entries(answer.marks)) if (from !== 'marked') print(`  ${slot}: ${from}`);
}

/** What --tie says, parts counted from 1. */
function tiesOf(told: string | undefined): Tie[] {
  if (told === undefined) return [];
  return told.split(',').map((one) => {
    const [, part, joint] = /^\s*(\d+)\s*=\s*(\w+)\s*$/.exec(one) ?? [];
    if (!part || !joint || Number(part) < 1)
      throw new UsageError(
        `--tie takes a loose part's number and a joint, as 1=head; "${one.trim().slice(0, 40)}" is neither`,
      );
    return { part: Number(part) - 1, joint };
  });
}
