'use client';

import { type CutoutArt, type CutoutRig, restMotion, restPose } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useCallback, useMemo, useRef, useState } from 'react';
import type { CastMember } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { Clock } from '@/stage/clock';
import { type FlatHandle, FlatStage, type FlatView } from '@/stage/flat-stage';
import { Slider } from '@/ui/slider';
import { cutoutStage as texts } from '../texts';

interface CutoutStageProps {
  member: CastMember;
  rig: CutoutRig;
  art: CutoutArt;
  clock: Clock;
  /** What is played instead of the figure at rest. */
  motion: Playable | undefined;
  /** Joint pointed at in a list. */
  lit: string | null;
  mayChange: boolean;
  onLit: (joint: string | null) => void;
  onPivot: (joint: string, at: readonly [number, number]) => void;
}

/** A figure on its threads: pulled apart, every piece hangs on what it is pinned to, and pins can be dragged. */
export function CutoutStage(p: CutoutStageProps) {
  const { rig, art, motion } = p;
  const [share, setShare] = useState(0);
  const [view, setView] = useState<FlatView>();
  const [drag, setDrag] = useState<{ joint: number; at: [number, number] } | null>(null);
  const stage = useRef<FlatHandle | null>(null);
  const still = useMemo(() => restMotion(rig), [rig]);
  const joints = useMemo(() => places(rig, art), [rig, art]);
  const middles = useMemo(() => offsets(rig, joints), [rig, joints]);
  const reach = useMemo(() => Math.max(...middles.map((m) => Math.max(Math.abs(m[0]), Math.abs(m[1])))), [middles]);
  const playing = motion !== undefined;
  const pulled = playing ? 0 : share;
  const apart = useCallback(
    (part: number): readonly [number, number] => {
      const by = middles[rig.parts[part]!.joint]!;
      return [pulled * by[0], pulled * by[1]];
    },
    [middles, rig, pulled],
  );
  const onView = useCallback((v: FlatView) => setView(v), []);
  const litJoint = p.lit === null ? -1 : rig.names.indexOf(p.lit);
  const litPart = litJoint < 0 ? null : rig.parts.findIndex((part) => part.joint === litJoint);
  const onPage = (at: readonly [number, number], joint: number): [number, number] => {
    const by = joint < 0 ? [0, 0] : middles[joint]!;
    return [view!.x + view!.scale * (at[0] + pulled * by[0]!), view!.y + view!.scale * (at[1] + pulled * by[1]!)];
  };
  const toPicture = (e: React.PointerEvent, joint: number): [number, number] | undefined => {
    const box = e.currentTarget.closest('[data-flat]')?.getBoundingClientRect();
    const at = box && stage.current?.toPicture(e.clientX - box.left, e.clientY - box.top);
    const by = middles[joint]!;
    return at && [at[0] - pulled * by[0], at[1] - pulled * by[1]];
  };
  const nudge = (joint: number, dx: number, dy: number): void => {
    const [x, y] = joints[joint]!;
    p.onPivot(rig.names[joint]!, [x + dx, y + dy]);
  };
  return (
    <div className="relative h-full" data-flat>
      <FlatStage
        rig={rig}
        art={p.member.assets.art!}
        clock={p.clock}
        motion={motion ?? still}
        label={texts.drawnFromItsParts(p.member.name)}
        apart={pulled > 0 ? apart : undefined}
        room={pulled * reach}
        lit={litPart !== null && litPart >= 0 ? litPart : null}
        handle={stage}
        onView={onView}
      >
        {view && !playing && (
          <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-label={texts.pins}>
            <title>{texts.pins}</title>
            {rig.names.map((name, j) => {
              const parent = rig.parents[j]!;
              const at = drag?.joint === j ? drag.at : joints[j]!;
              const [x, y] = onPage(at, j);
              const [tx, ty] = onPage(at, parent);
              const far = parent >= 0 && Math.hypot(tx - x, ty - y) > 2;
              return (
                <g key={name}>
                  {far && (
                    <path
                      d={`M${tx} ${ty}Q${(tx + x) / 2} ${(ty + y) / 2 + 12} ${x} ${y}`}
                      className="fill-none stroke-brass"
                      strokeWidth={1.4}
                    />
                  )}
                  {far && <circle cx={tx} cy={ty} r={3} className="fill-brass" />}
                  <circle
                    cx={x}
                    cy={y}
                    r={j === litJoint || drag?.joint === j ? 7 : 5}
                    tabIndex={p.mayChange ? 0 : -1}
                    role="slider"
                    aria-label={texts.pivotOf(name)}
                    aria-valuenow={Math.round(at[0])}
                    aria-valuetext={`${at[0].toFixed(0)}, ${at[1].toFixed(0)}`}
                    className={clsx(
                      'pointer-events-auto stroke-velvet outline-none',
                      p.mayChange && 'cursor-grab',
                      j === litJoint ? 'fill-ink' : 'fill-brass',
                    )}
                    strokeWidth={1.5}
                    onPointerEnter={() => p.onLit(name)}
                    onPointerLeave={() => p.onLit(null)}
                    onPointerDown={(e) => {
                      if (!p.mayChange) return;
                      e.currentTarget.setPointerCapture(e.pointerId);
                      setDrag({ joint: j, at: joints[j]! });
                    }}
                    onPointerMove={(e) => {
                      if (drag?.joint !== j) return;
                      const to = toPicture(e, j);
                      if (to) setDrag({ joint: j, at: to });
                    }}
                    onPointerUp={() => {
                      if (drag?.joint !== j) return;
                      const [from, to] = [joints[j]!, drag.at];
                      setDrag(null);
                      if (Math.hypot(to[0] - from[0], to[1] - from[1]) > 0.5) p.onPivot(name, to);
                    }}
                    onPointerCancel={() => setDrag(null)}
                    onKeyDown={(e) => {
                      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
                      if (!by || !p.mayChange) return;
                      e.preventDefault();
                      const step = e.shiftKey ? 10 : 1;
                      nudge(j, step * by[0]!, step * by[1]!);
                    }}
                  />
                  {(j === litJoint || drag?.joint === j) && (
                    <text x={x + 11} y={y + 4} className="fill-ink text-[12px]">
                      {name}
                    </text>
                  )}
                </g>
              );
            })}
          </svg>
        )}
      </FlatStage>
      {!playing && (
        <div className="absolute right-3 bottom-10 w-[270px] rounded-md border border-line bg-panel/85 px-2 py-0.5">
          <Slider
            label={texts.pullApart}
            value={Math.round(100 * share)}
            rest={0}
            low={0}
            high={100}
            step={5}
            unit=" %"
            onChange={(x) => setShare(x / 100)}
          />
        </div>
      )}
    </div>
  );
}

/** Where joints lie in the picture at rest. */
function places(rig: CutoutRig, { unit, origin }: CutoutArt): [number, number][] {
  const { p } = restPose(rig);
  return rig.names.map((_, j) => [origin[0] + p[3 * j]! / unit, origin[1] - p[3 * j + 1]! / unit]);
}

/** Where each joint's parts go when the figure is pulled apart: away from what they hang on, more the farther out. */
function offsets(rig: CutoutRig, joints: readonly (readonly [number, number])[]): [number, number][] {
  const out: [number, number][] = [];
  const height = Math.max(...joints.map((j) => j[1])) - Math.min(...joints.map((j) => j[1])) || 1;
  rig.parents.forEach((p, j) => {
    if (p < 0) {
      out.push([0, 0]);
      return;
    }
    const [x, y] = [joints[j]![0] - joints[p]![0], joints[j]![1] - joints[p]![1]];
    const far = Math.hypot(x, y) || 1;
    const by = 0.1 * height;
    // what lies close to its parent's pivot goes sideways by its own place in the figure
    const aside = Math.sign(joints[j]![0] - joints[0]![0]) || 0;
    out.push([out[p]![0] + by * (0.7 * (x / far) + 0.35 * aside), out[p]![1] + by * 0.8 * (y / far)]);
  });
  return out;
}
