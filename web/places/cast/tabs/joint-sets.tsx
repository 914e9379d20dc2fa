'use client';

import { REGIONS, type Region } from '@velvet-reel/motion';
import { Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, getJson } from '@/client/api';
import { solver } from '@/client/solver';
import type { Item, RigAnswer } from '@/contract';
import { many } from '@/naming/counts';
import { ItemPicker } from '@/parts/item-picker';
import { Button, IconButton } from '@/ui/button';
import { inputLook } from '@/ui/field';
import { jointSets as texts } from '../texts';
import type { SidesTabProps } from './sides-tab';

const PARTS: Readonly<Record<string, string>> = {
  hips: 'hips',
  trunk: 'spine',
  head: 'neck|head',
  arm: 'collar|upperArm|forearm|hand',
  fingers: 'thumb|index|middle|ring|pinky',
  leg: 'thigh|shin|foot|toes',
};

/** Slots of a region, as a pattern: "left arm" is collarL to handL. */
function slotsOf(region: Region): RegExp | undefined {
  const side = region.startsWith('left ') ? 'L' : region.startsWith('right ') ? 'R' : '';
  const part = PARTS[region.replace(/^(left|right) /, '')];
  return part ? new RegExp(`^(${part})\\d*${side}$`) : undefined;
}

/** Joints that are picked together under a name: from regions, from what an item holds, or one by one. */
export function JointSets({ rig, mayChange, onLit, onSet }: SidesTabProps) {
  const [name, setName] = useState('');
  const [joints, setJoints] = useState<string[]>([]);
  const take = (pattern: RegExp): void =>
    setJoints([
      ...new Set([
        ...joints,
        ...Object.entries(rig.map.slots).flatMap(([slot, e]) => (e.joint && pattern.test(slot) ? [e.joint] : [])),
      ]),
    ]);
  const [missing, setMissing] = useState<{ of: string; names: readonly string[] }>();
  const takeFrom = async (item: Item): Promise<void> => {
    try {
      const source = await getJson<RigAnswer>(`${API}/rigs/${item.rigId}`);
      const held = await solver().heldOn(item.motionHash, source, rig);
      // what was chosen or written while it was read stays
      setJoints((now) => [...new Set([...now, ...held.joints])]);
      setMissing({ of: item.name, names: held.missing });
      setName((now) => (now.trim() === '' ? item.name.slice(0, 80) : now));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const placesOf = (names: readonly string[]): number[] => {
    const wanted = new Set(names);
    return rig.rig.joints.flatMap((j, i) => (wanted.has(j.name) ? [i] : []));
  };
  return (
    <div>
      <h3 className="mb-1 font-semibold">{texts.jointSets}</h3>
      {rig.sets.length === 0 && <p className="text-[12px] text-muted">{texts.giveJointsThatYou}</p>}
      <ul className="flex flex-col gap-1">
        {rig.sets.map((s) => (
          <li
            key={s.name}
            className="flex items-center gap-2 rounded border border-line px-2 py-0.5"
            onPointerEnter={() => onLit(placesOf(s.joints))}
            onFocus={() => onLit(placesOf(s.joints))}
            onBlur={() => onLit(undefined)}
            onPointerLeave={() => onLit(undefined)}
          >
            <span className="font-medium">{s.name}</span>
            <span className="min-w-0 flex-1 truncate text-[12px] text-muted" title={s.joints.join(', ')}>
              {many(s.joints.length, 'joint')}: {s.joints.join(', ')}
            </span>
            {mayChange && (
              <IconButton
                label={texts.deleteTheSet(s.name)}
                quiet
                onClick={() => onSet({ sets: rig.sets.filter((x) => x.name !== s.name) }, texts.deletedTheSet(s.name))}
              >
                <Trash2 size={12} />
              </IconButton>
            )}
          </li>
        ))}
      </ul>
      {mayChange && (
        <form
          className="mt-1.5 flex flex-col gap-1.5"
          onSubmit={(e) => {
            e.preventDefault();
            const called = name.trim();
            if (called === '' || joints.length === 0) return;
            onSet(
              { sets: [...rig.sets.filter((s) => s.name !== called), { name: called, joints }] },
              texts.madeTheSet(called),
            );
            setName('');
            setJoints([]);
            setMissing(undefined);
          }}
        >
          <div className="flex flex-wrap gap-1">
            {REGIONS.filter((r) => slotsOf(r)).map((r) => (
              <button
                key={r}
                type="button"
                className="rounded-full border border-line px-2 text-[12px] text-muted hover:border-muted hover:text-ink"
                onClick={() => take(slotsOf(r)!)}
              >
                <Plus size={11} className="inline" /> {r}
              </button>
            ))}
          </div>
          <details>
            <summary className="cursor-pointer text-[12px] text-muted hover:text-ink">{texts.takeTheJointsOf}</summary>
            <div className="pt-1">
              <ItemPicker label={texts.itemToTakeThe} nothing={texts.noItemWithThat} onPick={(i) => void takeFrom(i)} />
            </div>
          </details>
          {missing && (
            <p role="status" className={`text-[12px] ${missing.names.length > 0 ? 'text-brass-text' : 'text-muted'}`}>
              {missing.names.length === 0
                ? texts.thisCharacterHasEvery(missing.of)
                : texts.missingHereButMoved(missing.of, missing.names.join(', '))}
            </p>
          )}
          <select
            multiple
            aria-label={texts.jointsOfTheNew}
            className={`${inputLook} h-24`}
            value={joints}
            onChange={(e) => setJoints([...e.currentTarget.selectedOptions].map((o) => o.value))}
          >
            {rig.rig.joints.map((j) => (
              <option key={j.name} value={j.name}>
                {j.name}
              </option>
            ))}
          </select>
          <div className="flex gap-1.5">
            <input
              className={`${inputLook} min-w-0 flex-1 py-0.5!`}
              aria-label={texts.nameOfTheNew}
              placeholder={texts.nameOfTheNew}
              maxLength={80}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <Button type="submit" disabled={name.trim() === '' || joints.length === 0}>
              {texts.keep} {joints.length > 0 && joints.length}
            </Button>
          </div>
        </form>
      )}
    </div>
  );
}
