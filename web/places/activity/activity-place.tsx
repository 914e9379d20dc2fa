'use client';

import { useInfiniteQuery } from '@tanstack/react-query';
import { format, isToday, isYesterday } from 'date-fns';
import Link from 'next/link';
import { parseAsString, useQueryState } from 'nuqs';
import { toast } from 'sonner';
import { API, getJson } from '@/client/api';
import { undoGroup, usePeople, useRefresh } from '@/client/queries';
import { useMay } from '@/client/session';
import type { ActivityEntry } from '@/contract';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { Select } from '@/ui/field';
import { activityPlace as texts } from './texts';

const dayOf = (date: Date): string =>
  isToday(date) ? texts.today : isYesterday(date) ? texts.yesterday : format(date, 'd MMMM yyyy');

/** Everything that was done, by everybody, newest first. */
export function ActivityPlace() {
  const refresh = useRefresh();
  const mayChange = useMay('animator');
  const { data: people = [] } = usePeople();
  const [who, setWho] = useQueryState('who', parseAsString.withDefault(''));
  const { data, hasNextPage, fetchNextPage, isFetching, error } = useInfiniteQuery({
    queryKey: ['activity', who],
    queryFn: ({ pageParam }) =>
      getJson<ActivityEntry[]>(
        `${API}/activity?${new URLSearchParams({ ...(pageParam && { before: String(pageParam) }), ...(who && { person: who }) })}`,
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < 60 ? undefined : last.at(-1)!.seq),
  });
  const entries = (data?.pages ?? []).flat();
  const takeBack = async (a: ActivityEntry): Promise<void> => {
    try {
      await undoGroup(a.groupId);
      toast(`Undid: ${a.label}`);
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-4xl p-6">
        <div className="mb-4 flex items-center gap-4">
          <h1 className="heading text-xl">{texts.activity}</h1>
          <Select
            label={texts.by}
            className="ml-auto w-48"
            value={who || 'all'}
            onChange={(v) => void setWho(v === 'all' ? null : v)}
            options={[{ value: 'all', label: texts.everybody }, ...people.map((p) => ({ value: p.id, label: p.name }))]}
          />
        </div>
        {error && <Empty title={texts.theActivityCouldNot}>{error.message}</Empty>}
        {data && entries.length === 0 && <Empty title={texts.nothingHasHappenedYet} />}
        {entries.map((a, i) => {
          const day = dayOf(new Date(a.at));
          const first = i === 0 || dayOf(new Date(entries[i - 1]!.at)) !== day;
          return (
            <div key={a.groupId}>
              {first && <h2 className="mt-4 mb-1 text-muted">{day}</h2>}
              <div className="group flex items-baseline gap-3 border-b border-line/50 py-1.5">
                <span className="w-12 text-[11.5px] text-muted">{format(new Date(a.at), 'HH:mm')}</span>
                <span className="w-32 truncate font-medium">{a.personName}</span>
                <span className="min-w-0 flex-1">
                  {a.label || a.action}
                  {a.subjects.length > 0 && a.count > 1 && (
                    <span className="block truncate text-[12px] text-muted">
                      {a.subjects.map((s) => s.name).join(', ')}
                      {a.count > a.subjects.length && texts.andMore(a.count - a.subjects.length)}
                    </span>
                  )}
                </span>
                {a.subjects[0] && (
                  <Link href={`/library?item=${a.subjects[0].id}`} className="text-brass-text hover:underline">
                    {texts.show}
                  </Link>
                )}
                {mayChange && a.subject === 'item' && ['edit', 'undo', 'add'].includes(a.action) && (
                  <button type="button" className="text-muted hover:text-ink" onClick={() => void takeBack(a)}>
                    {texts.undoThis}
                  </button>
                )}
              </div>
            </div>
          );
        })}
        {hasNextPage && (
          <Button className="mt-4" onClick={() => void fetchNextPage()} disabled={isFetching}>
            {isFetching ? texts.reading : texts.earlier}
          </Button>
        )}
      </div>
    </div>
  );
}
