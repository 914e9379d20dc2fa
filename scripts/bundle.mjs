#!/usr/bin/env node
// Bundles the programs that have to start at once: read file by file, their TypeScript takes seconds of a processor. Runs after
// npm ci, and by itself whenever a source is newer.
import { mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { isFresh, ROOT } from './fresh.mjs';

/** What a start does before anything answers. */
const STEPS = [
  'web/server/db/pending.ts',
  'web/server/db/migrate.ts',
  'web/server/demo/load.ts',
  'web/server/auth/setup-code.ts',
];

const BUNDLES = {
  cli: {
    entryPoints: ['cli/main.ts'],
    outdir: 'cli/dist',
    // finds its compiled half beside itself
    external: ['@resvg/resvg-wasm'],
  },
  server: {
    entryPoints: ['web/server/threads/work.ts', 'web/server/threads/buffers.ts', 'web/server/jobs/main.ts', ...STEPS],
    outdir: 'dist/server',
    external: ['@resvg/resvg-wasm', 'piscina', 'mysql2', 'pino', 'prom-client', 'jsdom', 'dompurify'],
  },
};

/** Makes a bundle, beside the one that is there and in its place when it is whole. */
export async function bundle(name) {
  const { outdir, ...what } = BUNDLES[name];
  const part = join(ROOT, `${outdir}.${process.pid}.part`);
  mkdirSync(part, { recursive: true });
  const { metafile } = await build({
    absWorkingDir: ROOT,
    ...what,
    outdir: part,
    entryNames: '[name]',
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    minifySyntax: true,
    outExtension: { '.js': '.mjs' },
    metafile: true,
    logLevel: 'error',
    banner: { js: "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);" },
  });
  const inputs = Object.keys(metafile.inputs).filter((f) => !f.includes('node_modules'));
  writeFileSync(join(part, 'inputs.json'), JSON.stringify(inputs));
  rmSync(join(ROOT, outdir), { recursive: true, force: true });
  try {
    renameSync(part, join(ROOT, outdir));
  } catch (error) {
    // somebody else put the same there at the same time
    rmSync(part, { recursive: true, force: true });
    if (!isFresh(outdir)) throw error;
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  for (const [name, { outdir }] of Object.entries(BUNDLES)) if (!isFresh(outdir)) await bundle(name);
