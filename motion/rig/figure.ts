/** A picture that a material uses, as the file holds it. */
export interface FigureImage {
  readonly mime: string;
  readonly bytes: Uint8Array;
}

export interface FigureMaterial {
  readonly name: string;
  /** Linear r g b a. */
  readonly color: readonly [number, number, number, number];
  readonly roughness: number;
  readonly metallic: number;
  readonly doubleSided: boolean;
  /** Index into images, −1 for none. */
  readonly image: number;
}

/** A face shape: offsets added to the mesh, 3 numbers a vertex. */
export interface FaceShape {
  readonly name: string;
  readonly positions: Float32Array;
}

/**
 * A surface of V vertices that stands still, in the world (metres, Y up unless said otherwise).
 * positions, normals: 3 V. uvs: 2 V. colors: 4 V linear.
 */
export interface Mesh {
  readonly name: string;
  readonly positions: Float32Array;
  readonly normals: Float32Array | undefined;
  readonly uvs: Float32Array | undefined;
  readonly colors: Float32Array | undefined;
  readonly indices: Uint32Array;
  readonly material: number;
  readonly shapes: readonly FaceShape[];
}

/** What ties a mesh to joints. joints: 4 V rig joints. weights: 4 V, each four sum to 1. */
export interface Skin {
  readonly joints: Uint16Array;
  readonly weights: Float32Array;
}

/** One mesh of a character, standing in the rig's rest pose, facing +Z. */
export interface FigureMesh extends Mesh, Skin {}

/** Meshes with what they are made of: a body that has no skeleton yet, a prop. */
export interface Model<M extends Mesh = Mesh> {
  readonly meshes: readonly M[];
  readonly materials: readonly FigureMaterial[];
  readonly images: readonly FigureImage[];
}

/** The visible body of a character. */
export type Figure = Model<FigureMesh>;

/** Largest departure of any vertex's weights from a sum of 1; an oracle for tests and reports. */
export function weightDeviation(figure: Figure): number {
  let worst = 0;
  for (const mesh of figure.meshes) {
    for (let o = 0; o < mesh.weights.length; o += 4) {
      const sum = mesh.weights[o]! + mesh.weights[o + 1]! + mesh.weights[o + 2]! + mesh.weights[o + 3]!;
      worst = Math.max(worst, Math.abs(sum - 1));
    }
  }
  return worst;
}

/** Keeps the four strongest of any number of influences, normalised; ties go to the lower joint. Zero sums go to `fallback`. */
export function strongestFour(
  joints: readonly number[],
  weights: readonly number[],
  fallback: number,
): { joints: number[]; weights: number[] } {
  const merged = new Map<number, number>();
  joints.forEach((j, i) => {
    const w = weights[i]!;
    if (w > 0 && Number.isFinite(w)) merged.set(j, (merged.get(j) ?? 0) + w);
  });
  const top = [...merged].sort((a, b) => b[1] - a[1] || a[0] - b[0]).slice(0, 4);
  const sum = top.reduce((s, [, w]) => s + w, 0);
  if (sum <= 0) return { joints: [fallback, 0, 0, 0], weights: [1, 0, 0, 0] };
  while (top.length < 4) top.push([0, 0]);
  return { joints: top.map(([j]) => j), weights: top.map(([, w]) => w / sum) };
}

/** Height of the lowest vertex: the ground under a character that stands in its rest pose. */
export function figureFloor(figure: Figure): number | undefined {
  let low = Number.POSITIVE_INFINITY;
  for (const mesh of figure.meshes)
    for (let o = 1; o < mesh.positions.length; o += 3) low = Math.min(low, mesh.positions[o]!);
  return Number.isFinite(low) ? low : undefined;
}

/** Lowest and highest vertex of a figure; undefined where it has none or all are level. */
export function figureExtent(figure: Figure | undefined): { low: number; high: number } | undefined {
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (const mesh of figure?.meshes ?? []) {
    for (let o = 1; o < mesh.positions.length; o += 3) {
      low = Math.min(low, mesh.positions[o]!);
      high = Math.max(high, mesh.positions[o]!);
    }
  }
  return high > low ? { low, high } : undefined;
}
