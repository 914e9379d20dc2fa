'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useCallback } from 'react';
import { sendJson } from './api';

export interface Me {
  id: string;
  name: string;
  role: string;
  performerId: string | null;
}

const KEY = ['me'] as const;
const useSession = () =>
  useQuery({
    queryKey: KEY,
    queryFn: () => sendJson<Me>('POST', '/api/session', {}),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Signs in before anything else asks the server. */
export function SessionGate({ children }: { children: ReactNode }) {
  const { data, error, refetch } = useSession();
  if (data) return children;
  return (
    <div className="flex h-screen flex-col items-center justify-center gap-3">
      <p className="heading text-2xl italic">Velvet Reel</p>
      {error ? (
        <>
          <p role="alert">{error.message}</p>
          <button type="button" className="rounded-md border border-line px-3 py-1.5" onClick={() => refetch()}>
            Try again
          </button>
        </>
      ) : (
        <p className="text-muted">Opening the library …</p>
      )}
    </div>
  );
}

export function useMe(): Me {
  const { data } = useSession();
  if (!data) throw new Error('useMe belongs inside SessionGate.');
  return data;
}

/** Puts a cast member on hand: everything is then shown on that one. */
export function useChoosePerformer(): (performerId: string | null) => void {
  const client = useQueryClient();
  return useCallback(
    (performerId) => {
      client.setQueryData<Me>(KEY, (me) => me && { ...me, performerId });
      void sendJson('PATCH', '/api/me', { performerId });
    },
    [client],
  );
}
