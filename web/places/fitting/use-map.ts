'use client';

import { useQueryClient } from '@tanstack/react-query';
import {
  anySkeletonFromJson,
  bodyMapFromJson,
  bodyMapToJson,
  fillSide,
  type Side,
  slotLabel,
} from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useUndo } from '@/client/undo';
import type { RigAnswer } from '@/contract';
import type { RigSetup } from '@/documents/rig-setup';
import { useDocuments } from '@/documents/use-document';
import { useRigSetups } from '@/documents/use-rig-setup';
import { many } from '@/naming/counts';

type Slots = RigSetup['slots'];
type MapAnswer = Pick<RigAnswer, 'map' | 'mapVersion'>;

export interface MapEditor {
  setSlot: (rig: RigAnswer, slot: string, joint: string | null) => void;
  acceptGuesses: (rig: RigAnswer) => void;
  fill: (rig: RigAnswer, from: Side) => void;
  saveProfile: (rig: RigAnswer, name: string) => Promise<void>;
  applyProfile: (rig: RigAnswer, profile: { id: string; name: string }) => void;
  removeProfile: (profile: { id: string; name: string }) => void;
}

/** Changes body maps: kept for the rig, for every character and take that has it; each change can be undone. */
export function useMap(): MapEditor {
  const { saved } = useDocuments();
  const client = useQueryClient();
  const push = useUndo((s) => s.push);
  const setups = useRigSetups();
  const run = (rig: RigAnswer, label: string, change: (slots: Slots) => Slots): void =>
    setups.change(rig, label, (setup) => ({ ...setup, slots: change({ ...setup.slots }) }));
  // one editor for the life of the page, so that rows that show it need not be drawn anew
  const [editor] = useState(
    (): MapEditor => ({
      setSlot: (rig, slot, joint) =>
        run(rig, `Set ${slotLabel(slot)} to ${joint ?? 'empty on purpose'}`, (slots) => {
          for (const [name, s] of Object.entries(slots))
            if (joint !== null && s.joint === joint && name !== slot)
              slots[name] = { joint: null, state: 'missing', why: `its joint now belongs to ${slotLabel(slot)}` };
          slots[slot] =
            joint === null
              ? { joint: null, state: 'empty', why: 'empty on purpose' }
              : { joint, state: 'sure', why: 'set by hand' };
          return slots;
        }),
      acceptGuesses: (rig) =>
        run(rig, 'Accepted the guesses', (slots) => {
          for (const [name, s] of Object.entries(slots))
            if (s.state === 'guessed') slots[name] = { ...s, state: 'sure', why: `${s.why}; accepted by hand` };
          return slots;
        }),
      fill: (rig, from) => {
        const own = anySkeletonFromJson(rig.rig);
        const { filled, missing } = fillSide(own, bodyMapFromJson(rig.map, own), from);
        if (filled.length === 0 && missing.length === 0) {
          toast('Nothing to fill: the other side is already set.');
          return;
        }
        toast(
          `${many(filled.length, 'slot')} filled${missing.length > 0 ? `; no partner for ${missing.map(slotLabel).join(', ')}` : ''}`,
        );
        run(
          rig,
          `Filled the ${from === 'L' ? 'right' : 'left'} side from the other`,
          (slots) => bodyMapToJson(fillSide(own, bodyMapFromJson({ slots }, own), from).map, own).slots,
        );
      },
      saveProfile: async (rig, name) => {
        try {
          await saved();
          await sendJson('POST', `${API}/profiles`, { rigId: rig.id, name });
          toast(`Saved the map as ${name}`);
          await client.invalidateQueries({ queryKey: ['profiles'] });
        } catch (error) {
          toast.error((error as Error).message);
        }
      },
      removeProfile: (profile) => {
        const again = (): Promise<unknown> => client.invalidateQueries({ queryKey: ['profiles'] });
        const go = async (): Promise<void> => {
          const at = `${API}/profiles/${profile.id}`;
          const { undo } = await sendJson<{ undo: unknown }>('DELETE', at, {});
          push({ label: `Deleted the map ${profile.name}`, undo: () => sendJson('PUT', at, undo).then(again) });
          await again();
        };
        go().catch((error: Error) => toast.error(error.message));
      },
      applyProfile: (rig, profile) => {
        setups
          .changeThere(rig, `Applied ${profile.name} to the skeleton`, async (version) => {
            const body = { profile: profile.id, version };
            return { ...rig, ...(await sendJson<MapAnswer>('POST', `${API}/rigs/${rig.id}/profile`, body)) };
          })
          .catch((error: Error) => toast.error(error.message));
      },
    }),
  );
  return editor;
}
