'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { useMay } from '@/client/session';
import type { QuotaOf, Storage } from '@/contract';
import { Field, KeptInput } from '@/ui/field';
import { Section } from './section';
import { storageSection as texts } from './texts';

const KEY = ['storage'] as const;
const GB = 1e9;

const size = (bytes: number): string =>
  bytes < GB / 10 ? `${(bytes / 1e6).toFixed(bytes < 1e6 ? 2 : 0)} MB` : `${(bytes / GB).toFixed(1)} GB`;

/** How much is stored, by whom, and how much may be. */
export function StorageSection() {
  const govern = useMay('admin');
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => getJson<Storage>(`${API}/storage`) });
  if (!data) return null;
  const keep = (of: QuotaOf, text: string): void => {
    const gigabytes = Number(text.replace(',', '.'));
    if (text !== '' && !(gigabytes > 0)) {
      toast.error(texts.aQuotaIsA);
      return;
    }
    sendJson('PUT', `${API}/storage`, { of, bytes: text === '' ? null : Math.round(gigabytes * GB) })
      .then(() => client.invalidateQueries({ queryKey: KEY }))
      .catch((e: Error) => toast.error(e.message));
  };
  const ofEach = data.people[0]?.most ?? null;
  return (
    <Section
      title={texts.storage}
      about={
        data.library.most === null
          ? texts.inTheLibrary(size(data.library.used))
          : texts.ofTheLibrary(size(data.library.used), size(data.library.most))
      }
    >
      <div className="flex flex-col gap-1">
        {data.people
          .filter((p) => p.used > 0)
          .slice(0, 8)
          .map((p) => (
            <Row key={p.id} name={p.name} used={p.used} most={p.most ?? data.library.most} />
          ))}
        {govern ? (
          <div className="grid grid-cols-2 gap-2 pt-1">
            <Quota label={texts.theLibraryMayHold} value={data.library.most} onKeep={(t) => keep('library', t)} />
            <Quota label={texts.eachPersonMayStore} value={ofEach} onKeep={(t) => keep('person', t)} />
          </div>
        ) : (
          ofEach !== null && (
            <p className="text-muted">
              {texts.youMayStore} {size(ofEach)}.
            </p>
          )
        )}
      </div>
    </Section>
  );
}

function Row({ name, used, most }: { name: string; used: number; most: number | null }) {
  const share = most === null ? 0 : Math.min(1, used / most);
  return (
    <div className="rounded-lg border border-line bg-panel px-3 py-1.5">
      <div className="flex items-baseline gap-3">
        <span className="min-w-0 flex-1 truncate">{name}</span>
        <span className="text-muted">
          {size(used)}
          {most !== null && texts.ofIt(size(most))}
        </span>
      </div>
      {most !== null && (
        <div className="mt-1 h-1 overflow-hidden rounded-full bg-raised">
          <div
            className={`h-full ${share > 0.9 ? 'bg-raspberry' : 'bg-brass'}`}
            style={{ width: `${Math.max(1, 100 * share)}%` }}
          />
        </div>
      )}
    </div>
  );
}

function Quota({ label, value, onKeep }: { label: string; value: number | null; onKeep: (text: string) => void }) {
  return (
    <Field label={label}>
      <KeptInput
        key={value}
        inputMode="decimal"
        placeholder={texts.noLimit}
        value={value === null ? '' : String(value / GB)}
        onKeep={onKeep}
      />
    </Field>
  );
}
