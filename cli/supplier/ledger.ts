import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';

/** One charge, as an account lists it. */
export interface Charge {
  readonly for: string;
  readonly credits: number;
  readonly at: string;
}

interface Kept {
  credits: number;
  owned: string[];
  charges: Charge[];
  /** Takes that were issued anew, with the newest number and what changed in each issue after the first. */
  issues: Record<string, string[]>;
}

/** What an account holds and what was paid for it. Written to its file before anybody is told, so that a kill loses nothing. */
export class Ledger {
  private kept: Kept;

  constructor(
    private readonly file: string | undefined,
    credits: number,
  ) {
    this.kept =
      file !== undefined && existsSync(file)
        ? (JSON.parse(readFileSync(file, 'utf8')) as Kept)
        : { credits, owned: [], charges: [], issues: {} };
  }

  get credits(): number {
    return this.kept.credits;
  }

  get owned(): readonly string[] {
    return this.kept.owned;
  }

  get charges(): readonly Charge[] {
    return this.kept.charges;
  }

  owns(id: string): boolean {
    return this.kept.owned.includes(id);
  }

  /**
   * Takes into the account's possession what is not there yet, at one price. What is owned is not charged again, so asking
   * twice changes nothing.
   * @returns credits that were charged; undefined where there are too few
   */
  own(what: string, ids: readonly string[], price: number): number | undefined {
    const fresh = ids.filter((id) => !this.owns(id));
    if (fresh.length === 0) return 0;
    if (price > this.kept.credits) return undefined;
    this.kept.credits -= price;
    this.kept.owned.push(...fresh);
    this.kept.charges.push({ for: what, credits: price, at: new Date().toISOString() });
    this.write();
    return price;
  }

  /** Number of the newest issue of a take, from 1. */
  issueOf(id: string): number {
    return 1 + (this.kept.issues[id]?.length ?? 0);
  }

  changesOf(id: string): readonly string[] {
    return this.kept.issues[id] ?? [];
  }

  issueAnew(id: string, changes: string): void {
    this.kept.issues[id] = [...this.changesOf(id), changes];
    this.write();
  }

  private write(): void {
    if (this.file === undefined) return;
    writeFileSync(`${this.file}.new`, JSON.stringify(this.kept));
    renameSync(`${this.file}.new`, this.file);
  }
}
