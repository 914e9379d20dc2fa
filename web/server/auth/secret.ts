import { createHmac } from 'node:crypto';

/**
 * Text that belongs to this installation and a purpose: nothing in the source tells it.
 * @throws Error where the installation has no secret of its own
 */
export function secretFor(purpose: string): string {
  const key = process.env.VELVET_SESSION;
  if (!key) throw new Error('VELVET_SESSION is not set: start the application with npm start or npm run web.');
  return createHmac('sha256', key).update(purpose).digest('base64url');
}
