'use client';

import { type Query, useQueryClient } from '@tanstack/react-query';
import { bodyMapFromJson, bodyMapToJson, fillSide, type Side, skeletonFromJson, slotLabel } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useLive } from '@/client/live';
import { knownRig, rigWrites } from '@/client/rig-writes';
import type { RigAnswer } from '@/client/types';
import { useUndo } from '@/client/undo';
import { many } from '@/naming/counts';
import { type SlotChange, takesBack } from './slot-changes';

export interface MapEditor {
  setSlot: (rig: RigAnswer, slot: string, joint: string | null) => void;
  acceptGuesses: (rig: RigAnswer) => void;
  fill: (rig: RigAnswer, from: Side) => void;
  saveProfile: (rig: RigAnswer, name: string) => Promise<void>;
  applyProfile: (rig: RigAnswer, profile: { id: string; name: string }) => void;
  removeProfile: (profile: { id: string; name: string }) => void;
}

/** Settles with a promise, and at once when the page is left. */
const orLeaving = (then: Promise<void>): Promise<void> =>
  new Promise((resolve) => {
    const done = (): void => {
      window.removeEventListener('pagehide', done);
      resolve();
    };
    window.addEventListener('pagehide', done);
    void then.then(done);
  });

/** Changes of one map that go to the server together: those made before the first of them was sent. */
interface Group {
  readonly changes: SlotChange[];
  /** What takes each of them back, once it is known what they were made on. */
  readonly steps: SlotChange[];
  sent: boolean;
  done: Promise<unknown>;
}

/**
 * Changes body maps: kept for the rig, for every character and take that has it; each change can be undone.
 * @param followed settles when the figure has followed a change: only then is it written, as the server and the solver would
 *   take the processor from one another where they share one
 */
export function useMap(followed: () => Promise<void>): MapEditor {
  const client = useQueryClient();
  const push = useUndo((s) => s.push);
  const shows = (rigId: string, how: (rig: RigAnswer) => RigAnswer): void => {
    for (const key of ['rig', 'cast-rig'])
      client.setQueriesData<RigAnswer>({ queryKey: [key] }, (rig) => (rig?.id === rigId ? how(rig) : rig));
  };
  const refresh = (rigId: string): Promise<unknown> =>
    Promise.all([['rig', rigId], ['cast-rig'], ['cast']].map((queryKey) => client.invalidateQueries({ queryKey })));
  const [groups] = useState(() => new Map<string, Group>());
  const openGroup = (rigId: string): Group => {
    const seen = orLeaving(followed());
    const group: Group = { changes: [], steps: [], sent: false, done: Promise.resolve() };
    group.done = rigWrites.write(rigId, knownRig(client, rigId), async (now) => {
      await seen;
      group.sent = true;
      let { slots } = now.map;
      group.steps.length = 0;
      for (const change of group.changes) {
        const before = slots;
        slots = change({ ...before });
        group.steps.push(takesBack(before, slots));
      }
      const body = { map: { slots }, version: now.mapVersion };
      return {
        ...now,
        ...(await sendJson<Pick<RigAnswer, 'map' | 'mapVersion'>>('PUT', `${API}/rigs/${rigId}/map`, body)),
      };
    });
    return group;
  };
  const put = async (rigId: string, change: SlotChange): Promise<SlotChange> => {
    let group = groups.get(rigId);
    if (!group || group.sent) {
      group = openGroup(rigId);
      groups.set(rigId, group);
    }
    const { steps, changes, done } = group;
    const place = changes.push(change) - 1;
    // an answer that was asked for before would take the change away for a moment
    const asked = { predicate: ({ state }: Query) => (state.data as RigAnswer | undefined)?.id === rigId };
    for (const queryKey of [['rig'], ['cast-rig']]) void client.cancelQueries({ queryKey, ...asked });
    // the figure follows at once; what the server says comes after
    shows(rigId, (rig) => ({ ...rig, map: { ...rig.map, slots: change({ ...rig.map.slots }) } }));
    try {
      await done;
      // all else that shows the map hears of it like a colleague's change
      const kept = rigWrites.kept(rigId);
      if (kept) shows(rigId, (rig) => ({ ...rig, map: kept.map, mapVersion: kept.mapVersion }));
      if (!useLive.getState().connected) await refresh(rigId);
      return steps[place]!;
    } catch (error) {
      await refresh(rigId);
      throw error;
    }
  };
  const run = (rigId: string, label: string, change: SlotChange): void => {
    const done = put(rigId, change);
    // at once, so that whoever is quick takes back this step and not the one before
    push({
      label,
      undo: () =>
        done.then(
          (back) => put(rigId, back),
          () => undefined,
        ),
    });
    done.catch((error: Error) => toast.error(error.message));
  };
  // one editor for the life of the page, so that rows that show it need not be drawn anew
  const [editor] = useState(
    (): MapEditor => ({
      setSlot: (rig, slot, joint) =>
        run(rig.id, `Set ${slotLabel(slot)} to ${joint ?? 'empty on purpose'}`, (slots) => {
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
        run(rig.id, 'Accepted the guesses', (slots) => {
          for (const [name, s] of Object.entries(slots))
            if (s.state === 'guessed') slots[name] = { ...s, state: 'sure', why: `${s.why}; accepted by hand` };
          return slots;
        }),
      fill: (rig, from) => {
        const own = skeletonFromJson(rig.rig);
        const { filled, missing } = fillSide(own, bodyMapFromJson(rig.map, own), from);
        if (filled.length === 0 && missing.length === 0) {
          toast('Nothing to fill: the other side is already set.');
          return;
        }
        toast(
          `${many(filled.length, 'slot')} filled${missing.length > 0 ? `; no partner for ${missing.map(slotLabel).join(', ')}` : ''}`,
        );
        run(
          rig.id,
          `Filled the ${from === 'L' ? 'right' : 'left'} side from the other`,
          (slots) => bodyMapToJson(fillSide(own, bodyMapFromJson({ slots }, own), from).map, own).slots,
        );
      },
      saveProfile: async (rig, name) => {
        try {
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
        const go = async (): Promise<void> => {
          // laid on whatever the map has become: the server says what it was
          const { before, after } = await rigWrites.write(rig.id, undefined, async (now) => {
            const body = { profile: profile.id, version: now.mapVersion };
            const { map, mapVersion } = await sendJson<Pick<RigAnswer, 'map' | 'mapVersion'>>(
              'POST',
              `${API}/rigs/${rig.id}/profile`,
              body,
            );
            return { ...now, map, mapVersion };
          });
          await refresh(rig.id);
          const back = takesBack(before.map.slots, after.map.slots);
          push({ label: `Applied ${profile.name} to the skeleton`, undo: () => put(rig.id, back) });
        };
        go().catch((error: Error) => toast.error(error.message));
      },
    }),
  );
  return editor;
}
