'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useCallback, useEffect } from 'react';
import { toast } from 'sonner';
import type { Role } from '@/contract';
import { API, getJson, sendJson } from './api';
import { SignIn } from './sign-in';
import { solver } from './solver';
import { session as texts } from './texts';

export interface Me {
  id: string;
  name: string;
  role: Role;
  email: string | null;
  performerId: string | null;
}

export interface Door {
  me: Me | null;
  demo?: { name: string; email: string; role: Role }[];
  /** Nobody has an account yet. */
  first?: boolean;
  /** What people call the account they have in their studio, where one lets in. */
  studio?: string | null;
  /** Whether this is the demo world, or a library of one's own. */
  world?: 'demo' | 'own';
}

const KEY = ['me'] as const;
const useSession = () =>
  useQuery({ queryKey: KEY, queryFn: () => getJson<Door>('/api/session'), staleTime: Number.POSITIVE_INFINITY });

/** Nothing else asks the server before somebody has signed in. */
export function SessionGate({ children }: { children: ReactNode }) {
  const { data, error, refetch } = useSession();
  const inside = Boolean(data?.me);
  // all motion is worked out in this thread, which takes as long to start as the first page: start both at once
  useEffect(() => {
    if (inside && typeof Worker !== 'undefined') solver();
  }, [inside]);
  if (inside) return children;
  if (data) return <SignIn door={data} onIn={() => void refetch()} />;
  return (
    <div className="flex h-screen flex-col items-center justify-center gap-3">
      <p className="heading text-2xl italic">{texts.velvetReel}</p>
      {error ? (
        <>
          <p role="alert">{error.message}</p>
          <button type="button" className="rounded-md border border-line px-3 py-1.5" onClick={() => refetch()}>
            {texts.tryAgain}
          </button>
        </>
      ) : (
        <p className="text-muted">{texts.openingTheLibrary}</p>
      )}
    </div>
  );
}

export function useMe(): Me {
  const { data } = useSession();
  if (!data?.me) throw new Error('useMe belongs inside SessionGate.');
  return data.me;
}

/** Whether somebody looks at the demo world. */
export const useDemoWorld = (): boolean => useSession().data?.world === 'demo';

const RANK: Record<Role, number> = { viewer: 0, animator: 1, librarian: 2, admin: 3 };

/** Whether I may do what this role may. */
export const useMay = (role: Role): boolean => RANK[useMe().role] >= RANK[role];

export function useSignOut(): () => Promise<void> {
  const client = useQueryClient();
  return useCallback(async () => {
    await sendJson('DELETE', '/api/session', {});
    client.clear();
    window.location.assign('/library');
  }, [client]);
}

/** Puts a cast member on hand: everything is then shown on that one. */
export function useChoosePerformer(): (performerId: string | null) => void {
  const client = useQueryClient();
  return useCallback(
    (performerId) => {
      const put = (id: string | null): void =>
        void client.setQueryData<Door>(
          KEY,
          (door) => door && { ...door, me: door.me && { ...door.me, performerId: id } },
        );
      const before = client.getQueryData<Door>(KEY)?.me?.performerId ?? null;
      put(performerId);
      sendJson('PATCH', `${API}/me`, { performerId }).catch((error: Error) => {
        put(before);
        toast.error(texts.thePerformerCouldNot(error.message));
      });
    },
    [client],
  );
}
