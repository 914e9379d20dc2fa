import { z } from 'zod';
import { date } from './shape';

export const ROLES = ['viewer', 'animator', 'librarian', 'admin'] as const;
export type Role = (typeof ROLES)[number];

export const person = z
  .object({
    id: z.string(),
    name: z.string(),
    email: z.string().nullable(),
    role: z.enum(ROLES),
    left: z.boolean(),
    createdAt: date,
  })
  .meta({ id: 'Person' });
export type PersonRow = z.input<typeof person>;

export const apiToken = z.object({
  id: z.string(),
  name: z.string(),
  starts: z.string(),
  lastUsedAt: date.nullable(),
  createdAt: date,
});
export type TokenRow = z.input<typeof apiToken>;

/** Who has the application open, and what they look at. */
export interface Present {
  clientId: string;
  personId: string;
  name: string;
  subjectId: string | null;
}
