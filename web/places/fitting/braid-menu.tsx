'use client';

import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { MoreHorizontal, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { API, getJson } from '@/client/api';
import type { Profile, RigAnswer } from '@/contract';
import { Button, IconButton } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';
import { braidMenu as texts } from './texts';
import type { MapEditor } from './use-map';

const row =
  'flex cursor-pointer items-center rounded px-2 py-1 outline-none select-none data-disabled:cursor-default data-disabled:text-muted data-highlighted:bg-panel data-highlighted:text-brass-text';

/** What can be done with a whole map: guesses accepted, a side filled, maps saved and laid on. */
export function BraidMenu({
  source,
  target,
  editor,
  guessed,
}: {
  source: RigAnswer;
  target: RigAnswer;
  editor: MapEditor;
  guessed: number;
}) {
  const [saving, setSaving] = useState<RigAnswer | null>(null);
  const [laying, setLaying] = useState<RigAnswer | null>(null);
  const has = (rig: RigAnswer): boolean => Object.values(rig.map.slots).some((s) => s.state === 'guessed');
  return (
    <>
      {guessed > 0 && (
        <Button
          size="tiny"
          className="ml-auto"
          onClick={() => {
            for (const rig of [source, target]) if (has(rig)) editor.acceptGuesses(rig);
          }}
          hint={texts.marksEveryGuessAs}
        >
          {texts.acceptGuesses}
        </Button>
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={texts.moreMapActions}
          className={clsx('rounded border border-line bg-raised p-1 hover:border-muted', guessed === 0 && 'ml-auto')}
        >
          <MoreHorizontal size={14} />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={4}
            className="z-50 min-w-56 rounded-lg border border-line bg-raised p-1 shadow-xl"
          >
            {(
              [
                ['source', source],
                ['target', target],
              ] as const
            ).map(([side, rig]) => (
              <DropdownMenu.Group key={side}>
                <DropdownMenu.Label className="px-2 pt-1.5 pb-0.5 text-[12px] text-muted">
                  {texts.ofThe(side)}
                </DropdownMenu.Label>
                <DropdownMenu.Item className={row} onSelect={() => editor.fill(rig, 'L')}>
                  {texts.fillTheRightSide}
                </DropdownMenu.Item>
                <DropdownMenu.Item className={row} onSelect={() => editor.fill(rig, 'R')}>
                  {texts.fillTheLeftSide}
                </DropdownMenu.Item>
                <DropdownMenu.Item className={row} onSelect={() => setSaving(rig)}>
                  {texts.saveThisMapAs}
                </DropdownMenu.Item>
                <DropdownMenu.Item className={row} onSelect={() => setLaying(rig)}>
                  {texts.applyAProfile}
                </DropdownMenu.Item>
              </DropdownMenu.Group>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {saving && <SaveProfile rig={saving} editor={editor} onClose={() => setSaving(null)} />}
      {laying && <LayProfile rig={laying} editor={editor} onClose={() => setLaying(null)} />}
    </>
  );
}

function SaveProfile({ rig, editor, onClose }: { rig: RigAnswer; editor: MapEditor; onClose: () => void }) {
  const [name, setName] = useState('');
  return (
    <Dialog open onOpenChange={onClose} title={texts.saveThisMapAsA} about={texts.youCanApplyIt}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) void editor.saveProfile(rig, name.trim()).then(onClose);
        }}
      >
        <Field label={texts.name}>
          <input className={inputLook} value={name} onChange={(e) => setName(e.target.value)} maxLength={160} />
        </Field>
        <Button type="submit" look="brass" disabled={name.trim() === ''}>
          {texts.save}
        </Button>
      </form>
    </Dialog>
  );
}

function LayProfile({ rig, editor, onClose }: { rig: RigAnswer; editor: MapEditor; onClose: () => void }) {
  const { data, error } = useQuery({
    queryKey: ['profiles'],
    queryFn: () => getJson<Profile[]>(`${API}/profiles`),
  });
  return (
    <Dialog open onOpenChange={onClose} title={texts.applyAProfile2} width={520}>
      {error && <p className="text-raspberry">{error.message}</p>}
      {data?.length === 0 && <p className="text-muted">{texts.noSavedMapsYet}</p>}
      <ul className="flex flex-col gap-1.5">
        {data?.map((p) => (
          <li key={p.id} className="flex items-center gap-3 rounded-lg border border-line bg-raised px-3 py-2">
            <span className="min-w-0 flex-1">
              <span className="block truncate font-medium" title={p.name}>
                {p.name}
              </span>
              <span className="block text-[12px] text-muted">
                {texts.slots(p.slots)}
                {p.byName && texts.by(p.byName)} {texts.serves}{' '}
                {p.serves.length === 0 && p.otherRigs === 0
                  ? texts.noSkeletonInThis
                  : [...p.serves.map((s) => s.name), p.otherRigs > 0 && texts.otherSkeletons(p.otherRigs)]
                      .filter(Boolean)
                      .join(', ')}
              </span>
            </span>
            <Button
              onClick={() => {
                editor.applyProfile(rig, p);
                onClose();
              }}
            >
              {texts.apply}
            </Button>
            <IconButton label={texts.deleteSkeletonsItWas(p.name)} quiet onClick={() => editor.removeProfile(p)}>
              <Trash2 size={13} />
            </IconButton>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
