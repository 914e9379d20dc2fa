// What a server thread loads: the work as it was bundled, or from its sources where they have changed since.
import { getPriority, setPriority } from 'node:os';
import Piscina, { move, transferableSymbol, valueSymbol } from 'piscina';
import { isFresh } from '../../../scripts/fresh.mjs';

// whoever searches or edits goes before whatever is computed; on Linux this is about this thread alone
if (process.platform === 'linux') setPriority(0, Math.max(getPriority(0), Piscina.workerData.nice));

const bundled = isFresh('dist/server');
if (!bundled) (await import('tsx/esm/api')).register();
const work = await import(bundled ? '../../../dist/server/work.mjs' : './work.ts');
const { buffersIn } = await import(bundled ? '../../../dist/server/buffers.mjs' : './buffers.ts');

/** The same work, whose large results go over as they are: a copy would hold up the thread that serves everybody. */
const handing = (run) => async (order) => {
  const outcome = await run(order);
  const buffers = buffersIn(outcome);
  return buffers.length > 0 ? move({ [transferableSymbol]: buffers, [valueSymbol]: outcome }) : outcome;
};

export const readFile = handing(work.readFile);
export const bakeReel = handing(work.bakeReel);
export const writeReel = handing(work.writeReel);
export const changeMotion = handing(work.changeMotion);
export const makeDrawingSet = handing(work.makeDrawingSet);
export const markJoints = handing(work.markJoints);
export const fitMotion = handing(work.fitMotion);
export const exportFile = handing(work.exportFile);
export const exportCharacter = handing(work.exportCharacter);
export const respace = handing(work.respace);
export const measureSkin = handing(work.measureSkin);
export const conditions = handing(work.conditions);
