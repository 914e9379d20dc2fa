import { genericOAuth } from 'better-auth/plugins';
import { ROLES, type Role } from '../../contract';
import { Refusal } from '../errors';

// People may come in by the account they have in their studio anyway (OpenID Connect). Who has an account here under the same
// address, confirmed by the provider, keeps it; newcomers get one only where a role for them is set.

/** The provider's name in the account package and in the address that it answers to. */
export const STUDIO = 'studio';

const set = (name: string): string | undefined => process.env[name]?.trim() || undefined;

/** What people call it; undefined where none is set up. */
export const studioName = (): string | undefined =>
  set('VELVET_OIDC_ISSUER') && (set('VELVET_OIDC_NAME') ?? 'your studio account');

/** Role of people who come for the first time; undefined: only those come in who have an account already. */
export function studioRole(): Role | undefined {
  const role = set('VELVET_OIDC_ROLE');
  if (role === undefined) return undefined;
  if (role !== 'admin' && ROLES.includes(role as Role)) return role as Role;
  throw new Error(`VELVET_OIDC_ROLE is “${role}”: it has to be viewer, animator or librarian, or be left out.`);
}

/** What the account package needs to let people in by the provider; nothing where none is set up. */
export function studioPlugin(): ReturnType<typeof genericOAuth>[] {
  const issuer = set('VELVET_OIDC_ISSUER');
  if (!issuer) return [];
  const [clientId, clientSecret] = [set('VELVET_OIDC_CLIENT'), set('VELVET_OIDC_SECRET')];
  if (!clientId || !clientSecret)
    throw new Error('VELVET_OIDC_ISSUER is set: VELVET_OIDC_CLIENT and VELVET_OIDC_SECRET have to be set, too.');
  return [
    genericOAuth({
      config: [
        {
          providerId: STUDIO,
          clientId,
          clientSecret,
          discoveryUrl: `${issuer.replace(/\/+$/, '')}/.well-known/openid-configuration`,
          scopes: ['openid', 'email', 'profile'],
          pkce: true,
          requireIdTokenVerification: true,
          disableSignUp: studioRole() === undefined,
        },
      ],
    }),
  ];
}

/** What the package does not know of somebody who comes by the provider for the first time. */
export function newcomer(): { role: Role } {
  const role = studioRole();
  if (!role) throw new Refusal(403, 'no-account', 'There is no account here for this address. Ask an admin for one.');
  return { role };
}

/** Why somebody could not come in by the provider, in a sentence. @param code as the account package tells it */
export function whyNotIn(code: string): string {
  const name = studioName() ?? 'the provider';
  if (/signup_disabled|no-account/.test(code))
    return 'There is no account here for this address. Ask an admin to invite you.';
  if (/not_linked|email/.test(code))
    return `The address of this account is not confirmed by ${name}, so it cannot be told whose it is. Ask an admin.`;
  if (/state|nonce|expired/.test(code)) return 'Signing in took too long, or was begun in another window. Try again.';
  if (/denied|cancel/.test(code)) return `You left ${name} without signing in.`;
  return `Signing in by ${name} did not work (${code.slice(0, 60)}). Try again, or ask an admin.`;
}
