import { durationOf, restKind, restPose } from '../../motion/index';
import { load } from '../files';
import type { Options } from '../options';

const round = (x: number, digits: number): number => Number(x.toFixed(digits));

export async function inspect(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const file = await load(files[0]!, options);
  const { rig } = file;
  const first = file.clips[0]?.motion;
  const answer = {
    format: file.format,
    joints: rig.names.map((name, j) => ({ name, parent: rig.names[rig.parents[j]!] ?? null })),
    jointCount: rig.names.length,
    frameCount: first?.frameCount ?? 0,
    fps: first ? round(first.fps, 4) : null,
    durationS: first ? round(durationOf(first), 4) : 0,
    heightM: round(file.heightM, 4),
    upAxis: rig.found.upAxis,
    facing: rig.found.facing,
    unitScale: rig.found.unitScale,
    unitWhy: rig.found.unitWhy,
    restPose: file.restFrom === 'rest' ? file.restKind : restKind(restPose(rig), file.map),
    restFrom: file.restFrom,
    clips: file.clips.map((c) => ({
      name: c.name,
      frameCount: c.motion.frameCount,
      fps: round(c.motion.fps, 4),
      durationS: round(durationOf(c.motion), 4),
      scalars: c.motion.numbers.map((s) => s.name),
    })),
    meshes: (file.figure?.meshes ?? []).map((m) => ({
      name: m.name,
      vertices: m.positions.length / 3,
      faceShapes: m.shapes.map((s) => s.name),
    })),
    warnings: file.warnings,
  };
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(
    `${files[0]}: ${answer.format}, ${answer.jointCount} joints, ${answer.heightM.toFixed(2)} m tall, rest pose ${answer.restPose}`,
  );
  print(`  found ${answer.upAxis} up, facing ${answer.facing}, ${answer.unitWhy}`);
  for (const c of answer.clips)
    print(`  clip "${c.name}": ${c.frameCount} frames at ${c.fps} a second, ${c.durationS.toFixed(2)} s`);
  for (const m of answer.meshes)
    print(
      `  mesh "${m.name}": ${m.vertices} vertices${m.faceShapes.length ? `, ${m.faceShapes.length} face shapes` : ''}`,
    );
  for (const w of answer.warnings) print(`  note: ${w}`);
}
