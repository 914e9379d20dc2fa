'use client';

import { slotLabel } from '@velvet-reel/motion';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { toast } from 'sonner';
import { API, sendFile, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { CastMember, ReplacementReport } from '@/contract';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { replaceDialog as texts } from './texts';

/** Another file in a character's place: first what it would mean, then the step itself, which can be taken back. */
export function ReplaceDialog({ member, onClose }: { member: CastMember; onClose: () => void }) {
  const [file, setFile] = useState<File | null>(null);
  const [report, setReport] = useState<ReplacementReport | null>(null);
  const [busy, setBusy] = useState(false);
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const send = <T,>(f: File, check: boolean): Promise<T> =>
    sendFile<T>(
      'POST',
      `${API}/cast/${member.id}/replacement${check ? '?check=1' : ''}`,
      f,
      undefined,
      () => undefined,
      new AbortController().signal,
    );
  const weigh = async (f: File): Promise<void> => {
    setBusy(true);
    setReport(null);
    setFile(f);
    try {
      setReport((await send<{ report: ReplacementReport }>(f, true)).report);
    } catch (error) {
      toast.error((error as Error).message);
      setFile(null);
    } finally {
      setBusy(false);
    }
  };
  const replace = async (): Promise<void> => {
    if (!file) return;
    setBusy(true);
    try {
      const { undo } = await send<{ undo: Record<string, unknown> }>(file, false);
      push({
        label: texts.replacedSFileWith(member.name, file.name),
        undo: () => sendJson('PATCH', `${API}/cast/${member.id}`, undo),
      });
      toast(texts.hasANewFile(member.name));
      refresh();
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const { getRootProps, getInputProps, open } = useDropzone({
    multiple: false,
    noClick: true,
    onDrop: ([f]) => f && void weigh(f),
  });
  const d = report?.differences;
  const lines: [string, string][] = d
    ? [
        [texts.jointsAdded, list(d.added)],
        [texts.jointsRemoved, list(d.removed)],
        [texts.newParent, list(d.reparented.map((r) => texts.fromTo(r.joint, r.from, r.to)))],
        [texts.moved, list(d.moved.map((m) => texts.byCm(m.joint, (100 * m.by).toFixed(1))))],
        [texts.turned, list(d.turned.map((t) => texts.by(t.joint, t.degrees.toFixed(0))))],
      ]
    : [];
  return (
    <Dialog
      open
      onOpenChange={onClose}
      width={560}
      title={texts.replaceTheFileOf(member.name)}
      about={texts.theBodyMapPose}
    >
      <div {...getRootProps()} className="flex flex-col gap-3">
        <input {...getInputProps({ 'aria-label': texts.newFile })} />
        <Button onClick={open} disabled={busy}>
          {file ? texts.chooseAnother(file.name) : texts.chooseAGlbGltf}
        </Button>
        {busy && <p className="text-muted">{texts.reading}</p>}
        {report && d && (
          <>
            {d.same ? (
              <p>{texts.theSkeletonIsIdentical}</p>
            ) : (
              <dl className="grid grid-cols-[110px_1fr] gap-x-3 gap-y-1">
                {lines
                  .filter(([, text]) => text !== '')
                  .map(([name, text]) => (
                    <div key={name} className="contents">
                      <dt className="text-muted">{name}</dt>
                      <dd>{text}</dd>
                    </div>
                  ))}
              </dl>
            )}
            <p>
              {texts.keepsSlotOfThe(report.slotsKept)}
              {report.slotsLost.length > 0 && (
                <span className="text-brass-text">
                  {texts.loseTheirJoint(report.slotsLost.length)}
                  {list(report.slotsLost.map((s) => `${slotLabel(s.slot)} (${s.joint})`))}
                </span>
              )}
              .{report.setsCut.length > 0 && texts.jointSetsThatLose(report.setsCut.join(', '))}
            </p>
            <p>
              {report.mesh.after > 0
                ? texts.verticesBefore(report.mesh.after.toLocaleString('en'), report.mesh.before.toLocaleString('en'))
                : texts.theFileHasNo}{' '}
              {report.itemsMadeFor === 0
                ? texts.nothingInTheLibrary
                : texts.madeForItSo(report.itemsMadeFor, report.fittings)}
            </p>
            <Button look="brass" disabled={busy} onClick={() => void replace()}>
              {texts.replace}
            </Button>
          </>
        )}
      </div>
    </Dialog>
  );
}

const list = (names: readonly string[]): string =>
  names.length <= 6 ? names.join(', ') : texts.andMore(names.slice(0, 5).join(', '), names.length - 5);
