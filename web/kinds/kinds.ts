// What kinds of items there are, and what each of them can be used for: the one place that knows.

/** Kinds of items whose content is a motion. */
export const MOTION_KINDS = ['pose', 'clip', 'cycle', 'take', 'exposure'] as const;
export const ITEM_KINDS = [...MOTION_KINDS, 'drawings', 'pack'] as const;
export type ItemKind = (typeof ITEM_KINDS)[number];
export type MotionKind = (typeof MOTION_KINDS)[number];

export interface Kind {
  /** What it holds: a motion of its own, drawings, or other items. */
  readonly content: 'motion' | 'drawings' | 'members';
  /** Whether it can be fitted to a character, and exported, by itself. */
  readonly fits: boolean;
  /** Whether it has versions of its own, and can be changed into another. */
  readonly versions: boolean;
  /** Whether it can lead to another item, or be put into a pack. */
  readonly joins: boolean;
  /** Whether it is shown on the figure that it belongs to, whoever is on hand. */
  readonly onOwn: boolean;
  /** What it is, and what to do instead, where it has no motion to be used as one: follows its name in a sentence. */
  readonly instead?: string;
  /** What a motion made from it is called. */
  readonly makes: MotionKind;
}

const motion = (makes: MotionKind): Kind => ({
  content: 'motion',
  fits: true,
  versions: true,
  joins: true,
  onOwn: false,
  makes,
});

export const KINDS: Readonly<Record<ItemKind, Kind>> = {
  pose: motion('pose'),
  clip: motion('clip'),
  cycle: motion('cycle'),
  take: motion('take'),
  // which drawing shows when, and no movement
  exposure: { ...motion('exposure'), onOwn: true },
  // drawings alone: a motion in which nothing moves leafs through them; another figure takes them over
  drawings: {
    content: 'drawings',
    fits: false,
    versions: false,
    joins: false,
    onOwn: true,
    makes: 'exposure',
    instead: 'is a set of drawings: add it to a figure instead',
  },
  // its members can do all of that
  pack: {
    content: 'members',
    fits: false,
    versions: false,
    joins: false,
    onOwn: false,
    makes: 'take',
    instead: 'is a pack: use its members instead',
  },
};

/** What an item can be used for. */
export const kindOf = (item: { readonly kind: ItemKind }): Kind => KINDS[item.kind];
