import { strFromU8, unzipSync } from 'fflate';
import { cookAnise } from '../../../demo/cutouts/cook-anise';
import { lanternToss } from '../../../demo/cutouts/lantern-toss';
import { artFromJson, rigFromJson, type SpriteJson, sceneFromJson } from '../../../motion/index';
import { paperFigure, paperTraits } from '../../../motion/test/paper';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import { readSkeleton, testDatabase, type World } from '../test/world';
import { readFile } from '../threads/work';
import { assetBytes, changeCast, getCast } from './cast';
import { addDrawings, changeCutout, keepDrawings, markCutout } from './cutouts';
import { exportItem, fitAgain, keepFitting } from './fittings';
import { takeIn } from './intake';
import { getItem, keysOf } from './items';
import { getRig } from './rigs';

let w: World;
beforeAll(async () => {
  w = await testDatabase();
});
afterAll(() => w.close());

/** A paper figure in the cast, drawn with some traits. */
const figure = (name: string, seed: number): Promise<string> =>
  figureOf(name, paperFigure(paperTraits(seed, { language: 'plain', facing: 'front' })).svg);
async function figureOf(name: string, svg: string): Promise<string> {
  const outcome = await readFile({ bytes: new TextEncoder().encode(svg), name: `${name}.svg` });
  if (!('ok' in outcome)) throw new Error(outcome.refused.message);
  return (await takeIn(w.db, outcome.ok, { fileName: `${name}.svg`, bytes: svg.length }, w.personId)).result.cast[0]!
    .id;
}
const rigOf = async (id: string) => (await getCast(w.db, id)).rigId;
const drawn = async (id: string) => {
  const member = await getCast(w.db, id);
  const rig = rigFromJson((await getRig(w.db, member.rigId)).rig);
  if (rig.kind !== 'cutout') throw new Error('no cut-out');
  const art = artFromJson(JSON.parse(new TextDecoder().decode((await assetBytes(w.db, member, 'art'))!)));
  return { rig, art };
};

test('another figure’s drawings are told first, then added, and taken back by undo', async () => {
  const [own, other] = [await figure('Own', 5), await figure('Other', 6)];
  const before = await drawn(own);
  const base = await rigOf(own);
  const asked = await addDrawings(w.db, w.person, own, base, { cast: other }, { check: true });
  expect(asked.changed).toBeUndefined();
  expect(await rigOf(own)).toBe(base);
  const part = asked.report.drawings.find((d) => d.how === 'renamed')!.part;
  const { report, changed } = await addDrawings(w.db, w.person, own, base, { cast: other }, { only: [part] });
  expect(new Set(report.drawings.map((d) => d.part))).toEqual(new Set([part]));
  const after = await drawn(own);
  const count = ({ rig }: typeof after): number => rig.parts.find((p) => p.name === part)!.drawings.length;
  expect(count(after)).toBe(count(before) + report.drawings.length);
  expect(after.art.drawings).toHaveLength(before.art.drawings.length + report.drawings.length);
  // the same once more is nothing new
  const again = await addDrawings(w.db, w.person, own, await rigOf(own), { cast: other }, { only: [part] });
  expect(again.changed).toBeUndefined();
  await changeCast(w.db, w.person, own, changed!.undo);
  expect(await rigOf(own)).toBe(base);
});

test('a figure without names is put together by marked joints, and taken back by undo', async () => {
  const { svg, pivots } = paperFigure(paperTraits(4, { language: 'none', facing: 'front', hat: false }));
  const own = await figureOf('Unnamed', svg);
  const base = await rigOf(own);
  const { upperArmL, ...marks } = pivots;
  const { undo } = await markCutout(w.db, w.person, own, base, marks);
  const { map } = await getRig(w.db, await rigOf(own));
  expect(map.slots.shinR).toMatchObject({ state: 'sure' });
  expect(map.slots.upperArmL).toMatchObject({ state: 'missing', joint: null });
  const { art } = await drawn(own);
  expect(art.drawings).toHaveLength(new Set(art.drawings.map((d) => d.part)).size);
  // the page showed another rig
  await expect(markCutout(w.db, w.person, own, base, marks)).rejects.toMatchObject({ code: 'changed-meanwhile' });
  await expect(markCutout(w.db, w.person, own, await rigOf(own), { head: [1, 1] })).rejects.toThrow('Mark the hips');
  await changeCast(w.db, w.person, own, undo);
  expect(await rigOf(own)).toBe(base);
});

test('who changed the figure meanwhile is not written over, and a body in space has no drawings', async () => {
  const [own, other] = [await figure('Mine', 7), await figure('Theirs', 8)];
  const base = await rigOf(own);
  const { rig } = await drawn(own);
  await changeCutout(w.db, w.person, own, base, { hinges: { [rig.names[1]!]: { swing: 0.5 } } });
  await expect(addDrawings(w.db, w.person, own, base, { cast: other })).rejects.toMatchObject({
    code: 'changed-meanwhile',
  });
  const body = await takeIn(w.db, await readSkeleton(), { fileName: 'b.glb', bytes: 9 }, w.personId);
  await expect(
    addDrawings(w.db, w.person, own, await rigOf(own), { cast: body.result.cast[0]!.id }),
  ).rejects.toMatchObject({
    code: 'no-cutout',
  });
});

test('drawings are kept as an item, and another figure takes over these and no others', async () => {
  const [own, other] = [await figure('Keeps', 5), await figure('Takes', 6)];
  const from = await drawn(other);
  const hand = from.rig.parts.find((p) => p.name === 'hand L')!;
  const set = await keepDrawings(w.db, w.person, other, { name: 'Hands', parts: [hand.name], folderId: null });
  expect([set.kind, set.madeFor]).toEqual(['drawings', other]);
  const item = { item: set.id };
  const { report } = await addDrawings(w.db, w.person, own, await rigOf(own), item, { check: true });
  expect(new Set(report.drawings.map((d) => d.from.part))).toEqual(new Set([hand.name]));
  expect(report.drawings).toHaveLength(hand.drawings.length);
  await expect(
    keepDrawings(w.db, w.person, other, { name: 'None', parts: ['no such part'], folderId: null }),
  ).rejects.toMatchObject({ message: expect.stringContaining('no such part') });
});

describe('keyed animation of a cut-out', () => {
  const toss = lanternToss();
  const bring = async (name: string, text: string) => {
    const outcome = await readFile({ bytes: new TextEncoder().encode(text), name });
    if (!('ok' in outcome)) throw new Error(outcome.refused.message);
    return (await takeIn(w.db, outcome.ok, { fileName: name, bytes: text.length }, w.personId)).result;
  };
  const headKeys = (keys: Awaited<ReturnType<typeof keysOf>>) =>
    keys!.tracks.find((t) => t.joint === 'head' && t.channel === 'turn')!.keys.map((k) => [k.frame, k.ease]);
  const wish = { format: 'json', fps: null, keyTolerance: null, mesh: false, settings: FIT_DEFAULTS } as const;

  test('comes in with its keys and its figure once, is swapped as keys and goes out with them', async () => {
    const first = await bring('toss.json', toss);
    expect([first.items.length, first.cast.length]).toEqual([1, 1]);
    const item = await getItem(w.db, first.items[0]!.id);
    const keys = await keysOf(w.db, item);
    expect(keys).toEqual(JSON.parse(toss).keys);
    // whoever is in the cast does not join it again
    expect((await bring('toss again.json', toss)).cast).toEqual([]);
    const cook = (await bring('cook.svg', cookAnise())).cast[0]!.id;
    const kept = await keepFitting(w.db, item.id, cook, FIT_DEFAULTS, 'Cook tosses', w.person);
    expect(headKeys(await keysOf(w.db, kept))).toEqual(headKeys(keys));
    // edits by hand and a version made anew are keys, too
    const edits = {
      frames: 97,
      plants: null,
      goals: [],
      looks: [],
      corrections: [],
      offKeys: [{ joint: 'head', frame: 31, meant: false }],
    };
    const calm = await keepFitting(w.db, item.id, cook, FIT_DEFAULTS, 'Cook keeps her head', w.person, edits);
    const neck = (k: Awaited<ReturnType<typeof keysOf>>) =>
      k!.tracks.find((t) => t.joint === 'head' && t.channel === 'place');
    expect(neck(await keysOf(w.db, kept))!.keys.map((k) => k.frame)).toContain(31);
    const high = (k: Awaited<ReturnType<typeof keysOf>>): number => Math.max(...neck(k)!.keys.map((x) => x.value[1]!));
    expect(high(await keysOf(w.db, calm))).toBeLessThan(high(await keysOf(w.db, kept)));
    const { item: again } = await fitAgain(w.db, w.person, kept.id, kept.versionId);
    expect(again.keysHash).toBe(kept.keysHash);
    for (const [id, onto] of [
      [kept.id, null],
      [item.id, cook],
    ] as const) {
      const scene = JSON.parse(new TextDecoder().decode((await exportItem(w.db, id, { ...wish, onto })).bytes));
      expect(headKeys(sceneFromJson(scene).keys!)).toEqual(headKeys(keys));
    }
    // at another rate its keys would stand elsewhere
    const slow = await exportItem(w.db, kept.id, { ...wish, fps: 12, onto: null });
    expect(JSON.parse(new TextDecoder().decode(slow.bytes)).keys).toBeUndefined();
  });

  test('goes out as Lottie and comes back in as keyed animation, and as a sheet of sprites with as many frames as were asked for', async () => {
    const item = await getItem(w.db, (await bring('toss.json', toss)).items[0]!.id);
    const lottie = await exportItem(w.db, item.id, { ...wish, format: 'lottie', onto: null });
    expect(lottie.name).toMatch(/\.lottie\.json$/);
    const back = await bring('back.json', new TextDecoder().decode(lottie.bytes));
    expect([back.items.length, back.cast.length]).toEqual([1, 1]);
    const again = await getItem(w.db, back.items[0]!.id);
    const keys = (await keysOf(w.db, again))!;
    const frames = JSON.parse(toss).frameCount as number;
    expect(keys.frameCount).toBe(frames);
    expect(keys.tracks.length).toBeGreaterThan(10);
    // as few keys as it takes, not one for each frame
    expect(keys.tracks.reduce((n, t) => n + t.keys.length, 0)).toBeLessThan(0.8 * keys.tracks.length * frames);
    const sprites = await exportItem(w.db, item.id, { ...wish, format: 'sprites', fps: 3, onto: null });
    const files = unzipSync(sprites.bytes);
    const json = JSON.parse(strFromU8(files['sheet.json']!)) as SpriteJson;
    expect(json.frames).toHaveLength(Math.round(((frames - 1) / (JSON.parse(toss).fps as number)) * 3) + 1);
    const png = new DataView(files['sheet.png']!.buffer, files['sheet.png']!.byteOffset);
    for (const { at } of json.sprites) {
      expect(at[0] + at[2]).toBeLessThanOrEqual(png.getUint32(16));
      expect(at[1] + at[3]).toBeLessThanOrEqual(png.getUint32(20));
    }
    // the figure stands where the sheet says that it does: its lowest pixels lie there
    const { at, offset } = json.sprites[json.frames[0]!]!;
    expect(Math.abs(offset[1] + at[3] - json.origin[1])).toBeLessThan(0.02 * json.size[1]);
  });

  test.each([
    ['cut off', toss.slice(0, toss.length / 2)],
    ['without its figure', JSON.stringify({ ...JSON.parse(toss), figure: null })],
    [
      'with keys of a joint that is not there',
      toss.replace('"joint":"head","channel":"turn"', '"joint":"tail","channel":"turn"'),
    ],
  ])('%s it is refused with its name', async (_, text) => {
    const outcome = await readFile({ bytes: new TextEncoder().encode(text), name: 'broken.json' });
    expect(outcome).toMatchObject({ refused: { message: expect.stringContaining('broken.json') } });
  });
});
