'use client';

import { useEffect, useRef, useState } from 'react';
import { inputLook } from '@/ui/field';

/** A number that is kept on Enter or on leaving; what is no number, or lies outside, is put right. */
export function NumberField({
  label,
  value,
  low,
  high,
  step = 1,
  unit,
  onKeep,
}: {
  label: string;
  value: number;
  low: number;
  high: number;
  step?: number;
  unit?: string;
  onKeep: (value: number) => void;
}) {
  const digits = step >= 1 ? 0 : step >= 0.1 ? 1 : 2;
  const said = value.toFixed(digits);
  const [text, setText] = useState(said);
  // what was told last: leaving the field after Enter tells nothing twice
  const told = useRef(said);
  useEffect(() => {
    setText(said);
    told.current = said;
  }, [said]);
  const keep = (): void => {
    const x = Number(text.replace(',', '.'));
    const kept = Number.isFinite(x) ? Math.min(high, Math.max(low, x)) : value;
    setText(kept.toFixed(digits));
    if (kept.toFixed(digits) === told.current) return;
    told.current = kept.toFixed(digits);
    onKeep(kept);
  };
  const by = (sign: number): void => onKeep(Math.min(high, Math.max(low, Number((value + sign * step).toFixed(4)))));
  return (
    <label className="grid grid-cols-[1fr_74px] items-center gap-2">
      <span className="text-muted">
        {label}
        {unit && `, ${unit}`}
      </span>
      <input
        inputMode="decimal"
        className={`${inputLook} w-full py-0.5! text-right`}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === 'Enter') keep();
          else if (e.key === 'ArrowUp') by(1);
          else if (e.key === 'ArrowDown') by(-1);
          else if (e.key === 'Escape') setText(said);
          else return;
          e.preventDefault();
          e.stopPropagation();
        }}
      />
    </label>
  );
}
