import { statfs } from 'node:fs/promises';
import { Refusal } from '../errors';

/** With less room left nothing more is taken in: the database needs some to go on at all. */
export const LEAST_FREE = 2 ** 30;

/** Room left where the data of this machine lies, bytes; null where none lies here. */
export async function freeBytes(folder = process.env.VELVET_DATA): Promise<number | null> {
  if (!folder) return null;
  const found = await statfs(folder).catch(() => null);
  return found && found.bavail * found.bsize;
}

/**
 * @param more what is about to be stored, bytes
 * @throws Refusal 507 where there is too little room for it
 */
export async function demandRoom(more: number, free: () => Promise<number | null> = freeBytes): Promise<void> {
  const left = await free();
  if (left !== null && left - 2 * more < LEAST_FREE)
    throw new Refusal(
      507,
      'disk-full',
      'The library’s disk is almost full, so nothing more can be imported. Ask whoever runs it to free some space. Everything stored so far is safe.',
    );
}
