'use client';

import { FITTING_DEFAULTS, fittingWords } from '@velvet-reel/motion';
import { ChevronRight } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { sendJson } from '@/client/api';
import { useCast, useFolders } from '@/client/queries';
import type { Item } from '@/client/types';
import type { FitSettings } from '@/workers/wishes';
import { Button } from './button';
import { Dialog } from './dialog';
import { Field, inputLook, SwitchRow } from './field';
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

const ALL = 'all';
/** So many rows are read at most; who has more, groups them. */
const MOST_ROWS = 200;

const wordsOf = (settings: FitSettings): string =>
  fittingWords(settings).join(', ') || 'plants held, travel by leg length, nothing tuned';

function SettingsRow({
  label,
  words,
  open,
  onOpen,
  onReset,
}: {
  label: string;
  /** Nothing where it goes as all. */
  words: string;
  open: boolean;
  onOpen: (open: boolean) => void;
  onReset?: () => void;
}) {
  return (
    <div className="flex min-w-0 items-center gap-2 text-[12.5px]">
      <button
        type="button"
        aria-expanded={open}
        onClick={() => onOpen(!open)}
        className="flex min-w-0 flex-1 items-center gap-1.5 rounded px-1 py-0.5 text-left hover:bg-raised"
      >
        <ChevronRight size={13} className={`shrink-0 text-muted ${open ? 'rotate-90' : ''}`} />
        <span className="max-w-[55%] shrink-0 truncate">{label}</span>
        <span className={`min-w-0 truncate ${words ? 'text-brass-text' : 'text-muted'}`} title={words}>
          {words || 'as for all'}
        </span>
      </button>
      {onReset && (
        <button
          type="button"
          onClick={onReset}
          aria-label={`${label}: as for all`}
          className="shrink-0 text-muted underline hover:text-ink"
        >
          as for all
        </button>
      )}
    </div>
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
      toast(`${job.parts} fittings are on their way`, {
        action: { label: 'Report', onClick: () => router.push(`/intake?job=${job.id}`) },
      });
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const packs = items.filter((i) => i.kind === 'pack').length;
  return (
    <Dialog
      open
      onOpenChange={onClose}
      width={520}
      title={
        whole
          ? 'Fit a whole folder'
          : `Fit ${items.length === 1 ? (items[0]?.name ?? 'an item') : `${items.length} items`}`
      }
      about="One job for all of them; it goes on when this page is closed, and its report stays."
    >
      <div className="flex flex-col gap-3">
        {items.length === 0 && folderId && (
          <p>
            Everything in {paths.get(folderId)} and below, {below(folderId)} items.
          </p>
        )}
        {items.length > 0 && folderId && paths.get(folderId) && (
          <SwitchRow
            label={`Everything in ${paths.get(folderId)} and below (${below(folderId)} items)`}
            checked={whole}
            onChange={setWhole}
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
        <SettingsRow
          label="Settings for all"
          words={wordsOf(settings)}
          open={shown === ALL}
          onOpen={(open) => setShown(open ? ALL : null)}
        />
        {shown === ALL && <FitSettingsFields value={settings} onChange={setSettings} />}
        {!whole && items.length > 1 && (
          <fieldset className="min-w-0">
            <legend className="mb-1 text-muted">Otherwise for single ones</legend>
            <ul className="flex max-h-44 flex-col gap-0.5 overflow-y-auto pr-1">
              {items.slice(0, MOST_ROWS).map((i) => (
                <li key={i.id}>
                  <SettingsRow
                    label={i.name}
                    words={perItem[i.id] ? wordsOf(perItem[i.id]!) : ''}
                    open={shown === i.id}
                    onOpen={(open) => setShown(open ? i.id : null)}
                    {...(perItem[i.id]
                      ? {
                          onReset: () =>
                            setPerItem(Object.fromEntries(Object.entries(perItem).filter(([k]) => k !== i.id))),
                        }
                      : {})}
                  />
                  {shown === i.id && (
                    <div className="my-1 border-l-2 border-brass pl-2.5">
                      <FitSettingsFields
                        value={perItem[i.id] ?? settings}
                        onChange={(s) => setPerItem({ ...perItem, [i.id]: s })}
                      />
                    </div>
                  )}
                </li>
              ))}
            </ul>
            {items.length > MOST_ROWS && (
              <p className="text-[12px] text-muted">and {items.length - MOST_ROWS} more, with the settings for all</p>
            )}
          </fieldset>
        )}
        <SwitchRow label="Where something was set in Fitting for a pair, use that" checked={own} onChange={setOwn} />
        <Field label="Names ({item}, {character} and {n} stand for what they say)">
          <input className={inputLook} value={rule} maxLength={200} onChange={(e) => setRule(e.target.value)} />
        </Field>
        <p className="-mt-2 text-[12px] text-muted">for instance: {sample}</p>
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
          <p className="text-[12px] text-muted">
            Packs are made anew among the copies, and so are links between variants.
          </p>
        )}
        <Button look="brass" onClick={() => void start()} disabled={busy || onto.length === 0}>
          {busy ? 'Starting …' : onto.length === 0 ? 'Choose a character' : `Fit onto ${names.join(', ')}`}
        </Button>
      </div>
    </Dialog>
  );
}
