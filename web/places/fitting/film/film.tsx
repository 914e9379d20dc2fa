'use client';

import { type RefObject, useState } from 'react';
import type { CastMember, Item, RigAnswer } from '@/contract';
import type { FitAnswer } from '@/solver/solve';
import type { StageHandle } from '@/stage/contract';
import type { StageView } from '../stage-tools';
import { film as texts } from '../texts';
import { FilmDialog } from './film-dialog';
import { type FilmOrder, FilmStudio } from './film-studio';

const AHEAD: [number, number, number] = [0, 0.12, 1];

/** The review film of a fitting: first what it shows, then its making, which goes on while the fitting is worked on. */
export function Film({
  asked,
  onAsked,
  item,
  member,
  source,
  target,
  answer,
  view,
  stage,
}: {
  asked: boolean;
  onAsked: (asked: boolean) => void;
  item: Item;
  member: CastMember;
  source: RigAnswer;
  target: RigAnswer;
  answer: FitAnswer;
  view: StageView;
  stage: RefObject<StageHandle | null>;
}) {
  const [order, setOrder] = useState<FilmOrder>();
  return (
    <>
      {asked && (
        <FilmDialog
          frames={answer.result.frameCount}
          fps={answer.result.fps}
          onClose={() => onAsked(false)}
          onMake={(wish) => {
            onAsked(false);
            setOrder({
              wish,
              title: texts.on(item.name, member.name),
              lines: [
                texts.version(item.version),
                new Date().toLocaleDateString('en', { day: 'numeric', month: 'long', year: 'numeric' }),
              ],
              eye: stage.current?.eye() ?? AHEAD,
              stage: { source, target, member, view, answer },
            });
          }}
        />
      )}
      {order && (
        <FilmStudio key={JSON.stringify(order.wish) + order.title} order={order} onEnd={() => setOrder(undefined)} />
      )}
    </>
  );
}
