'use client';

import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { knownRig, rigWrites } from '@/client/rig-writes';
import type { RigAnswer } from '@/client/types';
import { useUndo } from '@/client/undo';

export type RigSetting = Partial<Pick<RigAnswer, 'match' | 'limits' | 'pairs' | 'sets'>>;

/** Sets pose, limits, pairing or joint sets of a rig, each step with a way back; the bind pose is never written. */
export function useRigSetting(): (rig: RigAnswer, setting: RigSetting, label: string) => Promise<void> {
  const client = useQueryClient();
  const push = useUndo((s) => s.push);
  const put = async (rigId: string, setting: RigSetting): Promise<RigSetting> => {
    const { before } = await rigWrites.write(rigId, knownRig(client, rigId), (now) =>
      sendJson('PATCH', `${API}/rigs/${rigId}`, { ...setting, version: now.mapVersion }),
    );
    await Promise.all(
      [['rig', rigId], ['cast-rig'], ['cast'], ['shown'], ['cast-fittings']].map((queryKey) =>
        client.invalidateQueries({ queryKey }),
      ),
    );
    return Object.fromEntries(Object.keys(setting).map((k) => [k, before[k as keyof RigSetting]]));
  };
  return async (rig, setting, label) => {
    const done = put(rig.id, setting);
    // at once, so that whoever is quick takes back this step and not the one before
    push({
      label,
      undo: () =>
        done.then(
          (before) => put(rig.id, before),
          () => undefined,
        ),
    });
    try {
      await done;
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
}
