// npm run reset: stops this checkout's database and removes everything it kept. The next start begins anew.
import { rmSync } from 'node:fs';
import { DATA, refuseRunning, removeDatabase, say, stopLeftOver } from './lib.mjs';

// it would start its database anew in the empty folder
refuseRunning();
await stopLeftOver(DATA);
removeDatabase(DATA);
rmSync(DATA, { recursive: true, force: true });
say('the data folder is gone; npm start begins anew');
