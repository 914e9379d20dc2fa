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
    secondFactor: z.boolean().nullable().describe('Whether a code is asked for at sign-in; null for who is no admin'),
    createdAt: date,
  })
  .meta({ id: 'Person' });
export type PersonRow = z.input<typeof person>;

/** What a token may be used for: to look, or for what its person may do. Never for accounts and other tokens. */
export const TOKEN_SCOPES = ['read', 'change'] as const;
export type TokenScope = (typeof TOKEN_SCOPES)[number];

export const newToken = z.object({
  name: z.string().trim().min(1, 'enter a name').max(120),
  scope: z.enum(TOKEN_SCOPES).default('change'),
  days: z.int().min(1).max(730).default(180).describe('How long it is valid'),
});

export const apiToken = z.object({
  id: z.string(),
  name: z.string(),
  scope: z.enum(TOKEN_SCOPES),
  expiresAt: date.nullable().describe('Null: it does not expire'),
  starts: z.string(),
  lastUsedAt: date.nullable(),
  createdAt: date,
});
export type TokenRow = z.input<typeof apiToken>;

export const QUOTAS = ['library', 'person'] as const;
/** What a quota is of: everything together, or what each person has stored. */
export type QuotaOf = (typeof QUOTAS)[number];

const stored = z.object({ used: z.number(), most: z.number().nullable().describe('Null: no quota is set') });
export const storage = z
  .object({
    library: stored,
    /** Who has stored most comes first; for who is no admin, oneself alone. */
    people: z.array(stored.extend({ id: z.string(), name: z.string() })),
  })
  .meta({ id: 'Storage' });
export type Storage = z.input<typeof storage>;

export const newQuota = z.object({
  of: z.enum(QUOTAS),
  bytes: z
    .int()
    .positive()
    .max(2 ** 50)
    .nullable()
    .describe('Null: no quota'),
});

export const newInvitation = z.object({
  name: z.string().trim().min(1, 'enter whom it is for').max(120).describe('Whom it is meant for'),
  role: z.enum(ROLES),
  days: z.int().min(1).max(60).default(7).describe('How long the link holds'),
});

export const invitation = z.object({
  id: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  by: z.string(),
  expiresAt: date,
});
export type InvitationRow = z.input<typeof invitation>;

/** What a new second factor is set up with; told once. */
export interface FactorSetup {
  /** otpauth: address with the secret, for an authenticator. */
  uri: string;
  /** Each lets in once, without the authenticator. */
  codes: string[];
}

/** Who has the application open, and what they look at. */
export interface Present {
  clientId: string;
  personId: string;
  name: string;
  subjectId: string | null;
  /** Where their playhead stands, where what they look at has one. */
  frame: number | null;
}

/** What is written down for whoever answers for the library: who came in, what left it, who may do what, what is gone. */
export const AUDITED = [
  'signed in',
  'sign-in failed',
  'signed out',
  'session ended',
  'key made',
  'key revoked',
  'invited',
  'invitation withdrawn',
  'account made',
  'account changed',
  'right given',
  'right taken',
  'folder restricted',
  'folder opened',
  'folder hidden',
  'folder shown',
  'exported',
  'supplier linked',
  'supplier unlinked',
  'bought',
  'quota set',
  'destroyed',
] as const;
export type Audited = (typeof AUDITED)[number];

export const auditEntry = z
  .object({
    seq: z.int(),
    at: date,
    personId: z.string().nullable(),
    personName: z.string().nullable(),
    what: z.string(),
    about: z.string(),
  })
  .meta({ id: 'AuditEntry' });
export type AuditEntry = z.input<typeof auditEntry>;

export const sessionRow = z.object({
  id: z.string(),
  browser: z.string(),
  since: date,
  usedAt: date,
  own: z.boolean().describe('Whether it is the session of this request'),
});
export type SessionRow = z.input<typeof sessionRow>;
