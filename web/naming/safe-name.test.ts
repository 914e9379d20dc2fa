import { expect, test } from '@jest/globals';
import { safeName } from './safe-name';

test.each([
  ['Deck walk.bvh', 'Deck walk.bvh'],
  ['..', '_'],
  ['. . ', '_'],
  ['../../etc/passwd', '_.._etc_passwd'],
  ['..\\..\\x', '_.._x'],
  ['C:\\x', 'C__x'],
  ['con.glb', '_con.glb'],
  ['a\u202egnp.exe', 'a_gnp.exe'],
  ['x\0y', 'x_y'],
  ['Größe ½', 'Größe ½'],
  ['x'.repeat(300), 'x'.repeat(200)],
])('%j is safe as %j', (name, safe) => {
  expect(safeName(name)).toBe(safe);
  expect(safeName(safeName(name))).toBe(safeName(name));
});
