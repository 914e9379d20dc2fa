'use client';

import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { API, getJson } from '@/client/api';
import { solver } from '@/client/solver';
import type { OfferedPackRow, OfferPage, OfferPreview, Reissue, RigAnswer, SupplierState } from '@/contract';
import type { Playable } from '@/solver/solve';

const KEY = 'supplier';
/** The account is somebody else's: it is looked at again now and then. */
const LOOK_MS = 15_000;
/** Looked at more often while something is expected. */
const SOON_MS = 3000;

export const useSupplierState = () =>
  useQuery({
    queryKey: [KEY, 'state'],
    queryFn: () => getJson<SupplierState>(`${API}/supplier`),
    refetchInterval: ({ state }) => (state.data?.state === 'away' || (state.data?.coming ?? 0) > 0 ? SOON_MS : LOOK_MS),
  });

export interface Narrowing {
  q: string;
  tag: string | null;
  pack: string | null;
  page: number;
}

export const useOffers = ({ q, tag, pack, page }: Narrowing, enabled: boolean) =>
  useQuery({
    queryKey: [KEY, 'takes', q, tag, pack, page],
    queryFn: ({ signal }) =>
      getJson<OfferPage>(
        `${API}/supplier/takes?${new URLSearchParams({ q, page: String(page), ...(tag && { tag }), ...(pack && { pack }) })}`,
        signal,
      ),
    enabled,
    placeholderData: keepPreviousData,
    // what is on its way arrives
    refetchInterval: (query) => (query.state.data?.takes.some((t) => t.onTheWay) ? 1500 : LOOK_MS),
    retry: false,
  });

export const useOfferedPacks = (enabled: boolean) =>
  useQuery({
    queryKey: [KEY, 'packs'],
    queryFn: () => getJson<OfferedPackRow[]>(`${API}/supplier/packs`),
    enabled,
    // what was bought becomes owned as it is fetched
    refetchInterval: SOON_MS,
    retry: false,
  });

export const useReissues = (enabled: boolean) =>
  useQuery({
    queryKey: [KEY, 'reissues'],
    queryFn: () => getJson<Reissue[]>(`${API}/supplier/reissues`),
    enabled,
    refetchInterval: LOOK_MS,
    retry: false,
  });

/** Has everything about the supplier read again. */
export function useSupplierAgain(): () => void {
  const client = useQueryClient();
  return useCallback(() => void client.invalidateQueries({ queryKey: [KEY] }), [client]);
}

/** The beginning of an offered take on a character. */
export const usePreview = (take: string | undefined, target: RigAnswer | undefined) =>
  useQuery({
    queryKey: [KEY, 'preview', take, target?.id, target?.mapVersion],
    queryFn: async (): Promise<Playable> => {
      const { motion, ...source } = await getJson<OfferPreview>(`${API}/supplier/takes/${take}/preview`);
      const bytes = Uint8Array.from(atob(motion), (c) => c.charCodeAt(0));
      return solver().showPacked(bytes, { ...source, floorM: null }, target!);
    },
    enabled: Boolean(take && target),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    retry: 1,
  });
