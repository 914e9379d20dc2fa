// Ports on loopback.
import { connect, createServer } from 'node:net';
import { fail } from './ground.mjs';

/** A free port, the wanted one where it can be. @param others whether another will do */
export function freePort(wanted, others = true) {
  const attempt = (port) =>
    new Promise((resolve, reject) => {
      const server = createServer();
      server.once('error', reject);
      server.listen(port, '127.0.0.1', () => {
        const { port: got } = server.address();
        server.close(() => resolve(got));
      });
    });
  const next = (port, tries) => attempt(port).catch(() => (tries > 0 ? next(port + 1, tries - 1) : attempt(0)));
  return others ? next(wanted, wanted === 0 ? 0 : 50) : attempt(wanted);
}

/** A port that somebody asked for, or a refusal. */
export async function takePort(port) {
  const got = await freePort(port, false).catch(() => undefined);
  return got ?? fail(`port ${port} is taken: stop what uses it, or choose another with PORT.`);
}

export const answers = (port) =>
  new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    const end = (yes) => {
      socket.destroy();
      resolve(yes);
    };
    socket.once('connect', () => end(true));
    socket.once('error', () => end(false));
  });
