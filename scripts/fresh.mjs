// What is known of bundles before any package is installed: Node's own modules only.
import { readFileSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)));

/** Whether a bundle is there and no source of it has changed since; see bundle.mjs. */
export function isFresh(folder) {
  try {
    const list = join(ROOT, folder, 'inputs.json');
    const made = statSync(list).mtimeMs;
    return JSON.parse(readFileSync(list, 'utf8')).every((file) => statSync(join(ROOT, file)).mtimeMs <= made);
  } catch {
    return false;
  }
}
