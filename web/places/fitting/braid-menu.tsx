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
          hint="Marks every guess as confirmed"
        >
          Accept guesses
        </Button>
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label="More map actions"
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
                  Of the {side}
                </DropdownMenu.Label>
                <DropdownMenu.Item className={row} onSelect={() => editor.fill(rig, 'L')}>
                  Fill the right side from the left
                </DropdownMenu.Item>
                <DropdownMenu.Item className={row} onSelect={() => editor.fill(rig, 'R')}>
                  Fill the left side from the right
                </DropdownMenu.Item>
                <DropdownMenu.Item className={row} onSelect={() => setSaving(rig)}>
                  Save this map as a profile …
                </DropdownMenu.Item>
                <DropdownMenu.Item className={row} onSelect={() => setLaying(rig)}>
                  Apply a profile …
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
    <Dialog
      open
      onOpenChange={onClose}
      title="Save this map as a profile"
      about="You can apply it to any skeleton that has these joints."
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) void editor.saveProfile(rig, name.trim()).then(onClose);
        }}
      >
        <Field label="Name">
          <input className={inputLook} value={name} onChange={(e) => setName(e.target.value)} maxLength={160} />
        </Field>
        <Button type="submit" look="brass" disabled={name.trim() === ''}>
          Save
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
    <Dialog open onOpenChange={onClose} title="Apply a profile" width={520}>
      {error && <p className="text-raspberry">{error.message}</p>}
      {data?.length === 0 && <p className="text-muted">No saved maps yet: save one from the same menu.</p>}
      <ul className="flex flex-col gap-1.5">
        {data?.map((p) => (
          <li key={p.id} className="flex items-center gap-3 rounded-lg border border-line bg-raised px-3 py-2">
            <span className="min-w-0 flex-1">
              <span className="block truncate font-medium" title={p.name}>
                {p.name}
              </span>
              <span className="block text-[12px] text-muted">
                {p.slots} slots{p.byName && `, by ${p.byName}`} · serves{' '}
                {p.serves.length === 0 && p.otherRigs === 0
                  ? 'no skeleton in this library'
                  : [...p.serves.map((s) => s.name), p.otherRigs > 0 && `${p.otherRigs} other skeletons`]
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
              Apply
            </Button>
            <IconButton
              label={`Delete ${p.name}; skeletons it was applied to keep their maps`}
              quiet
              onClick={() => editor.removeProfile(p)}
            >
              <Trash2 size={13} />
            </IconButton>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
