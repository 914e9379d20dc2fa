import { readSkeleton, testDatabase, type World } from '../test/world';
import { takeIn } from './intake';
import { getField, writeField } from './pose-fields';

let w: World;
let cast: string;
beforeAll(async () => {
  w = await testDatabase();
  const read = await readSkeleton();
  cast = (await takeIn(w.db, read, { fileName: 'Fielded.glb', bytes: 10 }, w.personId)).result.cast[0]!.id;
});
afterAll(() => w.close());

const pin = (itemId: string, x: number, order: number) => ({
  cell: `pin/${itemId}`,
  to: { name: itemId, at: [x, 0.5], order },
});

test('a field begins empty and holds what two pages pin at once, each batch once', async () => {
  expect(await getField(w.db, cast)).toMatchObject({ content: { pins: [] }, version: 0 });
  const first = { client: 'pageone00', number: 1, writes: [pin('a', 0.2, 0)] };
  await Promise.all([
    writeField(w.db, w.person, cast, first),
    writeField(w.db, w.person, cast, { client: 'pagetwo00', number: 1, writes: [pin('b', 0.8, 1)] }),
  ]);
  await writeField(w.db, w.person, cast, first);
  const { content, version, changedByName } = await getField(w.db, cast);
  expect(content.pins.map((p) => p.itemId)).toEqual(['a', 'b']);
  expect([version, changedByName]).toEqual([2, 'Test Person']);
});

test('what is no pin, or lies off the field, is refused, and a character that is gone has none', async () => {
  const write = (writes: { cell: string; to: unknown }[], id = cast) =>
    writeField(w.db, w.person, id, { client: 'pageone00', number: 9, writes });
  await expect(write([pin('c', 1.5, 2)])).rejects.toThrow();
  await expect(write([{ cell: 'colour', to: 'red' }])).rejects.toMatchObject({ code: 'unknown-cell' });
  await expect(write([pin('c', 0.5, 2)], 'nobody')).rejects.toMatchObject({ status: 404 });
  expect((await getField(w.db, cast)).content.pins).toHaveLength(2);
});
