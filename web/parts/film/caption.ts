/** What is written over a picture of a film. */
export interface Caption {
  /** Title and what stands below it; empty where no slate is wanted. */
  readonly slate: readonly string[];
  /** Frame and time; undefined where they are not wanted. */
  readonly count: string | undefined;
  /** Sentences about what is wrong just now. */
  readonly troubles: readonly string[];
  /** Words over the halves of a picture. */
  readonly sides: readonly string[];
}

const FONT = '"Inter Variable", system-ui, sans-serif';
const TITLE_FONT = '"Fraunces Variable", Georgia, serif';
const MOST_TROUBLES = 3;

/** Writes over a picture, legible on light and dark. Sizes go with its height. */
export function writeOver(g: CanvasRenderingContext2D, caption: Caption): void {
  const { width, height } = g.canvas;
  const unit = height / 36;
  const edge = 0.9 * unit;
  g.save();
  g.lineJoin = 'round';
  const write = (text: string, x: number, y: number, size: number, colour: string, font = FONT): void => {
    g.font = `${size}px ${font}`;
    g.lineWidth = 0.22 * size;
    g.strokeStyle = 'rgba(12, 6, 10, 0.85)';
    g.strokeText(text, x, y);
    g.fillStyle = colour;
    g.fillText(text, x, y);
  };
  g.textBaseline = 'top';
  g.textAlign = 'left';
  caption.slate.forEach((line, i) =>
    write(
      line,
      edge,
      edge + (i === 0 ? 0 : 1.9 * unit + 1.25 * (i - 1) * unit),
      i === 0 ? 1.5 * unit : unit,
      i === 0 ? '#f6ead8' : '#c9b9b9',
      i === 0 ? TITLE_FONT : FONT,
    ),
  );
  g.textBaseline = 'bottom';
  const n = caption.sides.length;
  g.textAlign = 'center';
  caption.sides.forEach((word, i) => write(word, (width * (i + 0.5)) / n, height - edge, unit, '#c9b9b9'));
  g.textAlign = 'right';
  if (caption.count) write(caption.count, width - edge, height - edge, unit, '#f6ead8');
  g.textAlign = 'left';
  const shown = caption.troubles.slice(0, MOST_TROUBLES);
  const more = caption.troubles.length - shown.length;
  [...shown, ...(more > 0 ? [`and ${more} more`] : [])]
    .reverse()
    .forEach((line, i) =>
      write(line, edge, height - edge - (n > 0 ? 1.6 : 0) * unit - 1.3 * i * unit, unit, '#ff9db4'),
    );
  g.restore();
}
