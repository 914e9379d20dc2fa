/** After so long, what somebody spent counts half. */
const HALF_MS = 10_000;
/** More than this of late is much. */
const MUCH_MS = 3_000;

/** How long each person’s orders have taken of late, so that whoever has used the threads most gives way to the others. */
export class Spent {
  private readonly by = new Map<string, { ms: number; at: number }>();

  constructor(private readonly now: () => number = () => performance.now()) {}

  add(who: string, ms: number): void {
    const at = this.now();
    for (const [one, { at: last }] of this.by) if (at - last > 10 * HALF_MS) this.by.delete(one);
    this.by.set(who, { ms: this.left(who, at) + ms, at });
  }

  /** Whether this person’s orders have taken more than {@link MUCH_MS} of late, waiting for a thread included; what lies further back counts less. */
  much(who: string): boolean {
    return this.left(who, this.now()) > MUCH_MS;
  }

  private left(who: string, at: number): number {
    const spent = this.by.get(who);
    return spent ? spent.ms * 0.5 ** ((at - spent.at) / HALF_MS) : 0;
  }
}
