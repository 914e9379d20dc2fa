import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  type Figure,
  type Motion,
  type SkeletonRig,
  transformMotion,
  transformRig,
  writeBvh,
  writeGlb,
} from '../motion/index';
import { basisQuat } from '../motion/math/quat';
import { buildBody } from './body-spec';
import { CAST, type CastMember } from './cast';
import { buildFigure } from './figure';
import { performAll } from './world';

const Z_UP: number[] = [0, 0, 0, 1];
basisQuat(Z_UP, 0, [1, 0, 0], [0, 0, 1], [0, -1, 0]);

/** A cast member as GLB, in the units and axes its file is meant to have. */
export async function memberFile(member: CastMember): Promise<Uint8Array> {
  const { rig, map } = buildBody(member.spec, member.seed);
  const figure = buildFigure(rig, map, member.spec, member.look);
  const { unitsPerMetre, zUp } = member.file;
  const turn = zUp ? Z_UP : [0, 0, 0, 1];
  return writeGlb({ rig: transformRig(rig, turn, unitsPerMetre), figure: moved(figure, turn, unitsPerMetre, rig) });
}

/** A performance with its performer's figure and face. */
export async function performanceFile(member: CastMember, name: string, motion: Motion): Promise<Uint8Array> {
  const { rig, map } = buildBody(member.spec, member.seed);
  return writeGlb({ rig, figure: buildFigure(rig, map, member.spec, member.look), clips: [{ name, motion }] });
}

function moved(figure: Figure, turn: number[], scale: number, rig: SkeletonRig): Figure {
  // a motion of one frame is the shortest way to turn points as the rig is turned
  const turnAll = (values: Float32Array, s: number): Float32Array =>
    transformMotion(
      rig,
      {
        fps: 1,
        frameCount: values.length / 3,
        turns: new Float32Array((4 * rig.names.length * values.length) / 3),
        places: [{ joint: 0, values }],
        numbers: [],
        scales: [],
        steps: [],
      },
      turn,
      s,
    ).places[0]!.values;
  return {
    ...figure,
    meshes: figure.meshes.map((m) => ({
      ...m,
      positions: turnAll(m.positions, scale),
      normals: m.normals && turnAll(m.normals, 1),
    })),
  };
}

/** Writes the demo world as files: cast as GLB, motions as BVH in centimetres. */
export async function buildDemo(folder: string): Promise<void> {
  mkdirSync(join(folder, 'cast'), { recursive: true });
  mkdirSync(join(folder, 'takes'), { recursive: true });
  for (const member of CAST) writeFileSync(join(folder, 'cast', `${member.id}.glb`), await memberFile(member));
  const { actor, performances } = performAll();
  for (const { score, motion } of performances) {
    const path = join(folder, 'takes', score.name);
    if (motion.numbers.length > 0) writeFileSync(`${path}.glb`, await performanceFile(CAST[0]!, score.name, motion));
    else writeFileSync(`${path}.bvh`, writeBvh(actor.rig, motion));
  }
}

if (process.argv[1]?.endsWith('build.ts')) {
  const folder = process.argv[2] ?? '.data/demo';
  await buildDemo(folder);
  console.log(`demo files in ${folder}`);
}
