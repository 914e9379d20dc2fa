'use client';

import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import type { RigAnswer } from '@/client/types';
import { useUndo } from '@/client/undo';

export type RigSetting = Partial<Pick<RigAnswer, 'match' | 'limits' | 'pairs' | 'sets'>>;

/** Sets pose, limits, pairing or joint sets of a rig, each step with a way back; the bind pose is never written. */
export function useRigSetting(): (rig: RigAnswer, setting: RigSetting, label: string) => Promise<void> {
  const client = useQueryClient();
  const push = useUndo((s) => s.push);
  const put = async (rigId: string, setting: RigSetting): Promise<RigSetting> => {
    const fresh = await getJson<RigAnswer>(`${API}/rigs/${rigId}`);
    const before = Object.fromEntries(Object.keys(setting).map((k) => [k, fresh[k as keyof RigSetting]])) as RigSetting;
    await sendJson('PATCH', `${API}/rigs/${rigId}`, { ...setting, version: fresh.mapVersion });
    await Promise.all(
      [['rig', rigId], ['cast-rig'], ['cast'], ['shown'], ['cast-fittings']].map((queryKey) =>
        client.invalidateQueries({ queryKey }),
      ),
    );
    return before;
  };
  return async (rig, setting, label) => {
    const done = put(rig.id, setting);
    // at once, so that whoever is quick takes back this step and not the one before
    push({ label, undo: () => done.then((before) => put(rig.id, before)).catch(() => undefined) });
    try {
      await done;
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
}
