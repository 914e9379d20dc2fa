// npm run demo:large N: fills N generated items into the demo library, for scale tests.
import { DATA, ensurePackages, environment, runTs, startDatabase } from './lib.mjs';

ensurePackages();
const database = await startDatabase(DATA);
const env = environment(DATA, database.url);
runTs('web/server/db/migrate.ts', [], env);
runTs('web/server/demo/load.ts', [], env);
runTs('web/server/demo/large.ts', [process.argv[2] ?? '10000'], env);
await database.stop();
