import { eq } from 'drizzle-orm';
import { getIronSession } from 'iron-session';
import { cookies } from 'next/headers';
import { database } from '../db/client';
import { people } from '../db/schema';
import { Refusal } from '../errors';

export type Person = typeof people.$inferSelect;

interface Sealed {
  personId?: string;
}

const session = async () =>
  getIronSession<Sealed>(await cookies(), {
    password: process.env.VELVET_SESSION ?? '',
    cookieName: 'velvet_session',
    cookieOptions: { httpOnly: true, sameSite: 'strict', secure: false, path: '/' },
  });

const CAN = { read: ['viewer', 'animator', 'librarian', 'admin'], change: ['animator', 'librarian', 'admin'] } as const;

/** Who is asking. Throws 401 for a stranger and 403 for somebody without the right. */
export async function whoAsks(need: keyof typeof CAN): Promise<Person> {
  const { personId } = await session();
  const person = personId ? (await database().select().from(people).where(eq(people.id, personId)))[0] : undefined;
  if (!person) throw new Refusal(401, 'stranger', 'You are not signed in. Reload the page.');
  if (!(CAN[need] as readonly string[]).includes(person.role))
    throw new Refusal(403, 'no-right', `${person.name} may look, but not change anything.`);
  return person;
}

/**
 * Signs the one local person in. The server listens on loopback only and holds a single studio's demo world; accounts
 * take this place when more people share it.
 */
export async function signInLocal(): Promise<Person> {
  const sealed = await session();
  const all = await database().select().from(people).limit(2);
  const person = all.find((p) => p.id === sealed.personId) ?? all[0];
  if (!person) throw new Refusal(401, 'stranger', 'The database holds nobody yet. Run npm start again.');
  if (sealed.personId !== person.id) {
    sealed.personId = person.id;
    await sealed.save();
  }
  return person;
}
