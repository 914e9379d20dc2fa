'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { alignmentTurns, jointOf, type Limits } from '@velvet-reel/motion';
import { type RefObject, useEffect, useMemo, useRef } from 'react';
import { BufferAttribute, BufferGeometry, Color, LineBasicMaterial, LineSegments, Quaternion, Vector3 } from 'three';
import type { StageHandle } from './contract';
import type { Figure3D } from './figure-3d';
import type { RigView } from './rig-view';

const AXIS_M = 0.06;

/** The axes of every joint, as they stand: terracotta x, verdigris y, brass z. */
export function JointAxes({ figure }: { figure: Figure3D }) {
  const { invalidate } = useThree();
  const lines = useMemo(() => {
    const n = figure.joints.length;
    const style = getComputedStyle(document.documentElement);
    const colors = new Float32Array(18 * n);
    (['--terracotta', '--verdigris', '--brass'] as const).forEach((name, k) => {
      const c = new Color(style.getPropertyValue(name).trim());
      for (let j = 0; j < n; j++) for (const end of [0, 1]) colors.set([c.r, c.g, c.b], 18 * j + 6 * k + 3 * end);
    });
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(new Float32Array(18 * n), 3));
    geometry.setAttribute('color', new BufferAttribute(colors, 3));
    const made = new LineSegments(geometry, new LineBasicMaterial({ vertexColors: true, depthTest: false }));
    made.frustumCulled = false;
    made.renderOrder = 8;
    return made;
  }, [figure]);
  useEffect(() => {
    invalidate();
    return () => lines.geometry.dispose();
  }, [lines, invalidate]);
  const at = useMemo(() => ({ p: new Vector3(), q: new Quaternion(), v: new Vector3() }), []);
  useFrame(() => {
    const position = lines.geometry.getAttribute('position') as BufferAttribute;
    figure.joints.forEach((joint, j) => {
      joint.getWorldPosition(at.p);
      joint.getWorldQuaternion(at.q);
      for (let k = 0; k < 3; k++) {
        at.v
          .set(k === 0 ? AXIS_M : 0, k === 1 ? AXIS_M : 0, k === 2 ? AXIS_M : 0)
          .applyQuaternion(at.q)
          .add(at.p);
        position.setXYZ(6 * j + 2 * k, at.p.x, at.p.y, at.p.z);
        position.setXYZ(6 * j + 2 * k + 1, at.v.x, at.v.y, at.v.z);
      }
    });
    position.needsUpdate = true;
  });
  return <primitive object={lines} />;
}

const ROUND = 28;
const CARRIERS: Readonly<Record<string, string>> = {
  upperArm: 'chest',
  forearm: 'upperArm',
  hand: 'forearm',
  thigh: 'hips',
  shin: 'thigh',
  foot: 'shin',
  head: 'chest',
};

/** How far parts may turn, as rims of cones around their joints; of hinges as arcs. */
export function LimitCones({ figure, view, limits }: { figure: Figure3D; view: RigView; limits: Limits }) {
  const { invalidate } = useThree();
  const lines = useMemo(() => {
    const geometry = new BufferGeometry();
    const count = Object.keys(limits).length * ROUND * 2;
    geometry.setAttribute('position', new BufferAttribute(new Float32Array(3 * count), 3));
    const color = getComputedStyle(document.documentElement).getPropertyValue('--brass').trim();
    const made = new LineSegments(
      geometry,
      new LineBasicMaterial({ color: new Color(color), transparent: true, opacity: 0.75, depthTest: false }),
    );
    made.frustumCulled = false;
    made.renderOrder = 7;
    return made;
  }, [limits]);
  useEffect(() => {
    invalidate();
    return () => lines.geometry.dispose();
  }, [lines, invalidate]);
  const aligned = useMemo(() => alignmentTurns(view.rig, view.map), [view]);
  useFrame(() => {
    const position = lines.geometry.getAttribute('position') as BufferAttribute;
    const chest = Object.keys(view.map.slots)
      .filter((s) => /^spine\d$/.test(s) && jointOf(view.map, s) >= 0)
      .sort()
      .at(-1);
    const q = new Quaternion();
    const p = new Vector3();
    let i = 0;
    for (const [slot, limit] of Object.entries(limits)) {
      const side = /[LR]$/.test(slot) ? slot.slice(-1) : '';
      const stem = side ? slot.slice(0, -1) : slot;
      const joint = jointOf(view.map, slot);
      const carrierSlot =
        CARRIERS[stem] === 'chest'
          ? (chest ?? 'hips')
          : CARRIERS[stem] === 'hips'
            ? 'hips'
            : `${CARRIERS[stem]}${side}`;
      const carrier = jointOf(view.map, carrierSlot);
      if (!limit || joint < 0 || carrier < 0) {
        for (let k = 0; k < 2 * ROUND; k++) position.setXYZ(i++, 0, 0, 0);
        continue;
      }
      // the carrier's body axes as they stand now
      figure.joints[carrier]!.getWorldQuaternion(q).multiply(
        new Quaternion(
          ...(Array.from(aligned.subarray(4 * carrier, 4 * carrier + 4)) as [number, number, number, number]),
        ).invert(),
      );
      figure.joints[joint]!.getWorldPosition(p);
      const size = 0.16;
      const points: Vector3[] = [];
      if (limit.hinge) {
        const bone = new Vector3(...limit.bone).normalize();
        const axis = new Vector3(...limit.hinge.axis).normalize();
        for (let k = 0; k <= ROUND; k++) {
          const a = ((limit.hinge.from + ((limit.hinge.to - limit.hinge.from) * k) / ROUND) * Math.PI) / 180;
          points.push(bone.clone().applyAxisAngle(axis, a).multiplyScalar(size));
        }
      } else {
        const middle = new Vector3(...limit.middle).normalize();
        const beside = new Vector3(Math.abs(middle.x) < 0.8 ? 1 : 0, Math.abs(middle.x) < 0.8 ? 0 : 1, 0)
          .cross(middle)
          .normalize();
        const rim = middle.clone().applyAxisAngle(beside, (Math.min(179, limit.cone) * Math.PI) / 180);
        for (let k = 0; k <= ROUND; k++)
          points.push(
            rim
              .clone()
              .applyAxisAngle(middle, (2 * Math.PI * k) / ROUND)
              .multiplyScalar(size),
          );
      }
      for (let k = 0; k < ROUND; k++)
        for (const v of [points[k]!, points[k + 1]!]) {
          const w = v.clone().applyQuaternion(q).add(p);
          position.setXYZ(i++, w.x, w.y, w.z);
        }
    }
    position.needsUpdate = true;
  });
  return <primitive object={lines} />;
}

/** Names beside the joints they belong to, written past React; those that would lie on another are left out. */
export function JointNames({
  stage,
  figure,
  names,
}: {
  stage: RefObject<StageHandle | null>;
  figure: Figure3D;
  names: readonly string[];
}) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let handle = 0;
    const go = (): void => {
      handle = requestAnimationFrame(go);
      const node = box.current;
      if (!node || !stage.current) return;
      const taken: { x: number; y: number }[] = [];
      figure.joints.forEach((_, j) => {
        const label = node.children[j] as HTMLElement | undefined;
        if (!label) return;
        const { x, y, z } = stage.current!.project(figure, j);
        const free = z < 1 && !taken.some((t) => Math.abs(t.y - y) < 11 && Math.abs(t.x - x) < 90);
        if (free) taken.push({ x, y });
        label.style.display = free ? '' : 'none';
        label.style.transform = `translate(${(x + 6).toFixed(0)}px, ${(y - 7).toFixed(0)}px)`;
      });
    };
    handle = requestAnimationFrame(go);
    return () => cancelAnimationFrame(handle);
  }, [stage, figure]);
  return (
    <div ref={box} className="pointer-events-none absolute inset-0 overflow-hidden" aria-hidden="true">
      {names.map((n) => (
        <span
          key={n}
          className="absolute top-0 left-0 text-[11px] whitespace-nowrap text-ink [text-shadow:0_1px_3px_#000]"
        >
          {n}
        </span>
      ))}
    </div>
  );
}
