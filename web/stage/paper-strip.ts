import {
  type CutoutArt,
  type CutoutRig,
  CutoutShow,
  endOf,
  facingOf,
  jointOf,
  restMotion,
  type WorldPose,
} from '@velvet-reel/motion';
import { useSyncExternalStore } from 'react';
import { loadArt, MARGIN, type Raster, rasterOf } from './paper-art';
import type { RigView } from './rig-view';
import type { Placing } from './silhouette';

// Strips of a cut-out are drawn with its own parts: every piece on its joint, turned and shortened as its bone is seen.

/** Pixels over a figure's height: strips are small. */
const SMALL = 200;

interface Sheet {
  readonly joint: number;
  readonly raster: Raster;
  readonly corner: readonly [number, number];
  readonly pivot: readonly [number, number];
  /** Far end of the joint's bone at rest, metres. */
  readonly end: readonly [number, number];
}

interface Papers {
  readonly unit: number;
  readonly sheets: readonly Sheet[];
}

const kept = new Map<string, Papers | null>();
const listeners = new Set<() => void>();
let version = 0;

/** Counts up whenever a figure's sheets have come: what was drawn without them is drawn anew. */
export const usePapers = (): number =>
  useSyncExternalStore(
    (run) => {
      listeners.add(run);
      return () => listeners.delete(run);
    },
    () => version,
    () => 0,
  );

/** The sheets of a cut-out; undefined for others, and while they are being made. */
function papersOf({ cutout, art }: RigView): Papers | undefined {
  if (!cutout || !art) return undefined;
  const key = `${art} ${cutout.names.length} ${[...cutout.restT].map((x) => x.toFixed(4)).join(' ')}`;
  const known = kept.get(key);
  if (known !== undefined) return known ?? undefined;
  kept.set(key, null);
  void loadArt(art)
    .then((pictures) => makePapers(cutout, pictures))
    .then(
      (made) => {
        kept.set(key, made);
        version++;
        for (const run of listeners) run();
      },
      () => kept.delete(key),
    );
  return undefined;
}

async function makePapers(rig: CutoutRig, art: CutoutArt): Promise<Papers> {
  const shown = new CutoutShow(rig, art, restMotion(rig)).at(0);
  const height = Math.max(1, ...art.drawings.map((d) => art.origin[1] - d.box[1]));
  const sheets = await Promise.all(
    shown.map(async ({ part, drawing }): Promise<Sheet> => {
      const { joint } = rig.parts[part]!;
      const raster = await rasterOf(art, drawing, SMALL / height);
      return {
        joint,
        raster,
        corner: [drawing.box[0] - MARGIN / raster.scale, drawing.box[1] - MARGIN / raster.scale],
        pivot: art.pivots[part]!,
        end: endOf(rig, joint) ?? [0, 0.2],
      };
    }),
  );
  return { unit: art.unit, sheets };
}

/** Draws a cut-out in a pose of its joints. @returns whether it could: not before its sheets have come */
export function drawPaper(
  ctx: CanvasRenderingContext2D,
  view: RigView,
  pose: WorldPose,
  placing: Placing,
  alpha: number,
): boolean {
  const papers = papersOf(view);
  if (!papers || !view.cutout) return false;
  const [cos, sin] = [Math.cos(placing.view), Math.sin(placing.view)];
  const { p, r } = pose;
  const flip = facedAway(view, pose, cos, sin) ? -1 : 1;
  ctx.save();
  const base = ctx.getTransform();
  // where parts overlap they shine through each other, so they fade less than a silhouette does
  ctx.globalAlpha = Math.sqrt(alpha);
  for (const { joint, raster, corner, pivot, end } of papers.sheets) {
    const o = 4 * joint;
    const [ex, ey] = end;
    // the bone as it is turned, seen from the strip's side
    const [qx, qy, qz, qw] = [r[o]!, r[o + 1]!, r[o + 2]!, r[o + 3]!];
    const [tx, ty, tz] = [2 * -qz * ey, 2 * qz * ex, 2 * (qx * ey - qy * ex)];
    const [wx, wy, wz] = [
      ex + qw * tx + qy * tz - qz * ty,
      ey + qw * ty + qz * tx - qx * tz,
      qw * tz + qx * ty - qy * tx,
    ];
    const [bx, by] = [wx * cos - wz * sin, -wy];
    const long = Math.hypot(ex, ey) || 1;
    const seen = Math.max(0.35, Math.hypot(bx, by) / long);
    const x = placing.x + (p[3 * joint]! * cos - p[3 * joint + 2]! * sin) * placing.scale;
    const y = placing.y - p[3 * joint + 1]! * placing.scale;
    ctx.setTransform(base);
    ctx.translate(x, y);
    ctx.rotate(Math.atan2(by, bx));
    // along the bone as long as it is seen, across it turned over where the body faces the other way
    ctx.scale(seen, flip);
    ctx.rotate(-Math.atan2(-ey, ex));
    const k = (placing.scale * papers.unit) / raster.scale;
    ctx.scale(k, k);
    ctx.translate((corner[0] - pivot[0]) * raster.scale, (corner[1] - pivot[1]) * raster.scale);
    ctx.drawImage(raster.canvas, 0, 0);
  }
  ctx.restore();
  return true;
}

/** Whether a figure in profile is seen to face the other way than it is drawn: by where its feet point. */
export function facedAway({ cutout, map }: RigView, { r }: WorldPose, cos: number, sin: number): boolean {
  const drawn = cutout ? facingOf(cutout) : 'front';
  if (!cutout || drawn === 'front') return false;
  let sum = 0;
  for (const slot of ['footL', 'footR', 'head']) {
    const joint = jointOf(map, slot);
    if (joint < 0) continue;
    // where the drawn forward direction has gone
    const o = 4 * joint;
    const ahead = drawn === 'right' ? 1 : -1;
    const x = ahead * (1 - 2 * (r[o + 1]! ** 2 + r[o + 2]! ** 2));
    const z = ahead * 2 * (r[o]! * r[o + 2]! - r[o + 3]! * r[o + 1]!);
    sum += (x * cos - z * sin) * ahead;
  }
  return sum < 0;
}
