import { z } from 'zod';

// What can be set for a rig, checked when it comes from outside. See RigSetup.

const joint = z.string().min(1).max(300);
const vector = z.tuple([z.number(), z.number(), z.number()]);

export const rigSlots = z.record(
  z.string().max(40),
  z.object({
    joint: joint.nullable(),
    state: z.enum(['sure', 'guessed', 'missing', 'empty']),
    why: z.string().max(300),
  }),
);

const limit = z.object({
  bone: vector,
  middle: vector,
  cone: z.number().min(0).max(180),
  hinge: z.object({ axis: vector, from: z.number().min(-180).max(180), to: z.number().min(-180).max(180) }).optional(),
});

export const rigSetup = z.object({
  slots: rigSlots,
  match: z.object({ turns: z.array(z.number()).max(4 * 4096), how: z.string().max(300) }).nullable(),
  limits: z.record(z.string().max(40), limit).nullable(),
  pairs: z
    .array(z.tuple([joint, joint]))
    .max(4096)
    .nullable(),
  sets: z.array(z.object({ name: z.string().trim().min(1).max(80), joints: z.array(joint).min(1).max(4096) })).max(200),
});
