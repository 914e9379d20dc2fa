export const USAGE = `velvet-reel: motion between files, no server needed

  velvet-reel inspect FILE [--json]
      joints, frames, rate, height, axes, units and rest pose of a BVH, GLB or glTF file
  velvet-reel convert IN OUT [--fps N] [--no-mesh] [--json]
      to the format that OUT's ending names (.bvh, .glb)
  velvet-reel map FILE [--json]
      which joint is which part of the body
  velvet-reel retarget MOTION --to CHARACTER --out FILE
      [--map FILE.json] [--no-plants] [--travel leg|path|none] [--fps N] [--no-mesh] [--report FILE.json] [--json]
      puts a motion on another character; a BVH's skeleton or a GLB's skin both serve as CHARACTER

Exit code 0: done. 1: the input was refused, with one line on stderr. 2: wrong usage.
`;

/** Wrong usage: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}
