import { z } from 'zod';
import { count, date, named } from './shape';

export const JOB_STATES = ['collecting', 'queued', 'paused', 'done', 'cancelled'] as const;
export type JobState = (typeof JOB_STATES)[number];
export const JOB_KINDS = ['intake', 'fit', 'fetch'] as const;
export type JobKind = (typeof JOB_KINDS)[number];
export const PART_STATES = ['waiting', 'ready', 'running', 'done', 'refused', 'cancelled'] as const;
export type PartState = (typeof PART_STATES)[number];

export const job = z
  .object({
    id: z.string(),
    kind: z.enum(JOB_KINDS),
    title: z.string(),
    state: z.enum(JOB_STATES),
    personId: z.string(),
    personName: z.string().nullable(),
    createdAt: date,
    startedAt: date.nullable(),
    endedAt: date.nullable(),
    order: z.record(z.string(), z.unknown()),
    counts: z.record(z.enum(PART_STATES), count),
    leftS: z.number().nullable().describe('Seconds left at the current rate'),
  })
  .meta({ id: 'Job' });
export type Job = z.input<typeof job>;
export type JobRow = z.output<typeof job>;

const fitReport = z.object({
  score: z.number().optional(),
  slipCm: z.number(),
  floorCm: z.number(),
  directionDeg: z.number(),
  troubles: count,
  worst: z.string(),
  frame: z.number().optional(),
});

export const jobPart = z
  .object({
    id: z.string(),
    number: count,
    state: z.enum(PART_STATES),
    name: z.string(),
    bytes: z.number(),
    message: z.string(),
    result: z
      .object({
        items: z.array(named.loose()),
        cast: z.array(named.loose()),
        same: z.boolean(),
        warnings: z.array(z.string()),
        report: fitReport,
        from: z.string(),
        castId: z.string(),
      })
      .partial()
      .loose()
      .nullable(),
  })
  .meta({ id: 'JobPart' });
export type JobPart = z.input<typeof jobPart>;
export type PartRow = z.output<typeof jobPart>;

export const missingPart = z.object({ number: count, name: z.string(), bytes: z.number() });

/** What came of a file. */
const intakeResult = z.object({
  items: z.array(named.extend({ frames: count, fps: z.number() })),
  cast: z.array(named.extend({ joints: count })),
  pack: named.optional().describe('The pack of a file with several clips'),
  rigId: z.string().optional(),
  known: z.boolean().describe('Whether the skeleton was known before'),
  warnings: z.array(z.string()),
  format: z.string().optional(),
});
export type IntakeResult = z.output<typeof intakeResult>;

export const intakeReport = z
  .object({
    id: z.string(),
    fileName: z.string(),
    bytes: z.number(),
    state: z.enum(['done', 'refused']),
    message: z.string(),
    code: z.string(),
    result: intakeResult,
    createdAt: date,
  })
  .meta({ id: 'IntakeReport' });
export type IntakeRow = z.input<typeof intakeReport>;
