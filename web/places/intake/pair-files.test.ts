import { pairFiles } from './pair-files';

const files = (...names: string[]): File[] => names.map((n) => new File(['x'], n));
const said = (...names: string[]) => pairFiles(files(...names)).map((p) => [p.file.name, p.skeleton?.name]);

test('a motion takes the skeleton of its name, or of what stands before its number', () => {
  expect(said('Tove.asf', 'winch.asf', 'winch_02.amc', 'tove.amc', 'walk.bvh')).toEqual([
    ['winch_02.amc', 'winch.asf'],
    ['tove.amc', 'Tove.asf'],
    ['walk.bvh', undefined],
  ]);
});

test('the only skeleton serves every motion; of several strange ones none does', () => {
  expect(said('body.asf', 'a.amc', 'b.amc')).toEqual([
    ['a.amc', 'body.asf'],
    ['b.amc', 'body.asf'],
  ]);
  expect(said('one.asf', 'two.asf', 'a.amc')).toEqual([
    ['one.asf', undefined],
    ['two.asf', undefined],
    ['a.amc', undefined],
  ]);
});

test('of two folders each has its own skeleton', () => {
  const inFolder = (folder: string, name: string): File =>
    Object.defineProperty(new File(['x'], name), 'webkitRelativePath', { value: `${folder}/${name}` });
  const asf = inFolder('deck', 'body.asf');
  const dropped = [asf, inFolder('deck', 'a.amc'), inFolder('hold', 'a.amc')];
  expect(pairFiles(dropped).map((p) => [p.file.webkitRelativePath, p.skeleton])).toEqual([
    ['deck/a.amc', asf],
    ['hold/a.amc', undefined],
  ]);
});
