import { randomBytes } from 'node:crypto';
import { seeded } from '../../motion/math/random';
import { type Options, readNumber, readWhole } from '../options';
import { FAULTS } from '../supplier/faults';
import { Ledger } from '../supplier/ledger';
import { supplierServer } from '../supplier/server';
import { Catalogue, isShaky } from '../supplier/takes';

const NAME = 'The Halyard Exchange';
/** Takes that have been issued anew when the stand-in starts for the first time. */
const ANEW = 2;

/**
 * velvet-reel supplier: a stand-in for a supplier of motion, with a catalogue, an account in credits and files, and with
 * faults as asked for.
 */
export async function supplier(_: string[], options: Options, print: (text: string) => void): Promise<void> {
  const port = readWhole(options.port, 'port') ?? 4730;
  const count = readWhole(options.takes, 'takes') ?? 60;
  const key = options.key ?? randomBytes(9).toString('base64url');
  const ledger = new Ledger(options.data, readWhole(options.credits, 'credits') ?? 400);
  const catalogue = new Catalogue(Math.min(2000, Math.max(1, count)));
  const shaky = catalogue.takes.filter((t) => isShaky(Number(t.id.slice('take-'.length)))).slice(0, ANEW);
  for (const { id } of shaky) if (ledger.issueOf(id) === 1) ledger.issueAnew(id, 'The shake in every joint is gone.');
  const server = supplierServer({
    name: NAME,
    key,
    catalogue,
    ledger,
    faults: {
      share: (readNumber(options.faults, 'faults', 0, 100) ?? 0) / 100,
      kinds: FAULTS,
      slowMs: readNumber(options.slow, 'slow', 0, 60_000) ?? 3000,
    },
    random: seeded(readWhole(options.seed, 'seed') ?? 1),
  });
  await new Promise<void>((done, failed) => server.once('error', failed).listen(port, '127.0.0.1', () => done()));
  print(`${NAME} on http://127.0.0.1:${port}, ${catalogue.takes.length} takes; account key ${key}; Ctrl-C stops it`);
  await new Promise<void>((done) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => done());
  });
  server.closeAllConnections();
  server.close();
}
