// npm run licences: writes docs/licences.md, what every package that the application needs at run time is licensed under.
// With --check it only says whether that is up to date, and whether there is a licence that nobody has looked at.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fail, ROOT, say } from './lib.mjs';

/** Licences that ask for no more than to be named. */
const KNOWN =
  /^(MIT|MIT-0|ISC|BSD-2-Clause|BSD-3-Clause|0BSD|Apache-2\.0|BlueOak-1\.0\.0|CC0-1\.0|CC-BY-4\.0|Unlicense|Zlib|Python-2\.0|OFL-1\.1|MPL-2\.0|LGPL-3\.0-or-later)$/;
const parts = (licence) => licence.replace(/[()]/g, '').split(/ (?:OR|AND) /);

/** Older packages say it in other words, or in a file alone. */
function stated(path) {
  try {
    const { licenses } = JSON.parse(readFileSync(join(ROOT, path, 'package.json'), 'utf8'));
    if (licenses?.[0]?.type) return licenses[0].type;
    const file = readdirSync(join(ROOT, path)).find((name) => /^licen[cs]e/i.test(name));
    return file &&
      /MIT License|Permission is hereby granted, free of charge/.test(readFileSync(join(ROOT, path, file), 'utf8'))
      ? 'MIT'
      : 'not stated';
  } catch {
    return 'not stated';
  }
}

const { packages } = JSON.parse(readFileSync(join(ROOT, 'package-lock.json'), 'utf8'));
const rows = Object.entries(packages)
  .filter(([path, p]) => path.startsWith('node_modules/') && !p.dev && !p.devOptional && !p.link)
  .map(([path, p]) => [path.slice(path.lastIndexOf('node_modules/') + 13), p.version, p.license ?? stated(path)])
  .sort(([a], [b]) => (a < b ? -1 : 1));
const unknown = rows.filter(([, , licence]) => !parts(licence).some((l) => KNOWN.test(l)));
if (unknown.length > 0) fail(`licences to be looked at: ${unknown.map((r) => r.join(' ')).join(', ')}`);

const text = `# Licences

What the application needs at run time; made by \`npm run licences\` from the lock file. \`npm run bill\` prints a bill of materials (CycloneDX).

| package | version | licence |
|---|---|---|
${[...new Set(rows.map((r) => `| ${r.join(' | ')} |`))].join('\n')}
`;
const path = join(ROOT, 'docs', 'licences.md');
if (process.argv.includes('--check')) {
  if (readFileSync(path, 'utf8') !== text) fail('docs/licences.md is not up to date: run npm run licences.');
} else {
  writeFileSync(path, text);
  say(`${rows.length} packages`);
}
