import {
  figureFloor,
  type Imported,
  importFile,
  jointOf,
  largestError,
  measureThickness,
  type Party,
  radiiOf,
  reportOf,
  retarget,
  writeBvh,
} from '../motion/index';
import { buildBody } from './body-spec';
import { memberFile } from './build';
import { CAST, type CastMember } from './cast';
import { performAll } from './world';

const { actor, performances } = performAll();

/** A member of the cast as its file brings it, read once. */
const read = new Map<string, Promise<Imported>>();
function fileOf(member: CastMember): Promise<Imported> {
  const known = read.get(member.id) ?? memberFile(member).then((bytes) => importFile(bytes, `${member.id}.glb`));
  read.set(member.id, known);
  return known;
}

async function partyOf(member: CastMember): Promise<Party> {
  const { rig, map, figure } = await fileOf(member);
  return { rig, map, floor: figureFloor(figure!), radii: radiiOf({ rig, map }, measureThickness(rig, figure!)) };
}

describe('the cast', () => {
  test.each(CAST.map((c) => [c.name, c] as const))(
    '%s: every slot right and sure, from the file',
    async (_, member) => {
      const { truth } = buildBody(member.spec, member.seed);
      const file = await fileOf(member);
      for (const [slot, name] of truth) {
        expect([slot, file.rig.names[jointOf(file.map, slot)]]).toEqual([slot, name]);
        expect([slot, file.map.slots[slot]!.state]).toEqual([slot, 'sure']);
      }
      expect(Object.values(file.map.slots).filter((s) => s.state === 'guessed')).toEqual([]);
      expect(file.rig.found.upAxis).toBe(member.file.zUp ? '+Z' : '+Y');
      expect(file.rig.found.unitScale * member.file.unitsPerMetre).toBeCloseTo(1, 6);
    },
  );
});

test.each(CAST.map((m) => [m.name, m] as const))('%s: no surface of the figure has a hole', async (_, member) => {
  for (const mesh of (await fileOf(member)).figure!.meshes) {
    const faces = new Map<string, number>();
    const at = mesh.indices;
    for (let t = 0; t < at.length; t += 3)
      for (const [a, b] of [
        [at[t]!, at[t + 1]!],
        [at[t + 1]!, at[t + 2]!],
        [at[t + 2]!, at[t]!],
      ] as const) {
        const edge = a < b ? `${a} ${b}` : `${b} ${a}`;
        faces.set(edge, (faces.get(edge) ?? 0) + 1);
      }
    expect([mesh.name, [...faces.values()].filter((n) => n === 1).length]).toEqual([mesh.name, 0]);
  }
});

test.each(CAST.map((m) => [m.name, m] as const))('%s: fingers grow out of the palms', async (_, member) => {
  const { map, figure } = await fileOf(member);
  const hands = new Set(['handL', 'handR'].map((slot) => jointOf(map, slot)));
  const fingers = new Set(
    Object.keys(map.slots)
      .filter((slot) => /^(thumb|index|middle|ring|pinky)/.test(slot))
      .map((slot) => jointOf(map, slot)),
  );
  for (const mesh of figure!.meshes) {
    const piece = piecesOf(mesh.indices, mesh.positions.length / 3);
    const strongest = (v: number): number => {
      let best = 4 * v;
      for (let k = 4 * v; k < 4 * v + 4; k++) if (mesh.weights[k]! > mesh.weights[best]!) best = k;
      return mesh.joints[best]!;
    };
    const vertices = Array.from(piece, (_, v) => v);
    const ofFingers = new Set(vertices.filter((v) => fingers.has(strongest(v))).map((v) => piece[v]!));
    const ofHands = new Set(vertices.filter((v) => hands.has(strongest(v))).map((v) => piece[v]!));
    expect([mesh.name, [...ofFingers].filter((p) => !ofHands.has(p))]).toEqual([mesh.name, []]);
  }
});

/** Of each vertex a number that all vertices of the same piece have. */
function piecesOf(triangles: Uint32Array, vertices: number): Uint32Array {
  const piece = Uint32Array.from({ length: vertices }, (_, v) => v);
  for (let settled = false; !settled; ) {
    settled = true;
    for (let t = 0; t < triangles.length; t += 3) {
      const corners = triangles.subarray(t, t + 3);
      const least = Math.min(...Array.from(corners, (v) => piece[v]!));
      for (const v of corners) {
        if (piece[v] === least) continue;
        piece[v] = least;
        settled = false;
      }
    }
  }
  return piece;
}

/** Where a knee bends more suddenly than we want: a leg that comes down from a step near full length. */
const SHARPER: Readonly<Record<string, number>> = { 'Down the companionway on Big Tove': 1.3 };

describe('the performances', () => {
  test.each(performances.map((p, i) => [p.score.name, p, i] as const))(
    '%s: goes through BVH and onto others with its plants held',
    async (_, { score, motion }, i) => {
      const file = await importFile(new TextEncoder().encode(writeBvh(actor.rig, motion)), `${score.name}.bvh`);
      const take = file.clips[0]!.motion;
      expect(take.fps).toBe(score.fps);
      expect(take.frameCount).toBe(motion.frameCount);
      expect(largestError(actor.rig, motion, { ...take, places: motion.places })).toBeLessThan(0.001);
      // onto two of them in turn, the long one onto one: the bench takes all
      const onto = [CAST[i % CAST.length]!, CAST[(i + 3) % CAST.length]!];
      for (const member of motion.frameCount > 2000 ? CAST.slice(1, 2) : onto) {
        const report = reportOf(retarget(file, take, await partyOf(member)));
        const place = `${score.name} on ${member.name}`;
        expect([place, report.plants.length > 0]).toEqual([place, true]);
        expect([place, report.slip.meanPercentLegPerPlantSecond < 0.1]).toEqual([place, true]);
        expect([place, report.floor.maxDepthCm < 0.1]).toEqual([place, true]);
        expect([place, report.reach.maxCm < 0.1]).toEqual([place, true]);
        expect([place, report.direction.meanDeg <= 3, report.direction.p95Deg <= 8]).toEqual([place, true, true]);
        expect([place, report.slip.maxPercentLeg < 0.3]).toEqual([place, true]);
        // a broad engineer's arms hang beside her, not in her, and no leg swings through the other
        expect([
          place,
          report.troubles.filter(
            (t) => t.kind === 'crossing' && /forearm \w and (trunk|thigh|head)|shin \w and shin/.test(t.text),
          ),
        ]).toEqual([place, []]);
        expect([place, report.snap.ratio <= (SHARPER[place] ?? 1.2), report.jitter.ratio <= 1.2]).toEqual([
          place,
          true,
          true,
        ]);
      }
    },
  );

  test('cycles close without a seam', () => {
    for (const { score, motion } of performances.filter((p) => p.score.kind === 'cycle')) {
      const n = 4 * actor.rig.names.length;
      const last = motion.turns.subarray(n * (motion.frameCount - 1));
      last.forEach((x, i) => {
        expect([score.name, Math.abs(x - motion.turns[i]!) < 1e-3]).toEqual([score.name, true]);
      });
    }
  });
});
