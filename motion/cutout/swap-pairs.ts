import type { BodyMap } from '../bodymap/slots';
import { ORDER_TRACK, viewTrack } from '../motion/tracks';
import type { CutoutPart, CutoutRig } from '../rig/rig';
import type { FlatParty } from './drive';
import type { CutoutKeys, StepKeys } from './keys';
import { readPartName } from './part-names';

/** A joint of the old figure with the one that takes its place. */
export interface SwapPair {
  readonly from: string;
  readonly to: string;
  readonly by: 'map' | 'name';
}

/** Joints that move in the old figure and have no partner, and joints of the new one that keep their rest. */
export interface Unpaired {
  readonly from: readonly string[];
  readonly to: readonly string[];
}

/** By the body map first; what no slot names by what its part is called. */
export function pairJoints(
  source: FlatParty,
  target: FlatParty,
  keys: CutoutKeys,
): { pairs: SwapPair[]; unpaired: Unpaired } {
  const pairs: SwapPair[] = [];
  const taken = new Set<string>();
  const add = (from: string, to: string, by: SwapPair['by']): void => {
    pairs.push({ from, to, by });
    taken.add(to);
  };
  const slots = (map: BodyMap): [string, number][] =>
    Object.entries(map.slots).flatMap(([s, e]) => (e.joint >= 0 ? [[s, e.joint] as [string, number]] : []));
  const toSlot = new Map(slots(target.map));
  const done = new Set<string>();
  for (const [slot, joint] of slots(source.map)) {
    const other = toSlot.get(slot);
    if (other === undefined) continue;
    add(source.rig.names[joint]!, target.rig.names[other]!, 'map');
    done.add(source.rig.names[joint]!);
  }
  const meaning = (name: string): string => {
    const { kind, side } = readPartName(name);
    return kind ? `${kind} ${side ?? ''}` : name.toLowerCase();
  };
  for (const name of source.rig.names) {
    if (done.has(name)) continue;
    const other = target.rig.names.find((n) => !taken.has(n) && (n === name || meaning(n) === meaning(name)));
    if (other !== undefined) {
      add(name, other, 'name');
      done.add(name);
    }
  }
  const moving = new Set(keys.tracks.filter((t) => t.keys.length > 0).map((t) => t.joint));
  return {
    pairs,
    unpaired: {
      from: source.rig.names.filter((n) => moving.has(n) && !done.has(n)),
      to: target.rig.names.filter((n) => !taken.has(n)),
    },
  };
}

/**
 * Labels go to the part that takes the place, in every view of it, as far as it has such a drawing.
 * @param keyed all that is keyed in the old figure
 */
export function stepsOn(
  from: CutoutRig,
  to: CutoutRig,
  partner: ReadonlyMap<string, string>,
  track: StepKeys,
  keyed: readonly StepKeys[],
  missing: { part: string; label: string }[],
): StepKeys[] {
  if (track.name === ORDER_TRACK) return [];
  for (const [a, b] of partner) {
    if (track.name !== viewTrack(a)) continue;
    const views = new Set(to.parts.filter((p) => to.names[p.joint] === b && p.view).map((p) => p.view!));
    return [{ name: viewTrack(b), keys: track.keys.filter((k) => has(views, k.label, b)) }];
  }
  const part = from.parts.find((p) => p.name === track.name);
  if (!part) return [];
  const meaning = readPartName(part.name);
  const joint = partner.get(from.names[part.joint]!);
  const alike = (p: CutoutPart): boolean => {
    const r = readPartName(p.name);
    return (
      to.names[p.joint] === joint &&
      r.kind === meaning.kind &&
      (r.side === undefined || meaning.side === undefined || r.side === meaning.side)
    );
  };
  const named = to.parts.filter((p) => p.name === part.name);
  const others = (named.length > 0 ? named : to.parts.filter(alike)).filter((p) => p.drawings.length > 1);
  if (others.length === 0) {
    for (const label of new Set(track.keys.map((k) => k.label))) missing.push({ part: track.name, label });
    return [];
  }
  // a view that the old figure set by itself is not set by another
  const own = (view: string | undefined): boolean =>
    view !== part.view && keyed.some((k) => from.parts.some((p) => p.name === k.name && p.view === view && same(p)));
  const same = (p: CutoutPart): boolean => {
    const r = readPartName(p.name);
    return p.joint === part.joint && r.kind === meaning.kind && r.side === meaning.side;
  };
  return others
    .filter((p) => !own(p.view))
    .map(({ name, drawings }) => {
      const labels = new Set(drawings);
      return { name, keys: track.keys.filter((k) => has(labels, k.label, name)) };
    });

  function has(known: ReadonlySet<string>, label: string, where: string): boolean {
    if (known.has(label)) return true;
    if (!missing.some((m) => m.part === where && m.label === label)) missing.push({ part: where, label });
    return false;
  }
}
