'use client';

import { type Remote, wrap } from 'comlink';
import type { Solver } from '../solver/solve';
import { solver as texts } from './texts';

let remote: Remote<Solver> | undefined;

/**
 * The one solver thread of this window. A thread that cannot be started, or that dies, fails every question that waits for it;
 * the next question starts another one.
 */
export function solver(): Remote<Solver> {
  if (remote) return remote;
  const worker = new Worker(new URL('../solver/solve.ts', import.meta.url), { type: 'module' });
  const thread = wrap<Solver>(worker);
  let fail: (error: Error) => void = () => undefined;
  const broken = new Promise<never>((_, reject) => {
    fail = reject;
  });
  broken.catch(() => undefined);
  worker.onerror = (event) => {
    event.preventDefault();
    worker.terminate();
    remote = undefined;
    fail(new Error(texts.theSolverOfThis));
  };
  remote = new Proxy(thread, {
    get: (of, name) => {
      const member = Reflect.get(of, name) as unknown;
      if (typeof member !== 'function' || typeof name === 'symbol') return member;
      return (...args: unknown[]) => Promise.race([(member as (...a: unknown[]) => Promise<unknown>)(...args), broken]);
    },
  });
  return remote;
}
