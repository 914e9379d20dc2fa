'use client';

import { clsx } from 'clsx';
import { type RefObject, useEffect, useRef, useState } from 'react';
import type { StageFigure, StageHandle } from './contract';
import { jointPicker as texts } from './texts';

interface JointPickerProps {
  stage: RefObject<StageHandle | null>;
  figure: StageFigure<never>;
  names: readonly string[];
  /** Said above the stage: what is being picked. */
  label: string;
  onPoint: (joint: string | null) => void;
  onPick: (joint: string) => void;
  onCancel: () => void;
}

const NEAR_PX = 15;

interface Seen {
  name: string;
  x: number;
  y: number;
  z: number;
}

/**
 * Lays a sheet over the stage on which only the joints of one figure can be picked. Where several lie on each other they are
 * all offered, the nearest to the eye first.
 */
export function JointPicker({ stage, figure, names, label, onPoint, onPick, onCancel }: JointPickerProps) {
  const sheet = useRef<HTMLDivElement>(null);
  const dots = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let handle = 0;
    const go = (): void => {
      handle = requestAnimationFrame(go);
      if (!dots.current || !stage.current) return;
      for (let j = 0; j < figure.jointCount; j++) {
        const dot = dots.current.children[j] as HTMLElement | undefined;
        if (!dot) continue;
        const { x, y, z } = stage.current.project(figure, j);
        dot.style.visibility = z < 1 ? 'visible' : 'hidden';
        dot.style.transform = `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px)`;
      }
    };
    handle = requestAnimationFrame(go);
    return () => cancelAnimationFrame(handle);
  }, [stage, figure]);
  const [near, setNear] = useState<Seen[]>([]);
  const [choose, setChoose] = useState<{ x: number; y: number; from: Seen[] } | null>(null);
  useEffect(() => {
    const key = (e: KeyboardEvent): void => {
      if (e.key !== 'Escape') return;
      e.preventDefault();
      onCancel();
    };
    window.addEventListener('keydown', key, { capture: true });
    return () => window.removeEventListener('keydown', key, { capture: true });
  }, [onCancel]);
  const under = (e: React.PointerEvent): Seen[] => {
    const box = sheet.current?.getBoundingClientRect();
    if (!box || !stage.current) return [];
    return stage.current
      .pick(figure, e.clientX - box.left, e.clientY - box.top, NEAR_PX)
      .map((p) => ({ name: names[p.joint]!, ...p }));
  };
  return (
    <div
      ref={sheet}
      className="absolute inset-0 z-10 cursor-crosshair"
      data-testid="joint-picker"
      onPointerMove={(e) => {
        if (choose) return;
        const found = under(e);
        setNear(found);
        onPoint(found[0]?.name ?? null);
      }}
      onPointerDown={(e) => {
        if (e.button !== 0 || (e.target as Element).closest('button')) return;
        const found = under(e);
        // joints that are as near as the nearest lie on each other
        const alike = found.filter((p) => Math.hypot(p.x - found[0]!.x, p.y - found[0]!.y) < 9);
        if (alike.length === 1) onPick(alike[0]!.name);
        else if (alike.length > 1) setChoose({ x: alike[0]!.x, y: alike[0]!.y, from: alike });
        else setChoose(null);
      }}
    >
      <p className="pointer-events-none absolute inset-x-0 top-2 mx-auto w-fit rounded-full border border-brass bg-panel px-3 py-1 text-brass-text">
        {texts.escCancels(label)}
      </p>
      {/* every joint that can be picked; the sheet beneath takes the pointer, these the keyboard */}
      <div ref={dots} className="pointer-events-none absolute inset-0">
        {names.map((name) => (
          <button
            key={name}
            type="button"
            aria-label={name}
            className="absolute -top-1 -left-1 size-2 rounded-full border border-velvet bg-brass/80"
            onFocus={() => onPoint(name)}
            onClick={() => onPick(name)}
          />
        ))}
      </div>
      {!choose &&
        near.slice(0, 1).map((p) => (
          <span key={p.name} className="pointer-events-none absolute" style={{ left: p.x, top: p.y }}>
            <span className="absolute -top-1.5 -left-1.5 size-3 rounded-full border-2 border-brass" />
            <span className="absolute top-2 left-3 rounded bg-panel px-1.5 py-0.5 whitespace-nowrap">
              {p.name}
              {near.length > 1 && <span className="text-muted">{texts.andBesideIt(near.length - 1)}</span>}
            </span>
          </span>
        ))}
      {choose && (
        <div
          className="absolute z-20 flex min-w-40 flex-col rounded-lg border border-line bg-raised p-1 shadow-xl"
          style={{ left: choose.x + 8, top: choose.y + 8 }}
          role="menu"
          aria-label={texts.jointsThatLieHere}
        >
          <span className="px-2 py-1 text-[12px] text-muted">{texts.theseLieOnEach}</span>
          {choose.from.map((p) => (
            <button
              key={p.name}
              type="button"
              role="menuitem"
              className={clsx('rounded px-2 py-1 text-left hover:bg-panel hover:text-brass-text')}
              onPointerEnter={() => onPoint(p.name)}
              onClick={() => onPick(p.name)}
            >
              {p.name}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
