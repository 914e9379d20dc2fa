#!/usr/bin/env node
// Starts the command line straight from its sources; nothing has to be built first.
import { register } from 'tsx/esm/api';

register();
const { main } = await import('./main.ts');
process.exitCode = await main(process.argv.slice(2));
