import { timingSafeEqual } from 'node:crypto';
import { secretFor } from './secret';

/** What whoever started the application reads in its window, and has to say to make the first account. */
export const setupCode = (): string => {
  const letters = secretFor('first account')
    .replace(/[^a-zA-Z0-9]/g, '')
    .toUpperCase();
  return `${letters.slice(0, 4)}-${letters.slice(4, 8)}`;
};

export function isSetupCode(given: string): boolean {
  const plain = (s: string): Buffer =>
    Buffer.from(
      s
        .replace(/[^a-zA-Z0-9]/g, '')
        .toUpperCase()
        .padEnd(8)
        .slice(0, 8),
    );
  return timingSafeEqual(plain(given), plain(setupCode()));
}

if (/\bsetup-code\.(ts|mjs)$/.test(process.argv[1] ?? '')) console.log(setupCode());
