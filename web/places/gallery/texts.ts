/** What people read in places/gallery, by the file that shows it. */

export const galleryPlace = {
  playing: 'Playing',
  gallery: 'Gallery:',
  motionsOn: 'motions on',
  on: (name: string | number, name2: string | number): string => `${name} on ${name2}`,
};
