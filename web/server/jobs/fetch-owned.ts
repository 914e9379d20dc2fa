import type { Database } from '../db/client';
import { Refusal } from '../errors';
import { faultOf, log } from '../log';
import { fetchOwnedIfWished } from '../services/supplier';

const LOOK_MS = 60_000;

/** Looks every minute whether the supplier's account owns what is not here. Returns how to stop. */
export function watchOwned(db: Database): () => void {
  let busy = false;
  const look = async (): Promise<void> => {
    if (busy) return;
    busy = true;
    try {
      await fetchOwnedIfWished(db);
    } catch (error) {
      // a supplier that is away is nobody's fault here
      if (!(error instanceof Refusal)) log.error(faultOf(error), 'owned takes');
    } finally {
      busy = false;
    }
  };
  const timer = setInterval(() => void look(), LOOK_MS);
  timer.unref();
  return () => clearInterval(timer);
}
