// What a server thread loads: registers the TypeScript loader there, then the work itself.
import { register } from 'tsx/esm/api';

register();
export const { readFile, changeMotion, fitMotion, exportFile, exportCharacter, respace, measureSkin } = await import(
  './work.ts'
);
