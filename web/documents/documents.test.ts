import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import fc from 'fast-check';
import { FIT_DEFAULTS } from '../wishes/wishes';
import { applyWrites, type Cells, condense, type DocumentKind, diffCells, type Write } from './cells';
import { FITTING, type FittingContent } from './fitting';
import { Away, type Batch, type Keeping, SharedDocument, type Step, type Store, type Stored } from './shared-document';

/** The simplest kind there is: cells as they are. */
const PLAIN: DocumentKind<Cells> = { empty: {}, split: (c) => c, join: (c) => c };

/** What the server does with batches, without a database. */
class Shelf implements Store<Cells> {
  cells: Cells = {};
  version = 0;
  private readonly taken = new Map<string, number>();

  take({ client, number, writes }: Batch): void {
    if ((this.taken.get(client) ?? 0) >= number) return;
    this.taken.set(client, number);
    this.cells = applyWrites(this.cells, writes);
    this.version++;
  }

  stored = (): Stored<Cells> => ({ content: this.cells, version: this.version });
  load = async (): Promise<Stored<Cells>> => this.stored();
  async send(batch: Batch): Promise<Stored<Cells>> {
    this.take(batch);
    return this.stored();
  }
}

// nothing happens by the clock here: tests say when something is saved
beforeAll(() => void jest.useFakeTimers({ doNotFake: ['setImmediate', 'nextTick', 'queueMicrotask'] }));
afterAll(() => void jest.useRealTimers());

const SLOW = { restMs: 1e9, againMs: 1e9, longestMs: 1e9 };
const open = (store: Store<Cells>, client = 'a', keeping?: Keeping): SharedDocument<Cells> =>
  new SharedDocument(PLAIN, store, client, keeping, SLOW);
const set = (doc: SharedDocument<Cells>, more: Cells, gesture?: string): Step | null =>
  doc.change({ ...doc.snapshot().content, ...more }, 'set', gesture);

describe('cells', () => {
  const cells = fc.dictionary(
    fc.constantFrom('a', 'b', 'c', 'd/e'),
    fc.jsonValue().filter((x) => x !== null),
  );

  test('what differs, written, gives the other', () => {
    fc.assert(fc.property(cells, cells, (a, b) => expect(applyWrites(a, diffCells(a, b))).toEqual({ ...b })));
  });

  test('condensed writes say the same, on whatever they are laid', () => {
    const write = fc.record(
      {
        cell: fc.constantFrom('a', 'b'),
        to: fc.constantFrom(null, 1, 2),
        was: fc.constantFrom(null, 1, 2),
      },
      { requiredKeys: ['cell', 'to'] },
    ) as fc.Arbitrary<Write>;
    fc.assert(
      fc.property(
        fc.array(write, { maxLength: 8 }),
        fc.constantFrom<Cells>({}, { a: 1 }, { a: 2, b: 1 }),
        (writes, on) => {
          expect(applyWrites(on, condense(writes))).toEqual(applyWrites(on, writes));
        },
      ),
    );
  });
});

describe('one who edits', () => {
  test('a drag is one step; taken back and done again it ends where it ended', async () => {
    const doc = open(new Shelf());
    const step = set(doc, { x: 1 }, 'drag')!;
    expect(set(doc, { x: 2 }, 'drag')).toBeNull();
    expect(set(doc, { x: 3, y: 1 }, 'drag')).toBeNull();
    step.undo();
    expect(doc.snapshot().content).toEqual({});
    step.redo();
    expect(doc.snapshot().content).toEqual({ x: 3, y: 1 });
    await doc.save();
    expect(doc.snapshot().state).toBe('saved');
  });

  test('a long drag keeps one write a cell, however many it made', () => {
    let kept: readonly Batch[] = [];
    const doc = open(new Shelf(), 'a', {
      read: () => [],
      write: (b) => {
        kept = b;
      },
    });
    for (let i = 1; i <= 400; i++) set(doc, { x: i, y: -i }, 'drag');
    expect(kept.flatMap((b) => b.writes)).toEqual([
      { cell: 'x', to: 400 },
      { cell: 'y', to: -400 },
    ]);
  });

  test('nothing that differs is no step', () => {
    const doc = open(new Shelf());
    set(doc, { x: [1, 2] });
    expect(set(doc, { x: [1, 2] })).toBeNull();
  });

  test('parts that say the same stay the same objects', () => {
    const doc = open(new Shelf());
    set(doc, { list: [1, 2], x: 1 });
    const { list } = doc.snapshot().content;
    set(doc, { x: 2 });
    expect(doc.snapshot().content.list).toBe(list);
  });

  test('an answer that is lost does not make a batch count twice', async () => {
    const shelf = new Shelf();
    let lost = 0;
    const doc = open({
      load: shelf.load,
      send: async (batch) => {
        shelf.take(batch);
        if (lost++ === 0) throw new Away('gone');
        return shelf.stored();
      },
    });
    set(doc, { x: 1 });
    await doc.save();
    expect(doc.snapshot()).toMatchObject({ state: 'offline', trouble: 'gone', content: { x: 1 } });
    // a colleague changes the same before it is sent once more
    shelf.take({ client: 'b', number: 1, writes: [{ cell: 'x', to: 7 }] });
    await doc.save();
    expect(doc.snapshot()).toMatchObject({ state: 'saved', content: { x: 7 } });
  });

  test('what is refused stays on show, goes along with its correction, or is given up', async () => {
    const shelf = new Shelf();
    const doc = open({
      load: shelf.load,
      send: async (batch) => {
        if (applyWrites(shelf.cells, batch.writes).x === 'bad') throw new Error('x cannot be bad');
        return shelf.send(batch);
      },
    });
    const step = set(doc, { x: 'bad', y: 1 })!;
    await doc.save();
    expect(doc.snapshot()).toMatchObject({ state: 'refused', trouble: 'x cannot be bad', content: { x: 'bad', y: 1 } });
    set(doc, { x: 'good' });
    await doc.save();
    expect([doc.snapshot().state, shelf.cells]).toEqual(['saved', { x: 'good', y: 1 }]);
    expect(step.undo()).toEqual(['x']);
    await doc.save();
    expect(shelf.cells).toEqual({ x: 'good' });
    set(doc, { x: 'bad' });
    await doc.save();
    doc.giveUp();
    expect(doc.snapshot()).toMatchObject({ state: 'saved', content: { x: 'good' } });
  });

  test('leaving while something is on its way loses neither that nor the rest, whichever arrives first', async () => {
    for (const order of [
      [0, 1],
      [1, 0],
    ]) {
      const shelf = new Shelf();
      const arriving: Batch[] = [];
      const doc = open({
        load: shelf.load,
        send: (batch) => {
          arriving.push(batch);
          return new Promise(() => undefined);
        },
      });
      set(doc, { x: 1 });
      void doc.save();
      set(doc, { y: 2 });
      doc.leave();
      for (const i of order) shelf.take(arriving[i]!);
      expect(shelf.cells).toEqual({ x: 1, y: 2 });
    }
  });
});

describe('three who edit at once', () => {
  /** A network that delays, and loses questions as well as answers; what is under way comes or fails when it is let. */
  class Net implements Store<Cells> {
    private readonly waiting: (() => void)[] = [];
    down = false;
    constructor(
      private readonly shelf: Shelf,
      private readonly random: () => number,
    ) {}
    private through<T>(act: () => T): Promise<T> {
      return new Promise((resolve, reject) => {
        this.waiting.push(() => {
          if (this.down || this.random() < 0.15) return reject(new Away('the question was lost'));
          const done = act();
          if (this.random() < 0.15) return reject(new Away('the answer was lost'));
          resolve(done);
        });
      });
    }
    load = (): Promise<Stored<Cells>> => this.through(() => this.shelf.stored());
    send = (batch: Batch): Promise<Stored<Cells>> =>
      this.through(() => {
        this.shelf.take(structuredClone(batch));
        return this.shelf.stored();
      });
    /** Lets one question through, not always the first. */
    async move(): Promise<void> {
      const at = Math.floor(this.random() * this.waiting.length);
      this.waiting.splice(at, 1)[0]?.();
      await new Promise((r) => setImmediate(r));
    }
    get busy(): boolean {
      return this.waiting.length > 0;
    }
  }

  test.each(Array.from({ length: 40 }, (_, seed) => seed))(
    'seed %i: edits, delays, failures, steps back and forth; all end equal, nothing of one’s own is lost',
    async (seed) => {
      let state = seed * 2654435761 + 1;
      const random = (): number => {
        state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
        return state / 2 ** 32;
      };
      const shelf = new Shelf();
      const people = ['a', 'b', 'c'].map((client) => {
        const net = new Net(shelf, random);
        return {
          client,
          net,
          doc: open(net, client),
          own: {} as Record<string, unknown>,
          done: [] as Step[],
          undone: [] as Step[],
        };
      });
      for (let turn = 0; turn < 220; turn++) {
        const who = people[Math.floor(random() * 3)]!;
        const what = random();
        if (what < 0.3) {
          // a cell that nobody else touches, and one that everybody does
          const cell = `${who.client} ${Math.floor(random() * 3)}`;
          const value = turn;
          const step = set(who.doc, { [cell]: value, [`shared ${Math.floor(random() * 3)}`]: `${who.client}${turn}` });
          if (step) who.done.push(step);
          who.own[cell] = value;
          who.undone = [];
        } else if (what < 0.38 && who.done.length > 0) {
          const step = who.done.pop()!;
          step.undo();
          who.undone.push(step);
        } else if (what < 0.44 && who.undone.length > 0) {
          const step = who.undone.pop()!;
          step.redo();
          who.done.push(step);
        } else if (what < 0.48) who.net.down = !who.net.down;
        else if (what < 0.6) void who.doc.load().catch(() => undefined);
        else if (what < 0.75) void who.doc.save();
        else await who.net.move();
        for (const cell of Object.keys(who.doc.snapshot().content))
          if (cell.startsWith(who.client)) who.own[cell] = who.doc.snapshot().content[cell];
      }
      // what each one sees of its own cells is what must be there in the end
      const mine = people.map(({ client, doc }) =>
        Object.fromEntries(Object.entries(doc.snapshot().content).filter(([cell]) => cell.startsWith(`${client} `))),
      );
      for (const who of people) who.net.down = false;
      for (let round = 0; round < 200; round++) {
        for (const who of people) {
          if (!who.doc.settled) void who.doc.save();
          while (who.net.busy) await who.net.move();
        }
        if (people.every((who) => who.doc.settled)) break;
      }
      for (const who of people) {
        expect(who.doc.settled).toBe(true);
        who.doc.take(shelf.stored());
        expect(who.doc.snapshot().content).toEqual(shelf.cells);
        expect(who.doc.snapshot().state).toBe('saved');
      }
      people.forEach(({ client }, i) => {
        expect(
          Object.fromEntries(Object.entries(shelf.cells).filter(([cell]) => cell.startsWith(`${client} `))),
        ).toEqual(mine[i]);
      });
      // every shared cell shows what somebody really wrote into it
      for (const [cell, value] of Object.entries(shelf.cells))
        if (cell.startsWith('shared')) expect(value).toMatch(/^[abc]\d+$/);
    },
  );

  test('taking back never writes over what a colleague set, though it was not known yet', async () => {
    const shelf = new Shelf();
    const doc = open(shelf);
    const step = set(doc, { x: 1, y: 1 })!;
    await doc.save();
    shelf.take({ client: 'b', number: 1, writes: [{ cell: 'x', to: 5 }] });
    step.undo();
    await doc.save();
    expect(shelf.cells).toEqual({ x: 5 });
    expect(step.redo()).toEqual(['x']);
    await doc.save();
    expect(shelf.cells).toEqual({ x: 5, y: 1 });
  });
});

describe('a fitting as cells', () => {
  const full: FittingContent = {
    settings: {
      ...FIT_DEFAULTS,
      lower: 0.02,
      leave: ['head', 'travel x'],
      tuning: { ...FIT_DEFAULTS.tuning, arms: 7 },
    },
    edits: {
      frames: 120,
      plants: [
        { part: 'ballL', start: 0, end: 11 },
        { part: 'heelR', start: 4, end: 30, pin: [0.2, 0] },
      ],
      goals: [
        { hand: 'L', keep: 'point', point: [0, 1, 0.5] },
        { hand: 'L', keep: 'point', point: [0, 1.2, 0.5], weight: 'near' },
      ],
      looks: [{ point: [0, 1.5, 4], weight: [{ frame: 3, weight: 0.5 }] }],
      corrections: [
        {
          handle: 'handL',
          keys: [
            { frame: 4, move: [0, 0.1, 0] },
            { frame: 20.5, turn: [0, 0, 0, 1], ease: 'linear' },
          ],
        },
        { joint: 'odd / name/3', keys: [{ frame: 9, turn: [0, 0, 0, 1] }] },
      ],
      exposures: [{ part: 'eye / L', keys: [{ frame: 8, label: 'shut' }] }],
      offKeys: [
        { joint: 'head', frame: 31, meant: false },
        { joint: 'odd / name/3', frame: 4, meant: true },
      ],
    },
  };

  test('comes back whole, also through the server’s JSON', () => {
    expect(FITTING.join(JSON.parse(JSON.stringify(FITTING.split(full))))).toEqual(full);
    expect(FITTING.join(FITTING.split(FITTING.empty))).toEqual(FITTING.empty);
    const none = { ...full, edits: { ...full.edits, plants: [] } };
    expect(FITTING.join(FITTING.split(none))).toEqual(none);
  });

  test('two who set keys of one track, a plant and a setting do not meet', () => {
    const cells = FITTING.split(full);
    const mine = { ...full, settings: { ...full.settings, clear: false } };
    const theirs: FittingContent = {
      ...full,
      edits: {
        ...full.edits,
        plants: [...full.edits.plants!, { part: 'handR', start: 50, end: 60 }],
        corrections: full.edits.corrections.map((t) =>
          'handle' in t ? { ...t, keys: [...t.keys, { frame: 60, move: [0, 0, 0.1] }] } : t,
        ),
      },
    };
    const [a, b] = [mine, theirs].map((x) => diffCells(cells, FITTING.split(x)));
    const both = FITTING.join(applyWrites(applyWrites(cells, a!), b!));
    expect(both).toEqual({ settings: mine.settings, edits: theirs.edits });
    expect(FITTING.join(applyWrites(applyWrites(cells, b!), a!))).toEqual(both);
  });
});
