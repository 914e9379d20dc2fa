'use client';

import { type CutoutArt, type CutoutRig, type JointMarks, restMotion } from '@velvet-reel/motion';
import { useCallback, useMemo, useRef, useState } from 'react';
import type { CastMember } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { Clock } from '@/stage/clock';
import { type FlatHandle, FlatStage, type FlatView } from '@/stage/flat-stage';
import { Slider } from '@/ui/slider';
import { cutoutStage as texts } from '../texts';
import { inwards, markName, placesOf } from './marks';
import { Pin } from './pin';

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
  /** Joints that are being marked, by slot, in place of the pins. */
  marks: JointMarks | null;
  onMark: (slot: string, at: readonly [number, number] | null) => void;
}

/** A figure on its threads: pulled apart, every piece hangs on what it is pinned to, and pins can be dragged. */
export function CutoutStage(p: CutoutStageProps) {
  const { rig, art, motion } = p;
  const [share, setShare] = useState(0);
  const [view, setView] = useState<FlatView>();
  const [drag, setDrag] = useState<{ joint: number; at: [number, number] } | null>(null);
  const stage = useRef<FlatHandle | null>(null);
  const still = useMemo(() => restMotion(rig), [rig]);
  const joints = useMemo(() => placesOf(rig, art), [rig, art]);
  const middles = useMemo(() => offsets(rig, joints), [rig, joints]);
  const reach = useMemo(() => Math.max(...middles.map((m) => Math.max(Math.abs(m[0]), Math.abs(m[1])))), [middles]);
  const playing = motion !== undefined;
  const pulled = playing || p.marks ? 0 : share;
  const apart = useCallback(
    (part: number): readonly [number, number] => {
      const by = middles[rig.parts[part]!.joint]!;
      return [pulled * by[0], pulled * by[1]];
    },
    [middles, rig, pulled],
  );
  const onView = useCallback((v: FlatView) => setView(v), []);
  const litJoint = p.lit === null || p.marks ? -1 : rig.names.indexOf(p.lit);
  const litPart = litJoint < 0 ? null : rig.parts.findIndex((part) => part.joint === litJoint);
  const onPage = (at: readonly [number, number], joint: number): [number, number] => {
    const by = joint < 0 ? [0, 0] : middles[joint]!;
    return [view!.x + view!.scale * (at[0] + pulled * by[0]!), view!.y + view!.scale * (at[1] + pulled * by[1]!)];
  };
  const toPicture = (e: React.PointerEvent, joint: number): [number, number] | undefined => {
    const box = e.currentTarget.closest('[data-flat]')?.getBoundingClientRect();
    const at = box && stage.current?.toPicture(e.clientX - box.left, e.clientY - box.top);
    const by = joint < 0 ? [0, 0] : middles[joint]!;
    return at && [at[0] - pulled * by[0]!, at[1] - pulled * by[1]!];
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
        {view && !playing && p.marks === null && (
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
                  <Pin
                    x={x}
                    y={y}
                    at={at}
                    label={texts.pivotOf(name)}
                    name={name}
                    lit={j === litJoint || drag?.joint === j}
                    mayChange={p.mayChange}
                    onLit={(on) => p.onLit(on ? name : null)}
                    onMove={(e) => {
                      const to = toPicture(e, j);
                      if (to) setDrag({ joint: j, at: to });
                    }}
                    onDrop={() => {
                      const [from, to] = [joints[j]!, drag?.at ?? joints[j]!];
                      setDrag(null);
                      if (Math.hypot(to[0] - from[0], to[1] - from[1]) > 0.5) p.onPivot(name, to);
                    }}
                    onNudge={(dx, dy) => nudge(j, dx, dy)}
                  />
                </g>
              );
            })}
          </svg>
        )}
        {view && !playing && p.marks && (
          <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-label={texts.marks}>
            <title>{texts.marks}</title>
            {Object.entries(p.marks).map(([slot, at]) => {
              const from = inwards(slot, p.marks!);
              const [x, y] = onPage(at, -1);
              const [fx, fy] = from ? onPage(p.marks![from]!, -1) : [x, y];
              return (
                from && <path key={slot} d={`M${fx} ${fy}L${x} ${y}`} className="stroke-brass/70" strokeWidth={3} />
              );
            })}
            {Object.entries(p.marks).map(([slot, at]) => {
              const [x, y] = onPage(at, -1);
              return (
                <Pin
                  key={slot}
                  x={x}
                  y={y}
                  at={at}
                  label={texts.markOf(markName(slot))}
                  name={markName(slot)}
                  lit={p.lit === slot}
                  mayChange
                  onLit={(on) => p.onLit(on ? slot : null)}
                  onMove={(e) => {
                    const to = toPicture(e, -1);
                    if (to) p.onMark(slot, to);
                  }}
                  onDrop={() => undefined}
                  onNudge={(dx, dy) => p.onMark(slot, [at[0] + dx, at[1] + dy])}
                  onRemove={slot === 'hips' ? undefined : () => p.onMark(slot, null)}
                />
              );
            })}
          </svg>
        )}
      </FlatStage>
      {!playing && !p.marks && (
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
