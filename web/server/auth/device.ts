import { randomBytes, timingSafeEqual } from 'node:crypto';
import { sha256 } from '../ids';
import { secretFor } from './secret';

// A browser that somebody has signed in with is known by a cookie. Failed attempts from it count apart from those of strangers,
// so that strangers who guess somebody's password cannot lock that person out.

const COOKIE = 'velvet-device';
const YEAR_S = 365 * 24 * 3600;

const seal = (text: string): string => secretFor(`device ${text}`);

/** A cookie that says that this browser was signed in under an address; of no other use. */
export function deviceCookie(email: string, secure: boolean): string {
  const nonce = randomBytes(12).toString('base64url');
  const value = `${nonce}.${seal(`${nonce} ${email}`)}`;
  return `${COOKIE}=${value}; Path=/; Max-Age=${YEAR_S}; HttpOnly; SameSite=Strict${secure ? '; Secure' : ''}`;
}

/** Under which attempts to sign in are counted: this browser's where it is known for the address, else the strangers'. */
export function attemptsKey(email: string, cookies: string | null): string {
  const value = new RegExp(`(?:^|;\\s*)${COOKIE}=([\\w-]+)\\.([\\w-]+)`).exec(cookies ?? '');
  const [, nonce, given] = value ?? [];
  if (nonce && given) {
    const own = Buffer.from(seal(`${nonce} ${email}`));
    const told = Buffer.from(given);
    if (own.length === told.length && timingSafeEqual(own, told)) return sha256(`known ${email} ${nonce}`);
  }
  return sha256(`stranger ${email}`);
}
