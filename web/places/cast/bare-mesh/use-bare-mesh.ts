'use client';

import type { ClayFrame, ClayView, MarkSlot, MarkSource, Quarter } from '@velvet-reel/motion';
import { mirroredSlot } from '@velvet-reel/motion';
import { type Remote, transfer, wrap } from 'comlink';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { BareMeshThread, MadeSkeleton, OpenedMesh } from '@/solver/bare-mesh';

export type Place = [number, number, number];
export type Marks = Record<MarkSlot, Place>;

export const FRAMES: Record<ClayView, ClayFrame> = {
  front: { width: 640, height: 500, scale: 450 },
  side: { width: 260, height: 500, scale: 450 },
};

/** Marks are joints: called as one would point at them on a body. */
const WORDS: Readonly<Record<string, string>> = { forearm: 'elbow', hand: 'wrist', shin: 'knee', foot: 'ankle' };

export function markWord(slot: MarkSlot): string {
  const part = slot.replace(/[LR]$/, '');
  const word = WORDS[part];
  return word ? `${word} ${slot.slice(-1)}` : slot === 'head' ? 'base of the skull' : slot;
}

/** By loose part: the joint that it moves with; the others follow what they lie on. */
export type Ties = Readonly<Record<number, string>>;

interface State {
  readonly ties: Ties;
  readonly marks: Marks;
  readonly sources: Record<MarkSlot, MarkSource>;
}

export interface BareMesh {
  readonly opened: OpenedMesh | undefined;
  readonly state: State | undefined;
  readonly made: MadeSkeleton | undefined;
  readonly busy: 'reading' | 'turning' | 'rigging' | undefined;
  readonly error: string | undefined;
  readonly mirror: boolean;
  /** Whether hands get fingers where the shape shows them. */
  readonly fingers: boolean;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
  open: (file: File) => void;
  setMirror: (on: boolean) => void;
  setFingers: (on: boolean) => void;
  /** Turns the body by a quarter: its marks go with it. */
  turn: (quarter: Quarter) => void;
  /** @param held whether the same drag goes on, which undoes as one */
  move: (slot: MarkSlot, to: Place, held: boolean) => void;
  /** @param joint null: it follows what it lies on */
  tie: (part: number, joint: string | null) => void;
  undo: () => void;
  redo: () => void;
  rig: () => void;
  back: () => void;
}

/** A bare mesh between being dropped and being a character: marks with their undo, and the thread that works on it. */
export function useBareMesh(): BareMesh {
  const thread = useRef<{ worker: Worker; remote: Remote<BareMeshThread> } | null>(null);
  const [opened, setOpened] = useState<OpenedMesh>();
  const [past, setPast] = useState<State[]>([]);
  const [state, setState] = useState<State>();
  const [future, setFuture] = useState<State[]>([]);
  const [made, setMade] = useState<MadeSkeleton>();
  const [busy, setBusy] = useState<'reading' | 'turning' | 'rigging'>();
  const [error, setError] = useState<string>();
  const [mirror, setMirror] = useState(true);
  const [fingers, setFingers] = useState(true);

  const remote = useCallback((): Remote<BareMeshThread> => {
    if (!thread.current) {
      const worker = new Worker(new URL('../../../solver/bare-mesh.ts', import.meta.url), { type: 'module' });
      thread.current = { worker, remote: wrap<BareMeshThread>(worker) };
    }
    return thread.current.remote;
  }, []);
  useEffect(
    () => () => {
      thread.current?.worker.terminate();
      thread.current = null;
    },
    [],
  );

  const open = (file: File): void => {
    setBusy('reading');
    setError(undefined);
    setMade(undefined);
    setOpened(undefined);
    file
      .arrayBuffer()
      .then((buffer) => {
        const bytes = new Uint8Array(buffer);
        return remote().open(transfer(bytes, [bytes.buffer]), file.name, FRAMES);
      })
      .then((answer) => {
        setOpened(answer);
        setState({ marks: answer.marks, sources: answer.sources, ties: {} });
        setPast([]);
        setFuture([]);
      })
      .catch((e: Error) => setError(e.message))
      .finally(() => setBusy(undefined));
  };

  const turn = (quarter: Quarter): void => {
    if (!state || busy) return;
    const byHand = Object.entries(state.marks).filter(([slot]) =>
      ['marked', 'mirrored'].includes(state.sources[slot as MarkSlot]),
    );
    setBusy('turning');
    remote()
      .turn(quarter, Object.fromEntries(byHand), FRAMES)
      .then((answer) => {
        setOpened(answer);
        const sources = { ...answer.sources };
        for (const [slot] of byHand) sources[slot as MarkSlot] = state.sources[slot as MarkSlot];
        setState({ ...state, marks: answer.marks, sources });
        // earlier steps are told in the frame in which it stood then
        setPast([]);
        setFuture([]);
      })
      .catch((e: Error) => setError(e.message))
      .finally(() => setBusy(undefined));
  };
  const keep = (state: State): void => {
    setPast([...past.slice(-99), state]);
    setFuture([]);
  };
  const tie = (part: number, joint: string | null): void => {
    if (!state) return;
    keep(state);
    const { [part]: _, ...ties } = state.ties;
    setState({ ...state, ties: joint === null ? ties : { ...ties, [part]: joint } });
  };
  const move = (slot: MarkSlot, to: Place, held: boolean): void => {
    if (!state) return;
    if (!held) keep(state);
    const other = mirroredSlot(slot);
    const both = mirror && other !== slot;
    const middle = slot === 'hips' ? to[0] : state.marks.hips[0];
    setState({
      ...state,
      marks: { ...state.marks, [slot]: to, ...(both ? { [other]: [2 * middle - to[0], to[1], to[2]] } : {}) },
      sources: { ...state.sources, [slot]: 'marked', ...(both ? { [other]: 'mirrored' } : {}) },
    });
  };
  const step = (from: State[], setFrom: (s: State[]) => void, into: State[], setInto: (s: State[]) => void): void => {
    const last = from.at(-1);
    if (!last || !state) return;
    setFrom(from.slice(0, -1));
    setInto([...into, state]);
    setState(last);
  };

  const rig = (): void => {
    if (!state) return;
    setBusy('rigging');
    setError(undefined);
    remote()
      .rig(
        state.marks,
        { ties: Object.entries(state.ties).map(([part, joint]) => ({ part: Number(part), joint })), fingers },
        FRAMES,
      )
      .then(setMade)
      .catch((e: Error) => setError(e.message))
      .finally(() => setBusy(undefined));
  };

  return {
    opened,
    state,
    made,
    busy,
    error,
    mirror,
    fingers,
    canUndo: past.length > 0,
    canRedo: future.length > 0,
    open,
    setMirror,
    setFingers,
    turn,
    move,
    tie,
    undo: () => step(past, setPast, future, setFuture),
    redo: () => step(future, setFuture, past, setPast),
    rig,
    back: () => setMade(undefined),
  };
}
