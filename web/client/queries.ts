'use client';

import {
  keepPreviousData,
  queryOptions,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query';
import type { CutoutKeys } from '@velvet-reel/motion';
import { useMemo } from 'react';
import { preload } from 'react-dom';
import { toast } from 'sonner';
import type {
  CastMember,
  Counts,
  CustomField,
  Edit,
  Folder,
  IntakeRow,
  Item,
  ItemChange,
  ItemList,
  Job,
  PersonRow,
  PlayListed,
  ReelListed,
  RigAnswer,
  SavedSearch,
  Tag,
} from '@/contract';
import { useSetUp } from '@/documents/use-rig-setup';
import { API, ApiError, getJson, sendJson } from './api';
import { useConflict } from './conflict';
import { useMe } from './session';
import { useUndo } from './undo';

export interface Search {
  /** Words and narrowings as typed. */
  q?: string;
  folder?: string;
  pack?: string;
  like?: string;
  pose?: string;
  support?: boolean;
  performer?: string;
  bin?: boolean;
  sort?: string;
  backwards?: boolean;
}

export function toQuery(search: Search, more: Record<string, string> = {}): string {
  const q = new URLSearchParams(more);
  for (const [name, value] of Object.entries(search))
    if (value !== undefined && value !== '' && value !== false) q.set(name, value === true ? '1' : String(value));
  return q.toString();
}

/** The first items of a search; the library place reads page by page instead. */
export const useItems = (search: Search, limit = 200) =>
  useQuery({
    queryKey: ['items', 'first', search, limit],
    queryFn: () => getJson<ItemList>(`${API}/items?${toQuery(search, { limit: String(limit) })}`),
    placeholderData: keepPreviousData,
  });

export const useItem = (id: string | null | undefined) =>
  useQuery({ queryKey: ['item', id], queryFn: () => getJson<Item>(`${API}/items/${id}`), enabled: Boolean(id) });

/** Items by id, in the order asked for; those that are gone, or not here yet, are left out. */
export const useNamedItems = (ids: readonly string[]): Item[] =>
  useQueries({
    queries: ids.map((id) => ({ queryKey: ['item', id], queryFn: () => getJson<Item>(`${API}/items/${id}`) })),
    combine: (all) => all.flatMap((q) => q.data ?? []),
  });

export const useCounts = () => useQuery({ queryKey: ['counts'], queryFn: () => getJson<Counts>(`${API}/counts`) });
export const useFolders = () => useQuery({ queryKey: ['folders'], queryFn: () => getJson<Folder[]>(`${API}/folders`) });
export const useTags = () => useQuery({ queryKey: ['tags'], queryFn: () => getJson<Tag[]>(`${API}/tags`) });
export const useFields = () =>
  useQuery({ queryKey: ['fields'], queryFn: () => getJson<CustomField[]>(`${API}/fields`) });
export const usePeople = () => useQuery({ queryKey: ['people'], queryFn: () => getJson<PersonRow[]>(`${API}/people`) });
export const useSearches = () =>
  useQuery({ queryKey: ['searches'], queryFn: () => getJson<SavedSearch[]>(`${API}/searches`) });
export const useCompletions = () =>
  useQuery({
    queryKey: ['completions'],
    queryFn: () => getJson<Record<string, string[]>>(`${API}/completions`),
    staleTime: 30_000,
  });
export const useCast = (bin = false) =>
  useQuery({ queryKey: ['cast', { bin }], queryFn: () => getJson<CastMember[]>(`${API}/cast?bin=${bin ? 1 : 0}`) });
export const useIntakes = () =>
  useQuery({ queryKey: ['intakes'], queryFn: () => getJson<IntakeRow[]>(`${API}/intake`) });
export const useReels = (bin = false) =>
  useQuery({ queryKey: ['reels', { bin }], queryFn: () => getJson<ReelListed[]>(`${API}/reels?bin=${bin ? 1 : 0}`) });
export const usePlays = (bin = false) =>
  useQuery({ queryKey: ['plays', { bin }], queryFn: () => getJson<PlayListed[]>(`${API}/plays?bin=${bin ? 1 : 0}`) });
/** Kept up to date by the live connection; see live.ts. */
export const useJobs = () => useQuery({ queryKey: ['jobs'], queryFn: () => getJson<Job[]>(`${API}/jobs`) });

const rig = (id: string | null | undefined) =>
  queryOptions({
    queryKey: ['rig', id],
    queryFn: () => getJson<RigAnswer>(`${API}/rigs/${id}`),
    enabled: Boolean(id),
    staleTime: 60_000,
  });

const castRig = (id: string | null | undefined) =>
  queryOptions({
    queryKey: ['cast-rig', id],
    queryFn: () => getJson<RigAnswer>(`${API}/cast/${id}/rig`),
    enabled: Boolean(id),
    staleTime: 60_000,
  });

/** The keys that a motion was made of; null where it is samples alone. */
export const useMotionKeys = (hash: string | null | undefined) =>
  useQuery({
    queryKey: ['keys', hash],
    queryFn: () => (hash ? getJson<CutoutKeys>(`${API}/files/${hash}`) : null),
    staleTime: Number.POSITIVE_INFINITY,
  });

interface RigQuery {
  data: RigAnswer | undefined;
  error: Error | null;
}

/** As it is set up on this page, with what is on its way to the server. */
const useRigQuery = (options: ReturnType<typeof rig> | ReturnType<typeof castRig>): RigQuery => {
  const { data: answer, error } = useQuery(options as ReturnType<typeof rig>);
  const answers = useMemo(() => [answer], [answer]);
  const [data] = useSetUp(answers);
  return { data, error };
};

export const useRig = (id: string | null | undefined): RigQuery => useRigQuery(rig(id));
export const useCastRig = (id: string | null | undefined): RigQuery => useRigQuery(castRig(id));

/** Several rigs, in their order. */
export const useRigs = (ids: readonly string[]): readonly (RigAnswer | undefined)[] =>
  useSetUp(useQueries({ queries: ids.map(rig), combine: answersOf }));

/** The rigs of several cast members, in their order. */
export const useCastRigs = (ids: readonly string[]): readonly (RigAnswer | undefined)[] =>
  useSetUp(useQueries({ queries: ids.map(castRig), combine: answersOf }));
const answersOf = (queries: readonly { data: RigAnswer | undefined }[]): (RigAnswer | undefined)[] =>
  queries.map((q) => q.data);

/** The cast member everything is shown on, with rig and body map. */
export function usePerformer(): { member: CastMember | undefined; rig: RigAnswer | undefined } {
  const { performerId } = useMe();
  const cast = useCast();
  const rig = useCastRig(performerId);
  const member = cast.data?.find((c) => c.id === performerId);
  const file = member?.assets.figure;
  // on its way before a stage is there to ask for it
  if (file) preload(`${API}/files/${file}`, { as: 'fetch', crossOrigin: 'anonymous' });
  return { member, rig: member ? rig.data : undefined };
}

const ALL_KEYS = [
  'items',
  'item',
  'counts',
  'folders',
  'cast',
  'intakes',
  'tags',
  'versions',
  'history',
  'uses',
  'activity',
  'people',
  'fields',
  'searches',
  'completions',
  'me',
];

/** Everything that a change to the library can show in. */
export function useRefresh(): () => void {
  const client = useQueryClient();
  return () => {
    for (const key of ALL_KEYS) void client.invalidateQueries({ queryKey: [key] });
  };
}

/** Takes an action of the server's history back. */
export const undoGroup = (group: string): Promise<{ group: string }> =>
  sendJson('POST', `${API}/history/${group}/undo`, {});

/** Changes items as one step that can be undone; what somebody else changed meanwhile is shown side by side. */
export function useEdit() {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const show = useConflict((s) => s.show);
  return useMutation({
    mutationFn: ({ edits, label }: { edits: Edit[]; label: string }) =>
      sendJson<{ group: string; changed: number }>('PATCH', `${API}/items`, { edits, label }),
    onSuccess: ({ group, changed }, { label }) => {
      if (changed > 0) push({ label, undo: () => undoGroup(group) });
      refresh();
    },
    onError: (error, { edits, label }) => {
      if (error instanceof ApiError && error.code === 'changed-meanwhile' && error.details?.conflicts)
        show({ edits, label, conflicts: error.details.conflicts as never });
      else toast.error(error.message);
      refresh();
    },
  });
}

/** Changes one item; only fields that still hold what is shown here are written over. */
export function useChangeItem() {
  const edit = useEdit();
  return {
    ...edit,
    mutate: ({ item, change, label }: { item: Item; change: ItemChange; label: string }): void => {
      const expected: Record<string, unknown> = {};
      for (const key of Object.keys(change))
        if (key in item && key !== 'fields' && key !== 'props') expected[key] = item[key as keyof Item];
      edit.mutate({ edits: [{ id: item.id, change, expected: expected as ItemChange }], label });
    },
  };
}

export interface CastChange {
  name?: string;
  note?: string;
  binned?: boolean;
}

export function useChangeCast() {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  return useMutation({
    mutationFn: ({ id, change }: { id: string; change: CastChange; label: string }) =>
      sendJson<{ undo: CastChange }>('PATCH', `${API}/cast/${id}`, change),
    onSuccess: ({ undo }, { id, label }) => {
      push({ label, undo: () => sendJson('PATCH', `${API}/cast/${id}`, undo) });
      refresh();
    },
    onError: (error) => toast.error(error.message),
  });
}
