'use client';

import { useQueries } from '@tanstack/react-query';
import { type CutoutArt, jointOf, motionToJson, PoseField, sceneToJson } from '@velvet-reel/motion';
import { useCallback, useEffect, useMemo } from 'react';
import { API, bringInFile, getJson } from '@/client/api';
import { solver } from '@/client/solver';
import type { IntakeRow, Item, PoseFieldDocument, RigAnswer } from '@/contract';
import { type FieldContent, type Pin, POSE_FIELD } from '@/documents/pose-field';
import { type DocumentHandle, type DocumentSource, useDocument } from '@/documents/use-document';
import type { Playable } from '@/solver/solve';
import { loadArt } from '@/stage/paper-art';
import { rigView } from '@/stage/rig-view';
import { useField as texts } from '../texts';

export type { Pin };

const read = (answer: unknown) => {
  const { content, version } = answer as PoseFieldDocument;
  return { content, version };
};

/** Where an earlier release kept pins, in the browser alone. */
const keyOf = (castId: string): string => `velvet-reel field ${castId}`;

/** The pins of a character's field, together with colleagues. */
export function usePins(
  castId: string,
  mayChange: boolean,
): {
  pins: readonly Pin[];
  document: DocumentHandle<FieldContent>;
  /** @param gesture all changes of one gesture are one step */
  set: (pins: readonly Pin[], label: string, gesture?: string) => void;
} {
  const source = useMemo<DocumentSource<FieldContent>>(
    () => ({ address: `${API}/cast/${castId}/field`, kind: POSE_FIELD, read, mayChange }),
    [castId, mayChange],
  );
  const document = useDocument(source, POSE_FIELD.empty);
  const { loaded, content, change } = document;
  // pins that lie in this browser only come along, once
  useEffect(() => {
    if (!loaded || !mayChange) return;
    try {
      const kept: unknown = JSON.parse(localStorage.getItem(keyOf(castId)) ?? 'null');
      localStorage.removeItem(keyOf(castId));
      const pins = Array.isArray(kept) ? kept.filter(isPin) : [];
      if (pins.length > 0 && content.pins.length === 0) change({ pins }, texts.broughtPinsOverFrom);
    } catch {
      // a browser that keeps nothing has nothing to bring
    }
  }, [loaded, mayChange, castId, content, change]);
  const set = useCallback(
    (pins: readonly Pin[], label: string, gesture?: string) => change({ pins }, label, gesture),
    [change],
  );
  return { pins: content.pins, document, set };
}

const isPin = (x: unknown): x is Pin => {
  const { itemId, name, at } = (x ?? {}) as Partial<Pin>;
  return (
    typeof itemId === 'string' &&
    typeof name === 'string' &&
    Array.isArray(at) &&
    at.length === 2 &&
    at.every(Number.isFinite)
  );
};

/** Poses farther apart than this on the ground, metres, were kept elsewhere and are brought together. */
const ELSEWHERE_M = 0.3;

export interface FieldOfPoses {
  readonly field: PoseField | undefined;
  /** Pins whose poses are there, in the field's order. */
  readonly ready: readonly Pin[];
  readonly loading: boolean;
  /** Names of pins whose items are gone or cannot be read. */
  readonly lost: readonly string[];
}

/** The poses of pins on a performer, and the field that they make. */
export function useFieldOfPoses(pins: readonly Pin[], target: RigAnswer): FieldOfPoses {
  const answers = useQueries({
    queries: pins.map(({ itemId }) => ({
      queryKey: [texts.fieldPose, itemId, target.id, target.mapVersion],
      queryFn: async (): Promise<Playable> => {
        const item = await getJson<Item>(`/api/v1/items/${itemId}`);
        if (item.rigId === target.id) return solver().load(item.motionHash);
        const source = await getJson<RigAnswer>(`/api/v1/rigs/${item.rigId}`);
        return solver().show({ motionHash: item.motionHash, source, target });
      },
      staleTime: Number.POSITIVE_INFINITY,
      retry: false,
    })),
    combine: (queries) => queries.map((q) => ({ pose: q.data, failed: q.isError })),
  });
  return useMemo(() => {
    const { rig, map, cutout } = rigView(target);
    const hips = Math.max(0, jointOf(map, 'hips'));
    const there = pins.flatMap((pin, i) => (answers[i]?.pose ? [{ pin, pose: answers[i].pose }] : []));
    const first = there[0]?.pose;
    const placed = there.map(({ pin, pose }) => ({ at: pin.at, pose: first ? broughtNear(pose, first, hips) : pose }));
    return {
      field: placed.length >= 3 ? new PoseField({ rig, map, cutout }, placed) : undefined,
      ready: there.map((t) => t.pin),
      loading: answers.some((a) => !a.pose && !a.failed),
      lost: answers.flatMap((a, i) => (a.failed ? [pins[i]!.name] : [])),
    };
  }, [answers, pins, target]);
}

/** A pose moved on the ground so that its root stands where another's does, if it stands far off. */
function broughtNear(pose: Playable, first: Playable, hips: number): Playable {
  const of = (p: Playable) => p.places.find((t) => t.joint === hips)?.values ?? p.places[0]?.values;
  const [own, other] = [of(pose), of(first)];
  if (!own || !other) return pose;
  const by = [other[0]! - own[0]!, 0, other[2]! - own[2]!];
  if (Math.hypot(...by) < ELSEWHERE_M) return pose;
  return {
    ...pose,
    places: pose.places.map((t) => (t.values === own ? { ...t, values: t.values.map((x, i) => x + by[i % 3]!) } : t)),
  };
}

/** Stores a motion of the performer's in the library, as any file that is brought in; paper comes with its drawings. */
export const keepMotion = async (
  target: RigAnswer,
  art: string | null | undefined,
  motion: Playable,
  name: string,
): Promise<IntakeRow> => {
  const json = JSON.stringify(fileOf(target, art ? await loadArt(art) : undefined, motion, name));
  return bringInFile(new File([json], `${name}.json`, { type: 'application/json' }));
};

/** What a motion of a performer's is as a file: a motion of a skeleton, a scene of a paper figure. */
export function fileOf(target: RigAnswer, art: CutoutArt | undefined, motion: Playable, name: string): object {
  const { rig, map, cutout } = rigView(target);
  if (cutout && art) return sceneToJson({ rig: cutout, map, art, guesses: [], notes: [] }, motion, { name });
  return motionToJson(rig, [{ name, motion }], map);
}
