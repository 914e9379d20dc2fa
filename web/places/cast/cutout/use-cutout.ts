'use client';

import { useMutation } from '@tanstack/react-query';
import type { CutoutChange, JointMarks } from '@velvet-reel/motion';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { CastMember } from '@/contract';
import { markTab as texts } from '../texts';

export interface CutoutEditing {
  readonly change: (change: CutoutChange, label: string) => void;
  readonly busy: boolean;
}

/** Sets pivots, order and hinges of a figure; every change can be undone. */
export function useCutoutEditing(member: CastMember): CutoutEditing {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const { mutate, isPending } = useMutation({
    mutationFn: ({ change }: { change: CutoutChange; label: string }) =>
      sendJson<{ undo: unknown }>('POST', `${API}/cast/${member.id}/cutout`, { rigId: member.rigId, change }),
    onSuccess: ({ undo }, { label }) => {
      push({ label, undo: () => sendJson('PATCH', `${API}/cast/${member.id}`, undo) });
      refresh();
    },
    onError: (error) => toast.error(error.message),
  });
  return { change: (change, label) => mutate({ change, label }), busy: isPending };
}

/** Puts a figure together by marks; it can be undone. @returns whether it was */
export function useMarking(member: CastMember): { keep: (marks: JointMarks) => Promise<boolean>; busy: boolean } {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const { mutateAsync, isPending } = useMutation({
    mutationFn: (marks: JointMarks) =>
      sendJson<{ undo: unknown }>('POST', `${API}/cast/${member.id}/joints`, { rigId: member.rigId, marks }),
    onSuccess: ({ undo }, marks) => {
      push({
        label: texts.markedTheJointsOf(member.name),
        undo: () => sendJson('PATCH', `${API}/cast/${member.id}`, undo),
      });
      toast.success(texts.isPutTogether(member.name, Object.keys(marks).length));
      refresh();
    },
    onError: (error) => toast.error(error.message),
  });
  return {
    keep: (marks) =>
      mutateAsync(marks).then(
        () => true,
        () => false,
      ),
    busy: isPending,
  };
}
