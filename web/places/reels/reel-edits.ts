import {
  type CameraKey,
  endsOf,
  itemFramesIn,
  JOIN_DEFAULTS,
  type LabelKey,
  type Lasting,
  type LevelKey,
  type Marker,
  OVERLAY_DEFAULTS,
  type Overlay,
  onsetStrength,
  PLACEMENT_DEFAULTS,
  type Placement,
  type ReelCamera,
  type ReelMember,
  type Region,
  reelFramesIn,
  type Shot,
  STRETCH_DEFAULTS,
  stretchLength,
} from '@velvet-reel/motion';
import type { ReelContent } from '@/documents/reel';

// What can be done to a reel: every step is a new reel, so that a page shows it, stores it and takes it back.

/** Names something on a reel; no two shall share one. */
export const newName = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(8)), (x) => (x % 36).toString(36)).join('');

/** An item as a reel needs to know it. */
export interface Layable extends Lasting {
  readonly id: string;
  /** The version that is in force when it is laid: that one stays. */
  readonly versionId: string;
  readonly name: string;
  /** Comes round: it is repeated rather than stretched. */
  readonly loops: boolean;
}

const changeMember = (reel: ReelContent, id: string, how: (member: ReelMember) => ReelMember): ReelContent => ({
  ...reel,
  members: reel.members.map((m) => (m.id === id ? how(m) : m)),
});

/** A reel that is at least as long as what lies on it. */
export const longEnough = (reel: ReelContent, end: number): ReelContent =>
  end < reel.frames ? reel : { ...reel, frames: end + 1 };

const nextOrder = (list: readonly { order: number }[]): number => Math.max(0, ...list.map((x) => x.order)) + 1;

export function addMember(reel: ReelContent, castId: string): { reel: ReelContent; id: string } {
  const id = newName();
  const member: ReelMember = {
    id,
    castId,
    order: nextOrder(reel.members),
    muted: false,
    base: [],
    overlays: [],
    keys: [],
  };
  return { reel: { ...reel, members: [...reel.members, member] }, id };
}

export const setMuted = (reel: ReelContent, id: string, muted: boolean): ReelContent =>
  changeMember(reel, id, (m) => ({ ...m, muted }));

export const removeMember = (reel: ReelContent, id: string): ReelContent => ({
  ...reel,
  members: reel.members.filter((m) => m.id !== id),
});

/** The same on another character: all lanes, each thing under a name of its own. Keys of single joints stay behind. */
export function sameOn(reel: ReelContent, id: string, castId: string): { reel: ReelContent; id: string } {
  const from = reel.members.find((m) => m.id === id)!;
  const made = newName();
  const fresh = <T extends { id: string }>(x: T): T => ({ ...x, id: newName() });
  const member: ReelMember = {
    ...from,
    id: made,
    castId,
    order: nextOrder(reel.members),
    base: from.base.map((p) =>
      p === firstOf(from) ? { ...fresh(p), offset: { ...p.offset, x: freeSpot(reel) } } : fresh(p),
    ),
    overlays: from.overlays.map((o) => ({ ...fresh(o), joints: [] })),
    keys: from.keys.filter((t) => 'handle' in t),
  };
  return { reel: { ...reel, members: [...reel.members, member] }, id: made };
}

const firstOf = (member: ReelMember): Placement | undefined =>
  member.base.reduce<Placement | undefined>((first, p) => (first && first.at <= p.at ? first : p), undefined);

/** How far apart members begin, metres, unless somebody lays them otherwise. */
const ABREAST = 1;

/** Where somebody new can begin without standing in anybody else: metres to the side. */
function freeSpot(reel: ReelContent, memberId?: string): number {
  const taken = reel.members.flatMap((m) => (m.id === memberId ? [] : [firstOf(m)?.offset.x ?? 0]));
  let x = 0;
  while (taken.some((t) => Math.abs(t - x) < ABREAST / 2)) x += ABREAST;
  return x;
}

/** Where the last item of a base lane ends, first frame that is free. */
export const endOfLane = (member: ReelMember, lengthOf: (p: Placement) => number): number =>
  member.base.reduce((end, p) => Math.max(end, p.at + lengthOf(p)), 0);

/** Lays an item on a base lane; the first one beside whoever else is there. */
export function lay(reel: ReelContent, memberId: string, item: Layable, at: number): { reel: ReelContent; id: string } {
  const id = newName();
  const bare = reel.members.find((m) => m.id === memberId)?.base.length === 0;
  const placement: Placement = {
    ...PLACEMENT_DEFAULTS,
    id,
    itemId: item.id,
    versionId: item.versionId,
    at: Math.max(0, at),
    ...(bare && { offset: { x: freeSpot(reel, memberId), z: 0, turn: 0 } }),
  };
  const laid = changeMember(reel, memberId, (m) => ({ ...m, base: [...m.base, placement] }));
  return { reel: longEnough(laid, placement.at + stretchLength(placement, item, reel.fps) - 1), id };
}

/** Lays an item behind everything on a base lane, in a crossfade with what lies last. */
export function layBehind(
  reel: ReelContent,
  memberId: string,
  item: Layable,
  lengthOf: (p: Placement) => number,
): { reel: ReelContent; id: string } {
  const member = reel.members.find((m) => m.id === memberId)!;
  const end = endOfLane(member, lengthOf);
  const length = stretchLength(STRETCH_DEFAULTS, item, reel.fps);
  const overlap = end === 0 ? 0 : Math.min(JOIN_DEFAULTS.frames, length - 1, end - 1);
  return lay(reel, memberId, item, Math.max(0, end - overlap));
}

/**
 * Lays an item into a base lane at a frame, mixed with what lies before and after it; everything from there on moves on by its
 * length, and so does what is laid and set over it. What plays at that frame is cut in two; what repeats there is let play to
 * its end first.
 */
export function layBetween(
  reel: ReelContent,
  memberId: string,
  item: Layable,
  frame: number,
  itemOf: (p: Placement) => Lasting | undefined,
): { reel: ReelContent; id: string } {
  const member = reel.members.find((m) => m.id === memberId)!;
  const playing = member.base.find((p) => {
    const own = itemOf(p);
    return own && p.at < frame && frame < p.at + stretchLength(p, own, reel.fps);
  });
  let made = reel;
  let at = frame;
  if (playing) {
    const own = itemOf(playing)!;
    const cut = split(reel, memberId, playing.id, frame, own);
    if (cut) made = changePlacement(cut.reel, memberId, cut.id, { join: JOIN_DEFAULTS });
    else at = playing.at + stretchLength(playing, own, reel.fps);
  }
  const length = stretchLength(STRETCH_DEFAULTS, item, reel.fps);
  const base = made.members.find((m) => m.id === memberId)!.base;
  const [before, after] = [base.some((p) => p.at < at), base.some((p) => p.at >= at)];
  const mix = Math.min(JOIN_DEFAULTS.frames, length - 1);
  const start = Math.max(0, before ? at - mix : at);
  const by = Math.max(0, start + length - (after ? mix : 0) - at);
  const shifted = changeMember(made, memberId, (m) => ({
    ...alongWith(m, at, by),
    base: m.base.map((p) => (p.at >= at ? { ...p, at: p.at + by } : p)),
  }));
  const laid = lay(shifted, memberId, item, start);
  const end = Math.max(
    ...laid.reel.members
      .find((m) => m.id === memberId)!
      .base.map((p) => p.at + stretchLength(p, p.id === laid.id ? item : (itemOf(p) ?? item), reel.fps)),
  );
  return { reel: longEnough(laid.reel, end - 1), id: laid.id };
}

/** Lays an item over the base, for some of the body, with a strength that comes in and goes. */
export function layOverBase(
  reel: ReelContent,
  memberId: string,
  item: Layable,
  at: number,
  regions: readonly Region[],
): { reel: ReelContent; id: string } {
  const id = newName();
  const length = stretchLength(STRETCH_DEFAULTS, item, reel.fps);
  const laid = changeMember(reel, memberId, (m) => {
    const overlay: Overlay = {
      ...OVERLAY_DEFAULTS,
      id,
      itemId: item.id,
      versionId: item.versionId,
      at: Math.max(0, at),
      regions,
      strength: onsetStrength(length),
      order: nextOrder(m.overlays),
    };
    return { ...m, overlays: [...m.overlays, overlay] };
  });
  return { reel: longEnough(laid, at + length - 1), id };
}

/**
 * A member whose overlays, keys, numbers and drawings from a frame on stand so many frames later; the base lane stays.
 * @param by earlier where negative, by no more than `from`
 */
function alongWith(member: ReelMember, from: number, by: number): ReelMember {
  const later = <K extends { readonly frame: number }>(keys: readonly K[]): K[] => {
    const moved = keys.filter((k) => k.frame >= from).map((k) => ({ ...k, frame: k.frame + by }));
    // what moves to where a key stands takes its place
    const taken = new Set(moved.map((k) => k.frame));
    const stay = keys.filter((k) => k.frame < from && !taken.has(k.frame));
    return [...stay, ...moved].sort((a, b) => a.frame - b.frame);
  };
  return {
    ...member,
    overlays: member.overlays.map((o) => (o.at >= from ? { ...o, at: o.at + by } : o)),
    keys: member.keys.map((t) => ({ ...t, keys: later(t.keys as readonly { frame: number }[]) }) as typeof t),
    ...(member.numbers && { numbers: member.numbers.map((l) => ({ ...l, keys: later(l.keys) })) }),
    ...(member.labels && { labels: member.labels.map((l) => ({ ...l, keys: later(l.keys) })) }),
  };
}

/** Changes a placement; `shift` moves everything that begins after it along with it, what is laid and set over it included. */
export function changePlacement(
  reel: ReelContent,
  memberId: string,
  id: string,
  change: Partial<Placement>,
  shift = false,
): ReelContent {
  const own = reel.members.find((m) => m.id === memberId)?.base.find((p) => p.id === id);
  if (!own) return reel;
  const by = shift && change.at !== undefined ? change.at - own.at : 0;
  return changeMember(reel, memberId, (m) => ({
    ...(by === 0 ? m : alongWith(m, own.at, by)),
    base: m.base.map((p) =>
      p.id === id ? { ...p, ...change } : by !== 0 && p.at > own.at ? { ...p, at: Math.max(0, p.at + by) } : p,
    ),
  }));
}

export const changeOverlay = (reel: ReelContent, memberId: string, id: string, change: Partial<Overlay>): ReelContent =>
  changeMember(reel, memberId, (m) => ({
    ...m,
    overlays: m.overlays.map((o) => (o.id === id ? { ...o, ...change } : o)),
  }));

export const changeKeys = (reel: ReelContent, memberId: string, keys: ReelMember['keys']): ReelContent =>
  changeMember(reel, memberId, (m) => ({ ...m, keys }));

/** Every key of a frame on another one; what stood there gives way, joint by joint. */
export const moveKeys = (reel: ReelContent, memberId: string, from: number, to: number): ReelContent =>
  from === to
    ? reel
    : changeMember(reel, memberId, (m) => ({
        ...m,
        keys: m.keys.map((t) =>
          t.keys.some((k) => k.frame === from)
            ? {
                ...t,
                keys: t.keys
                  .filter((k) => k.frame !== to)
                  .map((k) => (k.frame === from ? { ...k, frame: to } : k))
                  .sort((a, b) => a.frame - b.frame),
              }
            : t,
        ),
      }));

/** Takes every key of a frame away. */
export const removeKeys = (reel: ReelContent, memberId: string, frame: number): ReelContent =>
  changeMember(reel, memberId, (m) => ({
    ...m,
    keys: m.keys.map((t) => ({ ...t, keys: t.keys.filter((k) => k.frame !== frame) })).filter((t) => t.keys.length > 0),
  }));

export const removeStretch = (reel: ReelContent, memberId: string, id: string): ReelContent =>
  changeMember(reel, memberId, (m) => ({
    ...m,
    base: m.base.filter((p) => p.id !== id),
    overlays: m.overlays.filter((o) => o.id !== id),
  }));

/** A stretch once more, right behind itself. */
export function copyStretch(
  reel: ReelContent,
  memberId: string,
  id: string,
  lengthOf: (s: Placement | Overlay) => number,
): { reel: ReelContent; id: string } {
  const made = newName();
  let end = 0;
  const behind = <S extends Placement | Overlay>(list: readonly S[]): S[] =>
    list.flatMap((s) => {
      if (s.id !== id) return [s];
      const copy = { ...s, id: made, at: s.at + lengthOf(s) };
      end = copy.at + lengthOf(s) - 1;
      return [s, copy];
    });
  const laid = changeMember(reel, memberId, (m) => ({ ...m, base: behind(m.base), overlays: behind(m.overlays) }));
  return { reel: longEnough(laid, end), id: made };
}

/** Frames of the item that lie between a placement's beginning and a frame of the reel. */
const itemFrames = (frames: number, stretch: Placement | Overlay, item: Lasting, fps: number): number =>
  Math.round(itemFramesIn(stretch, item, fps, frames));

/**
 * Cuts a placement in two at a frame of the reel; together they play what it played. What repeats is not cut.
 * @returns undefined where it cannot be cut there
 */
export function split(
  reel: ReelContent,
  memberId: string,
  id: string,
  frame: number,
  item: Lasting,
): { reel: ReelContent; id: string } | undefined {
  const own = reel.members.find((m) => m.id === memberId)?.base.find((p) => p.id === id);
  if (!own || own.repeats > 1) return undefined;
  const within = frame - own.at;
  if (within < 1 || within >= stretchLength(own, item, reel.fps)) return undefined;
  const { from, to } = endsOf(own, item);
  const cut = from + itemFrames(within, own, item, reel.fps);
  if (cut <= from || cut > to) return undefined;
  const second: Placement = {
    ...own,
    id: newName(),
    at: frame,
    from: cut,
    // both are one motion: it goes on where it was
    join: { ...own.join, kind: 'cut', meet: 'hips', level: false },
    offset: { x: 0, z: 0, turn: 0 },
  };
  const laid = changeMember(reel, memberId, (m) => ({
    ...m,
    base: m.base.flatMap((p) => (p.id === id ? [{ ...p, to: cut }, second] : [p])),
  }));
  return { reel: laid, id: second.id };
}

/**
 * What an end of a stretch is dragged to: the beginning cuts into the item, the end too; a cycle that is dragged longer than it
 * is repeats.
 * @param to first and last frame on the reel
 */
export function trimmed<S extends Placement | Overlay>(
  stretch: S,
  to: { readonly start: number; readonly end: number },
  item: Layable,
  fps: number,
): Pick<S, 'at' | 'from' | 'to' | 'repeats'> {
  const { from, to: last } = endsOf(stretch, item);
  const frames = itemFrames(to.start - stretch.at, stretch, item, fps);
  const start = Math.max(0, Math.min(last, from + (stretch.repeats === 1 ? frames : 0)));
  // never before the item begins
  const at = stretch.repeats === 1 ? stretch.at + Math.round(reelFramesIn(stretch, item, fps, start - from)) : to.start;
  const wanted = itemFrames(to.end - at, { ...stretch, from: start, to: null }, item, fps);
  const whole = item.frameCount - 1 - start;
  if (item.loops && wanted > whole && whole > 0)
    return { at, from: start, to: null, repeats: Math.max(1, Math.round(wanted / whole)) };
  if (stretch.repeats > 1 && item.loops)
    return { at, from: start, to: stretch.to, repeats: Math.max(1, Math.round(wanted / Math.max(1, last - start))) };
  const end = Math.min(item.frameCount - 1, Math.max(start, start + wanted));
  return { at, from: start, to: end === item.frameCount - 1 ? null : end, repeats: 1 };
}

export const addMarker = (reel: ReelContent, frame: number, name: string): ReelContent => ({
  ...reel,
  markers: [...reel.markers, { id: newName(), frame, name }],
});
export const changeMarker = (reel: ReelContent, id: string, change: Partial<Marker>): ReelContent => ({
  ...reel,
  markers: reel.markers.map((m) => (m.id === id ? { ...m, ...change } : m)),
});
export const removeMarker = (reel: ReelContent, id: string): ReelContent => ({
  ...reel,
  markers: reel.markers.filter((m) => m.id !== id),
});

/** Frames at which something begins or ends, for others to be laid against. */
export function landmarks(reel: ReelContent, lengthOf: (s: Placement | Overlay) => number, but?: string): number[] {
  const out = new Set([0, reel.frames - 1, ...reel.markers.map((m) => m.frame)]);
  for (const m of reel.members)
    for (const s of [...m.base, ...m.overlays]) {
      if (s.id === but) continue;
      out.add(s.at);
      out.add(s.at + lengthOf(s));
    }
  return [...out].sort((a, b) => a - b);
}

/** A member replaced by what became of it. */
export const withMember = (reel: ReelContent, member: ReelMember): ReelContent =>
  changeMember(reel, member.id, () => member);

/** Without a key of a number or of what is chosen; a lane without keys is gone. */
export const removeLevelKey = (
  reel: ReelContent,
  id: string,
  lane: 'numbers' | 'labels',
  name: string,
  frame: number,
): ReelContent =>
  changeMember(reel, id, (m) => {
    const { [lane]: lanes, ...rest } = m;
    const left = (lanes ?? [])
      .map((l) =>
        l.name === name ? { ...l, keys: (l.keys as readonly { frame: number }[]).filter((k) => k.frame !== frame) } : l,
      )
      .filter((l) => l.keys.length > 0);
    return (left.length > 0 ? { ...rest, [lane]: left } : rest) as ReelMember;
  });

/** A camera more that sees what is seen now, from a frame on. */
export function addCamera(
  reel: ReelContent,
  name: string,
  frame: number,
  shot: Shot,
): { reel: ReelContent; id: string } {
  const id = newName();
  return { reel: { ...reel, cameras: [...(reel.cameras ?? []), { id, name, keys: [{ ...shot, frame }] }] }, id };
}

export const changeCamera = (reel: ReelContent, id: string, change: Partial<ReelCamera>): ReelContent => ({
  ...reel,
  cameras: (reel.cameras ?? []).map((c) => (c.id === id ? { ...c, ...change } : c)),
});

export function removeCamera({ cameras = [], ...reel }: ReelContent, id: string): ReelContent {
  const rest = cameras.filter((c) => c.id !== id);
  return rest.length > 0 ? { ...reel, cameras: rest } : reel;
}

/** A camera's key set at a frame, or taken away where none is given; one that stands there gives way. */
export const setCameraKey = (
  reel: ReelContent,
  id: string,
  frame: number,
  key: Omit<CameraKey, 'frame'> | null,
): ReelContent => {
  const keys = reel.cameras?.find((c) => c.id === id)?.keys ?? [];
  const rest = keys.filter((k) => k.frame !== frame);
  return changeCamera(reel, id, {
    keys: key ? [...rest, { ...key, frame }].sort((a, b) => a.frame - b.frame) : rest,
  });
};

export function moveCameraKey(reel: ReelContent, id: string, from: number, to: number): ReelContent {
  const key = reel.cameras?.find((c) => c.id === id)?.keys.find((k) => k.frame === from);
  if (!key || from === to) return reel;
  const { frame: _, ...shot } = key;
  return setCameraKey(setCameraKey(reel, id, from, null), id, to, shot);
}

/** What shows from a frame on; null lets what lies beneath show again. A key that repeats what shows already goes. */
export const setLabelKey = (
  reel: ReelContent,
  id: string,
  name: string,
  frame: number,
  label: string | null,
): ReelContent => {
  const own = reel.members.find((m) => m.id === id)?.labels?.find((l) => l.name === name)?.keys ?? [];
  const keys = [...own.filter((k) => k.frame !== frame), { frame, label }].sort((a, b) => a.frame - b.frame);
  return setLabelKeys(
    reel,
    id,
    name,
    keys.filter((k, i) => (i === 0 ? k.label !== null : k.label !== keys[i - 1]!.label)),
  );
};

/** All keys of a lane of labels; without keys the lane goes. */
export const setLabelKeys = (reel: ReelContent, id: string, name: string, keys: readonly LabelKey[]): ReelContent =>
  changeMember(reel, id, (m) => {
    const { labels, ...rest } = m;
    const lanes = [...(labels ?? []).filter((l) => l.name !== name), ...(keys.length > 0 ? [{ name, keys }] : [])];
    return lanes.length > 0 ? { ...rest, labels: lanes.sort((a, b) => (a.name < b.name ? -1 : 1)) } : rest;
  });

/** The keys of a number; without any its lane is gone. */
export const setNumberKeys = (reel: ReelContent, id: string, name: string, keys: readonly LevelKey[]): ReelContent =>
  changeMember(reel, id, ({ numbers, ...rest }) => {
    const lanes = [...(numbers ?? []).filter((l) => l.name !== name), ...(keys.length > 0 ? [{ name, keys }] : [])];
    return lanes.length > 0 ? { ...rest, numbers: lanes.sort((a, b) => (a.name < b.name ? -1 : 1)) } : rest;
  });

/** A key of a number set at a frame; null: from there on what lies beneath counts again. */
export const setLevelKey = (
  reel: ReelContent,
  id: string,
  name: string,
  frame: number,
  value: number | null,
): ReelContent =>
  changeMember(reel, id, (m) => {
    const lanes = m.numbers ?? [];
    const own = lanes.find((l) => l.name === name)?.keys ?? [];
    const ease = own.find((k) => k.frame === frame)?.ease;
    const keys = [...own.filter((k) => k.frame !== frame), { frame, value, ...(ease && { ease }) }].sort(
      (a, b) => a.frame - b.frame,
    );
    return {
      ...m,
      numbers: [...lanes.filter((l) => l.name !== name), { name, keys }].sort((a, b) => (a.name < b.name ? -1 : 1)),
    };
  });
