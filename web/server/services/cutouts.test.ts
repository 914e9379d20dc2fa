import { artFromJson, rigFromJson } from '../../../motion/index';
import { paperFigure, paperTraits } from '../../../motion/test/paper';
import { readSkeleton, testDatabase, type World } from '../test/world';
import { readFile } from '../threads/work';
import { assetBytes, changeCast, getCast } from './cast';
import { addDrawings, changeCutout } from './cutouts';
import { takeIn } from './intake';
import { getRig } from './rigs';

let w: World;
beforeAll(async () => {
  w = await testDatabase();
});
afterAll(() => w.close());

/** A paper figure in the cast, drawn with some traits. */
async function figure(name: string, seed: number): Promise<string> {
  const svg = paperFigure(paperTraits(seed, { language: 'plain', facing: 'front' })).svg;
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
  const asked = await addDrawings(w.db, w.person, own, base, other, { check: true });
  expect(asked.changed).toBeUndefined();
  expect(await rigOf(own)).toBe(base);
  const part = asked.report.drawings.find((d) => d.how === 'renamed')!.part;
  const { report, changed } = await addDrawings(w.db, w.person, own, base, other, { only: [part] });
  expect(new Set(report.drawings.map((d) => d.part))).toEqual(new Set([part]));
  const after = await drawn(own);
  const count = ({ rig }: typeof after): number => rig.parts.find((p) => p.name === part)!.drawings.length;
  expect(count(after)).toBe(count(before) + report.drawings.length);
  expect(after.art.drawings).toHaveLength(before.art.drawings.length + report.drawings.length);
  // the same once more is nothing new
  const again = await addDrawings(w.db, w.person, own, await rigOf(own), other, { only: [part] });
  expect(again.changed).toBeUndefined();
  await changeCast(w.db, w.person, own, changed!.undo);
  expect(await rigOf(own)).toBe(base);
});

test('who changed the figure meanwhile is not written over, and a body in space has no drawings', async () => {
  const [own, other] = [await figure('Mine', 7), await figure('Theirs', 8)];
  const base = await rigOf(own);
  const { rig } = await drawn(own);
  await changeCutout(w.db, w.person, own, base, { hinges: { [rig.names[1]!]: { swing: 0.5 } } });
  await expect(addDrawings(w.db, w.person, own, base, other)).rejects.toMatchObject({ code: 'changed-meanwhile' });
  const body = await takeIn(w.db, await readSkeleton(), { fileName: 'b.glb', bytes: 9 }, w.personId);
  await expect(addDrawings(w.db, w.person, own, await rigOf(own), body.result.cast[0]!.id)).rejects.toMatchObject({
    code: 'no-cutout',
  });
});
