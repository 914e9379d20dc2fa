import { fitProfile, scoreFit, sketchFromBytes } from '@velvet-reel/motion';
import { and, asc, eq, gt, isNull, ne, sql } from 'drizzle-orm';
import { partyFromJson } from '../../wishes/party';
import type { Queries } from '../db/client';
import { fitScores, readings } from '../db/schema';
import { sha256 } from '../ids';
import { castRig } from './cast';

/** Counts up when scores are worked out in another way, so that old ones are not taken for new. */
const FORM = 1;
const CHUNK = 400;

interface Known {
  scores: Map<string, number>;
  /** Set while missing scores are being worked out. */
  filling: Promise<void> | undefined;
  checkedAt: number;
}

const kept = globalThis as { velvetScores?: Map<string, Known> };
/** How long scores are taken as complete before it is looked again for new readings. */
const FRESH_MS = 1500;

async function profileOf(db: Queries, castId: string) {
  const profile = fitProfile(partyFromJson(await castRig(db, castId)));
  const rounded = (x: unknown): unknown =>
    typeof x === 'number'
      ? Math.round(x * 1e4) / 1e4
      : x instanceof Set
        ? [...x].sort()
        : Array.isArray(x)
          ? x.map(rounded)
          : x;
  const text = JSON.stringify([FORM, ...Object.entries(profile).map(([k, v]) => [k, rounded(v)])]);
  return { profile, hash: sha256(text) };
}

/**
 * Scores of all readings on a cast member, as far as they are known; those missing are worked out in the background and
 * kept, once for every body of the same proportions.
 */
export async function scoresFor(db: Queries, castId: string): Promise<ReadonlyMap<string, number>> {
  return (await open(db, castId)).scores;
}

/** The same, waiting until none is missing. */
export async function allScoresFor(db: Queries, castId: string): Promise<ReadonlyMap<string, number>> {
  const known = await open(db, castId);
  await known.filling;
  return known.scores;
}

async function open(db: Queries, castId: string): Promise<Known> {
  const { profile, hash } = await profileOf(db, castId);
  kept.velvetScores ??= new Map();
  let known = kept.velvetScores.get(hash);
  if (!known) {
    const rows = await db
      .select({ id: fitScores.readingId, score: fitScores.score })
      .from(fitScores)
      .where(eq(fitScores.profile, hash));
    known = { scores: new Map(rows.map((r) => [r.id, r.score])), filling: undefined, checkedAt: 0 };
    kept.velvetScores.set(hash, known);
  }
  if (!known.filling && Date.now() - known.checkedAt > FRESH_MS) {
    const own = known;
    known.filling = fill(db, hash, profile, own.scores).finally(() => {
      own.filling = undefined;
      own.checkedAt = Date.now();
    });
    known.filling.catch(() => undefined);
  }
  return known;
}

async function fill(
  db: Queries,
  hash: string,
  profile: ReturnType<typeof fitProfile>,
  scores: Map<string, number>,
): Promise<void> {
  for (let last = ''; ; ) {
    const rows = await db
      .select({ id: readings.id, sketch: readings.sketch })
      .from(readings)
      .leftJoin(fitScores, and(eq(fitScores.readingId, readings.id), eq(fitScores.profile, hash)))
      .where(and(isNull(fitScores.readingId), gt(readings.id, last), ne(sql`length(${readings.sketch})`, 0)))
      .orderBy(asc(readings.id))
      .limit(CHUNK);
    if (rows.length === 0) return;
    last = rows.at(-1)!.id;
    const made = rows.map(({ id, sketch }) => {
      const { score, reasons } = scoreFit(sketchFromBytes(sketch), profile);
      scores.set(id, score);
      return { profile: hash, readingId: id, score, reasons: [...reasons] };
    });
    await db.insert(fitScores).ignore().values(made);
  }
}

/** Why a reading scores as it does on a cast member. */
export async function reasonsFor(
  db: Queries,
  castId: string,
  readingId: string,
): Promise<{ score: number; reasons: string[] } | null> {
  const [row] = await db.select({ sketch: readings.sketch }).from(readings).where(eq(readings.id, readingId));
  if (!row || row.sketch.length === 0) return null;
  const { profile } = await profileOf(db, castId);
  const { score, reasons } = scoreFit(sketchFromBytes(row.sketch), profile);
  return { score, reasons: [...reasons] };
}
