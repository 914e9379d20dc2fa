import { replaceEqualDeep } from '@tanstack/react-query';
import {
  applyWrites,
  type Cells,
  condense,
  type DocumentKind,
  diffCells,
  overtaken,
  turnedRound,
  type Write,
  wayBack,
} from './cells';

/** A document as the server has it. */
export interface Stored<C> {
  readonly content: C;
  /** Counts up with every change; 0: nothing was stored yet. */
  readonly version: number;
}

/** Writes on their way. The server takes each number of a client once, however often it is sent. */
export interface Batch {
  readonly client: string;
  readonly number: number;
  readonly writes: readonly Write[];
}

/** Where a document is stored. */
export interface Store<C> {
  load(): Promise<Stored<C>>;
  /**
   * Left out for whoever may only look: they can try things out, which are never stored.
   * @throws Away where the server is not reached, anything else where it refuses
   */
  send?(batch: Batch): Promise<Stored<C>>;
  /** Told why the server refuses; what it refused is given up then. Left out: it stays on show until it is put right. */
  refused?(why: string): void;
}

/** The server was not reached or failed: trying again makes sense. */
export class Away extends Error {
  override readonly name = 'Away';
}

/** What has not been stored yet, kept where it outlives the page. */
export interface Keeping {
  read(): readonly Batch[];
  write(batches: readonly Batch[]): void;
}

/**
 * saved: the server has everything. waiting: stored in a moment. saving: on its way. offline: the server is away, it is tried
 * again. refused: the server will not have it; it stays on show until it is changed or taken back.
 */
export type SavingState = 'saved' | 'waiting' | 'saving' | 'offline' | 'refused';

export interface Snapshot<C> {
  readonly content: C;
  readonly version: number;
  readonly loaded: boolean;
  readonly state: SavingState;
  /** Why it is offline or refused. */
  readonly trouble: string | null;
}

/** One step of one's own. */
export interface Step {
  readonly label: string;
  /** Takes it back, except where somebody has changed the same since. @returns cells that were left to them */
  undo(): string[];
  /** Does it again, with the same exception. */
  redo(): string[];
}

export interface Timing {
  /** Changes are stored when nothing has been changed for so long. */
  readonly restMs: number;
  /** A server that is away is tried again after this, then twice as long, up to the longest. */
  readonly againMs: number;
  readonly longestMs: number;
}
const TIMING: Timing = { restMs: 500, againMs: 2000, longestMs: 30_000 };

interface Gesture {
  readonly id: string;
  readonly step: OwnStep;
}

interface OwnStep extends Step {
  /** From what was found to what was written, each on condition that nobody came in between. */
  writes: readonly Write[];
}

/**
 * A document that several people edit at the same time, as one of them has it: what the server has, with one's own writes that
 * it does not have yet laid on top. Whatever arrives from others moves in underneath, so nothing of one's own is lost and
 * nothing of theirs is written over unseen.
 */
export class SharedDocument<C> {
  private base: Cells;
  private version = 0;
  private loaded = false;
  /** Sent and not answered, oldest first; the first is on its way or will be sent again as it is. */
  private sent: Batch[] = [];
  private fresh: readonly Write[] = [];
  private flying: Promise<void> | null = null;
  private state: SavingState = 'saved';
  private trouble: string | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private failures = 0;
  private refused = false;
  private number = 0;
  private gesture: Gesture | null = null;
  private readonly listeners = new Set<() => void>();
  private cells: Cells;
  private joined: { readonly cells: Cells; readonly content: C };
  private shown: Snapshot<C>;

  constructor(
    private readonly kind: DocumentKind<C>,
    private readonly store: Store<C>,
    /** Names this one among all that edit the document; no two may share a name. */
    private readonly client: string,
    private readonly keeping?: Keeping,
    private readonly timing: Timing = TIMING,
  ) {
    this.base = kind.split(kind.empty);
    this.cells = this.base;
    this.sent = [...(keeping?.read() ?? [])];
    this.joined = { cells: this.cells, content: kind.join(this.cells) };
    this.shown = this.snapshotOf();
  }

  /** The document now: the same object until something changes. */
  readonly snapshot = (): Snapshot<C> => this.shown;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Whether anybody looks at it. */
  get watched(): boolean {
    return this.listeners.size > 0;
  }

  /** Whether everything is stored: a page forgets the document only then. */
  get settled(): boolean {
    return !this.store.send || (this.sent.length === 0 && this.fresh.length === 0);
  }

  /** Reads what the server has; called again when somebody else has changed it. @throws what the store throws */
  async load(): Promise<void> {
    this.take(await this.store.load());
    // left over from a page that was closed
    if (!this.settled && this.state === 'saved') this.schedule(0);
  }

  /** What the server has, told by whatever brought it. Older than what is known already: passed over. */
  take({ content, version }: Stored<C>): void {
    if (this.loaded && version < this.version) return;
    this.base = this.kind.split(content);
    this.version = version;
    this.loaded = true;
    if (this.state !== 'offline' && this.state !== 'refused') this.trouble = null;
    this.show();
  }

  /**
   * One's own change.
   * @param gesture changes of one gesture (a drag) are one step; left out, each is its own
   * @returns the step where it is a new one; null where nothing differs, or where it went on with the gesture's
   */
  change(content: C, label: string, gesture?: string): Step | null {
    const writes = diffCells(this.cells, this.kind.split(content));
    if (writes.length === 0) return null;
    const back = wayBack(this.cells, writes);
    this.write(writes);
    const goesOn = gesture !== undefined && this.gesture?.id === gesture ? this.gesture.step : null;
    if (goesOn) {
      goesOn.writes = joined(goesOn.writes, turnedRound(back));
      return null;
    }
    const step = this.stepOf(label, turnedRound(back));
    this.gesture = gesture === undefined ? null : { id: gesture, step };
    return step;
  }

  /**
   * Something done for one by the server, as one's own step.
   * @param stored the document after it
   * @returns the step; null where nothing differs
   */
  adopt(stored: Stored<C>, label: string): Step | null {
    const before = this.cells;
    this.take(stored);
    const writes = diffCells(before, this.cells);
    return writes.length > 0 ? this.stepOf(label, turnedRound(wayBack(before, writes))) : null;
  }

  private stepOf(label: string, writes: readonly Write[]): OwnStep {
    const go = (which: readonly Write[]): string[] => {
      // a drag that goes on after this is another step
      this.gesture = null;
      const left = overtaken(this.cells, which);
      this.write(which.filter((w) => !left.includes(w)));
      return left.map((w) => w.cell);
    };
    const step: OwnStep = {
      label,
      writes,
      undo: () => go(turnedRound(step.writes)),
      redo: () => go(step.writes),
    };
    return step;
  }

  /** Stores what is waiting at once; ends when it is stored or cannot be. */
  async save(): Promise<void> {
    clearTimeout(this.timer);
    while (!this.settled) {
      if (this.flying) await this.flying;
      else if (!(await this.sendNext())) return;
    }
  }

  /** Throws away what the server does not have: the way out where it refuses. */
  giveUp(): void {
    clearTimeout(this.timer);
    this.sent = [];
    this.fresh = [];
    this.refused = false;
    this.trouble = null;
    this.state = 'saved';
    this.keep();
    this.show();
  }

  /**
   * The page closes: what is left goes out at once, without waiting for what is on its way. That is in it again under a later
   * number, so neither is lost nor taken twice, whichever arrives first.
   */
  leave(): void {
    clearTimeout(this.timer);
    if (this.settled) return;
    this.fresh = [...this.sent.flatMap((b) => b.writes), ...this.fresh];
    this.sent = [];
    void this.sendNext();
  }

  /** Gives fresh writes a number, so that they can be sent. */
  private numberFresh(): void {
    if (this.fresh.length === 0) return;
    this.number += 1;
    this.sent.push({ client: this.client, number: this.number, writes: condense(this.fresh) });
    this.fresh = [];
    this.keep();
  }

  private write(writes: readonly Write[]): void {
    if (writes.length === 0) return;
    // a drag writes the same cells again and again
    this.fresh = condense([...this.fresh, ...writes]);
    if (this.store.send) {
      if (this.state !== 'offline') this.state = 'waiting';
      this.keep();
      if (this.state === 'waiting') this.schedule(this.timing.restMs);
    }
    this.show();
  }

  private schedule(afterMs: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.save(), afterMs);
  }

  /** @returns whether it arrived */
  private async sendNext(): Promise<boolean> {
    // what was refused goes along with what was changed since: together they may be right
    if (this.state !== 'offline' && this.refused) {
      this.fresh = [...this.sent.flatMap((b) => b.writes), ...this.fresh];
      this.sent = [];
      this.refused = false;
    }
    if (this.sent.length === 0) this.numberFresh();
    const batch = this.sent[0]!;
    this.state = 'saving';
    this.show();
    let arrived = false;
    this.flying = this.store.send!(batch)
      .then((stored) => {
        this.sent = this.sent.filter((b) => b !== batch);
        this.failures = 0;
        this.trouble = null;
        arrived = true;
        this.keep();
        this.state = this.settled ? 'saved' : 'waiting';
        this.take(stored);
        this.show();
      })
      .catch((error: Error) => {
        this.trouble = error.message;
        if (error instanceof Away) {
          this.state = 'offline';
          this.schedule(Math.min(this.timing.longestMs, this.timing.againMs * 2 ** this.failures));
          this.failures += 1;
        } else if (this.store.refused) {
          this.giveUp();
          this.store.refused(error.message);
        } else {
          this.state = 'refused';
          this.refused = true;
        }
        this.show();
      })
      .finally(() => {
        this.flying = null;
      });
    await this.flying;
    return arrived;
  }

  private keep(): void {
    this.keeping?.write(
      this.fresh.length === 0
        ? this.sent
        : [...this.sent, { client: this.client, number: this.number + 1, writes: this.fresh }],
    );
  }

  private show(): void {
    const cells = applyWrites(this.base, [...this.sent.flatMap((b) => b.writes), ...this.fresh]);
    this.cells = cells;
    this.shown = this.snapshotOf();
    for (const listener of this.listeners) listener();
  }

  private snapshotOf(): Snapshot<C> {
    if (this.joined.cells !== this.cells)
      // parts that say the same stay the same objects
      this.joined = { cells: this.cells, content: replaceEqualDeep(this.joined.content, this.kind.join(this.cells)) };
    return {
      content: this.joined.content,
      version: this.version,
      loaded: this.loaded,
      state: this.state,
      trouble: this.trouble,
    };
  }
}

/** Two runs of writes as one: what the first found, to what the second wrote. */
function joined(first: readonly Write[], second: readonly Write[]): Write[] {
  const out = new Map(first.map((w) => [w.cell, w]));
  for (const w of second) {
    const before = out.get(w.cell);
    out.set(w.cell, before ? { ...w, was: before.was } : w);
  }
  return [...out.values()];
}
