'use client';

import { FITTING_DEFAULTS, fittingWords } from '@velvet-reel/motion';
import { RotateCcw } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { sendJson } from '@/client/api';
import { useCast, useFolders } from '@/client/queries';
import type { Item } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { kindOf } from '@/kinds/kinds';
import { many } from '@/naming/counts';
import type { FitSettings } from '@/wishes/wishes';
import { Button, IconButton } from '../ui/button';
import { Dialog } from '../ui/dialog';
import { Field, inputLook, SwitchRow } from '../ui/field';
import { FitSettingsFields } from './fit-settings-fields';

interface FitManyDialogProps {
  onClose: () => void;
  /** What was chosen; packs stand for their members. */
  items: readonly Pick<Item, 'id' | 'name' | 'kind'>[];
  /** A folder that can be taken whole instead. */
  folderId?: string | null;
  castIds: readonly string[];
  settings?: FitSettings;
}

/** So many rows are read at most; who has more, groups them. */
const MOST_ROWS = 200;

const wordsOf = (settings: FitSettings): string =>
  fittingWords(settings).join(', ') || 'plants held, travel scaled by leg length, no tuning';

function SettingsRow({
  label,
  words,
  chosen,
  onChoose,
  onReset,
}: {
  label: string;
  /** Nothing where it goes as all. */
  words: string;
  chosen: boolean;
  onChoose: () => void;
  onReset?: () => void;
}) {
  return (
    <li
      className={`flex min-w-0 items-center gap-1 rounded pr-1 text-[12.5px] ${chosen ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'}`}
    >
      <button
        type="button"
        aria-pressed={chosen}
        onClick={onChoose}
        className="flex min-w-0 flex-1 flex-col rounded px-1.5 py-0.5 text-left"
      >
        <span className="w-full truncate">{label}</span>
        <span className={`w-full truncate text-[11.5px] ${words ? 'text-brass-text' : 'text-muted'}`} title={words}>
          {words || 'same as all'}
        </span>
      </button>
      {onReset && (
        <IconButton label={`${label}: same as all`} quiet onClick={onReset}>
          <RotateCcw size={12} />
        </IconButton>
      )}
    </li>
  );
}

/** Whole selections, folders and packs onto one or several characters, as one job. */
export function FitManyDialog({
  onClose,
  items,
  folderId,
  castIds,
  settings: given = FITTING_DEFAULTS,
}: FitManyDialogProps) {
  const [settings, setSettings] = useState<FitSettings>(given);
  const [perItem, setPerItem] = useState<Record<string, FitSettings>>({});
  const [shown, setShown] = useState<string | null>(null);
  const { saved } = useDocuments();
  const router = useRouter();
  const { data: cast = [] } = useCast();
  const { data: folders = [] } = useFolders();
  const [onto, setOnto] = useState<string[]>([...castIds]);
  // with nothing chosen it is the folder that is meant
  const [whole, setWhole] = useState(items.length === 0);
  const [own, setOwn] = useState(true);
  const [rule, setRule] = useState('{item} on {character}');
  const [folder, setFolder] = useState('');
  const [busy, setBusy] = useState(false);
  const paths = useMemo(() => {
    const byId = new Map(folders.map((f) => [f.id, f]));
    const path = (id: string | null): string => {
      const f = id === null ? undefined : byId.get(id);
      return f ? [path(f.parentId), f.name].filter(Boolean).join(' / ') : '';
    };
    return new Map(folders.map((f) => [f.id, path(f.id)]));
  }, [folders]);
  const below = (id: string): number =>
    folders.reduce(
      (n, f) => (f.id === id || (paths.get(f.id) ?? '').startsWith(`${paths.get(id)} / `) ? n + f.n : n),
      0,
    );
  const names = cast.filter((c) => onto.includes(c.id)).map((c) => c.name);
  const sample = (rule.trim() || '{item} on {character}')
    .replaceAll('{item}', items[0]?.name ?? 'Deck walk')
    .replaceAll('{character}', names[0] ?? 'Winch')
    .replaceAll('{n}', '1');
  const start = async (): Promise<void> => {
    setBusy(true);
    try {
      await saved();
      const job = await sendJson<{ id: string; parts: number }>('POST', '/api/v1/jobs/fit', {
        ...(whole && folderId ? { folderIds: [folderId] } : { itemIds: items.map((i) => i.id) }),
        castIds: onto,
        settings,
        ...(whole ? {} : { perItem }),
        own,
        nameRule: rule,
        packRule: rule,
        folder: folder.trim(),
      });
      toast(`${many(job.parts, 'fitting')} started`, {
        action: { label: 'Report', onClick: () => router.push(`/intake?job=${job.id}`) },
      });
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const single = whole || items.length < 2 ? [] : items.slice(0, MOST_ROWS);
  const reset = (id: string): void => setPerItem(Object.fromEntries(Object.entries(perItem).filter(([k]) => k !== id)));
  const packs = items.filter((i) => kindOf(i).content === 'members').length;
  return (
    <Dialog
      open
      onOpenChange={onClose}
      width={760}
      title={
        whole
          ? 'Fit a whole folder'
          : `Fit ${items.length === 1 ? (items[0]?.name ?? 'an item') : `${many(items.length, 'item')}`}`
      }
      about="All of them run as one job, which continues after you close this page; the report stays."
    >
      <div className="flex flex-col gap-3">
        {items.length === 0 && folderId && (
          <p>
            Everything in {paths.get(folderId)} and below, {below(folderId)} items.
          </p>
        )}
        {items.length > 0 && folderId && paths.get(folderId) && (
          <SwitchRow
            label={`Everything in ${paths.get(folderId)} and below (${many(below(folderId), 'item')})`}
            checked={whole}
            onChange={(all) => {
              setWhole(all);
              setShown(null);
            }}
          />
        )}
        <fieldset>
          <legend className="mb-1 text-muted">Onto</legend>
          <div className="flex flex-wrap gap-1.5">
            {cast.map((c) => (
              <label
                key={c.id}
                className="flex cursor-pointer items-center gap-1.5 rounded-md border border-line bg-raised px-2 py-1 has-checked:border-brass has-checked:text-brass-text"
              >
                <input
                  type="checkbox"
                  className="accent-(--brass)"
                  checked={onto.includes(c.id)}
                  onChange={(e) => setOnto(e.target.checked ? [...onto, c.id] : onto.filter((x) => x !== c.id))}
                />
                {c.name}
              </label>
            ))}
          </div>
        </fieldset>
        <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.15fr)] gap-3">
          <div className="flex min-w-0 flex-col">
            <p className="mb-1 text-muted">Settings</p>
            <ul
              aria-label="Settings for"
              className="flex h-0 min-h-24 grow flex-col gap-0.5 overflow-y-auto rounded-md border border-line p-1"
            >
              <SettingsRow
                label="For all"
                words={wordsOf(settings)}
                chosen={shown === null}
                onChoose={() => setShown(null)}
              />
              {single.map((i) => (
                <SettingsRow
                  key={i.id}
                  label={i.name}
                  words={perItem[i.id] ? wordsOf(perItem[i.id]!) : ''}
                  chosen={shown === i.id}
                  onChoose={() => setShown(i.id)}
                  {...(perItem[i.id] ? { onReset: () => reset(i.id) } : {})}
                />
              ))}
              {!whole && items.length > MOST_ROWS && (
                <li className="px-1 text-[12px] text-muted">
                  and {items.length - MOST_ROWS} more, with the common settings
                </li>
              )}
            </ul>
          </div>
          <fieldset className="min-w-0">
            <legend className="mb-1 w-full truncate text-muted">
              {shown === null ? 'For all' : `For ${items.find((i) => i.id === shown)?.name ?? 'this one'} alone`}
            </legend>
            <FitSettingsFields
              value={shown === null ? settings : (perItem[shown] ?? settings)}
              onChange={(s) => (shown === null ? setSettings(s) : setPerItem({ ...perItem, [shown]: s }))}
            />
          </fieldset>
        </div>
        <SwitchRow label="Where a pair has its own settings in Fitting, use those" checked={own} onChange={setOwn} />
        <Field label="Names ({item}, {character} and {n} are filled in)">
          <input className={inputLook} value={rule} maxLength={200} onChange={(e) => setRule(e.target.value)} />
        </Field>
        <p className="-mt-2 text-[12px] text-muted">for example: {sample}</p>
        <Field label="Into the folder">
          <input
            className={inputLook}
            list="fit-folders"
            value={folder}
            placeholder="beside each source"
            maxLength={600}
            onChange={(e) => setFolder(e.target.value)}
          />
        </Field>
        <datalist id="fit-folders">
          {[...paths.values()].map((p) => (
            <option key={p} value={p} />
          ))}
        </datalist>
        {(packs > 0 || whole) && (
          <p className="text-[12px] text-muted">Packs and links between variants are rebuilt among the copies.</p>
        )}
        <Button look="brass" onClick={() => void start()} disabled={busy || onto.length === 0}>
          {busy ? 'Starting …' : onto.length === 0 ? 'Choose a character' : `Fit onto ${names.join(', ')}`}
        </Button>
      </div>
    </Dialog>
  );
}
