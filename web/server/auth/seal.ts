import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import { secretFor, secrets } from './secret';

const keyFor = (purpose: string, secret?: string): Buffer =>
  createHash('sha256').update(secretFor(purpose, secret)).digest();

/** Text that only this installation can read again, for keys that have to be shown to others. */
export function seal(purpose: string, text: string): string {
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', keyFor(purpose), nonce);
  const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), body]).toString('base64url');
}

/** @returns undefined for what was sealed by another installation, or changed */
export function unseal(purpose: string, sealed: string): string | undefined {
  const bytes = Buffer.from(sealed, 'base64url');
  for (const secret of secrets()) {
    const text = open(keyFor(purpose, secret), bytes);
    if (text !== undefined) return text;
  }
  return undefined;
}

function open(key: Buffer, bytes: Buffer): string | undefined {
  try {
    const cipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, 12));
    cipher.setAuthTag(bytes.subarray(12, 28));
    return Buffer.concat([cipher.update(bytes.subarray(28)), cipher.final()]).toString('utf8');
  } catch {
    return undefined;
  }
}
