// Secrets of this checkout, each in a file of its own folder.
import { randomBytes } from 'node:crypto';
import { readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Secrets of this checkout, made once, readable by its owner only. */
export function secrets(folder) {
  const path = join(folder, 'secrets.json');
  try {
    return JSON.parse(readFileSync(path, 'utf8'));
  } catch {
    // none yet, or one that was cut off
  }
  const made = {
    database: randomBytes(18).toString('base64url'),
    session: randomBytes(32).toString('base64url'),
  };
  keepSecrets(folder, made);
  return made;
}

/** Gives this installation a new secret; what the last ones sealed can still be read. */
export function newSecret(folder) {
  const all = secrets(folder);
  keepSecrets(folder, {
    ...all,
    session: randomBytes(32).toString('base64url'),
    former: [all.session, ...(all.former ?? [])].slice(0, 4),
  });
}

/** A secret of this installation that may have come later than the others. */
export function secretOf(folder, name) {
  const all = secrets(folder);
  if (!all[name]) keepSecrets(folder, { ...all, [name]: randomBytes(18).toString('base64url') });
  return secrets(folder)[name];
}

function keepSecrets(folder, all) {
  const path = join(folder, 'secrets.json');
  writeFileSync(`${path}.part`, JSON.stringify(all), { mode: 0o600 });
  renameSync(`${path}.part`, path);
}
