import { pairSkeletons } from '@velvet-reel/motion';

export interface Dropped {
  file: File;
  /** The skeleton that goes along with it. */
  skeleton: File | undefined;
}

/** Path of a file inside what was dropped or chosen. */
export const pathOf = (file: File): string => {
  const path = (file as File & { path?: string; relativePath?: string }).path ?? '';
  return (file.webkitRelativePath || path || file.name).replace(/^\.?\//, '');
};

/** Motions that come in two files find their skeletons; skeletons that serve a motion do not come in by themselves. */
export const pairFiles = (files: readonly File[]): Dropped[] =>
  pairSkeletons(files.map((file) => ({ name: pathOf(file), file }))).map(({ file, skeleton }) => ({
    file: file.file,
    skeleton: skeleton?.file,
  }));
