// Writes takes as BVH for the benchmark of intake: the demo's motions at 120 frames a second, repeated to length, each with
// noise of its own, in folders of sixty.
import { mkdirSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { performAll } from '../demo/world';
import { resample, seeded, writeBvh } from '../motion/index';

const [folder, takes, megabytes] = [process.argv[2]!, Number(process.argv[3]), Number(process.argv[4])];
const { actor, performances } = performAll();
const bodies = performances
  .filter((p) => p.motion.frameCount < 1500 && p.motion.numbers.length === 0)
  .map((p) => {
    const lines = writeBvh(actor.rig, resample(actor.rig, p.motion, 120)).split('\n');
    const at = lines.findIndex((l) => l.startsWith('Frame Time'));
    return {
      name: p.score.name,
      head: lines.slice(0, at - 1),
      time: lines[at]!,
      frames: lines.slice(at + 1).filter(Boolean),
    };
  });
const random = seeded(5);
const target = (megabytes * 1e6) / takes;
const past = new Date(Date.now() - 60_000);
for (let i = 0; i < takes; i++) {
  const body = bodies[i % bodies.length]!;
  const place = join(folder, `session ${String(1 + Math.floor(i / 60)).padStart(2, '0')}`);
  mkdirSync(place, { recursive: true });
  const frames: string[] = [];
  for (let size = 0; size < target * (0.6 + (0.8 * ((i * 7919) % 100)) / 100); ) {
    const back = frames.length > 0 && Math.floor(frames.length / body.frames.length) % 2 === 1;
    const k = frames.length % body.frames.length;
    const line = body.frames[back ? body.frames.length - 1 - k : k]!;
    // the last number trembles, so that no two takes are alike
    const noisy = `${line.slice(0, line.lastIndexOf(' ') + 1)}${(0.5 * random()).toFixed(4)}`;
    frames.push(noisy);
    size += noisy.length + 1;
  }
  const path = join(place, `${String(i + 1).padStart(4, '0')} ${body.name}.bvh`);
  writeFileSync(path, [...body.head, `Frames: ${frames.length}`, body.time, ...frames, ''].join('\n'));
  utimesSync(path, past, past);
}
