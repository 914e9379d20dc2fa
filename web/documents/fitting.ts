import {
  type CorrectionTrack,
  type ExposureKey,
  type FittingEdits,
  type HandGoal,
  type LookGoal,
  NO_EDITS,
  type OffsetKey,
  type Plant,
  type SaidOfKey,
} from '@velvet-reel/motion';
import { FIT_DEFAULTS, type FitSettings } from '../wishes/wishes';
import type { Cells, DocumentKind } from './cells';

/** A fitting under work: what is set, and what is done by hand. */
export interface FittingContent {
  readonly settings: FitSettings;
  readonly edits: FittingEdits;
}

// Every setting is a cell, and every plant, goal, look and correction key: two people at two of them do not meet. Lists have
// no places that could shift; an entry is named by what it is about.

const goalName = (g: HandGoal): string => `${g.hand} ${g.keep}`;
const lookName = (l: LookGoal): string => l.point.join(' ');
const plantName = (p: Plant): string => `${p.part} ${p.start}`;
const trackName = (t: CorrectionTrack): string => ('joint' in t ? `joint ${t.joint}` : `handle ${t.handle}`);

/** Names for a list's entries; one that is taken already gets a number. */
function named<T>(prefix: string, list: readonly T[], nameOf: (x: T) => string): [string, T][] {
  const times = new Map<string, number>();
  return list.map((x) => {
    const name = nameOf(x);
    const n = (times.get(name) ?? 0) + 1;
    times.set(name, n);
    return [`${prefix}/${name}${n > 1 ? `/${n}` : ''}`, x];
  });
}

const CORRECTION = /^correction\/(joint|handle) (.*)\/(\d+(?:\.\d+)?)$/;

export const FITTING: DocumentKind<FittingContent> = {
  empty: { settings: FIT_DEFAULTS, edits: NO_EDITS },

  split({ settings, edits }) {
    const { tuning, ...plain } = settings;
    return {
      ...Object.fromEntries(Object.entries(plain).map(([name, value]) => [`settings/${name}`, value])),
      ...Object.fromEntries(Object.entries(tuning).map(([name, value]) => [`tuning/${name}`, value])),
      frames: edits.frames,
      // with none of one's own the plants found are held; an empty list of one's own holds none
      ...(edits.plants !== null && { 'own plants': true }),
      ...Object.fromEntries(named('plant', edits.plants ?? [], plantName)),
      ...Object.fromEntries(named('goal', edits.goals, goalName)),
      ...Object.fromEntries(named('look', edits.looks, lookName)),
      ...Object.fromEntries(
        edits.corrections.flatMap((track) =>
          track.keys.map(({ frame, ...key }) => [`correction/${trackName(track)}/${frame}`, key]),
        ),
      ),
      ...Object.fromEntries(
        (edits.exposures ?? []).flatMap(({ part, keys }) =>
          keys.map(({ frame, label }) => [`exposure/${part}/${frame}`, label] as const),
        ),
      ),
      ...Object.fromEntries(
        (edits.offKeys ?? []).map(({ joint, frame, meant }) => [`off key/${joint}/${frame}`, meant]),
      ),
    };
  },

  join(cells) {
    const part = (prefix: string): Record<string, unknown> =>
      Object.fromEntries(
        Object.entries(cells).flatMap(([cell, value]) =>
          cell.startsWith(`${prefix}/`) ? [[cell.slice(prefix.length + 1), value]] : [],
        ),
      );
    const list = <T>(prefix: string): T[] =>
      Object.entries(part(prefix))
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([, value]) => value as T);
    return {
      settings: {
        ...FIT_DEFAULTS,
        ...part('settings'),
        tuning: { ...FIT_DEFAULTS.tuning, ...part('tuning') },
      },
      edits: {
        frames: (cells.frames as number | undefined) ?? NO_EDITS.frames,
        plants: cells['own plants'] === true ? list<Plant>('plant').sort((a, b) => a.start - b.start) : null,
        goals: list('goal'),
        looks: list('look'),
        corrections: corrections(cells),
        ...exposures(cells),
        ...offKeys(cells),
      },
    };
  },
};

const EXPOSURE = /^exposure\/(.*)\/(\d+)$/;

/** Drawings by hand; nothing where there are none, as in what was kept before there were any. */
function exposures(cells: Cells): Pick<FittingEdits, 'exposures'> {
  const parts = new Map<string, ExposureKey[]>();
  for (const [cell, label] of Object.entries(cells)) {
    const [, part, frame] = EXPOSURE.exec(cell) ?? [];
    if (part === undefined || frame === undefined || typeof label !== 'string') continue;
    parts.set(part, [...(parts.get(part) ?? []), { frame: Number(frame), label }]);
  }
  if (parts.size === 0) return {};
  return {
    exposures: [...parts]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([part, keys]) => ({ part, keys: keys.sort((a, b) => a.frame - b.frame) })),
  };
}

const OFF_KEY = /^off key\/(.*)\/(\d+)$/;

/** What was said of keys off their joints; nothing where nothing was said. */
function offKeys(cells: Cells): Pick<FittingEdits, 'offKeys'> {
  const said = Object.entries(cells).flatMap(([cell, meant]): SaidOfKey[] => {
    const [, joint, frame] = OFF_KEY.exec(cell) ?? [];
    return joint !== undefined && frame !== undefined && typeof meant === 'boolean'
      ? [{ joint, frame: Number(frame), meant }]
      : [];
  });
  said.sort((a, b) => a.joint.localeCompare(b.joint) || a.frame - b.frame);
  return said.length > 0 ? { offKeys: said } : {};
}

function corrections(cells: Cells): CorrectionTrack[] {
  const tracks = new Map<string, { of: { joint: string } | { handle: string }; keys: OffsetKey[] }>();
  for (const [cell, value] of Object.entries(cells)) {
    const [, what, name, frame] = CORRECTION.exec(cell) ?? [];
    if (name === undefined || frame === undefined) continue;
    const id = `${what} ${name}`;
    const track = tracks.get(id) ?? { of: what === 'joint' ? { joint: name } : { handle: name }, keys: [] };
    tracks.set(id, track);
    track.keys.push({ ...(value as Omit<OffsetKey, 'frame'>), frame: Number(frame) });
  }
  return [...tracks.entries()]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([, { of, keys }]) => ({ ...of, keys: keys.sort((a, b) => a.frame - b.frame) }) as CorrectionTrack);
}
