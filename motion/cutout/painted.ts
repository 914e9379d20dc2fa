import { gridOver, maskOf } from '../art/mask';
import { IDENTITY } from '../art/matrix';
import { byId, readSvg, type SvgNode } from '../art/svg-read';
import { type Shape, Styles, shapesOf } from '../art/svg-shapes';
import { MotionError } from '../errors';
import type { CutoutArt, CutoutDrawing } from './figure';

/**
 * Tells where drawings are painted, to within a few cells of a small grid; each is read when it is first asked about. Embedded
 * pictures count as the boxes they fill.
 * @param near how far paint may lie from a point, in the picture's units
 */
export function paintedIn(
  art: Pick<CutoutArt, 'defs'>,
  near: number,
): (drawing: CutoutDrawing, x: number, y: number) => boolean {
  const known = new Map<CutoutDrawing, readonly Shape[] | undefined>();
  return (drawing, x, y) => {
    const [left, top, width, height] = drawing.box;
    if (x < left - near || y < top - near || x > left + width + near || y > top + height + near) return false;
    if (!known.has(drawing)) known.set(drawing, shapesIn(art.defs, drawing.svg));
    const shapes = known.get(drawing);
    if (!shapes) return true;
    return maskOf(gridOver([x - near, y - near, 2 * near, 2 * near], 8), shapes).includes(1);
  };
}

/** Outlines of a drawing's markup; undefined where it cannot be read, as markup by hand may be. */
export function shapesIn(defs: string, svg: string): Shape[] | undefined {
  try {
    const text = `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><defs>${defs}</defs>${svg}</svg>`;
    const { root } = readSvg(new TextEncoder().encode(text));
    const sheets: string[] = [];
    const gather = (node: SvgNode): void => {
      if (node.tag === 'style') sheets.push(node.text);
      node.children.forEach(gather);
    };
    gather(root);
    return shapesOf({ ids: byId(root), styles: new Styles(sheets) }, root, IDENTITY);
  } catch (error) {
    if (error instanceof MotionError) return undefined;
    throw error;
  }
}
