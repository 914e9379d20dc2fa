import { skeletonFileFor } from '@velvet-reel/motion';

export interface Dropped {
  file: File;
  /** The skeleton that goes along with it. */
  skeleton: File | undefined;
}

/** Motions that come in two files find their skeletons; skeletons that serve a motion do not come in by themselves. */
export function pairFiles(files: readonly File[]): Dropped[] {
  const skeletons = files.filter((f) => /\.asf$/i.test(f.name));
  const used = new Set<File>();
  const paired = files.map((file) => {
    if (!/\.amc$/i.test(file.name)) return { file, skeleton: undefined };
    const name = skeletonFileFor(
      file.name,
      skeletons.map((s) => s.name),
    );
    const skeleton = skeletons.find((s) => s.name === name);
    if (skeleton) used.add(skeleton);
    return { file, skeleton };
  });
  return paired.filter((p) => !used.has(p.file));
}
