/** By how much the place of a marker moves with some numbers, each by its index: a sparse Jacobian of three rows. */
export class Moves {
  private count = 0;
  private readonly at: Int32Array;
  private readonly by: Float64Array;

  constructor(most: number) {
    this.at = new Int32Array(most);
    this.by = new Float64Array(3 * most);
  }

  begin(): void {
    this.count = 0;
  }

  add(at: number, x: number, y: number, z: number): void {
    const c = this.count++;
    this.at[c] = at;
    this.by[3 * c] = x;
    this.by[3 * c + 1] = y;
    this.by[3 * c + 2] = z;
  }

  /** Adds weight · JᵀJ to the lower half of a matrix; indices have been added in rising order. */
  square(a: Float64Array, size: number, weight: number): void {
    const { at, by, count } = this;
    for (let r = 0; r < count; r++) {
      const [x, y, z] = [weight * by[3 * r]!, weight * by[3 * r + 1]!, weight * by[3 * r + 2]!];
      const row = at[r]! * size;
      for (let c = 0; c <= r; c++) a[row + at[c]!]! += x * by[3 * c]! + y * by[3 * c + 1]! + z * by[3 * c + 2]!;
    }
  }

  /** Adds weight · Jᵀ·off to the right side. */
  towards(b: Float64Array, weight: number, off: Float64Array): void {
    const { at, by } = this;
    for (let r = 0; r < this.count; r++)
      b[at[r]!]! += weight * (by[3 * r]! * off[0]! + by[3 * r + 1]! * off[1]! + by[3 * r + 2]! * off[2]!);
  }

  /** Adds weight · Jᵀ·K to a matrix. */
  times(other: Moves, a: Float64Array, size: number, weight: number): void {
    const { at, by } = this;
    for (let r = 0; r < this.count; r++) {
      const [x, y, z] = [weight * by[3 * r]!, weight * by[3 * r + 1]!, weight * by[3 * r + 2]!];
      const row = at[r]! * size;
      for (let c = 0; c < other.count; c++)
        a[row + other.at[c]!]! += x * other.by[3 * c]! + y * other.by[3 * c + 1]! + z * other.by[3 * c + 2]!;
    }
  }
}
