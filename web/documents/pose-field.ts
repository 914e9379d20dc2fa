import { z } from 'zod';
import type { DocumentKind } from './cells';

/** A pose on a field: an item, and where it is pinned; the field reaches from 0 to 1 both ways. */
export interface Pin {
  readonly itemId: string;
  readonly name: string;
  readonly at: readonly [number, number];
}

/** The field of poses of a character. */
export interface FieldContent {
  readonly pins: readonly Pin[];
}

const MOST_PINS = 60;

// Every pin is a cell of its own: who moves one and who pins another do not meet.
const content = z.strictObject({
  pins: z
    .array(
      z.strictObject({
        itemId: z.string().regex(/^[\w-]{1,16}$/, 'not an id'),
        name: z.string().max(200),
        at: z.tuple([z.number().min(0).max(1), z.number().min(0).max(1)]),
      }),
    )
    .max(MOST_PINS),
});

/** Content as it should be. @throws ZodError where it is not */
export const asField = (given: unknown): FieldContent => content.parse(given);
export { content as fieldContent };

const PIN = 'pin/';

export const POSE_FIELD: DocumentKind<FieldContent> = {
  empty: { pins: [] },
  split: ({ pins }) =>
    Object.fromEntries(pins.map(({ itemId, ...pin }, order) => [`${PIN}${itemId}`, { ...pin, order }])),
  join: (cells) => ({
    pins: Object.entries(cells)
      .flatMap(([cell, value]) => {
        const { order, ...pin } = value as Omit<Pin, 'itemId'> & { order: number };
        return cell.startsWith(PIN) ? [{ order, pin: { itemId: cell.slice(PIN.length), ...pin } }] : [];
      })
      .sort((a, b) => a.order - b.order || (a.pin.itemId < b.pin.itemId ? -1 : 1))
      .map(({ pin }) => pin),
  }),
};
