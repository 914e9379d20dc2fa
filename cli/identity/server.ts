import { createHash, randomBytes } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { exportJWK, generateKeyPair, SignJWT } from 'jose';

export interface IdentitySettings {
  readonly client: string;
  readonly secret: string;
  /** Only for tests: who signs in without being asked, by address. */
  readonly always?: string;
}

/** Everybody whom the stand-in knows. */
export const STAFF = [
  { name: 'Noor Lind', email: 'noor@saltmarsh.example', confirmed: true },
  { name: 'Pim Harker', email: 'pim@saltmarsh.example', confirmed: true },
  { name: 'Somebody Else', email: 'bram@saltmarsh.example', confirmed: false },
] as const;

interface Grant {
  readonly redirect: string;
  readonly nonce: string | null;
  readonly challenge: string | null;
  readonly who: (typeof STAFF)[number];
  readonly until: number;
}

const MOST_BYTES = 10_000;
const GRANT_MS = 60_000;
const escaped = (s: string): string => s.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/**
 * A stand-in for a studio's provider of accounts: OpenID Connect with the code flow, proof keys (RFC 7636) and signed tokens.
 * Whoever comes chooses who they are: for trials on one machine alone.
 */
export async function identityServer({ client, secret, always }: IdentitySettings): Promise<Server> {
  const { publicKey, privateKey } = await generateKeyPair('RS256', { extractable: true });
  const key = { ...(await exportJWK(publicKey)), kid: 'stand-in', alg: 'RS256', use: 'sig' };
  const grants = new Map<string, Grant>();

  const begin = (url: URL, response: ServerResponse, email: string | null): void => {
    const redirect = url.searchParams.get('redirect_uri') ?? '';
    if (url.searchParams.get('client_id') !== client || !/^https?:\/\//.test(redirect)) {
      send(response, 400, 'text/plain', 'This client is not known.');
      return;
    }
    const back = new URL(redirect);
    back.searchParams.set('state', url.searchParams.get('state') ?? '');
    if (email === 'nobody') {
      back.searchParams.set('error', 'access_denied');
      go(response, back);
      return;
    }
    const who = STAFF.find((p) => p.email === email);
    if (!who) {
      send(response, 200, 'text/html; charset=utf-8', chooser(url));
      return;
    }
    const code = randomBytes(18).toString('base64url');
    grants.set(code, {
      redirect,
      nonce: url.searchParams.get('nonce'),
      challenge: url.searchParams.get('code_challenge'),
      who,
      until: Date.now() + GRANT_MS,
    });
    back.searchParams.set('code', code);
    go(response, back);
  };

  const token = async (issuer: string, request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const form = new URLSearchParams(await readBody(request));
    const basic = /^Basic (.+)$/.exec(request.headers.authorization ?? '')?.[1];
    const [id, given] = basic
      ? Buffer.from(basic, 'base64').toString('utf8').split(':').map(decodeURIComponent)
      : [form.get('client_id'), form.get('client_secret')];
    const grant = grants.get(form.get('code') ?? '');
    grants.delete(form.get('code') ?? '');
    const proof = createHash('sha256')
      .update(form.get('code_verifier') ?? '')
      .digest('base64url');
    if (id !== client || given !== secret) return sendJson(response, 401, { error: 'invalid_client' });
    if (
      !grant ||
      grant.until < Date.now() ||
      grant.redirect !== form.get('redirect_uri') ||
      (grant.challenge !== null && grant.challenge !== proof)
    )
      return sendJson(response, 400, { error: 'invalid_grant' });
    const { name, email, confirmed } = grant.who;
    const claims = { name, email, email_verified: confirmed, ...(grant.nonce && { nonce: grant.nonce }) };
    const idToken = await new SignJWT(claims)
      .setProtectedHeader({ alg: 'RS256', kid: key.kid })
      .setSubject(createHash('sha256').update(email).digest('hex').slice(0, 16))
      .setIssuer(issuer)
      .setAudience(client)
      .setIssuedAt()
      .setExpirationTime('5m')
      .sign(privateKey);
    sendJson(response, 200, {
      access_token: randomBytes(18).toString('base64url'),
      token_type: 'Bearer',
      id_token: idToken,
    });
  };

  return createServer((request, response) => {
    const issuer = `http://${request.headers.host}`;
    const url = new URL(request.url ?? '/', issuer);
    const path = `${request.method} ${url.pathname}`;
    if (path === 'GET /.well-known/openid-configuration')
      return sendJson(response, 200, {
        issuer,
        authorization_endpoint: `${issuer}/authorize`,
        token_endpoint: `${issuer}/token`,
        jwks_uri: `${issuer}/keys`,
        response_types_supported: ['code'],
        subject_types_supported: ['public'],
        id_token_signing_alg_values_supported: ['RS256'],
        code_challenge_methods_supported: ['S256'],
        scopes_supported: ['openid', 'email', 'profile'],
      });
    if (path === 'GET /keys') return sendJson(response, 200, { keys: [key] });
    if (path === 'GET /authorize') return begin(url, response, always ?? url.searchParams.get('as'));
    if (path === 'POST /token')
      return void token(issuer, request, response).catch(() => sendJson(response, 400, { error: 'invalid_request' }));
    sendJson(response, 404, { error: 'not_found' });
  });
}

/** The page on which somebody says who they are. */
function chooser(url: URL): string {
  const link = (as: string, text: string): string => {
    const to = new URL(url);
    to.searchParams.set('as', as);
    return `<p><a href="${escaped(`${to.pathname}${to.search}`)}">${escaped(text)}</a></p>`;
  };
  const people = STAFF.map((p) => link(p.email, `${p.name}${p.confirmed ? '' : ', address not confirmed'}`));
  return `<!doctype html><html lang="en"><title>Saltmarsh accounts</title><h1>Saltmarsh accounts</h1><p>A stand-in. Who are you?</p>${people.join('')}${link('nobody', 'Leave')}</html>`;
}

async function readBody(request: IncomingMessage): Promise<string> {
  let text = '';
  for await (const part of request) {
    text += part;
    if (text.length > MOST_BYTES) throw new Error('too large');
  }
  return text;
}

function send(response: ServerResponse, status: number, type: string, text: string): void {
  response.writeHead(status, { 'content-type': type, 'cache-control': 'no-store' }).end(text);
}

const sendJson = (response: ServerResponse, status: number, value: object): void =>
  send(response, status, 'application/json', JSON.stringify(value));

function go(response: ServerResponse, to: URL): void {
  response.writeHead(302, { location: to.href }).end();
}
