import { randomBytes } from 'node:crypto';
import { type NextRequest, NextResponse } from 'next/server';
import policy from './server/policy.json';

/**
 * Every page gets a content policy with a nonce of its own, which the framework puts on the scripts that it writes into the
 * page: nothing else that stands in a page runs. All other answers have the policy alone (next.config.ts).
 */
export function proxy(request: NextRequest): NextResponse {
  const scripts = [policy['script-src'], `'nonce-${randomBytes(16).toString('base64')}'`];
  if (process.env.NODE_ENV === 'development') scripts.push("'unsafe-eval'");
  const text = Object.entries({ ...policy, 'script-src': scripts.join(' ') })
    .map((directive) => directive.join(' '))
    .join('; ');
  const headers = new Headers(request.headers);
  headers.set('content-security-policy', text);
  const answer = NextResponse.next({ request: { headers } });
  answer.headers.set('content-security-policy', text);
  return answer;
}

/** Pages alone: a request with a body would be held in memory here. */
export const config = { matcher: ['/((?!api/|_next/|.*\\.).*)'] };
