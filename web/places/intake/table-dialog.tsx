'use client';

import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { API, getJson } from '@/client/api';
import { useEdit } from '@/client/queries';
import type { IntakeRow } from '@/contract';
import { many } from '@/naming/counts';
import {
  descriptionOf,
  guessRoles,
  type IndexTable,
  type Joinable,
  joinTable,
  ROLES,
  type Role,
} from '@/naming/table-join';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Select } from '@/ui/field';
import { readTableFile } from './read-table';
import { tableDialog as texts } from './texts';

interface TableDialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  jobId: string | null;
  /** A table that was dropped already. */
  given: { name: string; table: IndexTable } | null;
}

const ROLE_WORDS: Record<Role, string> = {
  file: 'file',
  subject: 'subject',
  number: 'number',
  name: 'name',
  description: texts.description,
  category: 'category',
  tags: 'tags',
  rate: 'rate',
  nothing: texts.notUsed,
};
const BY = { file: texts.byFileName, numbers: texts.byNumber, alike: texts.bySimilarity } as const;
const SHOWN = 200;

/** Joins a table of descriptions onto what was brought in; everything is previewed before it is written. */
export function TableDialog({ open, onOpenChange, jobId, given }: TableDialogProps) {
  const [own, setOwn] = useState<TableDialogProps['given']>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [chosen, setChosen] = useState<Role[] | null>(null);
  const [view, setView] = useState<'joined' | 'rows' | 'files'>('joined');
  const edit = useEdit();
  const { data: intakes = [] } = useQuery({
    queryKey: ['intakes', 'of', jobId],
    queryFn: () => getJson<IntakeRow[]>(`${API}/intake${jobId ? `?job=${jobId}` : ''}`),
    enabled: open,
  });
  const table = own ?? given;
  const roles = useMemo(() => chosen ?? (table ? guessRoles(table.table) : []), [chosen, table]);
  const items = useMemo<Joinable[]>(
    () =>
      intakes
        .filter((r) => r.state === 'done' && r.result.items.length === 1)
        .map((r) => ({ id: r.result.items[0]!.id, name: r.result.items[0]!.name, file: r.fileName })),
    [intakes],
  );
  const result = useMemo(() => (table ? joinTable(table.table, roles, items) : null), [table, roles, items]);
  const read = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setFault(null);
    setChosen(null);
    try {
      setOwn({ name: file.name, table: await readTableFile(file) });
    } catch (e) {
      setFault((e as Error).message);
    }
  };
  const drop = useDropzone({ onDrop: (files) => void read(files[0]), multiple: false });
  const write = (): void => {
    if (!result || !table) return;
    edit.mutate({
      edits: result.joined.map(({ row, item }) => ({ id: item.id, change: descriptionOf(row, roles) })),
      label: texts.describedFrom(result.joined.length, table.name),
    });
    onOpenChange(false);
  };
  return (
    <Dialog
      open={open}
      onOpenChange={onOpenChange}
      title={texts.describeFromATable}
      about={
        table
          ? `${table.name}: ${many(table.table.rows.length, 'row')}, ${many(items.length, 'file')}`
          : texts.csvTsvXlsxOr
      }
      width={1040}
    >
      {!table && (
        <div
          {...drop.getRootProps()}
          className="stage-back flex h-40 cursor-pointer items-center justify-center rounded-xl border border-dashed border-line text-muted hover:border-muted"
        >
          <input {...drop.getInputProps({ 'aria-label': texts.chooseATable })} />
          {texts.dropTheTableHere}
        </div>
      )}
      {fault && <p className="mt-3 text-raspberry">{fault}</p>}
      {table && result && (
        <div className="flex flex-col gap-3">
          <div className="flex flex-wrap gap-2">
            {table.table.columns.map((title, k) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: two columns may have the same title
              <div key={`${title}-${k}`} className="flex w-40 flex-col gap-0.5">
                <span className="truncate text-[11.5px] text-muted" title={title}>
                  {title}: {table.table.rows[0]?.cells[k]}
                </span>
                <Select
                  label={texts.whatTheColumnHolds(title)}
                  value={roles[k] ?? 'nothing'}
                  options={ROLES.map((r) => ({ value: r, label: ROLE_WORDS[r] }))}
                  onChange={(role) =>
                    setChosen(roles.map((r, i) => (i === k ? role : role !== 'nothing' && r === role ? 'nothing' : r)))
                  }
                />
              </div>
            ))}
          </div>
          <div className="flex gap-2" role="tablist">
            {(
              [
                ['joined', texts.matched(result.joined.length)],
                ['rows', texts.withoutAFile(result.rowsWithoutFile.length + result.doubtful.length)],
                ['files', texts.withoutARow(result.filesWithoutRow.length)],
              ] as const
            ).map(([key, label]) => (
              <button
                key={key}
                type="button"
                role="tab"
                aria-selected={view === key}
                onClick={() => setView(key)}
                className={`rounded-full border px-3 py-0.5 ${view === key ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink'}`}
              >
                {label}
              </button>
            ))}
          </div>
          <div className="h-[42vh] overflow-auto rounded-md border border-line">
            <table className="w-full table-fixed text-left [&_td]:border-b [&_td]:border-line/50 [&_td]:px-2 [&_td]:py-1">
              <tbody>
                {view === 'joined' &&
                  result.joined.slice(0, SHOWN).map(({ row, item, by }) => {
                    const d = descriptionOf(row, roles);
                    return (
                      <tr key={item.id} className="align-top">
                        <td className="w-[26%] truncate text-muted" title={item.file}>
                          {item.file}
                        </td>
                        <td className="w-[14%] text-[11.5px] text-muted">{BY[by]}</td>
                        <td>
                          <span className="block truncate font-medium">{d.name ?? item.name}</span>
                          <span className="block truncate text-[11.5px] text-muted">
                            {[d.heading, d.addTags?.join(', '), d.note].filter(Boolean).join(' · ')}
                          </span>
                        </td>
                      </tr>
                    );
                  })}
                {view === 'rows' &&
                  [
                    ...result.doubtful.map((x) => ({
                      row: x.row,
                      why: texts.matchEquallyWell(x.files.length),
                    })),
                    ...result.rowsWithoutFile.map((row) => ({ row, why: texts.noSimilarFile })),
                  ]
                    .slice(0, SHOWN)
                    .map(({ row, why }) => (
                      <tr key={row.line}>
                        <td className="w-16 text-muted">{texts.row(row.line)}</td>
                        <td className="truncate">{row.cells.filter(Boolean).join(' · ')}</td>
                        <td className="w-44 text-muted">{why}</td>
                      </tr>
                    ))}
                {view === 'files' &&
                  result.filesWithoutRow.slice(0, SHOWN).map((f) => (
                    <tr key={f.id}>
                      <td className="truncate">{f.file}</td>
                      <td className="truncate text-muted">{f.name}</td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </div>
          <div className="flex items-center gap-2">
            <Button
              look="quiet"
              onClick={() => {
                setOwn(null);
                setChosen(null);
                drop.open();
              }}
            >
              {texts.anotherTable}
            </Button>
            <input {...drop.getInputProps({ 'aria-label': texts.chooseAnotherTable })} />
            <Button
              look="brass"
              className="ml-auto"
              disabled={result.joined.length === 0 || edit.isPending}
              onClick={write}
            >
              {texts.describeItem(result.joined.length)}
            </Button>
          </div>
        </div>
      )}
    </Dialog>
  );
}
