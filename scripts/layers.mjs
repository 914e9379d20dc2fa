// npm run layers: draws the folders of motion/ and what each imports into docs/architecture/layers.md; with --check says whether the drawing is still true.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { ROOT } from './lib.mjs';

const motion = join(ROOT, 'motion');
const page = join(ROOT, 'docs/architecture/layers.md');

/** Folder → folders it imports from, with how many imports. */
function imports() {
  const found = new Map();
  const files = readdirSync(motion, { recursive: true }).filter((f) => /^(?!node_modules)[^/]+\/.*\.ts$/.test(f));
  for (const file of files.sort()) {
    const folder = file.split('/')[0];
    if (file.endsWith('.test.ts') || folder === 'test') continue;
    const to = found.get(folder) ?? new Map();
    found.set(folder, to);
    for (const [, spec] of readFileSync(join(motion, file), 'utf8').matchAll(/from '(\.[^']+)'/g)) {
      const other = relative(motion, resolve(motion, dirname(file), spec)).split('/');
      if (other.length > 1 && other[0] !== folder) to.set(other[0], (to.get(other[0]) ?? 0) + 1);
    }
  }
  return found;
}

/** Arrows that a longer way says already are left out, so that the picture can be read. */
function drawn(found) {
  const reaches = (from, to, seen = new Set()) =>
    [...(found.get(from)?.keys() ?? [])].some((x) => x === to || (!seen.has(x) && seen.add(x) && reaches(x, to, seen)));
  const lines = [];
  for (const [from, to] of [...found].sort(([a], [b]) => a.localeCompare(b)))
    for (const [other, count] of [...to].sort(([a], [b]) => a.localeCompare(b)))
      if (![...to.keys()].some((x) => x !== other && reaches(x, other))) lines.push(`  ${from} -->|${count}| ${other}`);
  return lines;
}

const text = `# Folders inside \`motion/\`

Drawn by \`npm run layers\` from the imports themselves. An arrow points from a folder to one that it imports from, and the number counts those imports; arrows that a longer way already implies are left out. \`motion/layers.grit\` makes the lint refuse an import that points back.

\`\`\`mermaid
flowchart BT
${drawn(imports()).join('\n')}
\`\`\`
`;

if (!process.argv.includes('--check')) writeFileSync(page, text);
else if (readFileSync(page, 'utf8') !== text) {
  console.error('docs/architecture/layers.md is out of date: run npm run layers.');
  process.exitCode = 1;
}
