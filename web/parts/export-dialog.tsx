'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { saveFile } from '@/client/save-file';
import type { Destination } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { type ExportFormat, endingOf, FLAT_FORMATS, MESH_FORMATS } from '@/wishes/export-formats';
import type { FitEdits, FitSettings } from '@/wishes/wishes';
import { Button } from '../ui/button';
import { Dialog } from '../ui/dialog';
import { Field, inputLook, Select, SwitchRow } from '../ui/field';
import { exportDialog as texts } from './texts';

interface ExportDialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  itemId: string;
  name: string;
  fps: number;
  /** Fit onto a cast member on the way out. */
  onto?: { id: string; name: string; settings: FitSettings; edits?: FitEdits } | undefined;
  /** These items instead, as one archive. */
  many?: readonly string[] | undefined;
  /** The motion is that of a cut-out, which has formats of its own. */
  flat?: boolean;
  /** Offered as somebody to fit them onto on the way out. */
  performer?: { id: string; name: string } | undefined;
}

const FORMATS: readonly { value: ExportFormat; label: string }[] = [
  { value: 'glb', label: texts.glbJointsMotionMesh },
  { value: 'usda', label: texts.usdJointsMotionMesh },
  { value: 'vrma', label: texts.vrmAnimationMotionFor },
  { value: 'bvh', label: texts.bvhJointsAndMotion },
  { value: 'csv', label: texts.csvPositionsAndRotations },
  { value: 'json', label: texts.jsonCharacterAndMotion },
  { value: 'lottie', label: texts.lottieDrawingsAndMotion },
  { value: 'svg', label: texts.svgADrawingThat },
  { value: 'png', label: texts.pngOneTransparentPicture },
  { value: 'sprites', label: texts.spritesAllFramesOn },
];

const REMEMBERED = 'velvet-export';
interface Remembered {
  format: ExportFormat;
  mesh: boolean;
  sparse: boolean;
  curved: boolean;
  folders: boolean;
}
const FIRST: Remembered = { format: 'glb', mesh: true, sparse: false, curved: false, folders: true };
const remembered = (): Remembered => {
  try {
    return { ...FIRST, ...(JSON.parse(localStorage.getItem(REMEMBERED) ?? '{}') as Partial<Remembered>) };
  } catch {
    return FIRST;
  }
};

const sorted = (o: object): [string, unknown][] => Object.entries(o).sort(([a], [b]) => a.localeCompare(b));
const inWords = (w: Destination['wish']): string =>
  [
    w.format.toUpperCase(),
    MESH_FORMATS.includes(w.format) && (w.mesh ? texts.withTheMesh : texts.withoutAMesh),
    w.format === 'glb' && (!w.sparse ? texts.aKeyOnEvery : w.curved ? texts.keysLeftOutCurved : texts.keysLeftOut),
    w.fps === null ? texts.originalFrameRate : texts.framesASecond(nice(w.fps)),
  ]
    .filter(Boolean)
    .join(', ');

const nice = (fps: number): string => String(Number(fps.toFixed(3)));

/** Saves an item, or its fitting, as a file. */
export function ExportDialog({
  open,
  onOpenChange,
  itemId,
  name,
  fps,
  onto,
  many,
  flat = false,
  performer,
}: ExportDialogProps) {
  const { saved } = useDocuments();
  const [kept, setKept] = useState(FIRST);
  const [place, setPlace] = useState('');
  const { format, mesh, sparse, curved, folders } = kept;
  useEffect(() => {
    if (!open) return;
    const last = remembered();
    // what was chosen for a cut-out last time may not do for a body in space
    setKept(!flat && FLAT_FORMATS.includes(last.format) ? { ...last, format: FIRST.format } : last);
    // settings of a destination come with its name, which is chosen anew each time
    setPlace('');
  }, [open, flat]);
  const keep = (change: Partial<Remembered>): void => setKept((k) => ({ ...k, ...change }));
  const client = useQueryClient();
  const { data: places = [] } = useQuery({
    queryKey: ['destinations'],
    queryFn: () => getJson<Destination[]>(`${API}/destinations`),
    enabled: open,
  });
  const chosen = places.find((p) => p.name === place);
  // many items keep each its own rate unless one is given
  const own = many ? '' : nice(fps);
  const [rate, setRate] = useState(own);
  useEffect(() => setRate(own), [own]);
  const [fit, setFit] = useState(false);
  const [busy, setBusy] = useState(false);
  const bad = many && rate.trim() === '' ? false : !(Number(rate) > 0 && Number(rate) <= 1000);
  const changed = JSON.stringify(kept) !== JSON.stringify(FIRST);
  const wish = { ...kept, fps: rate.trim() === '' || bad || rate === own ? null : Number(rate) };
  const asRemembered =
    chosen !== undefined && JSON.stringify(sorted(wish)) === JSON.stringify(sorted({ curved: false, ...chosen.wish }));
  const goTo = (name: string): void => {
    setPlace(name);
    const found = places.find((p) => p.name === name);
    if (!found) return;
    const { fps: f, ...rest } = found.wish;
    setKept({ ...FIRST, ...rest });
    setRate(f === null ? own : nice(f));
  };
  const remember = async (): Promise<void> => {
    const name = place.trim();
    if (name === '') return;
    try {
      await sendJson('PUT', `${API}/destinations`, { name, wish });
      await client.invalidateQueries({ queryKey: ['destinations'] });
      toast(texts.rememberedFor(name));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const save = async (): Promise<void> => {
    setBusy(true);
    const q = new URLSearchParams({
      format,
      mesh: mesh ? '1' : '0',
      ...(rate.trim() !== '' && (many || Math.abs(Number(rate) - fps) > 1e-3) ? { fps: rate } : {}),
    });
    localStorage.setItem(REMEMBERED, JSON.stringify(kept));
    if (many) {
      q.set('ids', many.slice(0, 500).join(','));
      if (folders) q.set('folders', '1');
    }
    if (fit && performer && !onto) q.set('onto', performer.id);
    if (sparse && format === 'glb') {
      q.set('keys', '1');
      if (curved) q.set('curves', 'smooth');
    }
    if (onto) {
      q.set('onto', onto.id);
      q.set('settings', JSON.stringify(onto.settings));
    }
    try {
      await saved();
      // edits by hand do not fit into an address
      const answer = onto?.edits
        ? await fetch(`/api/v1/items/${itemId}/export`, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({
              format,
              mesh,
              fps: q.has('fps') ? Number(rate) : null,
              keys: sparse && format === 'glb' ? 1 : null,
              curves: curved ? 'smooth' : 'straight',
              onto: onto.id,
              settings: onto.settings,
              edits: onto.edits,
            }),
          })
        : await fetch(many ? `/api/v1/export?${q}` : `/api/v1/items/${itemId}/export?${q}`);
      toast(texts.isSaved(await saveFile(answer, `${name}.${many ? 'zip' : endingOf(format)}`)));
      onOpenChange(false);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open={open}
      onOpenChange={onOpenChange}
      title={texts.exportIt(name)}
      {...(onto ? { about: texts.fittedTo(onto.name) } : {})}
    >
      <div className="flex flex-col gap-4">
        <Field label={texts.destination}>
          <span className="flex gap-1.5">
            <input
              className={`${inputLook} min-w-0 flex-1`}
              list="destinations"
              placeholder={texts.noneChosen}
              maxLength={160}
              value={place}
              onChange={(e) => goTo(e.target.value)}
            />
            <datalist id="destinations">
              {places.map((p) => (
                <option key={p.id} value={p.name} />
              ))}
            </datalist>
            {place.trim() !== '' && !asRemembered && (
              <Button onClick={() => void remember()}>{chosen ? texts.rememberTheseSettings : texts.rememberIt}</Button>
            )}
          </span>
        </Field>
        {chosen && (
          <p className="-mt-2 text-[12px] text-muted">
            {asRemembered ? texts.setAsRememberedFor(chosen.name) : texts.differsFromWhatIs(chosen.name)}
            {inWords(wish)}
          </p>
        )}
        <Field label={texts.format}>
          <Select
            label={texts.format}
            value={format}
            onChange={(f: ExportFormat) => keep({ format: f })}
            options={FORMATS.filter((f) => flat || !FLAT_FORMATS.includes(f.value))}
          />
        </Field>
        <Field label={texts.framesASecond2}>
          <input
            className={inputLook}
            inputMode="decimal"
            value={rate}
            placeholder={many ? texts.keepEachOnesRate : ''}
            onChange={(e) => setRate(e.target.value)}
            aria-invalid={bad}
          />
        </Field>
        {bad && <p className="text-raspberry">{texts.enterANumberAbove}</p>}
        {MESH_FORMATS.includes(format) && (
          <SwitchRow checked={mesh} onChange={(x) => keep({ mesh: x })} label={texts.includeTheCharactersMesh} />
        )}
        {format === 'glb' && (
          <SwitchRow checked={sparse} onChange={(x) => keep({ sparse: x })} label={texts.leaveOutKeysWithin} />
        )}
        {format === 'glb' && sparse && (
          <SwitchRow checked={curved} onChange={(x) => keep({ curved: x })} label={texts.curvesBetweenTheKeys} />
        )}
        {many && (
          <SwitchRow checked={folders} onChange={(x) => keep({ folders: x })} label={texts.inTheLibrarysFolders} />
        )}
        {performer && !onto && <SwitchRow checked={fit} onChange={setFit} label={texts.fitOntoFirst(performer.name)} />}
        {many && many.length > 500 && <p className="text-brass-text">{texts.anArchiveHoldsAt}</p>}
        {changed && (
          <p className="flex items-center gap-2 text-[12px] text-muted">
            {texts.setAsYouHad}
            <button type="button" className="text-brass-text hover:underline" onClick={() => setKept(FIRST)}>
              {texts.reset}
            </button>
          </p>
        )}
        <Button look="brass" onClick={() => void save()} disabled={busy || bad}>
          {busy
            ? texts.writing
            : many
              ? texts.saveAsZip(Math.min(500, many.length))
              : texts.saveAs(format.toUpperCase())}
        </Button>
      </div>
    </Dialog>
  );
}
