'use client';

import { useInfiniteQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { useState } from 'react';
import { API, getJson } from '@/client/api';
import { usePeople } from '@/client/queries';
import { AUDITED, type AuditEntry } from '@/contract';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { Section } from './section';
import { auditSection as texts } from './texts';

const EVERYTHING = ' ';
const PAGE = 50;

/** For admins: who came in, what left the library, who may do what, what is gone. */
export function AuditSection() {
  const [what, setWhat] = useState(EVERYTHING);
  const [person, setPerson] = useState(EVERYTHING);
  const { data: people = [] } = usePeople();
  const query = new URLSearchParams({
    ...(what !== EVERYTHING && { what }),
    ...(person !== EVERYTHING && { person }),
  });
  const { data, error, hasNextPage, fetchNextPage, isFetching } = useInfiniteQuery({
    queryKey: ['audit', query.toString()],
    queryFn: ({ pageParam }) => {
      const page = new URLSearchParams(query);
      page.set('limit', String(PAGE));
      if (pageParam !== null) page.set('before', String(pageParam));
      return getJson<AuditEntry[]>(`${API}/audit?${page}`);
    },
    // what is done on this very page is seen in it soon
    refetchInterval: 10_000,
    initialPageParam: null as number | null,
    getNextPageParam: (last) => (last.length < PAGE ? undefined : last.at(-1)?.seq),
  });
  const rows = data?.pages.flat() ?? [];
  return (
    <Section title={texts.audit} about={texts.signInsKeysRights}>
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <Select
          label={texts.kindOfEntry}
          value={what}
          options={[{ value: EVERYTHING, label: texts.everything }, ...AUDITED.map((w) => ({ value: w, label: w }))]}
          onChange={setWhat}
        />
        <Select
          label={texts.whoseEntries}
          value={person}
          options={[
            { value: EVERYTHING, label: texts.everybody },
            ...people.map((p) => ({ value: p.id, label: p.name })),
          ]}
          onChange={setPerson}
        />
        <a
          href={`${API}/audit/lines?${query}`}
          download
          className="flex items-center gap-1 text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass"
        >
          <Download size={13} /> {texts.asJsonLines}
        </a>
      </div>
      {error && <p className="text-raspberry">{error.message}</p>}
      {data && rows.length === 0 && <p className="text-muted">{texts.thereAreNoSuch}</p>}
      {rows.length > 0 && (
        <table className="w-full text-left text-[12.5px]">
          <thead className="text-muted">
            <tr>
              <th className="pr-3 font-normal">{texts.when}</th>
              <th className="pr-3 font-normal">{texts.who}</th>
              <th className="pr-3 font-normal">{texts.what}</th>
              <th className="font-normal">{texts.about}</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((e) => (
              <tr key={e.seq} className="border-t border-line">
                <td className="py-1 pr-3 whitespace-nowrap text-muted">{new Date(e.at).toLocaleString('en-GB')}</td>
                <td className="pr-3">{e.personName ?? texts.unknown}</td>
                <td className="pr-3 whitespace-nowrap">{e.what}</td>
                <td className="break-all">{e.about}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {hasNextPage && (
        <Button size="small" className="mt-2" disabled={isFetching} onClick={() => void fetchNextPage()}>
          {texts.olderEntries}
        </Button>
      )}
    </Section>
  );
}
