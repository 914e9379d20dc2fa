'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import type { SessionRow } from '@/contract';
import { Button } from '@/ui/button';
import { Section } from './section';
import { sessionsSection as texts } from './texts';

const PROGRAMS = [
  [/Edg\//, texts.edge],
  [/Firefox\//, texts.firefox],
  [/Chrome\//, texts.chrome],
  [/Safari\//, texts.safari],
] as const;
const SYSTEMS = [
  [/Windows/, texts.windows],
  [/Android/, texts.android],
  [/iPhone|iPad/, 'iOS'],
  [/Mac OS/, 'macOS'],
  [/Linux/, texts.linux],
] as const;
const found = (list: readonly (readonly [RegExp, string])[], text: string): string | undefined =>
  list.find(([pattern]) => pattern.test(text))?.[1];

/** "Firefox on Linux" from what a browser says of itself. */
export const browserName = (text: string): string =>
  `${found(PROGRAMS, text) ?? texts.aBrowser}${found(SYSTEMS, text) ? ` on ${found(SYSTEMS, text)}` : ''}`;

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
    <Section title={texts.signedIn} about={texts.whereYouAreSigned}>
      <div className="flex flex-col gap-1">
        {rows.map((s) => (
          <div key={s.id} className="flex items-center gap-3 rounded-lg border border-line bg-panel px-3 py-1.5">
            <span className="min-w-0 flex-1 truncate">{browserName(s.browser)}</span>
            <span className="shrink-0 text-[11.5px] text-muted" title={texts.signedIn2(when(s.since))}>
              {texts.used} {when(s.usedAt)}
            </span>
            {s.own ? (
              <span className="text-[11.5px] text-brass-text">{texts.thisOne}</span>
            ) : (
              <Button size="small" onClick={() => end(`/${s.id}`)}>
                {texts.signOutThere}
              </Button>
            )}
          </div>
        ))}
        {rows.length > 1 && (
          <Button size="small" className="self-start" onClick={() => end('')}>
            {texts.signOutEverywhereElse}
          </Button>
        )}
      </div>
    </Section>
  );
}
