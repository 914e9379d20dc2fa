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
import type { FitSettings } from '@/wishes/wishes';
import { Button, IconButton } from '../ui/button';
import { Dialog } from '../ui/dialog';
import { Field, inputLook, SwitchRow } from '../ui/field';
import { FitSettingsFields } from './fit-settings-fields';
import { fitManyDialog as texts } from './texts';

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

const wordsOf = (settings: FitSettings): string => fittingWords(settings).join(', ') || texts.plantsHeldTravelScaled;

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
          {words || texts.sameAsAll}
        </span>
      </button>
      {onReset && (
        <IconButton label={texts.sameAsAll2(label)} quiet onClick={onReset}>
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
    .replaceAll('{item}', items[0]?.name ?? texts.deckWalk)
    .replaceAll('{character}', names[0] ?? texts.winch)
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
      toast(texts.started(job.parts), {
        action: { label: texts.report, onClick: () => router.push(`/intake?job=${job.id}`) },
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
        whole ? texts.fitAWholeFolder : items.length === 1 ? texts.fitOne(items[0]?.name) : texts.fitMany(items.length)
      }
      about={texts.allOfThemRun}
    >
      <div className="flex flex-col gap-3">
        {items.length === 0 && folderId && (
          <p>
            {texts.everythingIn} {paths.get(folderId)} {texts.andBelow} {below(folderId)} {texts.items}
          </p>
        )}
        {items.length > 0 && folderId && paths.get(folderId) && (
          <SwitchRow
            label={texts.everythingInAndBelow(paths.get(folderId) ?? '', below(folderId))}
            checked={whole}
            onChange={(all) => {
              setWhole(all);
              setShown(null);
            }}
          />
        )}
        <fieldset>
          <legend className="mb-1 text-muted">{texts.onto}</legend>
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
            <p className="mb-1 text-muted">{texts.settings}</p>
            <ul
              aria-label={texts.settingsFor}
              className="flex h-0 min-h-24 grow flex-col gap-0.5 overflow-y-auto rounded-md border border-line p-1"
            >
              <SettingsRow
                label={texts.forAll}
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
                <li className="px-1 text-[12px] text-muted">{texts.andMoreWithThe(items.length - MOST_ROWS)}</li>
              )}
            </ul>
          </div>
          <fieldset className="min-w-0">
            <legend className="mb-1 w-full truncate text-muted">
              {shown === null ? texts.forAll : texts.forOneAlone(items.find((i) => i.id === shown)?.name)}
            </legend>
            <FitSettingsFields
              value={shown === null ? settings : (perItem[shown] ?? settings)}
              onChange={(s) => (shown === null ? setSettings(s) : setPerItem({ ...perItem, [shown]: s }))}
            />
          </fieldset>
        </div>
        <SwitchRow label={texts.whereAPairHas} checked={own} onChange={setOwn} />
        <Field label={texts.namesItemCharacterAnd}>
          <input className={inputLook} value={rule} maxLength={200} onChange={(e) => setRule(e.target.value)} />
        </Field>
        <p className="-mt-2 text-[12px] text-muted">{texts.forExample(sample)}</p>
        <Field label={texts.intoTheFolder}>
          <input
            className={inputLook}
            list="fit-folders"
            value={folder}
            placeholder={texts.besideEachSource}
            maxLength={600}
            onChange={(e) => setFolder(e.target.value)}
          />
        </Field>
        <datalist id="fit-folders">
          {[...paths.values()].map((p) => (
            <option key={p} value={p} />
          ))}
        </datalist>
        {(packs > 0 || whole) && <p className="text-[12px] text-muted">{texts.packsAndLinksBetween}</p>}
        <Button look="brass" onClick={() => void start()} disabled={busy || onto.length === 0}>
          {busy ? texts.starting : onto.length === 0 ? texts.chooseACharacter : texts.fitOnto(names.join(', '))}
        </Button>
      </div>
    </Dialog>
  );
}
