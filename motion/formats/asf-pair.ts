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
