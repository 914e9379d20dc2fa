import { z } from 'zod';
import { applyWrites, type DocumentKind } from '../../documents/cells';
import type { Batch } from '../../documents/shared-document';
import type { Taken } from '../db/schema';
import { Refusal } from '../errors';

/** Pages whose last batch is remembered for a document: one that has been away for so many others' is taken for new. */
const MOST_PAGES = 60;

/** What a page sends of a document that several people edit. */
export const batch = z.object({
  client: z.string().regex(/^[a-z0-9]{8,40}$/),
  number: z.int().min(1).max(1_000_000_000),
  writes: z
    .array(
      z.object({
        cell: z.string().min(1).max(400).describe('Its name'),
        to: z.unknown().describe('The new value; null takes the cell away'),
        was: z.unknown().describe('Written only where the cell holds this now').optional(),
      }),
    )
    .min(1)
    .max(20_000),
}) satisfies z.ZodType<Batch>;

/** Whether a batch was taken already, for it may be sent again when an answer was lost. */
export const wasTaken = (taken: Taken | null, { client, number }: Batch): boolean =>
  (taken ?? []).some(([c, n]) => c === client && n >= number);

/** What was taken, with this batch. */
export const withBatch = (taken: Taken | null, { client, number }: Batch): Taken => [
  ...(taken ?? []).filter(([c]) => c !== client).slice(1 - MOST_PAGES),
  [client, number],
];

/**
 * The content with a batch of writes laid on it.
 * @param check throws where content is not as it should be
 * @throws Refusal 400 where the writes name cells that documents of this kind do not have
 */
export function withWrites<C>(kind: DocumentKind<C>, content: C, { writes }: Batch, check: (content: C) => C): C {
  const written = applyWrites(kind.split(content), writes);
  const cells = kind.tidy?.(written) ?? written;
  const made = check(kind.join(cells));
  const known = kind.split(made);
  const stray = Object.keys(cells).find((cell) => !Object.hasOwn(known, cell));
  if (stray !== undefined)
    throw new Refusal(
      400,
      'unknown-cell',
      `The document has no part "${stray.slice(0, 80)}". Reload the page and try again.`,
    );
  return made;
}
