import type { NewPerson } from './accounts';

/** Accounts of the demo world, offered on the sign-in page there and nowhere else. */
export const DEMO_PEOPLE: readonly NewPerson[] = [
  { name: 'Ilse Varga', email: 'ilse@saltmarsh.example', role: 'admin', password: 'tidal-ferry-ilse' },
  { name: 'Bram Okoro', email: 'bram@saltmarsh.example', role: 'librarian', password: 'tidal-ferry-bram' },
  { name: 'Noor Lind', email: 'noor@saltmarsh.example', role: 'animator', password: 'tidal-ferry-noor' },
  { name: 'Teo Marsh', email: 'teo@saltmarsh.example', role: 'viewer', password: 'tidal-ferry-teo' },
];

export const inDemo = (): boolean => process.env.VELVET_DEMO !== '0' && process.env.VELVET_DEMO !== undefined;
