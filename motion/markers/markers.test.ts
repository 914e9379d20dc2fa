import { standIn } from '../body/stand-in';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { importFile } from '../formats/import';
import { readTrc, writeTrc } from '../formats/trc';
import { axisAngleQuat, mulQuat } from '../math/quat';
import { seeded } from '../math/random';
import { type Motion, PoseReader } from '../motion/motion';
import { assertRig, type SkeletonRig } from '../rig/rig';
import { markersOn } from '../test/marker-body';
import { cleanMarkers } from './clean';
import { markerBodyFromJson } from './known-body';
import type { Markers } from './markers';
import { groupMarkers, USUAL_LOOSENESS } from './segments';
import { type Solved, solveMarkers, solveWords } from './solve';
import { solveOnBody, solveTake } from './solve-on-body';

/** A body that moves all its joints a little, each at its own pace, while it walks about. */
function lively(rig: SkeletonRig, frames: number, seed: number): Motion {
  const random = seeded(seed);
  const n = rig.names.length;
  const turns = new Float32Array(4 * n * frames);
  const q = [0, 0, 0, 1];
  const r = [0, 0, 0, 1];
  const moves = rig.names.map((name) => ({
    wide:
      /collar|toes|1[LR]$|2[LR]$|3[LR]$/.test(name) && !/spine/.test(name)
        ? 0
        : /^(spine|neck|hips)/.test(name)
          ? 0.12
          : 0.5,
    pace: [0.3 + random(), 0.3 + random(), 0.3 + random()],
    phase: [6 * random(), 6 * random(), 6 * random()],
  }));
  for (let f = 0; f < frames; f++)
    rig.names.forEach((_, j) => {
      const { wide, pace, phase } = moves[j]!;
      q.splice(0, 4, 0, 0, 0, 1);
      for (let k = 0; k < 3; k++) {
        axisAngleQuat(
          r,
          0,
          k === 0 ? 1 : 0,
          k === 1 ? 1 : 0,
          k === 2 ? 1 : 0,
          wide * Math.sin((pace[k]! * f) / 15 + phase[k]!),
        );
        mulQuat(q, 0, q, 0, r, 0);
      }
      turns.set(q, 4 * (f * n + j));
    });
  const places = Float32Array.from({ length: 3 * frames }, (_, i) => {
    const f = Math.floor(i / 3);
    return i % 3 === 1 ? rig.restT[1]! : 0.6 * Math.sin(f / 90 + (i % 3));
  });
  return {
    fps: 60,
    frameCount: frames,
    turns,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
}

const rig = standIn('A');
const map = guessBodyMap(rig);
const motion = lively(rig, 600, 5);
const stage = (seed: number) => markersOn(rig, map, motion, { seed, noise: 0.001, lost: 0.1, swaps: 5, names: false });

/** How far limbs' joints lie from where they are, metres, and how far their bones point elsewhere, degrees; on average. */
function offBy(solved: Pick<Solved, 'rig' | 'motion'>, true_: Motion): { off: number; turned: number } {
  const [a, b] = [new PoseReader(rig, true_), new PoseReader(solved.rig, solved.motion)];
  const slots = ['L', 'R'].flatMap((s) => ['upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot'].map((p) => p + s));
  let [off, turned, count] = [0, 0, 0];
  for (let f = 0; f < true_.frameCount; f += Math.ceil(true_.frameCount / 30)) {
    const [p, q] = [a.at(f).p, b.at(f).p];
    const at = (slot: string, own: boolean): number[] => {
      const j = own ? solved.rig.names.indexOf(slot) : jointOf(map, slot);
      return [0, 1, 2].map((k) => (own ? q : p)[3 * j + k]!);
    };
    for (const slot of slots)
      off += Math.hypot(...at(slot, true).map((x, k) => x - at(slot, false)[k]!)) / slots.length;
    for (const s of ['L', 'R'])
      for (const [from, to] of [
        ['upperArm', 'forearm'],
        ['thigh', 'shin'],
        ['shin', 'foot'],
      ]) {
        const way = (own: boolean) => at(to! + s, own).map((x, k) => x - at(from! + s, own)[k]!);
        const [u, v] = [way(true), way(false)];
        const cos = u.reduce((sum, x, k) => sum + x * v[k]!, 0) / Math.hypot(...u) / Math.hypot(...v);
        turned += (Math.acos(Math.min(1, cos)) * 180) / Math.PI / 6;
      }
    count++;
  }
  return { off: off / count, turned: turned / count };
}

describe('tracks', () => {
  test('that exchange their markers are found and put right', () => {
    let [found, all, wrong] = [0, 0, 0];
    for (let seed = 1; seed <= 6; seed++) {
      const { markers, swaps } = stage(seed);
      const told = cleanMarkers(markers).done.filter((d) => d.what === 'swap');
      all += swaps.length;
      for (const s of swaps) {
        const i = told.findIndex(
          (d) => Math.abs(d.frame - s.frame) <= 35 && new Set([...d.markers, s.a, s.b]).size === 2,
        );
        if (i < 0) continue;
        found++;
        told.splice(i, 1);
      }
      wrong += told.length;
    }
    expect(found / all).toBeGreaterThanOrEqual(0.9);
    expect(wrong).toBeLessThanOrEqual(3);
  });

  test('that are whole stay as they are', () => {
    const { markers } = markersOn(rig, map, motion, { seed: 3, noise: 0.001, lost: 0, swaps: 0, names: false });
    const { done, markers: same } = cleanMarkers(markers);
    expect(done).toEqual([]);
    expect(same.places).toEqual(markers.places);
  });

  test('a single place far off is taken out, and told', () => {
    const { markers } = markersOn(rig, map, motion, { seed: 3, noise: 0.0005, lost: 0, swaps: 0, names: false });
    markers.places[3 * (100 * markers.labels.length + 7)]! += 0.4;
    const { done, markers: clean } = cleanMarkers(markers);
    expect(done).toEqual([{ what: 'spike', frame: 100, markers: [7] }]);
    expect(clean.places[3 * (100 * markers.labels.length + 7)]).toBeNaN();
  });
});

const { markers, carriers } = stage(2);
const solved = solveMarkers(markers);

describe('bodies from markers', () => {
  test('markers are grouped by the bones that carry them', () => {
    const clean = markersOn(rig, map, motion, { seed: 2, noise: 0.001, lost: 0.1, swaps: 0, names: false });
    for (const group of groupMarkers(clean.markers, USUAL_LOOSENESS))
      expect(new Set(group.map((i) => carriers[i])).size).toBe(1);
  });

  test('joints lie where they are, and limbs point where they do', () => {
    assertRig(solved.rig);
    const { off, turned } = offBy(solved, motion);
    expect(off).toBeLessThan(0.02);
    expect(turned).toBeLessThan(3);
  });

  test('every marker has its bone and its error, and what was done is said', () => {
    const { report } = solved;
    expect(report.markers.every((m) => m.joint !== undefined)).toBe(true);
    expect(report.markers.map((m) => m.offMm).sort((x, y) => x - y)[20]).toBeLessThan(4);
    expect(report.markers[0]!.overTimeMm).toHaveLength(100);
    expect(solveWords(report).join(' ')).toMatch(/exchanged their tracks.*were not seen/);
  });

  test('as TRC, from a stage whose z points up, it is a take like any other', async () => {
    const settings = { seed: 2, noise: 0.001, lost: 0.1, swaps: 0, names: false };
    const { markers: short } = markersOn(rig, map, lively(rig, 120, 5), settings);
    // a stage whose axes lie otherwise
    const zUp = short.places.slice();
    for (let i = 0; i < zUp.length; i += 3) [zUp[i + 1], zUp[i + 2]] = [-short.places[i + 2]!, short.places[i + 1]!];
    const file = await importFile(new TextEncoder().encode(writeTrc({ ...short, places: zUp })), 'take.trc');
    expect(file.format).toBe('trc');
    expect(file.heightM).toBeGreaterThan(1.4);
    expect(file.heightM).toBeLessThan(1.9);
    for (const slot of ['hips', 'head', 'thighL', 'footR', 'forearmL', 'upperArmR'])
      expect([slot, file.rig.names[jointOf(file.map, slot)]]).toEqual([slot, slot]);
  });

  test('two markers on every part of a limb are enough', () => {
    const few = { seed: 3, noise: 0.001, lost: 0.1, swaps: 2, names: false, layout: 'sparse' } as const;
    const { rig: made } = solveMarkers(markersOn(rig, map, motion, few).markers);
    for (const slot of ['hips', 'spine2', 'head', 'upperArmL', 'forearmR', 'thighL', 'shinR', 'footL'])
      expect(made.names).toContain(slot);
    const long = (joint: string): number => {
      const j = made.names.indexOf(joint);
      return Math.hypot(made.restT[3 * j]!, made.restT[3 * j + 1]!, made.restT[3 * j + 2]!);
    };
    for (const [joint, share] of [
      ['shinL', 0.245],
      ['footR', 0.246],
      ['forearmL', 0.186],
    ] as const)
      expect(Math.abs(long(joint) / 1.75 - share)).toBeLessThan(0.03);
  });

  test('a body that could not be made whole says so, and so does a joint about which nothing turns cleanly', () => {
    const { report } = solved;
    const joint = report.joints[0]!;
    expect(solveWords(report).join(' ')).not.toMatch(/not whole|only roughly/);
    const torn = {
      ...report,
      joints: [
        { joint: 'bone 3', offMm: 3 },
        { ...joint, offMm: 46 },
      ],
    };
    expect(solveWords(torn).join(' ')).toMatch(/One bone fits no part of a body.*not whole/);
    expect(solveWords(torn).join(' ')).toContain(`${joint.joint} (to 5 cm)`);
  });

  test('what is no body is refused in a sentence', () => {
    const few = { ...markers, labels: ['a', 'b'] };
    expect(() => solveMarkers(few)).toThrow(/2 markers/);
    const random = seeded(1);
    const cloud = { ...markers, places: Float32Array.from(markers.places, () => random()) };
    expect(() => solveMarkers(cloud)).toThrow(/No body could be made out/);
  });
});

describe('TRC', () => {
  test('is read as it is written, gaps included', () => {
    const { markers } = stage(4);
    const back = readTrc(new TextEncoder().encode(writeTrc(markers)));
    expect({ ...back, places: 0 }).toEqual({ ...markers, places: 0 });
    const off = markers.places.map((x, i) => (Number.isNaN(x) ? 0 : Math.abs(back.places[i]! - x)));
    expect(off.reduce((most, x) => Math.max(most, x), 0)).toBeLessThan(1e-5);
    expect(markers.places.every((x, i) => Number.isNaN(x) === Number.isNaN(back.places[i]!))).toBe(true);
    expect(markers.places.some(Number.isNaN)).toBe(true);
  });

  test.each([
    ['hello', 'not-this-format'],
    ['PathFileType\t4\nDataRate\tUnits\n-5\tmm\n', 'bad-structure'],
    ['PathFileType\t4\nDataRate\tUnits\n60\tparsec\n', 'bad-structure'],
    ['PathFileType\t4\nDataRate\tUnits\n60\tmm\nFrame#\tTime\ta\n\n1\t0\tx\t1\t2\n', 'bad-number'],
  ])('%j is refused', (body, code) => {
    expect(() => readTrc(new TextEncoder().encode(body))).toThrow(expect.objectContaining({ code }));
  });
});

describe('another take of a body that is known', () => {
  const body = markerBodyFromJson(JSON.parse(JSON.stringify(solved.body)));
  const wear = { seed: 2, noise: 0.001, lost: 0.1, swaps: 0, names: false } as const;
  const take = (m: Motion): Markers => markersOn(rig, map, m, wear).markers;

  test('has the same skeleton, and its joints lie where they are', () => {
    const other = lively(rig, 150, 77);
    const next = solveOnBody(take(other), body);
    expect(next.rig).toEqual(solved.rig);
    const { off, turned } = offBy(next, other);
    expect(off).toBeLessThan(0.02);
    expect(turned).toBeLessThan(3);
    expect(next.report.markers.every((m) => m.joint !== undefined)).toBe(true);
  });

  test('may be one in which next to nothing moves, or a single frame', () => {
    const still = lively(rig, 40, 5);
    const n = rig.names.length;
    for (let f = 1; f < 40; f++) still.turns.copyWithin(4 * n * f, 0, 4 * n);
    for (let f = 1; f < 40; f++) still.places[0]!.values.copyWithin(3 * f, 0, 3);
    expect(offBy(solveOnBody(take(still), body), still).off).toBeLessThan(0.02);
    const one = { ...still, frameCount: 1, turns: still.turns.subarray(0, 4 * n) };
    one.places = [{ joint: 0, values: still.places[0]!.values.subarray(0, 3) }];
    const single = solveOnBody(markersOn(rig, map, one, { ...wear, lost: 0 }).markers, body);
    expect(offBy(single, one).off).toBeLessThan(0.02);
  });

  test('is found among others by how well its markers fit, and is solved by itself where none fits', () => {
    const other = lively(rig, 150, 31);
    // the same labels on somebody a tenth shorter
    const short = { ...body, limbs: body.limbs.map((l) => ({ ...l, joint: l.joint.map((x) => 0.9 * x) as never })) };
    expect(solveTake(take(other), [short, body]).on).toBe(1);
    const alone = solveTake(take(other), [short]);
    expect(alone.on).toBe(-1);
    expect(alone.solved.rig).not.toEqual(solved.rig);
  });

  test('whose markers are others, or sit on somebody else, is refused with what is wrong', () => {
    const worn = take(lively(rig, 60, 9));
    const called = { ...worn, labels: worn.labels.map((l, i) => (i < 5 ? l : `x${l}`)) };
    expect(() => solveOnBody(called, body)).toThrow(/file names 5; at least \d+ are needed/);
    const mixed = { ...worn, labels: [...worn.labels].reverse() };
    expect(() => solveOnBody(mixed, body)).toThrow(/another person, or they sit elsewhere/);
    const hips = body.limbs[0]!.markers.map((m) => m.label);
    const blind = {
      ...worn,
      places: worn.places.map((x, i) =>
        hips.includes(worn.labels[Math.floor(i / 3) % worn.labels.length]!) ? Number.NaN : x,
      ),
    };
    expect(() => solveOnBody(blind, body)).toThrow(/hangs on .*, and the take shows none of these markers: three are/);
    // some that are missing, and some that are no marker of the body, do no harm
    const some = { ...worn, labels: worn.labels.map((l, i) => (i % 7 === 0 ? `x${l}` : l)) };
    const { report, rig: same } = solveOnBody(some, body);
    expect(same).toEqual(solved.rig);
    expect(report.markers.filter((m) => m.joint === undefined).map((m) => m.label)).toEqual(
      some.labels.filter((l) => l.startsWith('x')),
    );
  });

  test.each([
    ['nothing', null],
    ['no limbs', { ...body, limbs: [] }],
    ['no word on how well it fitted', { limbs: body.limbs }],
    [
      'a limb before what it hangs on',
      { ...body, limbs: [...body.limbs.slice(0, 2), { ...body.limbs[2]!, parent: 5 }] },
    ],
    [
      'a turn that is none',
      { ...body, limbs: body.limbs.map((l) => ({ ...l, stood: { ...l.stood, turn: [1, 1, 1, 1] } })) },
    ],
    [
      'markers without places',
      { ...body, limbs: body.limbs.map((l) => ({ ...l, markers: [{ label: 'a', at: [1] }] })) },
    ],
  ])('a body file with %s is refused', (_, json) => {
    expect(() => markerBodyFromJson(json)).toThrow(/no body of markers/);
  });
});
