#!/usr/bin/env node
// Starts the command line from cli/dist, which is made anew first where a source has changed since.
import { readFileSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const here = dirname(fileURLToPath(import.meta.url));
const root = dirname(here);

function upToDate() {
  try {
    const made = statSync(join(here, 'dist/inputs.json')).mtimeMs;
    const inputs = JSON.parse(readFileSync(join(here, 'dist/inputs.json'), 'utf8'));
    return inputs.every((file) => statSync(join(root, file)).mtimeMs <= made);
  } catch {
    return false;
  }
}

if (!upToDate()) await (await import('../scripts/build-cli.mjs')).buildCli();
const { main } = await import('./dist/main.mjs');
// whoever reads no further, as head does, is no failure
process.stdout.on('error', (error) => process.exit(error.code === 'EPIPE' ? 0 : 1));
process.exitCode = await main(process.argv.slice(2));
