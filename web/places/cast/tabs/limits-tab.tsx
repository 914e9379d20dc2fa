'use client';

import { defaultLimits, type Limit, type Limits, slotLabel } from '@velvet-reel/motion';
import { RotateCcw } from 'lucide-react';
import type { RigAnswer } from '@/contract';
import type { RigSetting } from '@/documents/rig-setup';
import { Button, IconButton } from '@/ui/button';
import { inputLook } from '@/ui/field';
import { limitsTab as texts } from '../texts';

interface LimitsTabProps {
  rig: RigAnswer;
  mayChange: boolean;
  onSet: (setting: RigSetting, label: string) => void;
}

/** How far parts may turn: the common body's limits, or ones of its own. */
export function LimitsTab({ rig, mayChange, onSet }: LimitsTabProps) {
  const common = defaultLimits();
  const limits: Limits = rig.limits ?? common;
  const set = (slot: string, limit: Limit): void =>
    onSet({ limits: { ...limits, [slot]: limit } }, texts.changedTheLimitOf(slotLabel(slot)));
  const same = (slot: string): boolean => JSON.stringify(limits[slot]) === JSON.stringify(common[slot]);
  return (
    <div className="flex flex-col gap-2">
      <p className="text-[12px] text-muted">
        {rig.limits ? texts.itHasItsOwn : texts.standardLimitsChangeOne} {texts.inDegreesHowFar}
      </p>
      <table className="w-full text-[12.5px]">
        <thead>
          <tr className="text-left text-muted">
            <th className="font-normal">{texts.part}</th>
            <th className="font-normal">{texts.swing}</th>
            <th className="font-normal">{texts.bendsFrom}</th>
            <th className="font-normal">{texts.to}</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {Object.entries(limits).map(([slot, limit]) =>
            limit ? (
              <tr key={slot} className={rig.map.slots[slot]?.joint ? '' : 'opacity-50'}>
                <td className={same(slot) ? '' : 'text-brass-text'}>{slotLabel(slot)}</td>
                <td>
                  <Degrees
                    label={texts.swingOf(slotLabel(slot))}
                    value={limit.cone}
                    low={0}
                    high={180}
                    disabled={!mayChange}
                    onKeep={(cone) => set(slot, { ...limit, cone })}
                  />
                </td>
                <td>
                  {limit.hinge && (
                    <Degrees
                      label={texts.bendsFrom2(slotLabel(slot))}
                      value={limit.hinge.from}
                      low={-180}
                      high={limit.hinge.to}
                      disabled={!mayChange}
                      onKeep={(from) => set(slot, { ...limit, hinge: { ...limit.hinge!, from } })}
                    />
                  )}
                </td>
                <td>
                  {limit.hinge && (
                    <Degrees
                      label={texts.bendsTo(slotLabel(slot))}
                      value={limit.hinge.to}
                      low={limit.hinge.from}
                      high={180}
                      disabled={!mayChange}
                      onKeep={(to) => set(slot, { ...limit, hinge: { ...limit.hinge!, to } })}
                    />
                  )}
                </td>
                <td>
                  {!same(slot) && mayChange && common[slot] && (
                    <IconButton
                      label={texts.resetToTheStandard(slotLabel(slot))}
                      quiet
                      onClick={() => set(slot, common[slot]!)}
                    >
                      <RotateCcw size={12} />
                    </IconButton>
                  )}
                </td>
              </tr>
            ) : null,
          )}
        </tbody>
      </table>
      {rig.limits && mayChange && (
        <Button onClick={() => onSet({ limits: null }, texts.wentBackToThe)}>{texts.resetAllToThe}</Button>
      )}
    </div>
  );
}

function Degrees({
  label,
  value,
  low,
  high,
  disabled,
  onKeep,
}: {
  label: string;
  value: number;
  low: number;
  high: number;
  disabled: boolean;
  onKeep: (value: number) => void;
}) {
  return (
    <input
      key={value}
      type="number"
      aria-label={label}
      min={low}
      max={high}
      disabled={disabled}
      defaultValue={value}
      className={`${inputLook} w-14 px-1.5! py-0!`}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      onBlur={(e) => {
        const n = Number(e.currentTarget.value);
        if (!Number.isFinite(n) || n < low || n > high) e.currentTarget.value = String(value);
        else if (n !== value) onKeep(n);
      }}
    />
  );
}
