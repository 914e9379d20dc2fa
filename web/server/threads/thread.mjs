// What a server thread loads: registers the TypeScript loader there, then the work itself.
import { setPriority } from 'node:os';
import { register } from 'tsx/esm/api';

// whoever searches or edits goes before whatever is computed; on Linux this is about this thread alone
if (process.platform === 'linux') setPriority(0, 10);

register();
export const {
  readFile,
  bakeReel,
  writeReel,
  changeMotion,
  makeDrawingSet,
  fitMotion,
  exportFile,
  exportCharacter,
  respace,
  measureSkin,
  conditions,
} = await import('./work.ts');
