'use client';

import { type CorrectionTrack, type Motion, type Party, type Pass, partTurns, turnOffsetAt } from '@velvet-reel/motion';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Clock } from '@/stage/clock';
import type { LabelTarget, PadTarget } from './what';

/** What the hands do just now. */
export interface Hands {
  /** Place on the pad, −1 to 1, to the right and upwards. */
  readonly at: readonly [number, number];
  readonly label: string | null;
}

export interface PassPlan {
  readonly pad: PadTarget | null;
  readonly labels: LabelTarget | null;
  readonly from: number;
  /** Last frame that may be written. */
  readonly to: number;
  readonly countS: number;
}

export type PassState = { readonly kind: 'idle' | 'recording' } | { readonly kind: 'counting'; readonly left: number };

interface Sample {
  readonly frame: number;
  readonly at: readonly [number, number];
  readonly label: string | null;
}

/** Frames ahead of the clock that a preview shows already. */
const AHEAD = 12;

/** A motion whose frames a pass writes while it is recorded. */
const writable = (m: Motion, labels: LabelTarget | null, pad: PadTarget | null): Motion => {
  const numbers = m.numbers.map((t) => ({ ...t, values: t.values.slice() }));
  if (pad?.kind === 'number' && !numbers.some((t) => t.name === pad.name))
    numbers.push({ name: pad.name, values: new Float32Array(m.frameCount) });
  const steps = m.steps.map((t) => ({ ...t, labels: [...t.labels], values: t.values.slice() }));
  if (labels) {
    const own = steps.find((t) => t.name === labels.name);
    if (own) own.labels.push(...labels.labels.filter((l) => !own.labels.includes(l)));
    else steps.push({ name: labels.name, labels: [...labels.labels], values: new Uint16Array(m.frameCount) });
  }
  return { ...m, turns: m.turns.slice(), numbers, steps };
};

/** A place on the pad as a number from 0 to 1: upwards is more. */
export const levelOf = (at: readonly [number, number]): number => Math.min(1, Math.max(0, (at[1] + 1) / 2));

/** Samples as a pass: frames that the page was too busy to see lie straight between those it saw. */
export function passOf(party: Party, { pad, labels }: Pick<PassPlan, 'pad' | 'labels'>, seen: readonly Sample[]): Pass {
  const turns = new Map<number, { frame: number; turn: [number, number, number, number] }[]>();
  if (pad?.kind === 'part')
    for (const { frame, at } of seen)
      for (const { joint, turn } of partTurns(party, pad.part, at)) {
        const own = turns.get(joint) ?? [];
        turns.set(joint, own);
        own.push({ frame, turn });
      }
  return {
    turns: [...turns].map(([joint, samples]) => ({ joint: party.rig.names[joint]!, samples })),
    numbers:
      pad?.kind === 'number'
        ? [{ name: pad.name, samples: seen.map(({ frame, at }) => ({ frame, value: levelOf(at) })) }]
        : [],
    labels: labels
      ? [
          {
            name: labels.name,
            samples: seen.flatMap(({ frame, label }) => (label === null ? [] : [{ frame, label }])),
          },
        ]
      : [],
  };
}

/** Records a pass by the reel's clock: counts in, punches in and out, and hands what came over. */
export function usePass(
  clock: Clock,
  party: Party | undefined,
  beneath: Motion | undefined,
  /** What is set for joints already: a pass takes its place. */
  keys: readonly CorrectionTrack[],
  hands: () => Hands,
  onDone: (pass: Pass, from: number, to: number) => void,
) {
  const [state, setState] = useState<PassState>({ kind: 'idle' });
  /** What is shown while it is recorded. */
  const [shown, setShown] = useState<Motion>();
  const run = useRef<{ stop: () => void } | null>(null);
  const latest = useRef({ hands, onDone });
  latest.current = { hands, onDone };

  const stop = useCallback((): void => run.current?.stop(), []);
  useEffect(() => () => run.current?.stop(), []);

  const start = useCallback(
    (plan: PassPlan): void => {
      if (!party || !beneath || run.current) return;
      const seen: Sample[] = [];
      const preview = writable(beneath, plan.labels, plan.pad);
      const n = party.rig.names.length;
      const before = new Map(
        keys.flatMap((t) => ('joint' in t ? [[party.rig.names.indexOf(t.joint), t.keys] as const] : [])),
      );
      const looped = clock.loop;
      let timer: ReturnType<typeof setTimeout> | undefined;
      let unhook = (): void => undefined;
      const write = (from: number, to: number, now: Hands): void => {
        if (plan.pad?.kind === 'part') {
          const turned = partTurns(party, plan.pad.part, now.at);
          for (let f = from; f <= to; f++)
            for (const { joint, turn } of turned) {
              const o = 4 * (f * n + joint);
              const [x, y, z, w] = turnOffsetAt(before.get(joint) ?? [], f);
              preview.turns.set(times(times(beneath.turns.subarray(o, o + 4), [-x, -y, -z, w]), turn), o);
            }
        }
        const { pad, labels } = plan;
        if (pad?.kind === 'number')
          preview.numbers.find((t) => t.name === pad.name)!.values.fill(levelOf(now.at), from, to + 1);
        const track = labels && preview.steps.find((t) => t.name === labels.name);
        if (track && now.label !== null) track.values.fill(track.labels.indexOf(now.label), from, to + 1);
      };
      const sample = (): void => {
        const { frame } = clock;
        if (frame < plan.from) return;
        if (frame > plan.to) {
          run.current?.stop();
          return;
        }
        const last = seen.at(-1)?.frame ?? plan.from - 1;
        if (frame <= last) return;
        const now = latest.current.hands();
        seen.push({ frame, at: [...now.at], label: now.label });
        // what is drawn next shows the hand as it was last seen
        write(last + 1, Math.min(beneath.frameCount - 1, frame + AHEAD), now);
      };
      run.current = {
        stop: () => {
          run.current = null;
          clearTimeout(timer);
          unhook();
          clock.setPlaying(false);
          clock.setLoop(looped);
          setShown(undefined);
          setState({ kind: 'idle' });
          const first = seen[0];
          if (first) latest.current.onDone(passOf(party, plan, seen), first.frame, seen.at(-1)!.frame);
        },
      };
      const begin = (): void => {
        setState({ kind: 'recording' });
        clock.setLoop(false);
        clock.seekFrame(plan.from);
        const stops = [
          clock.onTick(sample),
          // the end of the reel ends the pass
          clock.subscribe(() => {
            if (!clock.playing && seen.length > 0) run.current?.stop();
          }),
        ];
        unhook = () => {
          for (const s of stops) s();
        };
        setShown(preview);
        clock.setPlaying(true);
        sample();
      };
      const count = (left: number): void => {
        if (left <= 0) {
          begin();
          return;
        }
        setState({ kind: 'counting', left });
        timer = setTimeout(count, 1000, left - 1);
      };
      clock.setPlaying(false);
      clock.seekFrame(plan.from);
      count(plan.countS);
    },
    [clock, party, beneath, keys],
  );
  return { state, shown, start, stop };
}

/** Turn b put behind turn a. */
function times(a: ArrayLike<number>, b: readonly [number, number, number, number]): [number, number, number, number] {
  const [x, y, z, w] = [a[0]!, a[1]!, a[2]!, a[3]!];
  const [p, q, r, s] = b;
  return [
    w * p + x * s + y * r - z * q,
    w * q - x * r + y * s + z * p,
    w * r + x * q - y * p + z * s,
    w * s - x * p - y * q - z * r,
  ];
}
