import type { AddressInfo } from 'node:net';
import { FAULTS, type FaultPlan } from '../../../cli/supplier/faults';
import { Ledger } from '../../../cli/supplier/ledger';
import { supplierServer } from '../../../cli/supplier/server';
import type { Catalogue } from '../../../cli/supplier/takes';
import { seeded } from '../../../motion/math/random';

export const SUPPLIER_KEY = 'the key of the account';

export interface TestSupplier {
  readonly ledger: Ledger;
  readonly close: () => void;
}

/**
 * A supplier of a test's own, with nothing owned; the server asks it until it is closed.
 * @param percent of its answers that are broken
 */
export async function openSupplier(catalogue: Catalogue, credits = 400, percent = 0): Promise<TestSupplier> {
  const ledger = new Ledger(undefined, credits);
  const faults: FaultPlan = { share: percent / 100, kinds: FAULTS, slowMs: 30 };
  const name = 'A supplier';
  const server = supplierServer({ name, key: SUPPLIER_KEY, catalogue, ledger, faults, random: seeded(7) });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const before = process.env.VELVET_SUPPLIER;
  process.env.VELVET_SUPPLIER = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    ledger,
    close: () => {
      server.closeAllConnections();
      server.close();
      if (before === undefined) delete process.env.VELVET_SUPPLIER;
      else process.env.VELVET_SUPPLIER = before;
    },
  };
}
