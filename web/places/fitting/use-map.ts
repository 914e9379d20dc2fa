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
import { useMap as texts } from './texts';

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
        run(rig, texts.setTo(slotLabel(slot), joint ?? undefined), (slots) => {
          for (const [name, s] of Object.entries(slots))
            if (joint !== null && s.joint === joint && name !== slot)
              slots[name] = { joint: null, state: 'missing', why: texts.itsJointNowBelongs(slotLabel(slot)) };
          slots[slot] =
            joint === null
              ? { joint: null, state: 'empty', why: 'empty on purpose' }
              : { joint, state: 'sure', why: 'set by hand' };
          return slots;
        }),
      acceptGuesses: (rig) =>
        run(rig, texts.acceptedTheGuesses, (slots) => {
          for (const [name, s] of Object.entries(slots))
            if (s.state === 'guessed') slots[name] = { ...s, state: 'sure', why: texts.acceptedByHand(s.why) };
          return slots;
        }),
      fill: (rig, from) => {
        const own = anySkeletonFromJson(rig.rig);
        const { filled, missing } = fillSide(own, bodyMapFromJson(rig.map, own), from);
        if (filled.length === 0 && missing.length === 0) {
          toast(texts.nothingToFillThe);
          return;
        }
        toast(texts.filled(filled.length, missing.map(slotLabel).join(', ')));
        run(
          rig,
          from === 'L' ? texts.filledTheRight : texts.filledTheLeft,
          (slots) => bodyMapToJson(fillSide(own, bodyMapFromJson({ slots }, own), from).map, own).slots,
        );
      },
      saveProfile: async (rig, name) => {
        try {
          await saved();
          await sendJson('POST', `${API}/profiles`, { rigId: rig.id, name });
          toast(texts.savedTheMapAs(name));
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
          push({ label: texts.deletedTheMap(profile.name), undo: () => sendJson('PUT', at, undo).then(again) });
          await again();
        };
        go().catch((error: Error) => toast.error(error.message));
      },
      applyProfile: (rig, profile) => {
        setups
          .changeThere(rig, texts.appliedToTheSkeleton(profile.name), async (version) => {
            const body = { profile: profile.id, version };
            return { ...rig, ...(await sendJson<MapAnswer>('POST', `${API}/rigs/${rig.id}/profile`, body)) };
          })
          .catch((error: Error) => toast.error(error.message));
      },
    }),
  );
  return editor;
}
