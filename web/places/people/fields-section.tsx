'use client';

import { useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { type FormEvent, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useFields } from '@/client/queries';
import { useMay } from '@/client/session';
import { useUndo } from '@/client/undo';
import type { CustomField } from '@/contract';
import { Button, IconButton } from '@/ui/button';
import { inputLook, KeptInput, Select } from '@/ui/field';
import { Section } from './section';
import { fieldsSection as texts } from './texts';

const TYPES: readonly { value: CustomField['type']; label: string }[] = [
  { value: 'text', label: texts.text },
  { value: 'number', label: texts.number },
  { value: 'choice', label: texts.choice },
  { value: 'yes', label: texts.yesOrNo },
];
const listOf = (text: string): string[] =>
  text
    .split(',')
    .map((s) => s.trim())
    .filter(Boolean);

/** What this library wants to know of every item besides what everybody wants to know. */
export function FieldsSection() {
  const client = useQueryClient();
  const curate = useMay('librarian');
  const push = useUndo((s) => s.push);
  const { data: fields = [] } = useFields();
  const [name, setName] = useState('');
  const [type, setType] = useState<CustomField['type']>('text');
  const act = async (run: () => Promise<unknown>): Promise<void> => {
    try {
      await run();
      void client.invalidateQueries({ queryKey: ['fields'] });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const add = (e: FormEvent): void => {
    e.preventDefault();
    void act(async () => {
      const made = await sendJson<CustomField>('POST', `${API}/fields`, { name, type });
      push({ label: texts.addedTheField(name), undo: () => sendJson('DELETE', `${API}/fields/${made.id}`, {}) });
      setName('');
    });
  };
  const change = (f: CustomField, to: Partial<CustomField>, label: string): Promise<void> =>
    act(async () => {
      const back = Object.fromEntries(Object.keys(to).map((k) => [k, f[k as keyof CustomField]]));
      await sendJson('PATCH', `${API}/fields/${f.id}`, to);
      push({ label, undo: () => sendJson('PATCH', `${API}/fields/${f.id}`, back) });
    });
  const remove = (f: CustomField): Promise<void> =>
    act(async () => {
      await sendJson('DELETE', `${API}/fields/${f.id}`, {});
      const { name, type, options } = f;
      push({
        label: texts.removedTheField(name),
        undo: () => sendJson('PUT', `${API}/fields/${f.id}`, { name, type, options }),
      });
    });
  return (
    <Section title={texts.fields} about={texts.besidesTheBuiltIn}>
      {fields.length === 0 && !curate && <p className="text-muted">{texts.noneYet}</p>}
      {fields.map((f) => (
        <div key={f.id} className="flex items-center gap-2 border-b border-line/50 py-1">
          <KeptInput
            aria-label={texts.nameOfTheField(f.name)}
            readOnly={!curate}
            value={f.name}
            onKeep={(to) => to && void change(f, { name: to }, texts.renamedTheFieldTo(f.name, to))}
            className="w-36 py-0.5!"
          />
          <span className="w-20 text-muted">{TYPES.find((t) => t.value === f.type)?.label}</span>
          {f.type === 'choice' && (
            <KeptInput
              aria-label={texts.choicesOf(f.name)}
              placeholder={texts.choicesSeparatedByCommas}
              readOnly={!curate}
              value={f.options.join(', ')}
              onKeep={(text) => void change(f, { options: listOf(text) }, texts.changedTheChoicesOf(f.name))}
              className="min-w-0 flex-1 py-0.5!"
            />
          )}
          {curate && (
            <span className="ml-auto">
              <IconButton label={texts.removeItemsKeepWhat(f.name)} quiet onClick={() => void remove(f)}>
                <Trash2 size={13} />
              </IconButton>
            </span>
          )}
        </div>
      ))}
      {curate && (
        <form onSubmit={add} className="mt-2 flex gap-2">
          <input
            aria-label={texts.nameOfANew}
            placeholder={texts.newField}
            className={`${inputLook} min-w-0 flex-1 py-1`}
            value={name}
            maxLength={80}
            onChange={(e) => setName(e.target.value)}
          />
          <Select label={texts.type} className="w-28" value={type} options={TYPES} onChange={setType} />
          <Button type="submit" disabled={name.trim() === ''}>
            {texts.add}
          </Button>
        </form>
      )}
    </Section>
  );
}
