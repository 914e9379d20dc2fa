import { type CutoutArt, type CutoutDrawing, type CutoutRig, CutoutShow, restMotion } from '@velvet-reel/motion';
import {
  type Camera,
  CanvasTexture,
  DoubleSide,
  Group,
  LinearFilter,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  Object3D,
  PlaneGeometry,
  SRGBColorSpace,
  Vector3,
} from 'three';
import type { Playable } from '@/solver/solve';
import { Figure3D } from './figure-3d';
import { MARGIN, type Raster, rasterOf } from './paper-art';

/** Pixels over a figure's height. */
const FINE = 900;
/** One piece of paper lies so far before another, metres. */
const SHEET = 0.0004;

/** A cut-out on a stage in space: its drawings as sheets of paper, one before the other, in the plane it was drawn in. */
export class PaperFigure extends Figure3D {
  private readonly sheets = new Map<CutoutDrawing, Mesh>();
  private readonly coming = new Set<CutoutDrawing>();
  private show: CutoutShow | undefined;
  private opacity = 1;
  /** How far before its own plane it stands, metres. */
  private ahead = 0;
  /** When it is drawn among others of paper: whole, whatever lies nearer after what lies farther. */
  private order = 1;

  private constructor(
    readonly rig: CutoutRig,
    readonly art: CutoutArt,
    private readonly heightUnits: number,
  ) {
    const root = new Group();
    const joints = rig.names.map((_, j) => {
      const joint = new Object3D();
      joint.position.fromArray(rig.restT, 3 * j);
      joint.quaternion.fromArray(rig.restR, 4 * j);
      return joint;
    });
    rig.parents.forEach((p, j) => {
      (p >= 0 ? joints[p]! : root).add(joints[j]!);
    });
    super(root, joints);
  }

  /** Builds a figure; what shows at rest is drawn before it is handed out. */
  static async make(rig: CutoutRig, art: CutoutArt): Promise<PaperFigure> {
    const tops = art.drawings.map((d) => art.origin[1] - d.box[1]);
    const figure = new PaperFigure(rig, art, Math.max(1, ...tops));
    const rest = new CutoutShow(rig, art, restMotion(rig)).at(0);
    await Promise.all(rest.map(({ drawing }) => figure.load(drawing)));
    figure.place2d(rest);
    return figure;
  }

  override apply(motion: Playable, frame: number): void {
    super.apply(motion, frame);
    for (const { joint, values } of motion.scales) this.joints[joint]!.scale.fromArray(values, 3 * frame);
    if (this.show?.motion !== motion) this.show = new CutoutShow(this.rig, this.art, motion);
    this.place2d(this.show.at(frame / motion.fps));
  }

  override fade(opacity: number): void {
    this.opacity = opacity;
    for (const { material } of this.sheets.values()) (material as MeshBasicMaterial).opacity = opacity;
    this.onArrival();
  }

  /** Of figures that are equally far away, the one that is listed first lies in front. */
  override seenFrom(camera: Camera, listed: number): void {
    camera.updateMatrixWorld();
    this.root.updateWorldMatrix(true, false);
    away.set(0, 0, this.ahead).applyMatrix4(this.root.matrixWorld).applyMatrix4(camera.matrixWorldInverse);
    const order = paperOrder(-away.z, listed);
    if (order === this.order) return;
    this.order = order;
    for (const sheet of this.sheets.values()) sheet.renderOrder = order + sheet.userData.level * LEVEL;
  }

  private async load(drawing: CutoutDrawing): Promise<void> {
    if (this.coming.has(drawing)) return;
    this.coming.add(drawing);
    const raster = await rasterOf(this.art, drawing, FINE / this.heightUnits);
    const sheet = sheetOf(drawing, raster);
    sheet.userData.level = 0;
    (sheet.material as MeshBasicMaterial).opacity = this.opacity;
    this.sheets.set(drawing, sheet);
    this.root.add(sheet);
  }

  private place2d(shown: ReturnType<CutoutShow['at']>): void {
    for (const sheet of this.sheets.values()) sheet.visible = false;
    const { unit, origin } = this.art;
    this.ahead = this.joints[this.rig.parents.indexOf(-1)]?.position.z ?? 0;
    shown.forEach(({ drawing, matrix: m }, i) => {
      const sheet = this.sheets.get(drawing);
      if (!sheet) {
        void this.load(drawing).then(
          () => this.onArrival(),
          () => undefined,
        );
        return;
      }
      sheet.visible = true;
      sheet.userData.level = i;
      sheet.renderOrder = this.order + i * LEVEL;
      // the sheet lies in the picture's units with y downwards; the world is metres with y upwards
      sheet.matrix.set(
        m[0] * unit, m[2] * unit, 0, (m[4] - origin[0]) * unit,
        -m[1] * unit, -m[3] * unit, 0, (origin[1] - m[5]) * unit,
        0, 0, unit, this.ahead + i * SHEET,
        0, 0, 0, 1,
      ); // biome-ignore format: rows of a matrix
      sheet.matrixWorldNeedsUpdate = true;
    });
  }
}

const away = new Vector3();
/** What lies on top of everything is drawn from 2 on; sheets are drawn between 1 and 2. */
const LEVEL = 1e-12;
const LISTED = 1e-10;

/**
 * When a figure of paper is drawn, from 1 to 2. Depths are told apart by the centimetre: figures that walk in one plane keep
 * the order in which they are listed, however they pass one another.
 * @param depth ahead of the camera, metres
 */
export function paperOrder(depth: number, listed: number): number {
  return 1 + 1 / (3 + Math.max(0, Math.round(100 * depth))) - listed * LISTED;
}

function sheetOf(drawing: CutoutDrawing, { canvas, scale }: Raster): Mesh {
  const texture = new CanvasTexture(canvas);
  texture.colorSpace = SRGBColorSpace;
  texture.minFilter = LinearFilter;
  texture.generateMipmaps = false;
  const [w, h] = [canvas.width / scale, canvas.height / scale];
  const [x, y] = [drawing.box[0] - MARGIN / scale, drawing.box[1] - MARGIN / scale];
  const geometry = new PlaneGeometry(w, h)
    .applyMatrix4(new Matrix4().makeScale(1, -1, 1))
    .translate(x + w / 2, y + h / 2, 0);
  const sheet = new Mesh(
    geometry,
    new MeshBasicMaterial({ map: texture, transparent: true, depthWrite: false, side: DoubleSide, toneMapped: false }),
  );
  sheet.matrixAutoUpdate = false;
  sheet.frustumCulled = false;
  return sheet;
}
