import { artFromJson, type CutoutArt, type CutoutDrawing } from '@velvet-reel/motion';
import { LRUCache } from 'lru-cache';
import { paperArt as texts } from './texts';

// Pictures of cut-outs in the browser: loaded once, and drawn from their markup as images, in which nothing can run or load.

const arts = new LRUCache<string, Promise<CutoutArt>>({ max: 24 });

/** The pictures of a cut-out, by the hash of their file. */
export function loadArt(hash: string): Promise<CutoutArt> {
  const known = arts.get(hash);
  if (known) return known;
  const coming = fetch(`/api/v1/files/${hash}`).then(async (answer) => {
    if (!answer.ok) throw new Error(texts.theDrawingsOfA);
    return artFromJson(await answer.json());
  });
  arts.set(hash, coming);
  coming.catch(() => arts.delete(hash));
  return coming;
}

/** Room about a drawing, so that smooth edges are not cut off: pixels. */
export const MARGIN = 2;
const MOST_PIXELS = 2048;

const HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"';

/** A drawing as an address for an image element. */
export function drawingAddress(art: Pick<CutoutArt, 'defs'>, drawing: CutoutDrawing, pad = 0): string {
  const [x, y, w, h] = drawing.box;
  const text = `<svg ${HEAD} viewBox="${x - pad} ${y - pad} ${w + 2 * pad} ${h + 2 * pad}" width="${w + 2 * pad}" height="${h + 2 * pad}"><defs>${art.defs}</defs>${drawing.svg}</svg>`;
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
}

/** The whole figure at rest as an address for an image element. */
export function pictureAddress(art: CutoutArt): string {
  const taken = new Set<string>();
  // what shows at rest stands first among a part's drawings; of views the first that is drawn
  const shown = art.drawings.filter((d) => !taken.has(d.part) && taken.add(d.part) && !art.hidden.includes(d.part));
  const [x, y, w, h] = art.box;
  const text = `<svg ${HEAD} viewBox="${x} ${y} ${w} ${h}" width="${w}" height="${h}"><defs>${art.defs}</defs>${shown.map((d) => d.svg).join('')}</svg>`;
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
}

/** A drawing as pixels. */
export interface Raster {
  readonly canvas: HTMLCanvasElement;
  /** Pixels for each of the picture's units. */
  readonly scale: number;
}

/** Draws one of a figure's drawings at so many pixels for each of its units. */
export async function rasterOf(art: CutoutArt, drawing: CutoutDrawing, wanted: number): Promise<Raster> {
  const [x, y, w, h] = drawing.box;
  const scale = Math.min(wanted, MOST_PIXELS / Math.max(w, h, 1e-9));
  const [width, height] = [Math.ceil(w * scale) + 2 * MARGIN, Math.ceil(h * scale) + 2 * MARGIN];
  const view = [x - MARGIN / scale, y - MARGIN / scale, width / scale, height / scale];
  const text = `<svg ${HEAD} viewBox="${view.join(' ')}" width="${width}" height="${height}"><defs>${art.defs}</defs>${drawing.svg}</svg>`;
  const address = URL.createObjectURL(new Blob([text], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = address;
    await image.decode();
    const canvas = document.createElement('canvas');
    canvas.width = width;
    canvas.height = height;
    canvas.getContext('2d')?.drawImage(image, 0, 0, width, height);
    return { canvas, scale };
  } finally {
    URL.revokeObjectURL(address);
  }
}
