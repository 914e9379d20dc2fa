import { readBvh, readGltf } from '../../../motion/index';
import { changeWish, settingsText } from '../../wishes/settings';
import { changeWords, FIT_DEFAULTS } from '../../wishes/wishes';
import { readSkeleton, readTake } from '../test/world';
import { changeMotion, exportFile, type FitOrder, fitMotion, readFile } from './work';

async function order(): Promise<FitOrder> {
  const take = await readTake();
  const target = await readSkeleton();
  return {
    source: { rig: take.rig, map: take.map, restPose: take.restPose, floorM: null },
    target: { rig: target.rig, map: target.map, restPose: null, floorM: null },
    packed: take.clips[0]!.packed,
    settings: FIT_DEFAULTS,
  };
}

test('a refused file comes back as data, not as a thrown error', async () => {
  const outcome = await readFile({ bytes: new TextEncoder().encode('HIERARCHY\nROOT x\n{\n'), name: 'cut.bvh' });
  expect(outcome).toEqual({ refused: { code: 'truncated', message: expect.stringMatching(/^cut\.bvh, line \d+: /) } });
});

test('a fitting is packed, measured and drawn', async () => {
  const outcome = await fitMotion(await order());
  if (!('ok' in outcome)) throw new Error(outcome.refused.message);
  expect(outcome.ok.facts.frameCount).toBe(40);
  expect(outcome.ok.strip.length).toBeGreaterThan(500);
  expect(outcome.ok.report).toMatchObject({ frames: 40, plants: expect.any(Array) });
  expect(outcome.ok.report).not.toHaveProperty('lanes');
});

test('exports hold the fitted motion at the wanted rate', async () => {
  const o = await order();
  const glb = await exportFile({
    name: 'x',
    format: 'glb',
    fps: 15,
    keyTolerance: null,
    rig: o.source.rig,
    packed: o.packed,
    figure: null,
    onto: o,
  });
  if (!('ok' in glb)) throw new Error(glb.refused.message);
  const read = await readGltf(glb.ok);
  expect(read.rig.names).toEqual(o.target.rig.joints.map((j) => j.name));
  expect(read.clips[0]!.motion).toMatchObject({ fps: 15, frameCount: 20 });
  const bvh = await exportFile({
    name: 'x',
    format: 'bvh',
    fps: null,
    keyTolerance: null,
    rig: o.source.rig,
    packed: o.packed,
    figure: null,
    onto: null,
  });
  if (!('ok' in bvh)) throw new Error(bvh.refused.message);
  expect(readBvh(bvh.ok).motion!.frameCount).toBe(40);
  const same = { name: 'x', fps: null, keyTolerance: null, rig: o.source.rig, packed: o.packed, figure: null, onto: o };
  const usda = await exportFile({ ...same, format: 'usda' });
  if (!('ok' in usda)) throw new Error(usda.refused.message);
  const text = new TextDecoder().decode(usda.ok);
  expect(text.startsWith('#usda 1.0')).toBe(true);
  expect(text).toContain('endTimeCode = 39');
  const vrma = await exportFile({ ...same, format: 'vrma' });
  if (!('ok' in vrma)) throw new Error(vrma.refused.message);
  const json = JSON.parse(
    new TextDecoder().decode(vrma.ok.subarray(20, 20 + new DataView(vrma.ok.buffer).getUint32(12, true))),
  );
  const { node } = json.extensions.VRMC_vrm_animation.humanoid.humanBones.hips;
  expect(json.nodes[node].name).toBe(o.target.map.slots.hips!.joint);
});

test('a change is carried out on the item’s own skeleton and comes back as the library keeps it', async () => {
  const { source, packed } = await order();
  const wish = changeWish.parse({ mirror: true, trim: { start: 5, end: 24 }, tuning: { speed: 0.5 } });
  const outcome = await changeMotion({ source, packed, wish });
  if (!('ok' in outcome)) throw new Error(outcome.refused.message);
  expect(outcome.ok.facts.frameCount).toBe(39);
  expect(changeWords(wish)).toEqual(['frames 6 to 25', 'mirrored', 'speed × 0.5']);
  const bad = await changeMotion({ source, packed, wish: changeWish.parse({ trim: { start: 5, end: 900 } }) });
  expect(bad).toEqual({ refused: { code: 'bad-argument', message: expect.stringContaining('5 to 900') } });
});

test('settings in an address are checked', () => {
  expect(settingsText.parse(JSON.stringify({ hands: 'together' }))).toEqual({ ...FIT_DEFAULTS, hands: 'together' });
  for (const text of ['{', '{"hands":"tied"}', '{"tuning":{"energy":99}}'])
    expect(settingsText.safeParse(text).success).toBe(false);
});
