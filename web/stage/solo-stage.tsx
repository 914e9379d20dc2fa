'use client';

import { useQuery } from '@tanstack/react-query';
import { jointOf } from '@velvet-reel/motion';
import { useEffect, useMemo } from 'react';
import { solver } from '@/client/solver';
import type { CastMember, Item, NeededProp, RigAnswer } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { ChangeWish } from '@/wishes/wishes';
import type { Clock, Timed } from './clock';
import { useFigure } from './figures';
import { Performance } from './performance';
import { PropMarks, propPlaces } from './prop-marks';
import { rigView } from './rig-view';
import { AHEAD, Stage } from './stage';
import { soloStage as texts } from './texts';

/** An item's motion on a character, with a change that is not kept yet, solved in the worker; the former one stays until the new one is here. */
export function useShown(
  item: Item | undefined,
  source: RigAnswer | undefined,
  target: RigAnswer | undefined,
  change?: ChangeWish,
): { motion: Playable | undefined; error: Error | null } {
  const own = item && target && item.rigId === target.id;
  const { data, error } = useQuery({
    queryKey: [
      'shown',
      item?.motionHash,
      target?.id,
      target?.mapVersion,
      own && !change ? 0 : source?.mapVersion,
      change,
    ],
    queryFn: () =>
      own && !change
        ? solver().load(item.motionHash)
        : solver().show({
            motionHash: item!.motionHash,
            source: own ? target : source!,
            target: own ? undefined : target!,
            change,
          }),
    enabled: Boolean(item && target && (own || source)),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    retry: false,
    placeholderData: (before) => before,
  });
  return { motion: data, error };
}

interface SoloStageProps {
  clock: Clock;
  member: CastMember | undefined;
  rig: RigAnswer;
  motion: Playable | undefined;
  /** In place of a motion one frame after the other, as each picture is drawn: what a hand or another machine tells now. */
  live?: (() => Playable | undefined) | undefined;
  label: string;
  /** Props that are not there; their heights are for a body of `propsFor` metres. */
  props?: readonly NeededProp[] | undefined;
  propsFor?: number | undefined;
}

/** What plays while frames are shown as they come. */
const ONE: Timed = { frameCount: 1, fps: 30 };

/** One character alone on a stage: its mesh where it has one, its bones otherwise. */
export function SoloStage({ clock, member, rig, motion, live, label, props, propsFor }: SoloStageProps) {
  const view = rigView(rig);
  const figure = useFigure(view, member?.assets);
  // a motion made for another rig may still be shown for a moment after the performer changed
  const fits = useMemo(() => {
    const own = (m: Playable | undefined) =>
      m && m.turns.length === 4 * view.rig.names.length * m.frameCount ? m : undefined;
    return { motion: own(motion), live: live && (() => own(live())) };
  }, [motion, live, view]);
  useEffect(() => {
    if (fits.live) return clock.play(ONE);
    if (fits.motion) return clock.play(fits.motion);
  }, [fits, clock]);
  const places = useMemo(
    () =>
      fits.motion && props && props.length > 0
        ? propPlaces(view, fits.motion, props, rig.heightM / (propsFor || rig.heightM))
        : [],
    [view, fits, props, propsFor, rig.heightM],
  );
  const hips = Math.max(0, jointOf(view.map, 'hips'));
  const { aside, ahead } = view.reach;
  return (
    <Stage
      clock={clock}
      height={rig.heightM}
      // arms may be level where nothing moves; a body on four legs is longer than it is tall
      {...(view.cutout ? { from: AHEAD } : {})}
      width={
        fits.motion || fits.live ? Math.max(0.62 * rig.heightM, 2 * ahead) : Math.max(rig.heightM, 2 * aside, 2 * ahead)
      }
      label={places.length > 0 ? texts.withBoxesFor(label, places.map((p) => p.name).join(', ')) : label}
    >
      <PropMarks places={places} />
      {figure && (
        <Performance
          key={member?.id ?? rig.id}
          clock={clock}
          figure={figure}
          motion={fits.motion}
          live={fits.live}
          hips={hips}
          followAt={view.stands}
        />
      )}
    </Stage>
  );
}
