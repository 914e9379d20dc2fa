import { Refusal } from '../errors';

/** Orders of one person that may wait. */
const MOST_WAITING = 20;

/**
 * Lets the orders of each person run one after another, so that nobody's hold up everybody else's. What is given up while it
 * waits never begins.
 */
export class Turns {
  private readonly last = new Map<string, { done: Promise<unknown>; waiting: number }>();

  /**
   * @param who whose order it is
   * @throws Refusal 429 where this person has too many waiting; the signal's reason where it is given up before it begins
   */
  async take<T>(who: string, signal: AbortSignal | undefined, run: () => Promise<T>): Promise<T> {
    const before = this.last.get(who) ?? { done: Promise.resolve(), waiting: 0 };
    if (before.waiting >= MOST_WAITING)
      throw new Refusal(
        429,
        'too-many',
        'You have many exports and fittings under way. Wait until some of them have finished.',
      );
    const own = { done: Promise.resolve() as Promise<unknown>, waiting: before.waiting + 1 };
    const result = before.done.then(() => {
      signal?.throwIfAborted();
      return run();
    });
    own.done = result.then(
      () => undefined,
      () => undefined,
    );
    this.last.set(who, own);
    try {
      return await result;
    } finally {
      const now = this.last.get(who)!;
      now.waiting--;
      if (now.waiting <= 0) this.last.delete(who);
    }
  }
}
