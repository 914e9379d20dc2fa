import type {
  CameraKey,
  CorrectionTrack,
  LabelKey,
  LevelKey,
  Marker,
  OffsetKey,
  Overlay,
  Placement,
  Reel,
  ReelCamera,
  ReelMember,
} from '@velvet-reel/motion';
import type { Cells, DocumentKind } from './cells';

/** A reel under work. */
export interface ReelContent extends Reel {
  readonly name: string;
}

// Everything that lies on a reel is a cell of its own: who moves one item and who sets a key on another member do not meet.

type KeyCell = Omit<OffsetKey, 'frame'>;
const trackName = (t: CorrectionTrack): string => ('joint' in t ? `joint ${t.joint}` : `handle ${t.handle}`);

function cellsOf({ id, base, overlays, keys, numbers, labels, ...member }: ReelMember): Cells {
  const at = `member/${id}`;
  return {
    [at]: member,
    ...Object.fromEntries(base.map(({ id: own, ...p }) => [`${at}/base/${own}`, p])),
    ...Object.fromEntries(overlays.map(({ id: own, ...o }) => [`${at}/over/${own}`, o])),
    ...Object.fromEntries(
      keys.flatMap((track) => track.keys.map(({ frame, ...key }) => [`${at}/key/${trackName(track)}/${frame}`, key])),
    ),
    ...Object.fromEntries(
      [
        ...(numbers ?? []).map((lane) => ['number', lane] as const),
        ...(labels ?? []).map((lane) => ['label', lane] as const),
      ].flatMap(([kind, { name, keys: own }]) =>
        own.map(({ frame, ...key }) => [`${at}/${kind}/${name}/${frame}`, key]),
      ),
    ),
  };
}

const CELL =
  /^member\/([\w-]+)(?:\/(?:(base|over)\/([\w-]+)|key\/(joint|handle) (.*)\/(\d+(?:\.\d+)?)|(number|label)\/(.*)\/(\d+(?:\.\d+)?)))?$/;

interface Growing {
  base: Placement[];
  overlays: Overlay[];
  tracks: Map<string, { of: { joint: string } | { handle: string }; keys: OffsetKey[] }>;
  numbers: Map<string, LevelKey[]>;
  labels: Map<string, LabelKey[]>;
}

type Own = Omit<ReelMember, 'id' | 'base' | 'overlays' | 'keys' | 'numbers' | 'labels'>;

function keyed<K>(lanes: Map<string, K[]>, name: string): K[] {
  const known = lanes.get(name) ?? [];
  lanes.set(name, known);
  return known;
}

const lanesOf = <K extends { readonly frame: number }>(lanes: Map<string, K[]>): { name: string; keys: K[] }[] =>
  [...lanes]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([name, keys]) => ({ name, keys: keys.sort((a, b) => a.frame - b.frame) }));

function membersOf(cells: Cells): ReelMember[] {
  const own = new Map<string, Own>();
  const parts = new Map<string, Growing>();
  for (const [cell, value] of Object.entries(cells)) {
    const [, member, lane, id, what, name, frame, kind, lane2, at] = CELL.exec(cell) ?? [];
    if (member === undefined) continue;
    const grown: Growing = parts.get(member) ?? {
      base: [],
      overlays: [],
      tracks: new Map(),
      numbers: new Map(),
      labels: new Map(),
    };
    parts.set(member, grown);
    if (lane === 'base') grown.base.push({ ...(value as Placement), id: id! });
    else if (lane === 'over') grown.overlays.push({ ...(value as Overlay), id: id! });
    else if (name !== undefined && frame !== undefined) {
      const track = grown.tracks.get(`${what} ${name}`) ?? {
        of: what === 'joint' ? { joint: name } : { handle: name },
        keys: [],
      };
      grown.tracks.set(`${what} ${name}`, track);
      track.keys.push({ ...(value as KeyCell), frame: Number(frame) });
    } else if (kind === 'number') keyed(grown.numbers, lane2!).push({ ...(value as LevelKey), frame: Number(at) });
    else if (kind === 'label') keyed(grown.labels, lane2!).push({ ...(value as LabelKey), frame: Number(at) });
    else own.set(member, value as Own);
  }
  const byId = (a: { id: string }, b: { id: string }): number => (a.id < b.id ? -1 : 1);
  return [...own]
    .map(([id, member]): ReelMember => {
      const grown = parts.get(id)!;
      return {
        ...member,
        id,
        base: grown.base.sort((a, b) => a.at - b.at || byId(a, b)),
        overlays: grown.overlays.sort((a, b) => a.order - b.order || byId(a, b)),
        keys: [...grown.tracks]
          .sort(([a], [b]) => (a < b ? -1 : 1))
          .map(([, { of, keys }]) => ({ ...of, keys: keys.sort((a, b) => a.frame - b.frame) }) as CorrectionTrack),
        ...(grown.numbers.size > 0 && { numbers: lanesOf(grown.numbers) }),
        ...(grown.labels.size > 0 && { labels: lanesOf(grown.labels) }),
      };
    })
    .sort((a, b) => a.order - b.order || byId(a, b));
}

/** What lies on the lanes of a member, or is set for a camera, that somebody took away meanwhile goes with it. */
const withoutOrphans = (cells: Cells): Cells =>
  Object.fromEntries(
    Object.entries(cells).filter(([cell]) => {
      const member = CELL.exec(cell)?.[1];
      const camera = CAMERA.exec(cell)?.[1];
      return (
        (member === undefined || Object.hasOwn(cells, `member/${member}`)) &&
        (camera === undefined || Object.hasOwn(cells, `camera/${camera}`))
      );
    }),
  );

export const REEL: DocumentKind<ReelContent> = {
  empty: { name: '', fps: 30, frames: 150, members: [], markers: [] },

  split: ({ name, fps, frames, members, markers, cameras }) => ({
    name,
    fps,
    frames,
    ...Object.fromEntries(markers.map(({ id, ...marker }) => [`marker/${id}`, marker])),
    ...Object.fromEntries(
      (cameras ?? []).flatMap(({ id, keys, ...camera }) => [
        [`camera/${id}`, camera],
        ...keys.map(({ frame, ...key }) => [`camera/${id}/${frame}`, key] as const),
      ]),
    ),
    ...Object.assign({}, ...members.map(cellsOf)),
  }),

  tidy: withoutOrphans,

  join: (cells) => ({
    name: String(cells.name ?? REEL.empty.name),
    fps: Number(cells.fps ?? REEL.empty.fps),
    frames: Number(cells.frames ?? REEL.empty.frames),
    members: membersOf(cells),
    markers: Object.entries(cells)
      .flatMap(([cell, value]): Marker[] =>
        cell.startsWith('marker/') ? [{ ...(value as Omit<Marker, 'id'>), id: cell.slice('marker/'.length) }] : [],
      )
      .sort((a, b) => a.frame - b.frame || (a.id < b.id ? -1 : 1)),
    ...camerasOf(cells),
  }),
};

const CAMERA = /^camera\/([\w-]+)(?:\/(\d+))?$/;

function camerasOf(cells: Cells): { cameras?: ReelCamera[] } {
  const own = new Map<string, Omit<ReelCamera, 'id' | 'keys'>>();
  const keys = new Map<string, CameraKey[]>();
  for (const [cell, value] of Object.entries(cells)) {
    const [, id, frame] = CAMERA.exec(cell) ?? [];
    if (id === undefined) continue;
    if (frame === undefined) own.set(id, value as Omit<ReelCamera, 'id' | 'keys'>);
    else keyed(keys, id).push({ ...(value as Omit<CameraKey, 'frame'>), frame: Number(frame) });
  }
  if (own.size === 0) return {};
  return {
    cameras: [...own]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([id, camera]) => ({ ...camera, id, keys: (keys.get(id) ?? []).sort((a, b) => a.frame - b.frame) })),
  };
}
