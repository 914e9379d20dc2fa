import { MEETS } from '@velvet-reel/motion';
import { z } from 'zod';
import type { PlayContent } from './play';

// A play-through, checked when it comes from outside. See PlayGraph in the core.

const MOST = { inputs: 60, states: 300, ways: 2000, items: 12, conditions: 12 } as const;

const id = z.string().regex(/^[\w-]{1,16}$/, 'not an id');
const name = z.string().trim().min(1, 'enter a name').max(120);
const number = z.number().min(-1e6).max(1e6);
const key = z.string().regex(/^\w{0,40}$/, 'not a key');

const input = z.strictObject({
  id,
  name,
  kind: z.enum(['hold', 'press', 'number']),
  key,
  lessKey: key,
  pad: z.int().min(-1).max(63),
  min: number,
  max: number,
});
const content = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('item'), itemId: id }),
  z.strictObject({
    kind: z.literal('mix'),
    input: z.string().max(16),
    items: z.array(z.strictObject({ value: number, itemId: id })).max(MOST.items),
  }),
]);
const state = z.strictObject({
  id,
  name,
  at: z.tuple([number, number]),
  content,
  speed: z.number().min(0.05).max(20),
  repeats: z.boolean(),
});
const condition = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('held'), input: id, held: z.boolean() }),
  z.strictObject({ kind: z.literal('pressed'), input: id }),
  z.strictObject({ kind: z.literal('above'), input: id, value: number }),
  z.strictObject({ kind: z.literal('below'), input: id, value: number }),
  z.strictObject({ kind: z.literal('ended') }),
  z.strictObject({ kind: z.literal('after'), seconds: z.number().min(0).max(3600) }),
]);
const way = z.strictObject({
  id,
  from: id.nullable(),
  to: id,
  when: z.array(condition).max(MOST.conditions),
  join: z.strictObject({
    kind: z.enum(['cut', 'crossfade', 'decay']),
    frames: z.int().min(0).max(600),
    meet: z.enum(MEETS),
  }),
  entry: z.enum(['start', 'phase', 'alike']),
});

export const playContent = z.strictObject({
  name: z.string().trim().min(1, 'enter a name').max(200),
  castId: id.nullable(),
  fps: z.number().min(10).max(120),
  start: z.string().max(16),
  inputs: z.array(input).max(MOST.inputs),
  states: z.array(state).max(MOST.states),
  ways: z.array(way).max(MOST.ways),
});

export const asPlay = (given: unknown): PlayContent => playContent.parse(given) as PlayContent;
