import { many } from '../../naming/counts';

/** What people read in places/gallery, by the file that shows it. */

export const galleryPlace = {
  playing: 'Playing',
  on: (name: string | number, name2: string | number): string => `${name} on ${name2}`,
  galleryMotionsOnCharacter: (items: string | number, members: number): string =>
    `Gallery: ${items} motions on ${many(members, 'character')}`,
};
