'use client';

import { type Remote, wrap } from 'comlink';
import type { Solver } from '../workers/solve';

let remote: Remote<Solver> | undefined;

/** The one solver thread of this window. */
export function solver(): Remote<Solver> {
  remote ??= wrap<Solver>(new Worker(new URL('../workers/solve.ts', import.meta.url), { type: 'module' }));
  return remote;
}
