'use client';

import { childrenOf } from '@velvet-reel/motion';
import { useEffect, useMemo, useState } from 'react';
import {
  Bone,
  Color,
  ConeGeometry,
  Group,
  Mesh,
  MeshLambertMaterial,
  type MeshStandardMaterial,
  type Object3D,
  SphereGeometry,
} from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import type { RigView } from './rig-view';

/** A figure to be moved: what to show, and its joints in rig order. */
export interface Figure3D {
  root: Object3D;
  joints: Object3D[];
  /** Meshes with face shapes. */
  faces: Mesh[];
}

const loader = new GLTFLoader();
const glbs = new Map<string, Promise<ArrayBuffer>>();

function loadGlb(hash: string): Promise<ArrayBuffer> {
  const known = glbs.get(hash);
  if (known) return known;
  const loading = fetch(`/api/v1/files/${hash}`).then((r) =>
    r.ok ? r.arrayBuffer() : Promise.reject(new Error('The character could not be loaded.')),
  );
  loading.catch(() => glbs.delete(hash));
  glbs.set(hash, loading);
  return loading;
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

/** A character's mesh; undefined while it loads. Every caller gets a figure of its own. */
export function useMeshFigure(hash: string | null | undefined, jointCount: number): Figure3D | undefined {
  const [figure, setFigure] = useState<{ hash: string; figure: Figure3D }>();
  useEffect(() => {
    if (!hash) return;
    let gone = false;
    void loadGlb(hash)
      .then((bytes) => loader.parseAsync(bytes, ''))
      .then(async (gltf) => {
        // our writer puts the joints first, in rig order
        const joints = (await Promise.all(
          Array.from({ length: jointCount }, (_, i) => gltf.parser.getDependency('node', i)),
        )) as Object3D[];
        const faces: Mesh[] = [];
        gltf.scene.traverse((o) => {
          o.frustumCulled = false;
          if (o instanceof Mesh) o.material = matte(o.material as MeshStandardMaterial);
          if (o instanceof Mesh && o.morphTargetDictionary) faces.push(o);
        });
        if (!gone) setFigure({ hash, figure: { root: gltf.scene, joints, faces } });
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [hash, jointCount]);
  return figure && figure.hash === hash ? figure.figure : undefined;
}

/** A figure of bones for a rig without a mesh, coloured by side. */
export function useBoneFigure(view: RigView | undefined, tint: 'plain' | 'pale' = 'plain'): Figure3D | undefined {
  return useMemo(() => (view ? boneFigure(view, tint) : undefined), [view, tint]);
}

function boneFigure({ rig, side, segments }: RigView, tint: 'plain' | 'pale'): Figure3D {
  const style = getComputedStyle(document.documentElement);
  const color = (name: string): MeshLambertMaterial => {
    const c = new Color(style.getPropertyValue(name).trim());
    if (tint === 'pale') c.lerp(new Color(style.getPropertyValue('--muted').trim()), 0.35);
    return new MeshLambertMaterial({ color: c });
  };
  const [centre, left, right] = [color('--ink'), color('--verdigris'), color('--terracotta')];
  const paint = (j: number): MeshLambertMaterial => (side[j]! > 0 ? left : side[j]! < 0 ? right : centre);
  const joints = rig.names.map((_, j) => {
    const bone = new Bone();
    bone.position.fromArray(rig.restT, 3 * j);
    bone.quaternion.fromArray(rig.restR, 4 * j);
    return bone;
  });
  const root = new Group();
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
        const ball = new Mesh(new SphereGeometry(segment.ra, 20, 14), centre);
        ball.position.set(v[0]! / 2, v[1]! / 2, v[2]! / 2);
        joints[j]!.add(ball);
        continue;
      }
      const r = Math.min(segment ? Math.max(0.012, segment.ra * 0.62) : 0.012, length * 0.4);
      joints[j]!.add(spindle(v as [number, number, number], length, r, paint(c >= 0 ? (segment ? j : c) : j)));
    }
    const knob = new Mesh(new SphereGeometry(0.014, 10, 8), paint(j));
    joints[j]!.add(knob);
  });
  return { root, joints, faces: [] };
}

/** A bone: wide near its joint, pointed at its end. */
function spindle(v: [number, number, number], length: number, r: number, material: MeshLambertMaterial): Group {
  const group = new Group();
  const broad = new Mesh(new ConeGeometry(r, length * 0.82, 9), material);
  broad.position.y = length * 0.59;
  const blunt = new Mesh(new ConeGeometry(r, length * 0.18, 9), material);
  blunt.rotation.x = Math.PI;
  blunt.position.y = length * 0.09;
  group.add(broad, blunt);
  // turn +Y into the bone
  const y = v.map((x) => x / length) as [number, number, number];
  const w = 1 + y[1];
  if (w < 1e-6) group.quaternion.set(1, 0, 0, 0);
  else {
    const l = Math.hypot(y[2], y[0], w);
    group.quaternion.set(y[2] / l, 0, -y[0] / l, w / l);
  }
  return group;
}
