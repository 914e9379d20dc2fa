#!/usr/bin/env node
// Puts the command line into one place that starts at once: cli/dist. Runs after npm ci, and by itself whenever a source is newer.
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const ROOT = dirname(dirname(fileURLToPath(import.meta.url)));

export async function buildCli() {
  const outdir = join(ROOT, 'cli/dist');
  rmSync(outdir, { recursive: true, force: true });
  mkdirSync(outdir, { recursive: true });
  const { metafile } = await build({
    absWorkingDir: ROOT,
    entryPoints: ['cli/main.ts'],
    outdir,
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    // finds its compiled half beside itself
    external: ['@resvg/resvg-wasm'],
    target: 'node20',
    minifySyntax: true,
    outExtension: { '.js': '.mjs' },
    metafile: true,
    logLevel: 'error',
    banner: { js: "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);" },
  });
  const inputs = Object.keys(metafile.inputs).filter((f) => !f.includes('node_modules'));
  writeFileSync(join(outdir, 'inputs.json'), JSON.stringify(inputs));
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildCli();
