// npm run code: the set-up code, with which the first account of this checkout's library is made.
import { DATA, environment, say, setupCode } from './lib.mjs';

say(`the set-up code is ${setupCode(environment(DATA, process.env.VELVET_DATABASE ?? ''))}`);
