'use client';

import type { RefObject } from 'react';
import type { CastMember, Item, RigAnswer } from '@/contract';
import { useFilms } from '@/parts/film/filming';
import type { FitAnswer } from '@/solver/solve';
import type { StageHandle } from '@/stage/contract';
import type { StageView } from '../stage-tools';
import { film as texts } from '../texts';
import { FilmDialog } from './film-dialog';
import { type FilmOrder, FilmStudio } from './film-studio';

const AHEAD: [number, number, number] = [0, 0.12, 1];

/** The review film of a fitting: what it shows is asked here; it is made wherever its maker goes. */
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
  const add = useFilms((s) => s.add);
  if (!asked) return null;
  return (
    <FilmDialog
      frames={answer.result.frameCount}
      fps={answer.result.fps}
      onClose={() => onAsked(false)}
      onMake={(wish) => {
        onAsked(false);
        const order: FilmOrder = {
          wish,
          title: texts.on(item.name, member.name),
          lines: [
            texts.version(item.version),
            new Date().toLocaleDateString('en', { day: 'numeric', month: 'long', year: 'numeric' }),
          ],
          eye: stage.current?.eye() ?? AHEAD,
          stage: { source, target, member, view, answer },
        };
        add((onEnd) => <FilmStudio order={order} onEnd={onEnd} />);
      }}
    />
  );
}
