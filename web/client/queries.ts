'use client';

import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { getJson, sendJson } from './api';
import { useMe } from './session';
import type { CastMember, Counts, Folder, IntakeRow, Item, ItemChange, ItemList, RigAnswer } from './types';
import { useUndo } from './undo';

export interface Search {
  words?: string;
  kind?: string;
  tag?: string;
  folderId?: string;
  bin?: boolean;
  like?: string;
}

function toQuery(search: Search): string {
  const q = new URLSearchParams();
  if (search.words) q.set('words', search.words);
  if (search.kind) q.set('kind', search.kind);
  if (search.tag) q.set('tag', search.tag);
  if (search.folderId) q.set('folderId', search.folderId);
  if (search.like) q.set('like', search.like);
  if (search.bin) q.set('bin', '1');
  return q.toString();
}

export const useItems = (search: Search) =>
  useQuery({
    queryKey: ['items', search],
    queryFn: () => getJson<ItemList>(`/api/items?${toQuery(search)}`),
    placeholderData: keepPreviousData,
  });

export const useItem = (id: string | null) =>
  useQuery({ queryKey: ['item', id], queryFn: () => getJson<Item>(`/api/items/${id}`), enabled: id !== null });

export const useCounts = () => useQuery({ queryKey: ['counts'], queryFn: () => getJson<Counts>('/api/counts') });
export const useFolders = () => useQuery({ queryKey: ['folders'], queryFn: () => getJson<Folder[]>('/api/folders') });
export const useCast = (bin = false) =>
  useQuery({ queryKey: ['cast', { bin }], queryFn: () => getJson<CastMember[]>(`/api/cast?bin=${bin ? 1 : 0}`) });
export const useIntakes = () => useQuery({ queryKey: ['intakes'], queryFn: () => getJson<IntakeRow[]>('/api/intake') });

export const useRig = (id: string | null | undefined) =>
  useQuery({
    queryKey: ['rig', id],
    queryFn: () => getJson<RigAnswer>(`/api/rigs/${id}`),
    enabled: Boolean(id),
    staleTime: 60_000,
  });

export const useCastRig = (id: string | null | undefined) =>
  useQuery({
    queryKey: ['cast-rig', id],
    queryFn: () => getJson<RigAnswer>(`/api/cast/${id}/rig`),
    enabled: Boolean(id),
    staleTime: 60_000,
  });

/** The cast member everything is shown on, with rig and body map. */
export function usePerformer(): { member: CastMember | undefined; rig: RigAnswer | undefined } {
  const { performerId } = useMe();
  const cast = useCast();
  const rig = useCastRig(performerId);
  const member = cast.data?.find((c) => c.id === performerId);
  return { member, rig: member ? rig.data : undefined };
}

/** Everything that a change to the library can show in. */
export function useRefresh(): () => void {
  const client = useQueryClient();
  return () => {
    for (const key of ['items', 'item', 'counts', 'folders', 'cast', 'intakes', 'me'])
      void client.invalidateQueries({ queryKey: [key] });
  };
}

/** Changes an item; the change can be undone. */
export function useChangeItem() {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  return useMutation({
    mutationFn: ({ id, change }: { id: string; change: ItemChange; label: string }) =>
      sendJson<{ item: Item; undo: ItemChange }>('PATCH', `/api/items/${id}`, change),
    onSuccess: ({ undo }, { id, label }) => {
      push({ label, undo: () => sendJson('PATCH', `/api/items/${id}`, undo) });
      refresh();
    },
    onError: (error) => toast.error(error.message),
  });
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
      sendJson<{ undo: CastChange }>('PATCH', `/api/cast/${id}`, change),
    onSuccess: ({ undo }, { id, label }) => {
      push({ label, undo: () => sendJson('PATCH', `/api/cast/${id}`, undo) });
      refresh();
    },
    onError: (error) => toast.error(error.message),
  });
}
