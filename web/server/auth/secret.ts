import { createHmac } from 'node:crypto';

/** The installation's secret, and those that it had before, the newest first: what they sealed can still be read. */
export function secrets(): readonly [string, ...string[]] {
  const now = process.env.VELVET_SESSION;
  if (!now) throw new Error('VELVET_SESSION is not set: start the application with npm start or npm run web.');
  return [now, ...(process.env.VELVET_SESSION_FORMER ?? '').split(/\s+/).filter((s) => s !== '')];
}

/**
 * Text that belongs to this installation and a purpose: nothing in the source tells it.
 * @param key the secret it is made of, the one of now where left out
 * @throws Error where the installation has no secret of its own
 */
export const secretFor = (purpose: string, key: string = secrets()[0]): string =>
  createHmac('sha256', key).update(purpose).digest('base64url');
