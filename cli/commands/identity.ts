import { randomBytes } from 'node:crypto';
import { identityServer } from '../identity/server';
import { type Options, readWhole } from '../options';

/** velvet-reel identity: a stand-in for a studio's provider of accounts, to try signing in by OpenID Connect on one machine. */
export async function identity(_: string[], options: Options, print: (text: string) => void): Promise<void> {
  const port = readWhole(options.port, 'port') ?? 4740;
  const secret = options.key ?? randomBytes(18).toString('base64url');
  const server = await identityServer({ client: 'velvet-reel', secret });
  await new Promise<void>((done, failed) => server.once('error', failed).listen(port, '127.0.0.1', () => done()));
  print(`Saltmarsh accounts on http://127.0.0.1:${port}; Ctrl-C stops it. Start the application with
VELVET_OIDC_ISSUER=http://127.0.0.1:${port} VELVET_OIDC_CLIENT=velvet-reel VELVET_OIDC_SECRET=${secret} VELVET_OIDC_NAME="Saltmarsh accounts" VELVET_OIDC_ROLE=animator`);
  await new Promise<void>((done) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => done());
  });
  server.closeAllConnections();
  server.close();
}
