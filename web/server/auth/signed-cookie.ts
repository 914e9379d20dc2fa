import { createHmac, timingSafeEqual } from 'node:crypto';
import { parseCookies } from 'better-auth/cookies';
import { auth } from './accounts';

/** The token that the account package signed into the session's cookie; undefined for none, and for one that it did not sign. */
export async function tokenOfCookie(headers: Headers): Promise<string | undefined> {
  const { authCookies, secret } = await auth().$context;
  const value = parseCookies(headers.get('cookie') ?? '').get(authCookies.sessionToken.name);
  const dot = value?.lastIndexOf('.') ?? -1;
  if (!value || dot < 1) return undefined;
  const token = value.slice(0, dot);
  const signature = Buffer.from(value.slice(dot + 1), 'base64');
  const own = createHmac('sha256', secret).update(token).digest();
  return signature.length === own.length && timingSafeEqual(signature, own) ? token : undefined;
}
