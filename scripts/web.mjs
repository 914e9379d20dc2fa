// npm run web: one web process on a database that is there and of this release; see docs/operations.
import {
  DATA,
  endOrderly,
  ensureBuild,
  ensurePackages,
  environment,
  fail,
  say,
  setting,
  startWeb,
  stopChild,
} from './lib.mjs';

ensurePackages();
const url = setting('VELVET_DATABASE') ?? fail('VELVET_DATABASE (or VELVET_DATABASE_FILE) is not set.');
if (!setting('VELVET_SESSION'))
  fail('VELVET_SESSION (or VELVET_SESSION_FILE) is not set: all web processes need the same.');
const env = environment(DATA, url);
ensureBuild(env);
const { child, address } = await startWeb(env, Number(process.env.PORT) || 3000);
say(`open ${address}`);
endOrderly(() => stopChild(child).then(() => process.exit(0)));
child.on('exit', (code) => process.exit(code ?? 1));
