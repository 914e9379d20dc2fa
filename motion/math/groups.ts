/** Numbers that are put together into groups, each named by one of them (union-find, with ways cut short). */
export class Groups {
  private readonly above: Int32Array;

  constructor(count: number) {
    this.above = Int32Array.from({ length: count }, (_, i) => i);
  }

  /** The number that names the group of another. */
  nameOf(i: number): number {
    const { above } = this;
    let name = i;
    while (above[name] !== name) name = above[name]!;
    for (let at = i; at !== name; ) {
      const next = above[at]!;
      above[at] = name;
      at = next;
    }
    return name;
  }

  /** Puts two groups together; the first one's name stays. */
  join(stays: number, goes: number): void {
    this.above[this.nameOf(goes)] = this.nameOf(stays);
  }
}
