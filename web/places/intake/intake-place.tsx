'use client';

import { clsx } from 'clsx';
import { formatDistanceToNow } from 'date-fns';
import { Check, FileWarning, FolderInput as FolderIcon, RotateCw, Store, X } from 'lucide-react';
import Link from 'next/link';
import { parseAsBoolean, parseAsString, useQueryState } from 'nuqs';
import { type RefObject, useEffect, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { toast } from 'sonner';
import { sendJson } from '@/client/api';
import { useIntakes, useJobs, useRefresh } from '@/client/queries';
import { useMay } from '@/client/session';
import { useUndo } from '@/client/undo';
import type { CastMember, IntakeRow } from '@/contract';
import { many } from '@/naming/counts';
import type { IndexTable } from '@/naming/table-join';
import { Button, IconButton } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { inputLook } from '@/ui/field';
import { JobCard } from './job-card';
import { JointColumnsDialog } from './joints/joint-columns-dialog';
import { pathOf } from './pair-files';
import { kindOf, readTableFile } from './read-table';
import { SupplierPage } from './supplier/supplier-page';
import { TableDialog } from './table-dialog';
import { intakePlace as texts } from './texts';
import { type Pending, useIntake } from './use-intake';
import { useUploads } from './use-job-upload';

const size = (bytes: number): string =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

/** More files than this, folders and archives come in as one job. */
const FEW = 12;

/** What comes in: files, or takes of a supplier. */
export function IntakePlace() {
  const [supplier, setSupplier] = useQueryState('supplier', parseAsBoolean.withDefault(false));
  if (supplier) return <SupplierPage onClose={() => void setSupplier(null)} />;
  return <Files onSupplier={() => void setSupplier(true)} />;
}

/** Files in: what was dropped, what became of it, what was refused and why. */
function Files({ onSupplier }: { onSupplier: () => void }) {
  const { pending, ended, add, cancel, retry } = useIntake();
  const { data: rows = [], isLoading } = useIntakes();
  const { data: jobs = [] } = useJobs();
  const refreshAll = useRefresh();
  useEffect(() => {
    if (ended > 0) refreshAll();
  }, [ended, refreshAll]);
  const [openJob, setOpenJob] = useQueryState('job', parseAsString);
  const [table, setTable] = useState<{
    jobId: string | null;
    given: { name: string; table: IndexTable } | null;
  } | null>(null);
  /** Tables of which it has to be said which columns are which joints, one after the other. */
  const [numbers, setNumbers] = useState<readonly File[]>([]);
  const mayChange = useMay('animator');
  const start = useUploads((s) => s.start);
  const goOn = useUploads((s) => s.goOn);
  const folderInput = useRef<HTMLInputElement>(null);
  const restInput = useRef<HTMLInputElement>(null);
  /** The job whose missing files are chosen. */
  const rest = useRef('');
  const [into, setInto] = useState('');
  const [again, setAgain] = useState(false);
  const take = async (files: File[]): Promise<void> => {
    try {
      const kinds = await Promise.all(files.map(kindOf));
      const tables = files.filter((_, i) => kinds[i] === 'list');
      const motions = files.filter((_, i) => kinds[i] === 'take');
      const bare = files.filter((_, i) => kinds[i] === 'numbers');
      if (bare.length > 0) setNumbers((before) => [...before, ...bare]);
      const asJob =
        motions.length > FEW ||
        motions.some((f) => pathOf(f).includes('/') || /\.zip$/i.test(f.name)) ||
        into !== '' ||
        again;
      if (motions.length > 0 && asJob) {
        const top = pathOf(motions[0]!).split('/');
        const title =
          top.length > 1 ? top[0]! : motions.length === 1 ? motions[0]!.name : `${many(motions.length, 'file')}`;
        await setOpenJob(await start(motions, { title, folder: into, again }));
      } else if (motions.length > 0) add(motions);
      if (tables[0])
        setTable({ jobId: openJob, given: { name: tables[0].name, table: await readTableFile(tables[0]) } });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const takeRest = async (files: File[]): Promise<void> => {
    try {
      const sent = await goOn(rest.current, files);
      toast(sent > 0 ? texts.sending(sent) : texts.noneOfTheseFiles);
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const drop = useDropzone({
    onDrop: (accepted, refused) => void take([...accepted, ...refused.map((r) => r.file)]),
    noKeyboard: false,
    disabled: !mayChange,
  });
  const bare = rows.length === 0 && pending.length === 0 && jobs.length === 0 && !isLoading;
  const refused = rows.filter((r) => r.state === 'refused').length;
  return (
    <div
      {...drop.getRootProps({ tabIndex: -1, onClick: (e) => e.stopPropagation() })}
      className="flex h-full flex-col gap-4 overflow-y-auto p-5 outline-none [&>input]:absolute"
    >
      <input {...drop.getInputProps({ 'aria-label': texts.chooseFiles })} />
      <FolderInput ref={folderInput} label={texts.chooseAFolder} onFiles={(files) => void take(files)} />
      <FolderInput ref={restInput} label={texts.chooseTheFolderAgain} onFiles={(files) => void takeRest(files)} />
      <button
        type="button"
        onClick={drop.open}
        disabled={!mayChange}
        className={clsx(
          'stage-back flex w-full shrink-0 items-center justify-center gap-5 rounded-xl border border-dashed px-8 text-left transition-colors',
          bare ? 'min-h-80 flex-1' : 'min-h-32 py-4',
          drop.isDragActive ? 'border-brass text-brass-text' : 'border-line hover:border-muted',
        )}
      >
        <FolderIcon size={bare ? 44 : 30} strokeWidth={1.3} className="shrink-0 text-brass" />
        <span>
          <span className="heading block text-lg">
            {!mayChange ? texts.youCanLookAround : drop.isDragActive ? texts.dropToImport : texts.dropFilesHereOr}
          </span>
          <span className="block max-w-2xl text-muted">{texts.motionCaptureAsBvh}</span>
        </span>
      </button>
      {mayChange && (
        <div className="flex flex-wrap items-center gap-3 text-muted">
          <Button onClick={() => folderInput.current?.click()}>{texts.chooseAFolder2}</Button>
          <span>{texts.into}</span>
          <input
            aria-label={texts.libraryFolderToImport}
            placeholder={texts.theirOwnFolders}
            className={`${inputLook} w-56 py-1`}
            value={into}
            onChange={(e) => setInto(e.target.value)}
          />
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-(--brass)"
              checked={again}
              onChange={(e) => setAgain(e.target.checked)}
            />
            {texts.importFilesAgainEven}
          </label>
          <span className="ml-auto flex gap-1">
            <Button look="quiet" onClick={onSupplier} hint={texts.browseACatalogueBuy}>
              <Store size={14} /> {texts.fromASupplier}
            </Button>
            <Button look="quiet" onClick={() => setTable({ jobId: openJob, given: null })}>
              {texts.describeFromATable}
            </Button>
          </span>
        </div>
      )}
      {jobs.slice(0, 12).map((j) => (
        <JobCard
          key={j.id}
          job={j}
          open={openJob === j.id}
          onOpen={() => void setOpenJob(openJob === j.id ? null : j.id)}
          onTable={() => setTable({ jobId: j.id, given: null })}
          onSendRest={() => {
            rest.current = j.id;
            restInput.current?.click();
          }}
        />
      ))}
      {numbers[0] && (
        <JointColumnsDialog
          key={numbers.length}
          file={numbers[0]}
          onOpenChange={() => setNumbers((before) => before.slice(1))}
          onTake={(file) => void take([file])}
        />
      )}
      {table && <TableDialog open onOpenChange={() => setTable(null)} jobId={table.jobId} given={table.given} />}
      {pending.length > 0 && (
        <section aria-label={texts.onTheWay} className="flex flex-col gap-1.5">
          {pending.map((p) => (
            <PendingRow key={p.key} pending={p} onCancel={() => cancel(p.key)} onRetry={() => retry(p.key)} />
          ))}
        </section>
      )}
      {rows.length > 0 && (
        <section aria-label={texts.report}>
          <div className="mb-2 flex items-baseline gap-3">
            <h2 className="heading text-lg">{texts.imported}</h2>
            <span className="text-muted">
              {many(rows.length, 'file')}
              {refused > 0 && texts.refused(refused)}
            </span>
          </div>
          <table className="w-full table-fixed border-separate border-spacing-0 text-left">
            <thead className="text-[11.5px] text-muted">
              <tr>
                <th className="w-[26%] border-b border-line py-1 font-normal">{texts.file}</th>
                <th className="w-[30%] border-b border-line py-1 font-normal">{texts.became}</th>
                <th className="border-b border-line py-1 font-normal">{texts.notes}</th>
                <th className="w-40 border-b border-line py-1 text-right font-normal">{texts.when}</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <ReportRow key={row.id} row={row} />
              ))}
            </tbody>
          </table>
        </section>
      )}
    </div>
  );
}

/** Chooses all files of a folder; opened from elsewhere. */
function FolderInput({
  ref,
  label,
  onFiles,
}: {
  ref: RefObject<HTMLInputElement | null>;
  label: string;
  onFiles: (files: File[]) => void;
}) {
  return (
    <input
      ref={(node) => {
        ref.current = node;
        node?.setAttribute('webkitdirectory', '');
      }}
      type="file"
      multiple
      hidden
      aria-label={label}
      onChange={(e) => {
        onFiles([...(e.target.files ?? [])]);
        e.target.value = '';
      }}
    />
  );
}

function PendingRow({ pending, onCancel, onRetry }: { pending: Pending; onCancel: () => void; onRetry: () => void }) {
  const { file, progress, error } = pending;
  const share = progress === 'reading' ? 1 : progress;
  return (
    <div
      className={clsx(
        'flex items-center gap-3 rounded-lg border bg-panel px-3 py-2',
        error ? 'border-raspberry' : 'border-line',
      )}
    >
      <span className="w-72 truncate font-medium">{file.name}</span>
      <span className="w-16 text-muted">{size(file.size)}</span>
      {error ? (
        <span className="flex-1 text-raspberry">{error}</span>
      ) : (
        <>
          <div
            className="h-1 flex-1 overflow-hidden rounded bg-raised"
            role="progressbar"
            aria-valuenow={Math.round(share * 100)}
            aria-label={texts.isBeingSent(file.name)}
          >
            <div
              className={clsx('h-full bg-brass', progress === 'reading' && 'animate-pulse')}
              style={{ width: `${share * 100}%` }}
            />
          </div>
          <span className="w-20 text-muted">
            {progress === 'reading' ? texts.reading : `${Math.round(share * 100)} %`}
          </span>
        </>
      )}
      {error && (
        <IconButton label={texts.tryAgain} onClick={onRetry} quiet>
          <RotateCw size={14} />
        </IconButton>
      )}
      <IconButton label={error ? texts.removeFromTheList : texts.cancel} onClick={onCancel} quiet>
        <X size={14} />
      </IconButton>
    </div>
  );
}

function ReportRow({ row }: { row: IntakeRow }) {
  const { items, cast, warnings, known } = row.result;
  const ok = row.state === 'done';
  return (
    <tr className="align-top [&>td]:border-b [&>td]:border-line/60 [&>td]:py-2 [&>td]:pr-4">
      <td>
        <span className="flex items-start gap-2">
          {ok ? (
            <Check size={15} className="mt-0.5 shrink-0 text-verdigris" aria-label={texts.takenIn} />
          ) : (
            <FileWarning size={15} className="mt-0.5 shrink-0 text-raspberry" aria-label={texts.refused2} />
          )}
          <span className="min-w-0">
            <span className="block truncate font-medium" title={row.fileName}>
              {row.fileName}
            </span>
            <span className="text-[11.5px] text-muted">
              {size(row.bytes)}
              {row.result.format && ` · ${row.result.format.toUpperCase()}`}
            </span>
          </span>
        </span>
      </td>
      <td>
        {items.map((i) => (
          <span key={i.id} className="block truncate">
            <Link
              href={`/library?item=${i.id}`}
              className="text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass"
            >
              {i.name}
            </Link>{' '}
            <span className="text-[11.5px] text-muted">
              {texts.frameAt(i.frames)} {Number(i.fps.toFixed(2))}
            </span>
          </span>
        ))}
        {row.result.pack && (
          <span className="block truncate text-[11.5px] text-muted">
            {texts.groupedAsThePack}{' '}
            <Link href={`/library?pack=${row.result.pack.id}`} className="text-brass-text hover:underline">
              {row.result.pack.name}
            </Link>
          </span>
        )}
        {cast.map((c) => (
          <span key={c.id} className="block truncate">
            <Link
              href={`/cast?member=${c.id}`}
              className="text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass"
            >
              {c.name}
            </Link>{' '}
            <span className="text-[11.5px] text-muted">{texts.castJoint(c.joints)}</span>
          </span>
        ))}
        {!ok && <Chip tone="fault">{texts.refused2}</Chip>}
      </td>
      <td className={ok ? 'text-muted' : 'text-raspberry'}>
        {ok ? (
          <>
            {known && <span className="block">{texts.itsSkeletonIsAlready}</span>}
            {warnings.map((w) => (
              <span key={w} className="block">
                {w}
              </span>
            ))}
            {items.length > 0 && cast.length === 0 && row.result.rigId && (
              <AddSkeleton rigId={row.result.rigId} name={items[0]!.name} />
            )}
          </>
        ) : (
          row.message
        )}
      </td>
      <td className="text-right text-[11.5px] text-muted">
        {formatDistanceToNow(new Date(row.createdAt), { addSuffix: true })}
      </td>
    </tr>
  );
}

/** A take's bare skeleton can be a target too. */
function AddSkeleton({ rigId, name }: { rigId: string; name: string }) {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const add = async (): Promise<void> => {
    try {
      const member = await sendJson<CastMember>('POST', '/api/v1/cast', { rigId, name: `${name} skeleton` });
      push({
        label: texts.addedToTheCast(member.name),
        undo: () => sendJson('PATCH', `/api/v1/cast/${member.id}`, { binned: true }),
      });
      toast(texts.isInTheCast(member.name));
      refresh();
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Button look="quiet" size="small" className="-ml-2" onClick={() => void add()}>
      {texts.addItsSkeletonTo}
    </Button>
  );
}
