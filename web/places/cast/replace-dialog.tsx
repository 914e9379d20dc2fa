'use client';

import { slotLabel } from '@velvet-reel/motion';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { toast } from 'sonner';
import { API, sendFile, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { CastMember, ReplacementReport } from '@/contract';
import { many } from '@/naming/counts';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';

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
        label: `Replaced ${member.name}’s file with ${file.name}`,
        undo: () => sendJson('PATCH', `${API}/cast/${member.id}`, undo),
      });
      toast(`${member.name} has a new file; map, pose, limits, pairs and sets were kept`);
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
        ['Joints added', list(d.added)],
        ['Joints removed', list(d.removed)],
        ['New parent', list(d.reparented.map((r) => `${r.joint} from ${r.from} to ${r.to}`))],
        ['Moved', list(d.moved.map((m) => `${m.joint} by ${(100 * m.by).toFixed(1)} cm`))],
        ['Turned', list(d.turned.map((t) => `${t.joint} by ${t.degrees.toFixed(0)}°`))],
      ]
    : [];
  return (
    <Dialog
      open
      onOpenChange={onClose}
      width={560}
      title={`Replace the file of ${member.name}`}
      about="The body map, pose, limits, pairs, joint sets, notes and history are kept wherever the joints still exist."
    >
      <div {...getRootProps()} className="flex flex-col gap-3">
        <input {...getInputProps({ 'aria-label': 'New file' })} />
        <Button onClick={open} disabled={busy}>
          {file ? `${file.name}; choose another` : 'Choose a GLB, glTF or BVH file, or drop it here'}
        </Button>
        {busy && <p className="text-muted">Reading …</p>}
        {report && d && (
          <>
            {d.same ? (
              <p>The skeleton is identical.</p>
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
              Keeps {many(report.slotsKept, 'slot')} of the body map
              {report.slotsLost.length > 0 && (
                <span className="text-brass-text">
                  ; {report.slotsLost.length} lose their joint:{' '}
                  {list(report.slotsLost.map((s) => `${slotLabel(s.slot)} (${s.joint})`))}
                </span>
              )}
              .{report.setsCut.length > 0 && ` Joint sets that lose joints: ${report.setsCut.join(', ')}.`}
            </p>
            <p>
              {report.mesh.after > 0
                ? `${report.mesh.after.toLocaleString('en')} vertices, ${report.mesh.before.toLocaleString('en')} before.`
                : 'The file has no mesh: the character will be shown as bones.'}{' '}
              {report.itemsMadeFor === 0
                ? 'Nothing in the library was made for this character.'
                : `Made for it so far: ${many(report.itemsMadeFor, 'item')}, of which ${many(report.fittings, 'fitting')} can be made again.`}
            </p>
            <Button look="brass" disabled={busy} onClick={() => void replace()}>
              Replace
            </Button>
          </>
        )}
      </div>
    </Dialog>
  );
}

const list = (names: readonly string[]): string =>
  names.length <= 6 ? names.join(', ') : `${names.slice(0, 5).join(', ')} and ${names.length - 5} more`;
