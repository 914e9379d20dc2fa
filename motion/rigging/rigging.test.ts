import type { Mesh, Model } from '../rig/figure';
import { weightDeviation } from '../rig/figure';
import { assertRig, restPose } from '../rig/rig';
import { type Flesh, fleshOf } from '../test/flesh';
import { QUARTERS, turnedBy } from './body-frame';
import { looseParts } from './loose-parts';
import { MARK_SLOTS, type MarkSlot, type Marks, marksFromJson } from './marks';
import { markMesh, rigMesh, stoodUpright } from './rig-mesh';
import { RIGGED_JOINTS } from './skeleton';
import { solidOf } from './solid';

type V3 = [number, number, number];

const moved = (model: Model, move: (p: V3) => V3): Model => ({
  ...model,
  meshes: model.meshes.map((mesh): Mesh => {
    const positions = new Float32Array(mesh.positions.length);
    for (let i = 0; i < positions.length; i += 3)
      positions.set(move([mesh.positions[i]!, mesh.positions[i + 1]!, mesh.positions[i + 2]!]), i);
    return { ...mesh, positions };
  }),
});
const marksOf = ({ joints }: Flesh, slots: readonly MarkSlot[] = MARK_SLOTS, move = (p: V3): V3 => p): Marks =>
  Object.fromEntries(slots.map((s) => [s, move(joints[s]!)]));
/** How far joints lie from where they should, as shares of the height: mean and largest. */
function off(places: Readonly<Record<string, readonly number[]>>, truth: Readonly<Record<string, V3>>, height: number) {
  const all = Object.entries(places).map(([slot, p]) => Math.hypot(...p.map((x, k) => x - truth[slot]![k]!)) / height);
  return { mean: all.reduce((a, b) => a + b, 0) / all.length, most: Math.max(...all) };
}

const NINE = MARK_SLOTS.filter((s) => s !== 'head');
const t = fleshOf('T');
const a = fleshOf('A', 1.6);

const cube = (size: number, at = 0, flip = false): Mesh => {
  const positions = Float32Array.from(
    [...Array(8).keys()].flatMap((i) => [i & 1, (i >> 1) & 1, i >> 2].map((b) => at + b * size)),
  );
  const quads = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ];
  const indices = quads.flatMap((q) => (flip ? [0, 2, 1, 0, 3, 2] : [0, 1, 2, 0, 2, 3]).map((i) => q[i]!));
  return { positions, indices: Uint32Array.from(indices) } as Mesh;
};

describe('solids', () => {
  const filled = (meshes: Mesh[]): number => solidOf(meshes, 0.1).cubes.reduce((n, c) => n + (c ? 1 : 0), 0);

  test('a closed box is filled, turned inside out as well', () => {
    const count = filled([cube(2)]);
    expect(count).toBeGreaterThan(20 ** 3);
    expect(count).toBeLessThan(23 ** 3);
    expect(filled([cube(2, 0, true)])).toBe(count);
  });

  test('boxes that overlap stay filled where they do, and a missing side lets nothing out', () => {
    const two = filled([cube(2), cube(2, 1)]);
    expect(two).toBeGreaterThan(14.5 * 1000);
    const open = { ...cube(2), indices: cube(2).indices.slice(6) } as Mesh;
    expect(filled([open])).toBeGreaterThan(0.9 * filled([cube(2)]));
  });
});

describe('marks', () => {
  test('nine are enough for all joints of the common body', () => {
    for (const body of [t, a]) {
      const { places } = rigMesh(body.model, marksOf(body, NINE));
      const { mean, most } = off(places, body.joints, body === t ? 1.75 : 1.6);
      expect(mean).toBeLessThan(0.02);
      expect(most).toBeLessThan(0.05);
    }
  });

  test('without any the shape suggests them all, and says so', () => {
    const { marks, sources } = markMesh(t.model);
    expect(new Set(Object.values(sources))).toEqual(new Set(['by shape']));
    const { mean, most } = off(marks, t.joints, 1.75);
    expect(mean).toBeLessThan(0.03);
    expect(most).toBeLessThan(0.06);
  });

  test('of one side alone they count for the other one, mirrored', () => {
    const left = marksOf(t, ['hips', 'forearmL', 'handL', 'shinL', 'footL']);
    const { marks, sources } = markMesh(t.model, left);
    expect(sources).toMatchObject({ forearmL: 'marked', forearmR: 'mirrored', head: 'by shape' });
    expect(off({ forearmR: marks.forearmR, footR: marks.footR }, t.joints, 1.75).most).toBeLessThan(1e-6);
  });

  test('what is marked is never moved', () => {
    const odd: Marks = { ...marksOf(t, NINE), handL: [0.6, 1.3, 0.1] };
    const { places } = rigMesh(t.model, odd);
    expect(places.handL).toEqual([0.6, 1.3, 0.1].map((x) => expect.closeTo(x, 6)));
  });

  test.each([
    ['z up', ([x, y, z]: V3): V3 => [x, -z, y]],
    ['lying on its side, in centimetres', ([x, y, z]: V3): V3 => [100 * y + 7, 100 * z - 3, 100 * x]],
    ['looking back', ([x, y, z]: V3): V3 => [-x, y, -z]],
  ])('a body that stands otherwise is the same body: %s', (_, move) => {
    const model = moved(t.model, move);
    const truth = Object.fromEntries(Object.entries(t.joints).map(([k, p]) => [k, move(p)]));
    const scale =
      Math.hypot(...[0, 1, 2].map((k) => truth.head![k]! - truth.hips![k]!)) /
      Math.hypot(0, t.joints.head![1] - t.joints.hips![1]);
    const marked = rigMesh(model, marksOf(t, NINE, move));
    expect(off(marked.places, truth, 1.75 * scale).most).toBeLessThan(0.05);
    // the shape alone tells it, too
    expect(off(markMesh(model).marks, truth, 1.75 * scale).most).toBeLessThan(0.06);
    const upright = stoodUpright(marked);
    expect(off(upright.places, t.joints, 1.75).most).toBeLessThan(0.05);
  });

  test.each([
    ['along Y, where it stands on no ground', ([x, y, z]: V3): V3 => [x, y + 3, z], [0, 1, 0]],
    ['along Z, where that is its ground', ([x, y, z]: V3): V3 => [x, z + 4, y], [0, 0, 1]],
  ])('a body in a pose stands upright %s', (_, move, up) => {
    // one arm and a leg folded away: nothing of it is alike on both sides
    const posed = t.model.meshes.filter((m) => !/(forearm|hand|shin|foot|toes)L|upperArmL/.test(m.name));
    expect(markMesh(moved({ ...t.model, meshes: posed }, move)).frame.turn.slice(3, 6)).toEqual(up);
  });

  test('a body whose shape tells wrongly how it stands can be turned, and comes back by four quarters', () => {
    const { turn } = markMesh(t.model).frame;
    for (const quarter of QUARTERS) {
      const turned = turnedBy(quarter, turn);
      const { frame, marks } = markMesh(t.model, marksOf(t, NINE), turned);
      expect(frame.turn).toEqual(turned);
      expect(marks.handL).toEqual(t.joints.handL!.map((x) => expect.closeTo(x, 5)));
      let round = turn;
      for (let k = 0; k < 4; k++) round = turnedBy(quarter, round);
      expect(round.map((x) => x + 0)).toEqual(turn.map((x) => x + 0));
    }
    // what pointed up points to the right, as seen from the front
    expect(turnedBy('front', turn).slice(0, 3)).toEqual(turn.slice(3, 6));
    expect(turnedBy('side', turn).slice(6, 9)).toEqual(turn.slice(3, 6));
    expect(turnedBy('about', turn).slice(0, 3)).toEqual(turn.slice(6, 9));
  });

  test('a joint that the shape does not show is said not to be found, and no skeleton is made without it', () => {
    const trunk = { ...t.model, meshes: t.model.meshes.filter((m) => /around (hips|spine2|neck1)$/.test(m.name)) };
    const { sources } = markMesh(trunk);
    for (const slot of ['handL', 'forearmR', 'footL'] as const) expect(sources[slot]).toBe('not found');
    expect(() => rigMesh(trunk)).toThrow(/does not show where .*handL.*: mark them/);
    // arms that hang on nothing are none either
    const far = t.model.meshes.map((mesh, i) =>
      i < 3 || (i - 3) % 8 > 2
        ? mesh
        : moved({ ...t.model, meshes: [mesh] }, ([x, y, z]) => [x + 0.5 * Math.sign(x), y, z]).meshes[0]!,
    );
    const apart = markMesh({ ...t.model, meshes: far });
    expect(apart.sources.handL).toBe('not found');
  });

  test('a long thing in a hand is not taken for the arm', () => {
    const [x, y, z] = t.joints.handL!;
    const staff = moved({ ...t.model, meshes: [cube(1)] }, (p) => [
      x + 0.04 * (p[0] - 0.5),
      y + 0.04 * (p[1] - 0.5),
      z + 2 * (p[2] - 0.3),
    ]);
    const { sources } = markMesh({ ...t.model, meshes: [...t.model.meshes, ...staff.meshes] });
    for (const slot of ['forearmL', 'handL'] as const) expect(sources[slot]).toBe('not found');
    for (const slot of ['forearmR', 'handR', 'shinL'] as const) expect(sources[slot]).toBe('by shape');
  });

  test('a surface that encloses nothing is no body', () => {
    const sheet = {
      ...t.model.meshes[0]!,
      positions: Float32Array.from([0, 0, 0, 1, 0, 0, 0, 2, 0]),
      indices: Uint32Array.from([0, 1, 2]),
    };
    expect(() => markMesh({ ...t.model, meshes: [sheet] })).toThrow(/encloses next to nothing/);
  });

  test('of anything that is none a sentence says what is wrong', () => {
    expect(() => marksFromJson({ nose: [1, 2, 3] })).toThrow(/"nose" is no mark/);
    expect(() => marksFromJson({ hips: [1, 2] })).toThrow(/hips needs three numbers/);
    expect(() => marksFromJson([1])).toThrow(/slot to \[x, y, z\]/);
    expect(marksFromJson({ hips: [1, 2, 3] })).toEqual({ hips: [1, 2, 3] });
  });
});

describe('skin weights', () => {
  const rigged = rigMesh(t.model, marksOf(t, NINE));

  test('sum to one, four at most, on a sound rig whose map is sure', () => {
    assertRig(rigged.rig);
    expect(weightDeviation(rigged.figure)).toBeLessThan(1e-5);
    expect(rigged.map.slots.forearmL).toMatchObject({ state: 'sure' });
    expect(restPose(rigged.rig).p[1]).toBeCloseTo(t.joints.hips![1], 5);
  });

  /** The joint that holds most of a vertex. */
  const holder = (mesh: number, vertex: number): string => {
    const { joints, weights } = rigged.figure.meshes[mesh]!;
    let best = 0;
    for (let k = 1; k < 4; k++) if (weights[4 * vertex + k]! > weights[4 * vertex + best]!) best = k;
    return rigged.rig.names[joints[4 * vertex + best]!]!;
  };

  test('hold flesh by the bone within it, and blend at a joint', () => {
    const arm = t.model.meshes.findIndex((_, i) => i === 3);
    const { positions } = t.model.meshes[arm]!;
    const share = (v: number, name: string): number => {
      const { joints, weights } = rigged.figure.meshes[arm]!;
      let sum = 0;
      for (let k = 0; k < 4; k++) if (rigged.rig.names[joints[4 * v + k]!] === name) sum += weights[4 * v + k]!;
      return sum;
    };
    const [shoulder, elbow] = [t.joints.upperArmL![0], t.joints.forearmL![0]];
    for (let v = 0; v < positions.length / 3; v++) {
      const along = (positions[3 * v]! - shoulder) / (elbow - shoulder);
      if (along > 0.35 && along < 0.75) expect(holder(arm, v)).toBe('upperArmL');
      if (Math.abs(along - 1) < 0.02) expect(share(v, 'forearmL') + share(v, 'upperArmL')).toBeGreaterThan(0.95);
    }
  });

  test('a loose piece goes with what it lies on', () => {
    const loose = moved({ ...t.model, meshes: [t.model.meshes[2]!] }, ([x, y, z]) => [
      0.2 * x,
      1.79 + 0.2 * (y - 1.45),
      0.2 * z,
    ]).meshes[0]!;
    const model = { ...t.model, meshes: [...t.model.meshes, loose] };
    const { figure, rig } = rigMesh(model, marksOf(t));
    const { joints, weights } = figure.meshes.at(-1)!;
    for (let i = 0; i < weights.length; i++) if (weights[i]! > 0.01) expect(rig.names[joints[i]!]).toBe('head');
  });

  describe('a loose piece that is tied', () => {
    // a staff beside the left hand, which touches the leg, in two materials that meet along a ring
    const ring = (y: number): number[] =>
      [0, 1, 2, 3].flatMap((i) => [0.2 + 0.03 * Math.cos((i * Math.PI) / 2), y, 0.03 * Math.sin((i * Math.PI) / 2)]);
    const tube = (name: string, from: number, to: number): Mesh => ({
      ...t.model.meshes[0]!,
      name,
      positions: Float32Array.from([...ring(from), ...ring(to)]),
      normals: undefined,
      uvs: undefined,
      colors: undefined,
      shapes: [],
      indices: Uint32Array.from(
        [0, 1, 2, 3].flatMap((i) => [i, (i + 1) % 4, 4 + i, (i + 1) % 4, 4 + ((i + 1) % 4), 4 + i]),
      ),
    });
    const model = { ...t.model, meshes: [...t.model.meshes, tube('shaft', 0.1, 1.2), tube('knob', 1.2, 1.5)] };
    const parts = looseParts(model);
    const staff = parts.findIndex((p) => p.vertices.at(-1)!.length > 0);

    test('is one piece over all materials; a piece that is all of a mesh goes by its name', () => {
      expect(parts[staff]).toMatchObject({ name: '', triangles: 16 });
      expect(parts[staff]!.vertices.map((v) => v.length)).toEqual([...t.model.meshes.map(() => 0), 8, 8]);
      expect(parts.map((p) => p.name)).toContain(t.model.meshes.at(-1)!.name);
      // whatever is left is the largest piece
      const told = parts.reduce((n, p) => n + p.triangles, 0);
      const all = model.meshes.reduce((n, m) => n + m.indices.length / 3, 0);
      expect(told).toBeLessThan(all);
      expect(told).toBeGreaterThan(0);
    });

    test('goes stiffly with its joint, and nothing beside it follows it', () => {
      const loose = rigMesh(model, marksOf(t));
      const bound = rigMesh(model, marksOf(t), { ties: [{ part: staff, joint: 'handL' }] });
      const holders = (r: typeof loose, mesh: number): Set<string> => {
        const { joints, weights } = r.figure.meshes.at(mesh)!;
        return new Set([...weights].flatMap((w, i) => (w > 0.01 ? [r.rig.names[joints[i]!]!] : [])));
      };
      expect(holders(loose, -2)).not.toEqual(new Set(['handL']));
      expect([holders(bound, -2), holders(bound, -1)]).toEqual([new Set(['handL']), new Set(['handL'])]);
      expect(weightDeviation(bound.figure)).toBeLessThan(1e-5);
      // the body is skinned as it is without the staff
      const bare = rigMesh(t.model, marksOf(t));
      for (const [i, { weights, joints }] of bare.figure.meshes.entries()) {
        expect(bound.figure.meshes[i]!.weights).toEqual(weights);
        expect(bound.figure.meshes[i]!.joints).toEqual(joints);
      }
      expect(loose.figure.meshes.slice(0, -2).map((m) => m.weights)).not.toEqual(
        bare.figure.meshes.map((m) => m.weights),
      );
    });

    test('a piece or a joint that is not there is told', () => {
      expect(() => rigMesh(model, marksOf(t), { ties: [{ part: 99, joint: 'head' }] })).toThrow(/no loose part 100/);
      expect(() => rigMesh(model, marksOf(t), { ties: [{ part: staff, joint: 'tail' }] })).toThrow(
        /"tail" is no joint/,
      );
      expect([...RIGGED_JOINTS].sort()).toEqual([...rigged.rig.names].sort());
    });
  });

  test('legs that nearly touch keep their own skin', () => {
    const at = t.model.meshes
      .map((_, i) => i)
      .filter((i) => {
        const { positions } = t.model.meshes[i]!;
        return positions.every((_, k) => k % 3 !== 1 || positions[k]! < 0.5);
      });
    for (const mesh of at)
      for (let v = 0; v < t.model.meshes[mesh]!.positions.length / 3; v++) {
        const x = t.model.meshes[mesh]!.positions[3 * v]!;
        expect(holder(mesh, v)).toMatch(x > 0 ? /L$/ : /R$/);
      }
  });
});
