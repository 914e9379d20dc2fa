import type { Trouble } from '@velvet-reel/motion';
import type { FilmFormat } from '@/parts/film/encode';
import { PLAIN_VIEW, type StageView } from '../stage-tools';

/** Who is seen: one alone, both beside each other, or one over the other. */
export const SHOTS = ['result', 'source', 'beside', 'over'] as const;
export type Shot = (typeof SHOTS)[number];

export interface FilmWish {
  readonly shot: Shot;
  readonly format: FilmFormat;
  /** Pictures a second. */
  readonly fps: number;
  /** Lines of the picture; its width is 16 : 9. */
  readonly lines: number;
  readonly slate: boolean;
  readonly count: boolean;
  readonly troubles: boolean;
}

export const FILM_DEFAULTS: FilmWish = {
  shot: 'beside',
  format: 'webm',
  fps: 30,
  lines: 720,
  slate: true,
  count: true,
  troubles: false,
};

/** Frames around the worst one in which a trouble is told, seconds to either side. */
const TOLD_S = 0.5;

/** How the stage stands for a shot; bodies as they are shown now. */
export const viewOf = (shot: Shot, { align, body }: Pick<StageView, 'align' | 'body'>): StageView => ({
  ...PLAIN_VIEW,
  align,
  body,
  over: shot === 'over',
  show: shot === 'result' ? 'target' : shot === 'source' ? 'source' : 'both',
});

/** How many pictures a motion makes: its last frame is seen. */
export const picturesOf = (frames: number, motionFps: number, fps: number): number =>
  Math.max(1, Math.floor(((frames - 1) / motionFps) * fps + 1e-6) + 1);

/** Troubles that are told at a frame, the worst first. */
export const troublesAt = (troubles: readonly Trouble[], frame: number, fps: number): string[] =>
  troubles.filter((t) => Math.abs(t.frame - frame) <= TOLD_S * fps).map((t) => t.text);

/** Width that goes with some lines, even as video wants it. */
export const widthOf = (lines: number): number => 2 * Math.round((lines * 16) / 18);
