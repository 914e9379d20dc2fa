// The browser's solver thread: decodes motions and puts them on characters, so that the page never waits.
import { type Motion, type Report, reportOf, retarget, type Travel, unpackMotion } from '@velvet-reel/motion';
import { expose, transfer } from 'comlink';
import { type PartyJson, partyFromJson } from './party';

const motions = new Map<string, Promise<Motion>>();

function loadMotion(hash: string): Promise<Motion> {
  const known = motions.get(hash);
  if (known) return known;
  const loading = fetch(`/api/motions/${hash}`).then(async (answer) => {
    if (!answer.ok) throw new Error('The motion could not be loaded.');
    return unpackMotion(new Uint8Array(await answer.arrayBuffer()));
  });
  loading.catch(() => motions.delete(hash));
  motions.set(hash, loading);
  // keep some hundred motions at most
  if (motions.size > 200) motions.delete(motions.keys().next().value!);
  return loading;
}

/** A motion to be played on a rig, arrays handed over to the page. */
export interface Playable {
  fps: number;
  frameCount: number;
  rotations: Float32Array;
  translations: { joint: number; values: Float32Array }[];
  scalars: { name: string; values: Float32Array }[];
}

export interface FitWish {
  motionHash: string;
  source: PartyJson;
  target: PartyJson;
  plants: boolean;
  travel: Travel;
}

export interface FitAnswer {
  source: Playable;
  result: Playable;
  report: Report;
  scale: number;
  solveMs: number;
}

const copy = (m: Motion): Playable => ({
  fps: m.fps,
  frameCount: m.frameCount,
  rotations: m.rotations.slice(),
  translations: m.translations.map((t) => ({ joint: t.joint, values: t.values.slice() })),
  scalars: m.scalars.map((s) => ({ name: s.name, values: s.values.slice() })),
});
const buffers = (p: Playable): ArrayBuffer[] => [
  p.rotations.buffer as ArrayBuffer,
  ...p.translations.map((t) => t.values.buffer as ArrayBuffer),
  ...p.scalars.map((s) => s.values.buffer as ArrayBuffer),
];

const solver = {
  /** A motion on its own rig. */
  async load(motionHash: string): Promise<Playable> {
    const p = copy(await loadMotion(motionHash));
    return transfer(p, buffers(p));
  },

  /** A motion put on a character, without a report. */
  async show(wish: FitWish): Promise<Playable> {
    const motion = await loadMotion(wish.motionHash);
    const p = copy(retarget(partyFromJson(wish.source), motion, partyFromJson(wish.target), wish).motion);
    return transfer(p, buffers(p));
  },

  /** A fitting: both motions and everything measured. */
  async fit(wish: FitWish): Promise<FitAnswer> {
    const motion = await loadMotion(wish.motionHash);
    const start = performance.now();
    const done = retarget(partyFromJson(wish.source), motion, partyFromJson(wish.target), wish);
    const solveMs = performance.now() - start;
    const source = copy(done.source);
    const result = copy(done.motion);
    const report = reportOf(done);
    return transfer({ source, result, report, scale: done.plan.scale, solveMs }, [
      ...buffers(source),
      ...buffers(result),
    ]);
  },
};

export type Solver = typeof solver;
expose(solver);
