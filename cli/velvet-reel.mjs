#!/usr/bin/env node
// Starts the command line from cli/dist, which is made anew first where a source has changed since.
import { isFresh } from '../scripts/fresh.mjs';

if (!isFresh('cli/dist')) await (await import('../scripts/bundle.mjs')).bundle('cli');
const { main } = await import('./dist/main.mjs');
// whoever reads no further, as head does, is no failure
process.stdout.on('error', (error) => process.exit(error.code === 'EPIPE' ? 0 : 1));
process.exitCode = await main(process.argv.slice(2));
