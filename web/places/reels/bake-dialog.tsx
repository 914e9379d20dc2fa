'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { Item } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import { useDocuments } from '@/documents/use-document';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';
import { NumberField } from './number-field';
import { bakeDialog as texts } from './texts';

/** Bakes what a member does into an item of the library. The lanes stay as they are. */
export function BakeDialog({
  reelId,
  reel,
  memberId,
  who,
  range,
  muted,
  others,
  onShow,
  onClose,
}: {
  reelId: string;
  reel: ReelContent;
  memberId: string;
  who: string;
  range: { start: number; end: number } | null;
  /** Names of what is muted and moves: it would be left out. */
  muted: readonly string[];
  /** Other members that move. */
  others: readonly string[];
  /** Shows a frame on the stage: what is baked last. */
  onShow: (frame: number) => void;
  onClose: () => void;
}) {
  const router = useRouter();
  const refresh = useRefresh();
  const { saved } = useDocuments();
  const push = useUndo((s) => s.push);
  const [name, setName] = useState(`${reel.name}, ${who}`);
  const [start, setStart] = useState(range?.start ?? 0);
  const [end, setEnd] = useState(Math.min(reel.frames - 1, range?.end ?? reel.frames - 1));
  const [folder, setFolder] = useState('');
  const [busy, setBusy] = useState(false);
  const bake = async (): Promise<void> => {
    setBusy(true);
    try {
      await saved();
      const made = await sendJson<Item>('POST', `${API}/reels/${reelId}/bake`, {
        memberId,
        start,
        end,
        name,
        ...(folder.trim() && { folder: folder.trim() }),
      });
      push({
        label: texts.baked(made.name),
        undo: () => sendJson('PATCH', `${API}/items/${made.id}`, { change: { binned: true } }),
      });
      toast(texts.isInTheLibrary(made.name, end - start + 1, who), {
        action: { label: texts.show, onClick: () => router.push(`/library?item=${made.id}`) },
      });
      refresh();
      onClose();
    } catch (e) {
      toast.error((e as Error).message);
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={texts.bakeIntoAnItem}
      about={texts.oneItemWithWhat(who)}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void bake();
        }}
      >
        <Field label={texts.name}>
          <input
            className={inputLook}
            value={name}
            onChange={(e) => setName(e.target.value)}
            maxLength={200}
            required
          />
        </Field>
        <NumberField label={texts.fromFrame} value={start + 1} low={1} high={end + 1} onKeep={(x) => setStart(x - 1)} />
        <NumberField
          label={texts.toFrame}
          value={end + 1}
          low={start + 1}
          high={reel.frames}
          onKeep={(x) => {
            setEnd(x - 1);
            onShow(x - 1);
          }}
        />
        <Field label={texts.folderAsAPath}>
          <input className={inputLook} value={folder} onChange={(e) => setFolder(e.target.value)} maxLength={600} />
        </Field>
        {muted.length > 0 && (
          <p role="status" className="text-brass-text">
            {texts.leftOutAsItIs(muted.join(', '))}
          </p>
        )}
        {others.length > 0 && <p className="text-muted">{texts.alsoOnThisReelAnd(others.join(', '))}</p>}
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            {texts.cancel}
          </Button>
          <Button look="brass" type="submit" disabled={busy || name.trim() === ''}>
            {busy ? texts.baking : texts.bakeFrames(end - start + 1)}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
