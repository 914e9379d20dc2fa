import type { BodyMapJson, RigJson } from '@velvet-reel/motion';
import { z } from 'zod';
import { count, named, typed } from './shape';

/** What became of an offered take here. */
const taken = named.extend({ issue: z.int(), binned: z.boolean() });

export const supplierState = z
  .object({
    state: z.enum(['away', 'unlinked', 'linked']),
    name: z.string().describe('What the supplier calls itself; empty where it is away'),
    account: z.object({ name: z.string(), credits: z.number(), owned: count }).nullable(),
    waiting: count.describe('Takes that are owned, and neither in the library nor on their way'),
    coming: count.describe('Takes on their way into the library'),
    reissued: count.describe('Takes in the library of which there is a newer issue'),
    byItself: z.boolean().describe('Whether what is owned is brought in without being asked for'),
  })
  .meta({ id: 'SupplierState' });
export type SupplierState = z.output<typeof supplierState>;

export const offer = z
  .object({
    id: z.string(),
    name: z.string(),
    note: z.string(),
    tags: z.array(z.string()),
    seconds: z.number(),
    fps: z.number(),
    price: z.int(),
    issue: z.int().describe('The newest one'),
    packs: z.array(z.string()),
    owned: z.boolean(),
    onTheWay: z.boolean().describe('Whether a job is about to bring it in'),
    item: taken.nullable(),
  })
  .meta({ id: 'Offer' });
export type Offer = z.output<typeof offer>;

export const offerPage = z.object({
  takes: z.array(offer),
  total: count,
  pages: count,
  tags: z.array(z.object({ name: z.string(), count })),
});
export type OfferPage = z.output<typeof offerPage>;

export const offeredPack = z
  .object({
    id: z.string(),
    name: z.string(),
    note: z.string(),
    takes: z.array(z.string()),
    price: z.int(),
    owned: count,
  })
  .meta({ id: 'OfferedPack' });
export type OfferedPackRow = z.output<typeof offeredPack>;

export const reissue = z
  .object({
    take: z.string(),
    item: named,
    from: z.int(),
    to: z.int(),
    changes: z.array(z.string()).describe('What each issue after the one here changed'),
    changedHere: z.boolean().describe('Whether its version in force was made here'),
    usedBy: z.array(z.string()).describe('Reels, packs and items made from it, by name'),
  })
  .meta({ id: 'Reissue' });
export type Reissue = z.output<typeof reissue>;

/** The beginning of an offered take, fit to be put on a character. */
export const offerPreview = z.object({
  rig: typed<RigJson>(z.record(z.string(), z.unknown())),
  map: typed<BodyMapJson>(z.looseObject({ slots: z.record(z.string(), z.unknown()) })),
  restPose: z.array(z.number()).nullable(),
  motion: z.string().describe('Packed, base64'),
});
export type OfferPreview = z.output<typeof offerPreview>;
