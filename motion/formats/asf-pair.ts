const stem = (name: string): string =>
  name
    .replace(/^.*[\\/]/, '')
    .replace(/\.[^.]*$/, '')
    .toLowerCase();

/**
 * The ASF file that an AMC file moves, among those beside it: of its name, of what stands before its number
 * (walker.asf for walker_03.amc), or the only one there.
 */
export function skeletonFileFor(amcName: string, asfNames: readonly string[]): string | undefined {
  const own = stem(amcName);
  return (
    asfNames.find((f) => stem(f) === own) ??
    asfNames.find((f) => own.startsWith(`${stem(f)}_`)) ??
    (asfNames.length === 1 ? asfNames[0] : undefined)
  );
}

/** Something with a name, folders before it where it has some. */
interface Named {
  readonly name: string;
}

const folderOf = (name: string): string => name.replaceAll('\\', '/').split('/').slice(0, -1).join('/');

/** A file with the skeleton that it needs. */
export interface Paired<F extends Named> {
  readonly file: F;
  readonly skeleton: F | undefined;
}

/**
 * Files of one drop, archive or folder with the ASF files that their AMC files move, each from the AMC's own folder. An ASF
 * that serves an AMC does not stand by itself.
 * @param known more files that may serve, without standing in the list themselves
 */
export function pairSkeletons<F extends Named>(files: readonly F[], known: readonly F[] = []): Paired<F>[] {
  const skeletons = new Map<string, F[]>();
  for (const f of [...files, ...known])
    if (/\.asf$/i.test(f.name)) {
      const folder = folderOf(f.name);
      skeletons.set(folder, [...(skeletons.get(folder) ?? []), f]);
    }
  const used = new Set<F>();
  const paired = files.map((file): Paired<F> => {
    if (!/\.amc$/i.test(file.name)) return { file, skeleton: undefined };
    const near = skeletons.get(folderOf(file.name)) ?? [];
    const name = skeletonFileFor(
      file.name,
      near.map((s) => s.name),
    );
    const skeleton = near.find((s) => s.name === name);
    if (skeleton) used.add(skeleton);
    return { file, skeleton };
  });
  return paired.filter((p) => !used.has(p.file));
}
