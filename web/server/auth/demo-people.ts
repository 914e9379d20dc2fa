import type { NewPerson } from './accounts';
import { secretFor } from './secret';

/** Accounts of the demo world, offered on the sign-in page there and nowhere else. */
export const DEMO_PEOPLE: readonly Omit<NewPerson, 'password'>[] = [
  { name: 'Ilse Varga', email: 'ilse@saltmarsh.example', role: 'admin' },
  { name: 'Bram Okoro', email: 'bram@saltmarsh.example', role: 'librarian' },
  { name: 'Noor Lind', email: 'noor@saltmarsh.example', role: 'animator' },
  { name: 'Teo Marsh', email: 'teo@saltmarsh.example', role: 'viewer' },
];

/** A password that this installation alone can know: nothing in the source tells it. */
export const demoPassword = (email: string): string => secretFor(`demo ${email}`);

type Environment = Readonly<Record<string, string | undefined>>;

/** Whether somebody asked for the demo world, in plain words: whatever else is set means no. */
export const wantsDemo = (env: Environment = process.env): boolean =>
  /^(1|true|yes|on)$/i.test(env.VELVET_DEMO?.trim() ?? '');

/** Why the demo accounts stay closed though the demo world is asked for: anybody who reaches the page could use them. */
export function demoClosed(env: Environment = process.env): string | null {
  if (env.VELVET_HOSTS?.trim()) return 'this library also answers to names from outside this machine (VELVET_HOSTS)';
  if (env.VELVET_HTTPS === '1' || /^https:/i.test(env.VELVET_ADDRESS ?? '')) return 'this library is reached by HTTPS';
  const listens = env.VELVET_LISTEN ?? '127.0.0.1';
  if (!/^(127\.0\.0\.1|localhost|::1)$/.test(listens)) return `this library listens on ${listens}`;
  return null;
}

export const inDemo = (env: Environment = process.env): boolean => wantsDemo(env) && demoClosed(env) === null;
