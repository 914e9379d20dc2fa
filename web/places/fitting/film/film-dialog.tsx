'use client';

import { useState } from 'react';
import { FILM_FORMATS } from '@/parts/film/encode';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Row, Select, SwitchRow } from '@/ui/field';
import { filmDialog as texts } from '../texts';
import { FILM_DEFAULTS, type FilmWish, picturesOf, SHOTS } from './film-wish';

const SHOT_WORDS = {
  result: texts.theResultAlone,
  source: texts.theOriginalAlone,
  beside: texts.bothSideBySide,
  over: texts.bothOverEachOther,
} as const;
const FORMAT_WORDS = { webm: 'WebM video', gif: 'GIF', png: texts.pngPicturesInA } as const;
const RATES = [12, 24, 25, 30, 50, 60] as const;
const LINES = [360, 480, 720, 1080] as const;
const KEPT = 'velvet-film';

const kept = (): FilmWish => {
  try {
    return { ...FILM_DEFAULTS, ...(JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Partial<FilmWish>) };
  } catch {
    return FILM_DEFAULTS;
  }
};

/** What a review film shows and how it is written. */
export function FilmDialog({
  frames,
  fps,
  onClose,
  onMake,
}: {
  frames: number;
  fps: number;
  onClose: () => void;
  onMake: (wish: FilmWish) => void;
}) {
  const [wish, setWish] = useState(kept);
  const set = (change: Partial<FilmWish>): void => setWish({ ...wish, ...change });
  const pictures = picturesOf(frames, fps, wish.fps);
  return (
    <Dialog open onOpenChange={onClose} title={texts.makeAReviewFilm} about={texts.seenAsTheStage}>
      <div className="mt-3 flex flex-col gap-2">
        <Row name={texts.shows}>
          <Select
            label={texts.whatTheFilmShows}
            className="w-full"
            value={wish.shot}
            options={SHOTS.map((s) => ({ value: s, label: SHOT_WORDS[s] }))}
            onChange={(shot) => set({ shot })}
          />
        </Row>
        <Row name={texts.keptAs}>
          <Select
            label={texts.kindOfFile}
            className="w-full"
            value={wish.format}
            options={FILM_FORMATS.map((f) => ({ value: f, label: FORMAT_WORDS[f] }))}
            onChange={(format) => set({ format })}
          />
        </Row>
        <Row name={texts.lines}>
          <Select
            label={texts.linesOfThePicture}
            className="w-full"
            value={String(wish.lines)}
            options={LINES.map((l) => ({ value: String(l), label: String(l) }))}
            onChange={(l) => set({ lines: Number(l) })}
          />
        </Row>
        <Row name={texts.picturesASecond}>
          <Select
            label={texts.picturesASecond}
            className="w-full"
            value={String(wish.fps)}
            options={RATES.map((r) => ({ value: String(r), label: String(r) }))}
            onChange={(r) => set({ fps: Number(r) })}
          />
        </Row>
        <SwitchRow label={texts.slateWhatItIs} checked={wish.slate} onChange={(slate) => set({ slate })} />
        <SwitchRow label={texts.frameNumbersAndTime} checked={wish.count} onChange={(count) => set({ count })} />
        <SwitchRow
          label={texts.troublesWhereTheyAre}
          checked={wish.troubles}
          onChange={(troubles) => set({ troubles })}
        />
        <Button
          look="brass"
          className="mt-2"
          onClick={() => {
            localStorage.setItem(KEPT, JSON.stringify(wish));
            onMake(wish);
          }}
        >
          {texts.makePictures(pictures)}
        </Button>
      </div>
    </Dialog>
  );
}
