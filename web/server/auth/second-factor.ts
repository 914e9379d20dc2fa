import { APIError } from 'better-auth/api';
import type { FactorSetup } from '../../contract';
import { type Database, database } from '../db/client';
import { Refusal } from '../errors';
import { sha256 } from '../ids';
import { limitFailures } from '../limits';
import { noteAudit } from '../services/audit';
import { auth } from './accounts';
import type { Person } from './person';

// Codes that change every half minute (RFC 6238), asked for besides the password. Ten more let in once each, for the day the
// device that shows them is gone; an admin can turn codes off for somebody, too.

const WRONG = 'The code is wrong, or its half minute is over. Type the one that is shown now.';

/** Begins to set codes up; they are asked for once a first one was right. @throws Refusal 403 for a wrong password */
export async function beginFactor(person: Person, password: string, headers: Headers): Promise<FactorSetup> {
  const made = await limitFailures(database(), sha256(`password ${person.id}`), 10, 300, () =>
    auth()
      .api.enableTwoFactor({ body: { password, method: 'totp' }, headers })
      .catch((error) => {
        throw error instanceof APIError ? refusalOf(error) : error;
      }),
  );
  if (!('totpURI' in made) || !made.totpURI || !made.backupCodes)
    throw new Refusal(502, 'no-factor', 'Codes could not be set up. Try again.');
  return { uri: made.totpURI, codes: made.backupCodes };
}

/** Tries a code: the first one turns codes on, later ones let somebody in who has given the password. */
export async function tryCode(code: string, headers: Headers): Promise<Response> {
  const plain = code.replace(/\s/g, '');
  const ask = { headers, asResponse: true as const };
  const answer = await (/^\d{6}$/.test(plain)
    ? auth().api.verifyTOTP({ body: { code: plain }, ...ask })
    : auth().api.verifyBackupCode({ body: { code: plain }, ...ask })
  ).catch((error) => {
    throw error instanceof APIError ? refusalOf(error) : error;
  });
  if (!answer.ok) throw refusalOf({ body: await answer.json().catch(() => undefined) });
  return answer;
}

/** Asks for codes no more. @throws Refusal 403 for a wrong password */
export async function endFactor(db: Database, person: Person, password: string, headers: Headers): Promise<Response> {
  const answer = await limitFailures(db, sha256(`password ${person.id}`), 10, 300, async () => {
    const tried = await auth().api.disableTwoFactor({ body: { password }, headers, asResponse: true });
    if (!tried.ok) throw refusalOf({ body: await tried.json().catch(() => undefined) });
    return tried;
  });
  await noteAudit(db, person.id, 'account changed', `${person.name}: no code at sign-in any longer`);
  return answer;
}

function refusalOf({ body }: { body?: unknown }): Refusal {
  const code = String((body as { code?: unknown } | undefined)?.code ?? '');
  if (code.includes('PASSWORD')) return new Refusal(403, 'wrong', 'The password is wrong.');
  if (code.includes('ALREADY')) return new Refusal(409, 'has-factor', 'Codes are asked for already.');
  if (/COOKIE|EXPIRED|UNAUTHORIZED/.test(code))
    return new Refusal(401, 'too-late', 'That took too long. Sign in with the password again.');
  if (/LOCKED|MANY|ATTEMPTS/.test(code))
    return new Refusal(429, 'locked', 'Too many wrong codes. Wait a quarter of an hour, then sign in again.');
  return new Refusal(401, 'wrong-code', WRONG);
}
