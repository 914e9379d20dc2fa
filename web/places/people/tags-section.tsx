'use client';

import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useTags } from '@/client/queries';
import { useMay } from '@/client/session';
import { useUndo } from '@/client/undo';
import type { Tag } from '@/contract';
import { TAG_COLOURS } from '@/parts/tag-words';
import { KeptInput } from '@/ui/field';
import { Section } from './section';
import { tagsSection as texts } from './texts';

/** Tags of the library: names, colours, other words under which they are found. */
export function TagsSection() {
  const client = useQueryClient();
  const curate = useMay('librarian');
  const push = useUndo((s) => s.push);
  const { data: tags = [] } = useTags();
  const change = async (tag: Tag, to: Partial<Tag>): Promise<void> => {
    const back = Object.fromEntries(Object.keys(to).map((k) => [k, tag[k as keyof Tag]]));
    try {
      const after = await sendJson<Tag>('PATCH', `${API}/tags/${tag.id}`, to);
      if (after.id === tag.id)
        push({ label: texts.changedTheTag(tag.name), undo: () => sendJson('PATCH', `${API}/tags/${tag.id}`, back) });
      else toast(texts.wasMergedWith(tag.name, after.name));
      for (const key of ['tags', 'items', 'completions']) void client.invalidateQueries({ queryKey: [key] });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  return (
    <Section title={texts.tags} about={curate ? texts.renamingOneToAnother : undefined}>
      {tags.length === 0 && <p className="text-muted">{texts.noTagsYet}</p>}
      <div className="flex max-h-[46vh] flex-col overflow-y-auto">
        {tags.map((t) => (
          <div key={t.id} className="flex items-center gap-2 border-b border-line/50 py-1">
            <fieldset className="flex gap-0.5" aria-label={texts.colourOf(t.name)}>
              {(Object.keys(TAG_COLOURS) as Tag['colour'][]).map((c) => (
                <button
                  key={c}
                  type="button"
                  disabled={!curate}
                  aria-label={c}
                  aria-pressed={t.colour === c}
                  onClick={() => void change(t, { colour: c })}
                  className={`size-3 rounded-full border ${t.colour === c ? 'border-ink' : 'border-transparent opacity-40 hover:opacity-100'}`}
                  style={{ background: TAG_COLOURS[c] }}
                />
              ))}
            </fieldset>
            <KeptInput
              aria-label={texts.nameOfTheTag(t.name)}
              readOnly={!curate}
              value={t.name}
              onKeep={(name) => name && void change(t, { name })}
              className="w-28 py-0.5!"
            />
            <KeptInput
              aria-label={texts.synonymsOf(t.name)}
              placeholder={texts.synonyms}
              readOnly={!curate}
              value={t.synonyms.join(', ')}
              onKeep={(text) =>
                void change(t, {
                  synonyms: text
                    .split(',')
                    .map((s) => s.trim())
                    .filter(Boolean),
                })
              }
              className="min-w-0 flex-1 py-0.5!"
            />
            <span className="w-8 text-right text-muted">{t.n}</span>
          </div>
        ))}
      </div>
    </Section>
  );
}
