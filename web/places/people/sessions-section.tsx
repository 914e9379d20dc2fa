'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import type { SessionRow } from '@/contract';
import { Button } from '@/ui/button';
import { Section } from './section';

const PROGRAMS = [
  [/Edg\//, 'Edge'],
  [/Firefox\//, 'Firefox'],
  [/Chrome\//, 'Chrome'],
  [/Safari\//, 'Safari'],
] as const;
const SYSTEMS = [
  [/Windows/, 'Windows'],
  [/Android/, 'Android'],
  [/iPhone|iPad/, 'iOS'],
  [/Mac OS/, 'macOS'],
  [/Linux/, 'Linux'],
] as const;
const found = (list: readonly (readonly [RegExp, string])[], text: string): string | undefined =>
  list.find(([pattern]) => pattern.test(text))?.[1];

/** "Firefox on Linux" from what a browser says of itself. */
export const browserName = (text: string): string =>
  `${found(PROGRAMS, text) ?? 'a browser'}${found(SYSTEMS, text) ? ` on ${found(SYSTEMS, text)}` : ''}`;

const when = (text: string): string =>
  new Date(text).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** Where one is signed in, with a way out of each. */
export function SessionsSection() {
  const client = useQueryClient();
  const { data: rows = [] } = useQuery({
    queryKey: ['sessions'],
    queryFn: () => getJson<SessionRow[]>(`${API}/me/sessions`),
  });
  const end = (path: string): void =>
    void sendJson('DELETE', `${API}/me/sessions${path}`, {})
      .then(() => client.invalidateQueries({ queryKey: ['sessions'] }))
      .catch((e: Error) => toast.error(e.message));
  return (
    <Section title="Signed in" about="where you are signed in now">
      <div className="flex flex-col gap-1">
        {rows.map((s) => (
          <div key={s.id} className="flex items-center gap-3 rounded-lg border border-line bg-panel px-3 py-1.5">
            <span className="min-w-0 flex-1 truncate">{browserName(s.browser)}</span>
            <span className="shrink-0 text-[11.5px] text-muted" title={`Signed in ${when(s.since)}`}>
              used {when(s.usedAt)}
            </span>
            {s.own ? (
              <span className="text-[11.5px] text-brass-text">this one</span>
            ) : (
              <Button size="small" onClick={() => end(`/${s.id}`)}>
                Sign out there
              </Button>
            )}
          </div>
        ))}
        {rows.length > 1 && (
          <Button size="small" className="self-start" onClick={() => end('')}>
            Sign out everywhere else
          </Button>
        )}
      </div>
    </Section>
  );
}
