import { createHash, randomBytes } from 'node:crypto';

/** A new random id: 12 characters that need no escaping in an address. */
export const newId = (): string => randomBytes(9).toString('base64url');

export const sha256 = (data: Uint8Array | string): string => createHash('sha256').update(data).digest('hex');
