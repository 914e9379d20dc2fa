'use client';

import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { formatDistanceToNow } from 'date-fns';
import { Pause, Play, RotateCw, Table2, X } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import type { Job, JobPart } from '@/contract';
import { Button, IconButton } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { RedoDialog } from './redo-dialog';
import { jobCard as texts } from './texts';
import { stopSending, useUploads } from './use-job-upload';

const left = (seconds: number): string =>
  seconds < 90
    ? texts.sLeft(seconds)
    : seconds < 5400
      ? texts.minLeft(Math.round(seconds / 60))
      : texts.hLeft((seconds / 3600).toFixed(1));

interface JobCardProps {
  job: Job;
  open: boolean;
  onOpen: () => void;
  onTable: () => void;
  onSendRest: () => void;
}

/** One long piece of work: how far it is, what can be done with it, and its report. */
export function JobCard({ job, open, onOpen, onTable, onSendRest }: JobCardProps) {
  const sending = useUploads((s) => s.sending[job.id]);
  const { counts } = job;
  const all = Object.values(counts).reduce((a, b) => a + b, 0);
  const ended = counts.done + counts.refused + counts.cancelled;
  const steer = async (what: string): Promise<void> => {
    try {
      if (what === 'cancel') stopSending(job.id);
      await sendJson('POST', `${API}/jobs/${job.id}/${what}`, {});
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const running = job.state === 'queued';
  return (
    <section aria-label={job.title} className="rounded-xl border border-line bg-panel px-4 py-3">
      <div className="flex items-center gap-3">
        <button
          type="button"
          onClick={onOpen}
          aria-expanded={open}
          className="min-w-0 truncate text-left font-semibold hover:text-brass-text"
        >
          {job.title}
        </button>
        <Chip tone={job.state === 'paused' ? 'brass' : 'plain'}>
          {running ? texts.running : job.state === 'collecting' ? texts.collecting : job.state}
        </Chip>
        {counts.refused > 0 && <Chip tone="fault">{texts.refused(counts.refused)}</Chip>}
        <span className="ml-auto text-[11.5px] whitespace-nowrap text-muted">
          {texts.ofIt(ended, all)}
          {running && job.leftS !== null && ` · ${left(job.leftS)}`}
          {!running && ` · ${formatDistanceToNow(new Date(job.endedAt ?? job.createdAt), { addSuffix: true })}`}
        </span>
        {running && (
          <IconButton label={texts.pause(job.title)} quiet onClick={() => void steer('pause')}>
            <Pause size={14} />
          </IconButton>
        )}
        {job.state === 'paused' && (
          <IconButton label={texts.resume(job.title)} quiet onClick={() => void steer('resume')}>
            <Play size={14} />
          </IconButton>
        )}
        {(running || job.state === 'paused') && (
          <IconButton label={texts.cancelWhatIsDone(job.title)} quiet onClick={() => void steer('cancel')}>
            <X size={14} />
          </IconButton>
        )}
        {counts.refused > 0 && job.state === 'done' && (
          <IconButton label={texts.retryTheRefusedFiles} quiet onClick={() => void steer('retry')}>
            <RotateCw size={14} />
          </IconButton>
        )}
        {job.kind === 'intake' && counts.done > 0 && (
          <Button size="small" onClick={onTable} hint={texts.namesNotesTagsAnd}>
            <Table2 size={13} /> {texts.describeFromATable}
          </Button>
        )}
      </div>
      <div
        className="mt-2 flex h-1.5 overflow-hidden rounded bg-raised"
        role="progressbar"
        aria-label={texts.done(job.title)}
        aria-valuenow={Math.round((100 * ended) / Math.max(1, all))}
      >
        <div
          className="bg-verdigris transition-[width]"
          style={{ width: `${(100 * counts.done) / Math.max(1, all)}%` }}
        />
        <div className="bg-raspberry" style={{ width: `${(100 * counts.refused) / Math.max(1, all)}%` }} />
        <div
          className={clsx('bg-brass', running && 'animate-pulse')}
          style={{ width: `${(100 * counts.running) / Math.max(1, all)}%` }}
        />
      </div>
      {sending && (
        <p className={clsx('mt-1 text-[12px]', sending.fault ? 'text-raspberry' : 'text-muted')}>
          {sending.fault ? texts.sendingStopped(sending.fault) : texts.sendingFilesOf(sending.sent, sending.total)}
        </p>
      )}
      {counts.waiting > 0 && (!sending || sending.fault) && (running || job.state === 'paused') && (
        <p className="mt-1 flex items-center gap-2 text-[12px] text-brass-text">
          {texts.fileDidNotArrive(counts.waiting)}
          <button type="button" className="underline" onClick={onSendRest}>
            {texts.chooseTheFolderAgain}
          </button>
          {texts.or}
          <button
            type="button"
            className="underline"
            onClick={() =>
              void sendJson('DELETE', `${API}/jobs/${job.id}/missing`, {}).catch((e: Error) => toast.error(e.message))
            }
          >
            {texts.skipThem}
          </button>
        </p>
      )}
      {open && <JobReport job={job} />}
    </section>
  );
}

const PAGE = 300;
/** Fittings below this score are offered to be done again. */
const BAD = 95;

/** What became of every part; the refused ones first, fittings by their trouble. */
function JobReport({ job }: { job: Job }) {
  const [only, setOnly] = useState<'all' | 'refused'>('all');
  const { data: parts = [] } = useQuery({
    queryKey: ['parts', job.id, only],
    queryFn: () =>
      getJson<JobPart[]>(`${API}/jobs/${job.id}/parts?limit=${PAGE * 4}${only === 'refused' ? '&state=refused' : ''}`),
  });
  const isFit = job.kind === 'fit';
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const [redoing, setRedoing] = useState(false);
  // the worst first: what was refused, then by score
  const trouble = (p: JobPart): number =>
    p.state === 'refused'
      ? 1e6
      : p.result?.report?.score !== undefined
        ? 100 - p.result.report.score
        : (p.result?.report?.troubles ?? -1);
  const rows = [...parts]
    .filter((p) => p.state === 'done' || p.state === 'refused' || p.state === 'cancelled')
    .sort((a, b) => trouble(b) - trouble(a) || a.number - b.number);
  return (
    <div className="mt-3 max-h-96 overflow-auto border-t border-line pt-2">
      <div className="mb-1 flex items-center gap-3 text-[12px] text-muted">
        {texts.ended(rows.length)}
        {isFit && texts.worstFirst}
        {isFit && rows.length > 0 && (
          <>
            <button
              type="button"
              className="text-brass-text hover:underline"
              onClick={() => setChosen(rows.filter((p) => (p.result?.report?.score ?? 0) < BAD).map((p) => p.id))}
            >
              {texts.selectAllBelow(BAD)}
            </button>
            <Button size="tiny" disabled={chosen.length === 0} onClick={() => setRedoing(true)}>
              {texts.doIt} {chosen.length > 0 ? chosen.length : texts.chosen} {texts.again}
            </Button>
          </>
        )}
        {job.counts.refused > 0 && (
          <button
            type="button"
            className="text-brass-text hover:underline"
            onClick={() => setOnly(only === 'all' ? 'refused' : 'all')}
          >
            {only === 'all' ? texts.onlyTheRefused(job.counts.refused) : texts.all}
          </button>
        )}
      </div>
      <table className="w-full table-fixed text-left">
        <tbody>
          {rows.slice(0, PAGE).map((p) => (
            <tr key={p.id} className="align-top [&>td]:border-b [&>td]:border-line/50 [&>td]:py-1 [&>td]:pr-3">
              {isFit && (
                <td className="w-[74px] whitespace-nowrap">
                  <label className="flex items-center gap-2">
                    <input
                      type="checkbox"
                      className="accent-(--brass)"
                      aria-label={texts.choose(p.name)}
                      checked={chosen.includes(p.id)}
                      onChange={(e) =>
                        setChosen(e.target.checked ? [...chosen, p.id] : chosen.filter((x) => x !== p.id))
                      }
                    />
                    <span
                      title={texts.scoreOfWhatWas}
                      className={clsx(
                        'tabular-nums',
                        (p.result?.report?.score ?? 0) < 60
                          ? 'text-raspberry'
                          : (p.result?.report?.score ?? 0) < BAD && 'text-brass-text',
                      )}
                    >
                      {p.result?.report?.score ?? '–'}
                    </span>
                  </label>
                </td>
              )}
              <td className={clsx('truncate', isFit ? 'w-[32%]' : 'w-[38%]')} title={p.name}>
                {isFit && p.result?.from && p.result.castId ? (
                  <Link
                    href={`/fitting?item=${p.result.from}&cast=${p.result.castId}`}
                    className="hover:text-brass-text hover:underline"
                    title={texts.openInFitting(p.name)}
                  >
                    {p.name}
                  </Link>
                ) : (
                  p.name
                )}
              </td>
              <td className="truncate">
                {(p.result?.items ?? []).slice(0, 3).map((i) => (
                  <Link key={i.id} href={`/library?item=${i.id}`} className="mr-2 text-brass-text hover:underline">
                    {i.name}
                  </Link>
                ))}
                {(p.result?.cast ?? []).map((c) => (
                  <Link key={c.id} href={`/cast?member=${c.id}`} className="mr-2 text-brass-text hover:underline">
                    {c.name}
                  </Link>
                ))}
              </td>
              <td className={clsx('w-[38%]', p.state === 'refused' ? 'text-raspberry' : 'text-muted')}>
                {p.message ||
                  (p.result?.report
                    ? texts.measured(p.result.report.slipCm, p.result.report.directionDeg, p.result.report.worst)
                    : (p.result?.warnings ?? []).join(' '))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {redoing && (
        <RedoDialog job={job} parts={chosen} onClose={() => setRedoing(false)} onDone={() => setChosen([])} />
      )}
      {rows.length > PAGE && <p className="mt-1 text-muted">{texts.andMore(rows.length - PAGE)}</p>}
    </div>
  );
}
