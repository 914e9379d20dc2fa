// npm run secret: a new secret for this checkout's library. Everybody signs in again; what was sealed before stays readable.
import { DATA, fail, newSecret, say, setting } from './lib.mjs';

if (setting('VELVET_SESSION'))
  fail('VELVET_SESSION is set: give it a new value, and the one it had to VELVET_SESSION_FORMER.');
newSecret(DATA);
say('the new secret takes effect at the next start; everyone has to sign in again then');
