import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeBvh, writeGlb } from '../motion/index';
import { posedRig, wander } from '../motion/test/bodies';
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
    ['no command', [], 2, /a command is due/],
    ['an unknown command', ['dance'], 2, /no command "dance"/],
    ['a missing file name', ['convert', at('take.bvh')], 2, /2 file names/],
    ['an unknown option', ['inspect', at('take.bvh'), '--shiny'], 2, /shiny/],
    ['an option of another command', ['inspect', at('take.bvh'), '--fps', '3'], 2, /--fps does not belong/],
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
