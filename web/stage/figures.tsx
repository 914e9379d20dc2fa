'use client';

import { childrenOf } from '@velvet-reel/motion';
import { LRUCache } from 'lru-cache';
import { useEffect, useMemo, useState } from 'react';
import { toast } from 'sonner';
import {
  Bone,
  BufferAttribute,
  type BufferGeometry,
  Color,
  ConeGeometry,
  Group,
  Matrix4,
  Mesh,
  MeshLambertMaterial,
  type MeshStandardMaterial,
  type Object3D,
  Quaternion,
  Skeleton,
  SkinnedMesh,
  SphereGeometry,
} from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { mergeGeometries } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import type { Assets } from '@/contract';
import { Figure3D } from './figure-3d';
import { drawnBySoftware } from './graphics';
import type { RigView } from './rig-view';
import { softened } from './soft-skin';
import { figures as texts } from './texts';

const loader = new GLTFLoader();
/** Files of characters that are kept, the ones used last, in bytes. */
const glbs = new LRUCache<string, ArrayBuffer>({ maxSize: 192 * 2 ** 20, sizeCalculation: (b) => b.byteLength + 1 });

async function loadGlb(hash: string): Promise<ArrayBuffer> {
  const known = glbs.get(hash);
  if (known) return known;
  const answer = await fetch(`/api/v1/files/${hash}`);
  if (!answer.ok) throw new Error(texts.theCharacterCouldNot);
  const bytes = await answer.arrayBuffer();
  glbs.set(hash, bytes);
  return bytes;
}

/** Gives back what a figure holds on the graphics side. */
function dispose({ root }: Figure3D): void {
  root.traverse((o) => {
    if (!(o instanceof Mesh)) return;
    o.geometry.dispose();
    for (const m of [o.material].flat() as MeshLambertMaterial[]) {
      m.map?.dispose();
      m.dispose();
    }
    if (o instanceof SkinnedMesh) o.skeleton.dispose();
  });
}

/** Plain shading: reads as well as a physical material at this size, and costs a fraction where there is no graphics card. */
function matte(from: MeshStandardMaterial): MeshLambertMaterial {
  return new MeshLambertMaterial({
    color: from.color,
    map: from.map,
    vertexColors: from.vertexColors,
    side: from.side,
    transparent: from.transparent,
    opacity: from.opacity,
  });
}

/** A character's mesh; undefined while it loads, null where it cannot be loaded, which is told. Every caller gets a figure of its own. */
export function useMeshFigure(hash: string | null | undefined, jointCount: number): Figure3D | null | undefined {
  const [figure, setFigure] = useState<{ hash: string; figure: Figure3D | null }>();
  useEffect(() => {
    if (!hash) return;
    let gone = false;
    let made: Figure3D | null = null;
    void loadGlb(hash)
      .then((bytes) => readMesh(bytes, jointCount))
      .catch(() => {
        if (!gone) toast.error(texts.theMeshOfA, { id: hash });
        return null;
      })
      .then((figure) => {
        made = figure;
        if (!gone) setFigure({ hash, figure });
        else if (figure) dispose(figure);
      });
    return () => {
      gone = true;
      if (made) dispose(made);
    };
  }, [hash, jointCount]);
  return figure && figure.hash === hash ? figure.figure : undefined;
}

async function readMesh(bytes: ArrayBuffer, jointCount: number): Promise<Figure3D> {
  const gltf = await loader.parseAsync(bytes, '');
  // our writer puts the joints first, in rig order
  const joints = (await Promise.all(
    Array.from({ length: jointCount }, (_, i) => gltf.parser.getDependency('node', i)),
  )) as Object3D[];
  const faces: Mesh[] = [];
  if (drawnBySoftware()) {
    // nothing but quicker pictures is lost where this cannot be had
    await import('./thin-mesh').then(({ thinned }) => thinned(gltf.scene)).catch(() => undefined);
    softened(gltf.scene);
  }
  gltf.scene.traverse((o) => {
    o.frustumCulled = false;
    if (o instanceof Mesh) o.material = matte(o.material as MeshStandardMaterial);
    if (o instanceof Mesh && o.morphTargetDictionary) faces.push(o);
  });
  // and the ends of those without a child beside them
  const tips = joints.flatMap((j) => (j.userData.tip as number[] | undefined) ?? [Number.NaN, Number.NaN, Number.NaN]);
  return new Figure3D(gltf.scene, joints, faces, Float32Array.from(tips));
}

/** A cut-out's drawings as a figure; undefined while they load and for whoever is none, null where they cannot be loaded, which is told. */
export function usePaperFigure(view: RigView, hash: string | null | undefined): Figure3D | null | undefined {
  const [figure, setFigure] = useState<{ of: string; figure: Figure3D | null }>();
  const { cutout } = view;
  useEffect(() => {
    if (!hash || !cutout) return;
    let gone = false;
    let made: Figure3D | null = null;
    void Promise.all([import('./paper-figure'), import('./paper-art').then((m) => m.loadArt(hash))])
      .then(([{ PaperFigure }, art]) => PaperFigure.make(cutout, art))
      .catch(() => {
        if (!gone) toast.error(texts.theDrawingsOfA, { id: hash });
        return null;
      })
      .then((figure) => {
        made = figure;
        if (!gone) setFigure({ of: hash, figure });
        else if (figure) dispose(figure);
      });
    return () => {
      gone = true;
      if (made) dispose(made);
    };
  }, [hash, cutout]);
  return hash && cutout && figure?.of === hash ? figure.figure : undefined;
}

/** A character as it is drawn: its mesh or its paper, or its bones where it has neither, where bones are wanted, or where they cannot be loaded. */
export function useFigure(view: RigView, assets: Assets | undefined, bare = false): Figure3D | undefined {
  const mesh = useMeshFigure(assets?.figure, view.rig.names.length);
  const paper = usePaperFigure(view, assets?.art);
  const own = view.cutout ? paper : mesh;
  const has = view.cutout ? assets?.art : assets?.figure;
  const asBones = !has || bare || own === null;
  const bones = useBoneFigure(asBones ? view : undefined);
  return asBones ? bones : (own ?? undefined);
}

/** A figure of bones for a rig without a mesh, coloured by side. */
export function useBoneFigure(view: RigView | undefined, tint: 'plain' | 'pale' = 'plain'): Figure3D | undefined {
  const figure = useMemo(() => (view ? boneFigure(view, tint) : undefined), [view, tint]);
  useEffect(() => figure && (() => dispose(figure)), [figure]);
  return figure;
}

/** All bones as one mesh that hangs rigidly on the joints: one call to the graphics side instead of one for each bone. */
function boneFigure({ rig, side, segments }: RigView, tint: 'plain' | 'pale'): Figure3D {
  const style = getComputedStyle(document.documentElement);
  const color = (name: string): Color => {
    const c = new Color(style.getPropertyValue(name).trim());
    return tint === 'pale' ? c.lerp(new Color(style.getPropertyValue('--muted').trim()), 0.35) : c;
  };
  const [centre, left, right] = [color('--ink'), color('--verdigris'), color('--terracotta')];
  const paint = (j: number): Color => (side[j]! > 0 ? left : side[j]! < 0 ? right : centre);
  const joints = rig.names.map((_, j) => {
    const bone = new Bone();
    bone.position.fromArray(rig.restT, 3 * j);
    bone.quaternion.fromArray(rig.restR, 4 * j);
    return bone;
  });
  const root = new Group();
  const parts: BufferGeometry[] = [];
  const add = (geometry: BufferGeometry, joint: number, tone: Color): void => {
    const n = geometry.getAttribute('position').count;
    const colors = new Float32Array(3 * n);
    const index = new Uint16Array(4 * n);
    const weight = new Float32Array(4 * n);
    for (let i = 0; i < n; i++) {
      tone.toArray(colors, 3 * i);
      index[4 * i] = joint;
      weight[4 * i] = 1;
    }
    geometry.deleteAttribute('uv');
    geometry.setAttribute('color', new BufferAttribute(colors, 3));
    geometry.setAttribute('skinIndex', new BufferAttribute(index, 4));
    geometry.setAttribute('skinWeight', new BufferAttribute(weight, 4));
    parts.push(geometry);
  };
  // fewer faces for a processor that stands in for a graphics card
  const fine = !drawnBySoftware();
  const drawn = new Map(segments.map((s) => [`${s.a}:${s.b}`, s]));
  const children = childrenOf(rig);
  rig.parents.forEach((p, j) => {
    (p >= 0 ? joints[p]! : root).add(joints[j]!);
    const ends = children[j]!.map((c) => ({ c, v: [...rig.restT.subarray(3 * c, 3 * c + 3)] }));
    if (!Number.isNaN(rig.tips[3 * j]!)) ends.push({ c: -1, v: [...rig.tips.subarray(3 * j, 3 * j + 3)] });
    for (const { c, v } of ends) {
      const length = Math.hypot(v[0]!, v[1]!, v[2]!);
      if (length < 0.004) continue;
      const segment = drawn.get(`${j}:${c}`);
      if (segment?.kind === 'head') {
        add(new SphereGeometry(segment.ra, 20, 14).translate(v[0]! / 2, v[1]! / 2, v[2]! / 2), j, centre);
        continue;
      }
      const r = Math.min(segment ? Math.max(0.012, segment.ra * 0.62) : 0.012, length * 0.4);
      const tone = paint(c >= 0 ? (segment ? j : c) : j);
      for (const half of spindle(v as [number, number, number], length, r, fine ? 9 : 6)) add(half, j, tone);
    }
    add(new SphereGeometry(0.014, ...(fine ? [10, 8] : [6, 4])), j, paint(j));
  });
  const material = new MeshLambertMaterial({ vertexColors: true });
  const mesh = new SkinnedMesh(mergeGeometries(parts), material);
  for (const part of parts) part.dispose();
  mesh.frustumCulled = false;
  root.add(mesh);
  // every part is told in its joint's own frame
  mesh.bind(
    new Skeleton(
      joints,
      joints.map(() => new Matrix4()),
    ),
    new Matrix4(),
  );
  if (drawnBySoftware()) softened(root);
  return new Figure3D(root, joints, [], rig.tips);
}

/** A bone: wide near its joint, pointed at its end. Both halves, turned into its direction. */
function spindle(v: [number, number, number], length: number, r: number, sides: number): BufferGeometry[] {
  const y = v.map((x) => x / length) as [number, number, number];
  const w = 1 + y[1];
  const turn = new Quaternion(1, 0, 0, 0);
  if (w >= 1e-6) turn.set(y[2], 0, -y[0], w).normalize();
  return [
    new ConeGeometry(r, length * 0.82, sides, 1, true).translate(0, length * 0.59, 0).applyQuaternion(turn),
    new ConeGeometry(r, length * 0.18, sides, 1, true)
      .rotateX(Math.PI)
      .translate(0, length * 0.09, 0)
      .applyQuaternion(turn),
  ];
}
