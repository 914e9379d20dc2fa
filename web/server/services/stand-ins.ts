import {
  bodyMapToJson,
  guessBodyMap,
  restKind,
  restPose,
  rigIdentity,
  rigToJson,
  type StandInRest,
  standIn,
} from '@velvet-reel/motion';
import { eq } from 'drizzle-orm';
import type { CastRow } from '../../contract';
import type { Person } from '../auth/person';
import type { Database } from '../db/client';
import { people } from '../db/schema';
import { addCast } from './cast';
import { keepRig } from './rigs';

export interface StandInWish {
  name: string;
  rest: StandInRest;
  heightM: number;
}

/** Adds a body of common proportions to the cast: to look at motion on before there is a character of one's own. */
export async function addStandIn(db: Database, person: Person, { name, rest, heightM }: StandInWish): Promise<CastRow> {
  const rig = standIn(rest, heightM);
  const map = guessBodyMap(rig);
  return db.transaction(async (tx) => {
    const { id } = await keepRig(tx, {
      rig: rigToJson(rig),
      identity: rigIdentity(rig),
      map: bodyMapToJson(map, rig),
      restKind: restKind(restPose(rig), map),
      restPose: null,
      heightM,
    });
    const member = await addCast(tx, { name, rigId: id, heightM, figure: null, personId: person.id });
    if (person.performerId === null)
      await tx.update(people).set({ performerId: member.id }).where(eq(people.id, person.id));
    return member;
  });
}
