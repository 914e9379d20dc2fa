import { readdirSync, readFileSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..');

function sources(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (name === 'node_modules' || name === 'test') return [];
    if (statSync(path).isDirectory()) return sources(path);
    return name.endsWith('.ts') && !name.endsWith('.test.ts') ? [path] : [];
  });
}

interface Exported {
  readonly at: string;
  readonly doc: string;
  readonly body: string;
}

/** Functions that a file exports, in the form the formatter gives them: their comment, and their text up to the closing line. */
function exportedFunctions(path: string): Exported[] {
  const lines = readFileSync(path, 'utf8').split('\n');
  return lines.flatMap((line, i) => {
    const found = /^export (?:async )?(?:function\*? (\w+)|const (\w+)\b.*= (?:async )?(?:<.*>)?(?:\(|\w+ =>))/.exec(
      line,
    );
    if (!found) return [];
    const begin = lines.slice(0, i).findLastIndex((l) => l.startsWith('/**'));
    const comment = lines[i - 1]!.endsWith('*/') && begin >= 0 ? lines.slice(begin, i).join(' ') : '';
    const close = lines.findIndex((l, k) => k >= i && /^[})].*;?$|^\S.*;$/.test(l));
    return [
      {
        at: `${path.slice(ROOT.length + 1)}: ${found[1] ?? found[2]}`,
        doc: comment,
        body: lines.slice(i, close + 1).join('\n'),
      },
    ];
  });
}

const all = sources(ROOT).flatMap(exportedFunctions);

test('every exported function says what it does', () => {
  expect(all.length).toBeGreaterThan(500);
  expect(all.filter(({ doc }) => doc === '').map(({ at }) => at)).toEqual([]);
});

test('every exported function that throws says what', () => {
  const silent = all.filter(
    ({ body, doc }) => /throw new MotionError|throw damaged/.test(body) && !/throws/i.test(doc),
  );
  expect(silent.map(({ at }) => at)).toEqual([]);
});
