import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { guessBodyMap, standIn, writeBvh, writeGlb, writeTrc } from '../motion/index';
import { posedRig, wander } from '../motion/test/bodies';
import { objOf } from '../motion/test/flesh';
import { fingeredFlesh } from '../motion/test/gloves';
import { markersOn } from '../motion/test/marker-body';
import { paperFigure, paperTraits } from '../motion/test/paper';
import { main } from './main';

const folder = mkdtempSync(join(tmpdir(), 'velvet-cli-'));
const at = (name: string): string => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

beforeAll(async () => {
  const rig = posedRig(90);
  writeFileSync(at('take.bvh'), writeBvh(rig, wander(rig, 61, 1, 60, 0.3)));
  writeFileSync(at('other.glb'), await writeGlb({ rig: posedRig(45, 0.7, true) }));
  writeFileSync(at('bad.bvh'), 'HIERARCHY\nROOT a\n{\n');
});

async function run(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  const out: string[] = [];
  const err: string[] = [];
  const code = await main(
    args,
    (t) => out.push(t),
    (t) => err.push(t),
  );
  return { code, out: out.join('\n'), err: err.join('\n') };
}

describe('bodies from meshes and markers', () => {
  test('a bare mesh gets a skeleton by marks, and says where each mark comes from', async () => {
    const { model, joints } = fingeredFlesh();
    writeFileSync(at('bare.obj'), objOf(model.meshes));
    writeFileSync(at('marks.json'), JSON.stringify({ hips: joints.hips, handL: joints.handL }));
    const { code, out } = await run(
      'rig',
      at('bare.obj'),
      '--marks',
      at('marks.json'),
      '--out',
      at('rigged.glb'),
      '--json',
    );
    expect(code).toBe(0);
    const told = JSON.parse(out);
    expect(told.marks).toMatchObject({
      handL: { from: 'marked' },
      handR: { from: 'mirrored' },
      shinL: { from: 'by shape' },
    });
    const file = JSON.parse((await run('inspect', at('rigged.glb'), '--json')).out);
    expect(file.joints).toHaveLength(52);
    expect(told.fingers).toEqual({ L: 5, R: 5 });
    const { length } = told.parts as unknown[];
    const tie = ['--tie', `${length}=head`, '--no-fingers'];
    const tied = await run('rig', at('bare.obj'), ...tie, '--out', at('tied.glb'), '--json');
    const { parts, fingers, joints: made } = JSON.parse(tied.out);
    expect(parts.slice(-2)).toMatchObject([
      { part: length - 1, tiedTo: null },
      { part: length, tiedTo: 'head' },
    ]);
    expect([fingers, Object.keys(made).length]).toEqual([{ L: 0, R: 0 }, 22]);
    expect((await run('rig', at('bare.obj'), '--tie', 'hat', '--out', at('tied.glb'))).err).toMatch(/as 1=head/);
    expect(await run('rig', at('bare.obj'), '--out', at('rigged.bvh'))).toMatchObject({ code: 2 });
    writeFileSync(at('marks.json'), '{"nose":[1,2,3]}');
    expect(await run('rig', at('bare.obj'), '--marks', at('marks.json'), '--out', at('x.glb'))).toMatchObject({
      code: 1,
    });
  });

  test('motions as keys: few of them, no point further off than is said, curves or straight ways between', async () => {
    const shares: number[] = [];
    for (const curves of ['smooth', 'straight']) {
      const done = await run(
        'keys',
        at('take.bvh'),
        '--out',
        at('keys.glb'),
        '--tolerance',
        '2',
        '--curves',
        curves,
        '--json',
      );
      expect(done.err).toBe('');
      const { motions, toleranceMm } = JSON.parse(done.out);
      expect(toleranceMm).toBe(2);
      expect(motions[0].errorMm).toBeGreaterThan(0);
      expect(motions[0].errorMm).toBeLessThanOrEqual(2.001);
      expect(motions[0].keys).toBeLessThan(0.6 * motions[0].ofFrames);
      shares.push(motions[0].share);
    }
    expect(shares[0]).toBeLessThan(shares[1]!);
    expect((await run('keys', at('take.bvh'), '--out', at('keys.bvh'))).err).toContain('--out FILE.glb');
    expect((await run('keys', at('take.bvh'), '--out', at('keys.glb'), '--tolerance', '0')).err).toContain(
      '--tolerance',
    );
  });

  test('a review film is a picture a frame', async () => {
    const { code, out } = await run(
      'film',
      at('take.bvh'),
      at('take.bvh'),
      '--out',
      at('film.zip'),
      '--height',
      '48',
      '--fps',
      '5',
      '--json',
    );
    expect(code).toBe(0);
    const told = JSON.parse(out);
    const files = unzipSync(readFileSync(at('film.zip')));
    expect(Object.keys(files)).toHaveLength(told.frames);
    expect([...Object.values(files)[0]!.subarray(1, 4)]).toEqual([80, 78, 71]);
    expect(await run('film', at('take.bvh'), '--out', at('film.mov'))).toMatchObject({ code: 2 });
  });

  test('another take of a person is solved on the body of the first, and has the same skeleton', async () => {
    const body = standIn('A');
    const swaying = (frames: number, seed: number) => wander(body, frames, seed, 60, 0.4);
    for (const [name, frames, seed] of [
      ['one', 240, 3],
      ['two', 40, 8],
    ] as const) {
      const traits = { seed: 1, noise: 0.0005, lost: 0, swaps: 0, names: true };
      const { markers } = markersOn(body, guessBodyMap(body), swaying(frames, seed), traits);
      writeFileSync(at(`${name}.trc`), writeTrc(markers));
    }
    expect(await run('solve', at('one.trc'), '--out', at('one.bvh'), '--keep-body', at('body.json'))).toMatchObject({
      code: 0,
    });
    const two = await run('solve', at('two.trc'), '--body', at('body.json'), '--out', at('two.bvh'), '--json');
    expect([two.code, two.err]).toEqual([0, '']);
    const off = JSON.parse(two.out).markers.map((m: { offMm: number }) => m.offMm);
    expect(off.filter((mm: number) => mm < 10).length).toBeGreaterThan(0.7 * off.length);
    const head = (name: string): string => readFileSync(at(name), 'utf8').split('MOTION')[0]!;
    expect(head('two.bvh')).toBe(head('one.bvh'));
    writeFileSync(at('body.json'), '{"limbs": []}');
    const bad = await run('solve', at('two.trc'), '--body', at('body.json'), '--out', at('x.bvh'));
    expect([bad.code, bad.err]).toEqual([1, expect.stringContaining('no body of markers')]);
  });

  test('what holds no markers is not solved', async () => {
    const { code, err } = await run('solve', at('take.bvh'), '--out', at('x.bvh'));
    expect([code, err]).toEqual([1, expect.stringContaining('holds no markers')]);
  });
});

describe('cut-outs', () => {
  beforeAll(() => {
    [5, 6].forEach((seed) => {
      writeFileSync(
        at(`figure-${seed}.svg`),
        paperFigure(paperTraits(seed, { language: 'plain', facing: 'front' })).svg,
      );
    });
  });

  test('drawings of one figure are added to another, and what the file says is read again', async () => {
    const merge = ['cutout', 'merge', at('figure-5.svg'), at('figure-6.svg'), '--json'];
    expect(await run(...merge)).toMatchObject({ code: 2 });
    const { code, out } = await run(...merge, '--out', at('merged.json'));
    expect(code).toBe(0);
    const { drawings } = JSON.parse(out);
    expect(drawings.length).toBeGreaterThan(5);
    const { parts } = JSON.parse((await run('cutout', 'inspect', at('merged.json'), '--json')).out);
    for (const { part, label } of drawings)
      expect(parts.find((p: { name: string }) => p.name === part).labels).toContain(label);
  });

  test('a Lottie animation is put on another figure, and comes out as a sheet of sprites', async () => {
    const drive = ['cutout', 'drive', at('take.bvh'), '--to', at('figure-5.svg')];
    expect(await run(...drive, '--out', at('take.lottie.json'))).toMatchObject({ code: 0 });
    const swap = ['cutout', 'swap', at('take.lottie.json'), '--to', at('figure-6.svg'), '--json'];
    const { code, out, err } = await run(...swap, '--out', at('swapped.sprites.json'), '--height', '60');
    expect([code, err]).toEqual([0, '']);
    expect(JSON.parse(out).pairs.length).toBeGreaterThan(8);
    const { frames, size, fps } = JSON.parse(readFileSync(at('swapped.sprites.json'), 'utf8'));
    const played = JSON.parse(readFileSync(at('take.lottie.json'), 'utf8'));
    expect([frames.length, size[1], fps]).toEqual([played.op, 60, played.fr]);
    expect(readFileSync(at('swapped.sprites.png')).subarray(1, 4).toString()).toBe('PNG');
  });
});

describe('joins, layers and reels', () => {
  beforeAll(() => {
    const rig = posedRig(90);
    writeFileSync(at('second.bvh'), writeBvh(rig, wander(rig, 61, 7, 60, 0.2)));
  });
  const frames = async (name: string): Promise<number> =>
    JSON.parse((await run('inspect', at(name), '--json')).out).frameCount;

  test('one motion follows another, and the report says how', async () => {
    const args = ['join', at('take.bvh'), at('second.bvh'), '--out', at('joined.bvh'), '--frames', '12'];
    const { code, out } = await run(...args, '--report', at('joined.json'), '--json');
    expect(code).toBe(0);
    const told = JSON.parse(out);
    expect(told).toMatchObject({ join: 'crossfade', frames: 110, passes: { start: 49, end: 61 } });
    expect(told.check.stepRatio).toBeGreaterThan(0);
    expect(JSON.parse(readFileSync(at('joined.json'), 'utf8'))).toEqual(told);
    expect(await frames('joined.bvh')).toBe(110);
  });

  test('a bridge computes what lies between, and the best frames to meet at are found', async () => {
    await run('join', at('take.bvh'), at('second.bvh'), '--out', at('b.bvh'), '--join', 'bridge', '--frames', '20');
    expect(await frames('b.bvh')).toBe(142);
    const { out } = await run('join', at('take.bvh'), at('take.bvh'), '--find', '--out', at('f.bvh'), '--json');
    const [best] = JSON.parse(out).matches;
    // a motion is most like itself where it is itself
    expect(best.a).toBe(best.b);
    expect(best.apartPercentLeg).toBeLessThan(1);
  });

  test('a layer is laid for some of the body, and says which', async () => {
    const args = ['layer', at('take.bvh'), at('second.bvh'), '--out', at('laid.bvh')];
    const { out } = await run(...args, '--parts', 'head,armL', '--at', '10', '--json');
    expect(JSON.parse(out)).toMatchObject({ parts: ['head', 'left arm'], written: { start: 10, end: 60 } });
    expect((await run(...args, '--parts', 'tail')).code).toBe(2);
  });

  test('a reel is played from its file, with paths beside it', async () => {
    const reel = {
      name: 'Two',
      fps: 30,
      members: [
        {
          castId: 'other.glb',
          base: [{ itemId: 'take.bvh' }, { itemId: 'second.bvh', at: 24, join: { kind: 'decay', frames: 8 } }],
          overlays: [{ itemId: 'second.bvh', at: 5, regions: ['head'] }],
          keys: [{ handle: 'handL', keys: [{ frame: 3, move: [0, 0.05, 0] }] }],
        },
      ],
    };
    writeFileSync(at('reel.json'), JSON.stringify(reel));
    const { code, out } = await run('reel', at('reel.json'), '--out', at('reel.glb'), '--json');
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ frames: 55, joins: [{ from: 'base1', to: 'base2', kind: 'decay' }] });
    expect(await frames('reel.glb')).toBe(55);
    const { err, code: no } = await run('reel', at('reel.json'), '--out', at('x.glb'), '--member', '4');
    expect([no, err]).toEqual([1, expect.stringContaining('there is no number 4')]);
    writeFileSync(at('odd.json'), JSON.stringify({ members: [{ castId: 'other.glb', base: [{ at: 3 }] }] }));
    expect((await run('reel', at('odd.json'), '--out', at('x.glb'))).err).toContain('names no file');
  });
});

describe('inspect', () => {
  test('says what a file holds', async () => {
    const { code, out } = await run('inspect', at('take.bvh'), '--json');
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      format: 'bvh',
      jointCount: 21,
      frameCount: 61,
      fps: 60,
      durationS: 1,
      upAxis: '+Y',
      facing: '+Z',
      unitScale: 0.01,
      restPose: 'T',
    });
    expect(JSON.parse(out).joints[1]).toEqual({ name: 'Spine', parent: 'Hips' });
    expect(JSON.parse(out).heightM).toBeCloseTo(1.75, 1);
  });

  test('reads a character without motion', async () => {
    expect(JSON.parse((await run('inspect', at('other.glb'), '--json')).out)).toMatchObject({
      format: 'glb',
      frameCount: 0,
      restPose: 'A',
    });
  });
});

describe('map', () => {
  test('prints slots, unused joints and warnings', async () => {
    const json = JSON.parse((await run('map', at('other.glb'), '--json')).out);
    expect(json.slots.upperArmL).toEqual({ joint: 'LeftArm', state: 'sure', why: expect.stringContaining('LeftArm') });
    expect(json.unused).toEqual([]);
    expect(Array.isArray(json.warnings)).toBe(true);
  });
});

describe('tables of joint places', () => {
  test('what was written as a table is read as a take; columns are told where headings do not', async () => {
    expect((await run('convert', at('take.bvh'), at('places.csv'))).code).toBe(0);
    expect((await run('convert', at('places.csv'), at('places.bvh'))).code).toBe(0);
    const shown = JSON.parse((await run('inspect', at('places.bvh'), '--json')).out);
    expect(shown).toMatchObject({ frameCount: 61, jointCount: 21 });
    const text = readFileSync(at('places.csv'), 'utf8');
    const [head, ...rows] = text.split('\r\n');
    const names = head!.split(',').flatMap((c, i) => (c.endsWith('.x') ? [[c.slice(0, -2), i + 1] as const] : []));
    const columns = { joints: Object.fromEntries(names.map(([name, i]) => [name, [i, i + 1, i + 2]])), fps: 60 };
    writeFileSync(at('columns.json'), JSON.stringify(columns));
    writeFileSync(at('plain.csv'), [head!.replace(/[^,]+/g, 'value'), ...rows].join('\n'));
    expect((await run('inspect', at('plain.csv'))).code).not.toBe(0);
    const told = await run('inspect', at('plain.csv'), '--columns', at('columns.json'), '--json');
    expect(JSON.parse(told.out)).toMatchObject({ frameCount: 61, jointCount: 21, fps: 60 });
    writeFileSync(at('columns.json'), '{"joints": {"hips": 3}}');
    expect((await run('inspect', at('plain.csv'), '--columns', at('columns.json'))).err).toMatch(/no list of columns/);
  });
});

describe('convert', () => {
  test('to GLB and back at another rate', async () => {
    expect((await run('convert', at('take.bvh'), at('c.glb'))).code).toBe(0);
    expect((await run('convert', at('c.glb'), at('c.bvh'), '--fps', '30')).code).toBe(0);
    expect(JSON.parse((await run('inspect', at('c.bvh'), '--json')).out)).toMatchObject({
      frameCount: 31,
      fps: 30,
      jointCount: 21,
    });
  });
});

describe('retarget', () => {
  test('writes the motion on the character and measures it', async () => {
    const { code } = await run(
      'retarget',
      at('take.bvh'),
      '--to',
      at('other.glb'),
      '--out',
      at('r.glb'),
      '--report',
      at('r.json'),
    );
    expect(code).toBe(0);
    const report = JSON.parse(readFileSync(at('r.json'), 'utf8'));
    expect(report).toMatchObject({
      frames: 61,
      floor: { maxDepthCm: expect.any(Number) },
      reach: { maxCm: expect.any(Number) },
      unmapped: { source: [], target: [] },
    });
    for (const key of ['maxCm', 'maxPercentLeg', 'meanPercentLegPerPlantSecond'])
      expect(report.slip[key]).toEqual(expect.any(Number));
    for (const key of ['meanDeg', 'p95Deg', 'maxDeg']) expect(report.direction[key]).toEqual(expect.any(Number));
    expect(report.framesPerSecond).toBeGreaterThan(0);
    expect(JSON.parse((await run('inspect', at('r.glb'), '--json')).out)).toMatchObject({
      frameCount: 61,
      jointCount: 21,
    });
  });

  test('without plants limbs point exactly the same way', async () => {
    const { out } = await run(
      'retarget',
      at('take.bvh'),
      '--to',
      at('other.glb'),
      '--out',
      at('n.bvh'),
      '--no-plants',
      '--json',
    );
    expect(JSON.parse(out).direction.maxDeg).toBeLessThan(0.02);
  });

  test('a map by hand is followed', async () => {
    const map = JSON.parse((await run('map', at('other.glb'), '--json')).out);
    map.slots.toesL = { joint: null, state: 'empty', why: 'wanted so' };
    map.slots.toesR = { joint: null, state: 'empty', why: 'wanted so' };
    writeFileSync(at('map.json'), JSON.stringify(map));
    const { code, out } = await run(
      'retarget',
      at('take.bvh'),
      '--to',
      at('other.glb'),
      '--out',
      at('m.bvh'),
      '--map',
      at('map.json'),
      '--json',
    );
    expect(code).toBe(0);
    expect(JSON.parse(out).unmapped.source).toEqual(['LeftToe', 'RightToe']);
  });
});

describe('a fitting as it was made in the application', () => {
  const fit = (document: unknown, out: string) => {
    writeFileSync(at('fitting.json'), JSON.stringify(document));
    return run(
      'retarget',
      at('take.bvh'),
      '--to',
      at('other.glb'),
      '--out',
      at(out),
      '--fitting',
      at('fitting.json'),
      '--json',
    );
  };

  test('settings and edits are followed', async () => {
    const plain = await fit({}, 'plain.bvh');
    const other = await fit(
      {
        settings: { lower: 0.08, leave: ['head'] },
        edits: { frames: 61, corrections: [{ joint: 'LeftForeArm', keys: [{ frame: 0, turn: [0, 0, 0.4, 0.9] }] }] },
        version: 4,
      },
      'other.bvh',
    );
    expect([plain.code, other.code]).toEqual([0, 0]);
    const { out } = await run('compare', at('plain.bvh'), at('other.bvh'), '--json');
    expect(out).toMatch(/LeftForeArm/);
    expect(readFileSync(at('plain.bvh'), 'utf8')).not.toBe(readFileSync(at('other.bvh'), 'utf8'));
  });

  test.each([
    ['no object', [1, 2], /settings/],
    ['a setting that is none', { settings: { bounce: 3 } }, /no setting called "bounce"/],
    [
      'keys out of order',
      { edits: { corrections: [{ handle: 'hips', keys: [{ frame: 9 }, { frame: 3 }] }] } },
      /rising order/,
    ],
  ])('%s is refused', async (_, document, words) => {
    const { code, err } = await fit(document, 'x.bvh');
    expect(code).toBe(1);
    expect(err).toMatch(words);
  });
});

describe('when it cannot', () => {
  test.each<[string, string[], number, RegExp]>([
    ['a broken file', ['inspect', at('bad.bvh')], 1, /bad\.bvh, line 4: .*never closed/],
    ['a file that is not there', ['inspect', at('none.bvh')], 1, /cannot be read/],
    ['a folder', ['inspect', folder], 1, /folder/],
    [
      'a map of joints that are not there',
      ['retarget', at('take.bvh'), '--to', at('other.glb'), '--out', at('x.bvh'), '--map', at('bad.bvh')],
      1,
      /not readable as JSON/,
    ],
    ['no command', [], 2, /name a command/],
    ['an unknown command', ['dance'], 2, /no command called "dance"/],
    ['a missing file name', ['convert', at('take.bvh')], 2, /2 file names/],
    ['an unknown option', ['inspect', at('take.bvh'), '--shiny'], 2, /shiny/],
    ['an option of another command', ['inspect', at('take.bvh'), '--energy', '3'], 2, /--energy does not belong/],
    ['an ending nobody writes', ['convert', at('take.bvh'), at('x.doc')], 2, /must end in/],
    ['a rate of zero', ['convert', at('take.bvh'), at('x.bvh'), '--fps', '0'], 2, /--fps takes/],
    ['a retarget without a target', ['retarget', at('take.bvh')], 2, /--to CHARACTER/],
  ])('%s', async (_, args, code, words) => {
    const result = await run(...args);
    expect(result.code).toBe(code);
    expect(result.err).toMatch(words);
    expect(result.err.trim().split('\n')).toHaveLength(1);
  });
});

test('the program starts both ways and hands its exit code on', () => {
  const root = join(import.meta.dirname, '..');
  expect(
    execFileSync('node', ['cli/velvet-reel.mjs', 'inspect', at('take.bvh'), '--json'], { cwd: root, encoding: 'utf8' }),
  ).toContain('"jointCount": 21');
  expect(spawnSync('node_modules/.bin/velvet-reel', ['inspect', at('bad.bvh')], { cwd: root }).status).toBe(1);
  expect(spawnSync('node_modules/.bin/velvet-reel', ['nothing'], { cwd: root }).status).toBe(2);
});

describe('tune, mirror and cycle', () => {
  test('tune changes what it is asked for, in its order', async () => {
    const { code, out } = await run(
      'tune',
      at('take.bvh'),
      '--out',
      at('tuned.bvh'),
      '--trim',
      '10:40',
      '--speed',
      '0.5',
      '--arms',
      '10',
      '--json',
    );
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      steps: ['trim', 'arms', 'speed'],
      clips: [{ framesBefore: 61, frames: 61 }],
    });
    const other = JSON.parse((await run('compare', at('take.bvh'), at('tuned.bvh'), '--json')).out);
    expect(other.largest.deg).toBeGreaterThan(9);
  });

  test('steps come from a file too, and a wrong one is refused in words', async () => {
    writeFileSync(at('steps.json'), JSON.stringify([{ op: 'reverse' }, { op: 'hold', after: 9 }]));
    const { out } = await run('tune', at('take.bvh'), '--out', at('held.glb'), '--steps', at('steps.json'), '--json');
    expect(JSON.parse(out).clips[0].frames).toBe(70);
    writeFileSync(at('steps.json'), JSON.stringify([{ op: 'fly' }]));
    const bad = await run('tune', at('take.bvh'), '--out', at('x.bvh'), '--steps', at('steps.json'));
    expect([bad.code, bad.err]).toEqual([1, expect.stringContaining('"fly"')]);
  });

  test('the travel goes onto a joint of its own', async () => {
    const { out } = await run('tune', at('take.bvh'), '--out', at('root.glb'), '--root-joint', '--json');
    expect(JSON.parse(out).warnings.join(' ')).toContain('"root", which was added');
    expect(JSON.parse((await run('inspect', at('root.glb'), '--json')).out).joints[0]).toEqual({
      name: 'root',
      parent: null,
    });
  });

  test('mirrored twice is the file again', async () => {
    await run('mirror', at('take.bvh'), '--out', at('m1.bvh'));
    await run('mirror', at('m1.bvh'), '--out', at('m2.bvh'));
    const once = JSON.parse((await run('compare', at('take.bvh'), at('m1.bvh'), '--json')).out);
    const twice = JSON.parse((await run('compare', at('take.bvh'), at('m2.bvh'), '--json')).out);
    expect(once.largest.deg).toBeGreaterThan(5);
    expect(twice.largest.deg).toBeLessThan(0.01);
  });

  test('a named stretch is closed', async () => {
    const { code, out } = await run(
      'cycle',
      at('take.bvh'),
      '--start',
      '5',
      '--end',
      '45',
      '--out',
      at('loop.bvh'),
      '--json',
    );
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ frames: 41, start: 5, end: 45 });
    expect(JSON.parse(out).seam.angleDeg).toBeLessThan(0.1);
    expect((await run('cycle', at('take.bvh'), '--start', '5')).code).toBe(2);
  });
});

describe('reading commands', () => {
  test('analyse gives facts, plants, words and props', async () => {
    const [clip] = JSON.parse((await run('analyse', at('take.bvh'), '--json')).out).clips;
    expect(clip.facts).toMatchObject({ frameCount: 61, fps: 60, rest: 'T' });
    expect(Array.isArray(clip.words) && Array.isArray(clip.props) && Array.isArray(clip.plants)).toBe(true);
  });

  test('pairing counts both sides', async () => {
    const { counts, unpaired } = JSON.parse((await run('pairing', at('other.glb'), '--json')).out);
    expect(counts.left).toBe(counts.right);
    expect([counts.left, unpaired]).toEqual([8, []]);
  });

  test('fit ranks motions on a character and says why', async () => {
    const { code, out } = await run('fit', at('take.bvh'), at('tuned.bvh'), '--to', at('other.glb'), '--json');
    expect(code).toBe(0);
    const { fits } = JSON.parse(out);
    expect(fits.length).toBe(2);
    expect(fits[0].score).toBeGreaterThanOrEqual(fits[1].score);
    expect((await run('fit', at('take.bvh'))).code).toBe(2);
  });

  test('compare tells that a file is itself', async () => {
    const { largest, onlyInA } = JSON.parse((await run('compare', at('take.bvh'), at('take.bvh'), '--json')).out);
    expect([largest.deg, largest.cm, onlyInA]).toEqual([0, 0, []]);
  });
});

describe('codec', () => {
  test('packs within its bound and unpacks onto the skeleton', async () => {
    const packed = JSON.parse(
      (await run('codec', 'pack', at('take.bvh'), at('take.packed'), '--bound', '1', '--json')).out,
    );
    expect(packed.ratio).toBeGreaterThan(3);
    expect(packed.largestErrorMm).toBeLessThanOrEqual(1);
    expect((await run('codec', 'unpack', at('take.packed'), at('again.bvh'), '--rig', at('take.bvh'))).code).toBe(0);
    const { largest } = JSON.parse((await run('compare', at('take.bvh'), at('again.bvh'), '--json')).out);
    expect(largest.cm).toBeLessThan(0.15);
    expect((await run('codec', 'unpack', at('bad.bvh'), at('x.bvh'), '--rig', at('take.bvh'))).code).toBe(1);
    expect((await run('codec', 'press', 'a', 'b')).code).toBe(2);
  });
});

describe('formats out', () => {
  test('CSV, motion JSON and ZIP', async () => {
    for (const name of ['a.csv', 'a.json', 'a.zip'])
      expect((await run('convert', at('take.bvh'), at(name))).code).toBe(0);
    expect(readFileSync(at('a.csv'), 'utf8').split('\r\n').length).toBe(63);
    expect(JSON.parse((await run('inspect', at('a.json'), '--json')).out)).toMatchObject({
      format: 'json',
      frameCount: 61,
    });
    expect(readFileSync(at('a.zip')).subarray(0, 2).toString()).toBe('PK');
    expect((await run('convert', at('take.bvh'), at('a.docx'))).code).toBe(2);
  });

  test('the rest pose comes from a frame where it is asked for', async () => {
    const args = ['retarget', at('take.bvh'), '--to', at('other.glb'), '--out', at('r.bvh')];
    expect((await run(...args, '--rest', 'frame:3')).code).toBe(0);
    expect((await run(...args, '--rest', 'frame:900')).code).toBe(1);
    expect((await run(...args, '--rest', 'sideways')).code).toBe(2);
    expect((await run(...args, '--travel', 'speed', '--hands', 'together', '--no-clear', '--limits')).code).toBe(0);
  });
});
