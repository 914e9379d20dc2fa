'use client';

import { findPairing, mirrorTrouble, pairingSummary, REGIONS, type Region } from '@velvet-reel/motion';
import { Plus, Trash2 } from 'lucide-react';
import { useMemo, useState } from 'react';
import type { RigAnswer } from '@/client/types';
import { rigView } from '@/stage/rig-view';
import { Button, IconButton } from '@/ui/button';
import { inputLook, Select } from '@/ui/field';
import type { RigSetting } from '../use-rig-setting';

interface SidesTabProps {
  rig: RigAnswer;
  mayChange: boolean;
  onLit: (joints: readonly number[] | undefined) => void;
  onSet: (setting: RigSetting, label: string) => void;
}

const BY: Readonly<Record<string, string>> = {
  hand: 'set by hand',
  slot: 'by the map',
  name: 'by name',
  place: 'by place',
};
const NONE = ' ';

/** Left and right partners with their counts, and joints that are picked together under a name. */
export function SidesTab({ rig, mayChange, onLit, onSet }: SidesTabProps) {
  const view = rigView(rig);
  const { names } = view.rig;
  const given = useMemo(
    () =>
      (rig.pairs ?? [])
        .map(([a, b]): [number, number] => [names.indexOf(a), names.indexOf(b)])
        .filter((p) => p.every((j) => j >= 0)),
    [rig.pairs, names],
  );
  const pairing = useMemo(() => findPairing(view.rig, view.map, undefined, given), [view, given]);
  const trouble = mirrorTrouble(view.map, pairing);
  const [left, setLeft] = useState(NONE);
  const [right, setRight] = useState(NONE);
  const [all, setAll] = useState(false);
  const options = [{ value: NONE, label: 'joint' }, ...names.map((n) => ({ value: n, label: n }))];
  const pairs = all ? pairing.pairs : pairing.pairs.slice(0, 6);
  return (
    <div className="flex flex-col gap-3">
      <div>
        <h3 className="mb-1 font-semibold">Left and right</h3>
        <p>{pairingSummary(view.rig, pairing).text}</p>
        {trouble && <p className="text-raspberry">{trouble}</p>}
        {pairing.unpaired.length > 0 && (
          <p className="mt-1 text-[12px] text-brass-text">
            without a partner: {pairing.unpaired.map((j) => names[j]).join(', ')}
          </p>
        )}
        <ul className="mt-1.5 flex flex-col text-[12.5px]">
          {pairs.map((p) => (
            <li
              key={p.left}
              className="grid grid-cols-[1fr_1fr_auto] gap-2 rounded px-1 hover:bg-raised"
              onPointerEnter={() => onLit([p.left, p.right])}
              onPointerLeave={() => onLit(undefined)}
            >
              <span className="truncate text-verdigris">{names[p.left]}</span>
              <span className="truncate text-terracotta">{names[p.right]}</span>
              <span className="flex items-center text-[11.5px] text-muted">
                {BY[p.by]}
                {p.by === 'hand' && mayChange && (
                  <IconButton
                    label={`Undo the pair of ${names[p.left]}`}
                    quiet
                    onClick={() =>
                      onSet(
                        { pairs: (rig.pairs ?? []).filter(([a]) => a !== names[p.left]) },
                        `Took the pair of ${names[p.left]} apart`,
                      )
                    }
                  >
                    <Trash2 size={12} />
                  </IconButton>
                )}
              </span>
            </li>
          ))}
        </ul>
        {pairing.pairs.length > 6 && (
          <button type="button" className="text-[12px] text-muted hover:text-ink" onClick={() => setAll(!all)}>
            {all ? 'fewer' : `all ${pairing.pairs.length} pairs`}
          </button>
        )}
        {mayChange && (
          <div className="mt-2 flex gap-1.5">
            <Select label="Left joint" value={left} options={options} onChange={setLeft} className="min-w-0 flex-1" />
            <Select
              label="Right joint"
              value={right}
              options={options}
              onChange={setRight}
              className="min-w-0 flex-1"
            />
            <Button
              disabled={left === NONE || right === NONE || left === right}
              onClick={() => {
                const rest = (rig.pairs ?? []).filter((p) => !p.includes(left) && !p.includes(right));
                onSet({ pairs: [...rest, [left, right]] }, `Paired ${left} with ${right}`);
                setLeft(NONE);
                setRight(NONE);
              }}
            >
              Pair
            </Button>
          </div>
        )}
      </div>
      <JointSets rig={rig} mayChange={mayChange} onLit={onLit} onSet={onSet} />
    </div>
  );
}

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

function JointSets({ rig, mayChange, onLit, onSet }: SidesTabProps) {
  const [name, setName] = useState('');
  const [joints, setJoints] = useState<string[]>([]);
  const take = (pattern: RegExp): void =>
    setJoints([
      ...new Set([
        ...joints,
        ...Object.entries(rig.map.slots).flatMap(([slot, e]) => (e.joint && pattern.test(slot) ? [e.joint] : [])),
      ]),
    ]);
  const placesOf = (names: readonly string[]): number[] => {
    const wanted = new Set(names);
    return rig.rig.joints.flatMap((j, i) => (wanted.has(j.name) ? [i] : []));
  };
  return (
    <div>
      <h3 className="mb-1 font-semibold">Joint sets</h3>
      {rig.sets.length === 0 && (
        <p className="text-[12px] text-muted">Joints that are picked again and again get a name here.</p>
      )}
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
              {s.joints.length} joints: {s.joints.join(', ')}
            </span>
            {mayChange && (
              <IconButton
                label={`Take the set ${s.name} away`}
                quiet
                onClick={() =>
                  onSet({ sets: rig.sets.filter((x) => x.name !== s.name) }, `Took the set ${s.name} away`)
                }
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
              `Made the set ${called}`,
            );
            setName('');
            setJoints([]);
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
          <select
            multiple
            aria-label="Joints of the new set"
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
              aria-label="Name of the new set"
              placeholder="Name of the new set"
              maxLength={80}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <Button type="submit" disabled={name.trim() === '' || joints.length === 0}>
              Keep {joints.length > 0 && joints.length}
            </Button>
          </div>
        </form>
      )}
    </div>
  );
}
