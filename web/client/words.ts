import type { Rights } from '@/contract';

export const RIGHTS_WORDS: Readonly<Record<Rights, string>> = {
  unknown: 'rights not known',
  own: 'our own',
  licensed: 'licensed',
  free: 'free for any use',
};
