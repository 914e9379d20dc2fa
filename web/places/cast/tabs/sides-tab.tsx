'use client';

import { findPairing, mirrorTrouble, pairingSummary } from '@velvet-reel/motion';
import { Trash2 } from 'lucide-react';
import { useMemo, useState } from 'react';
import type { RigAnswer } from '@/contract';
import type { RigSetting } from '@/documents/rig-setup';
import { rigView } from '@/stage/rig-view';
import { Button, IconButton } from '@/ui/button';
import { Select } from '@/ui/field';
import { sidesTab as texts } from '../texts';
import { JointSets } from './joint-sets';

export interface SidesTabProps {
  rig: RigAnswer;
  mayChange: boolean;
  onLit: (joints: readonly number[] | undefined) => void;
  onSet: (setting: RigSetting, label: string) => void;
}

const BY: Readonly<Record<string, string>> = {
  hand: texts.setByHand,
  slot: texts.byTheMap,
  name: texts.byName,
  place: texts.byPlace,
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
  const options = [{ value: NONE, label: texts.joint }, ...names.map((n) => ({ value: n, label: n }))];
  const pairs = all ? pairing.pairs : pairing.pairs.slice(0, 6);
  return (
    <div className="flex flex-col gap-3">
      <div>
        <h3 className="mb-1 font-semibold">{texts.leftAndRight}</h3>
        <p>{pairingSummary(view.rig, pairing).text}</p>
        {trouble && <p className="text-raspberry">{trouble}</p>}
        {pairing.unpaired.length > 0 && (
          <p className="mt-1 text-[12px] text-brass-text">
            {texts.withoutAPartner(pairing.unpaired.map((j) => names[j]).join(', '))}
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
                    label={texts.removeThePairOf(names[p.left]!)}
                    quiet
                    onClick={() =>
                      onSet(
                        { pairs: (rig.pairs ?? []).filter(([a]) => a !== names[p.left]) },
                        texts.removedThePairOf(names[p.left]!),
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
            {all ? texts.fewer : texts.all(pairing.pairs.length)}
          </button>
        )}
        {mayChange && (
          <div className="mt-2 flex gap-1.5">
            <Select
              label={texts.leftJoint}
              value={left}
              options={options}
              onChange={setLeft}
              className="min-w-0 flex-1"
            />
            <Select
              label={texts.rightJoint}
              value={right}
              options={options}
              onChange={setRight}
              className="min-w-0 flex-1"
            />
            <Button
              disabled={left === NONE || right === NONE || left === right}
              onClick={() => {
                const rest = (rig.pairs ?? []).filter((p) => !p.includes(left) && !p.includes(right));
                onSet({ pairs: [...rest, [left, right]] }, texts.pairedWith(left, right));
                setLeft(NONE);
                setRight(NONE);
              }}
            >
              {texts.pair}
            </Button>
          </div>
        )}
      </div>
      <JointSets rig={rig} mayChange={mayChange} onLit={onLit} onSet={onSet} />
    </div>
  );
}
