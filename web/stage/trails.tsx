'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { BufferAttribute, BufferGeometry, Color, Line, LineBasicMaterial } from 'three';
import type { Clock } from './clock';

const COLOURS: Readonly<Record<string, string>> = {
  handL: '--verdigris',
  footL: '--verdigris',
  handR: '--terracotta',
  footR: '--terracotta',
  hips: '--brass',
};

/** Where hands, feet and hips go, as lines; the stretch around now stands out. */
export function Trails({
  clock,
  paths,
  faint = false,
}: {
  clock: Clock;
  paths: Readonly<Record<string, Float32Array>>;
  faint?: boolean;
}) {
  const { invalidate } = useThree();
  const lines = useMemo(() => {
    const style = getComputedStyle(document.documentElement);
    return Object.entries(paths).map(([slot, path]) => {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(path, 3));
      const make = (opacity: number): Line => {
        const line = new Line(
          geometry.clone(),
          new LineBasicMaterial({
            color: new Color(style.getPropertyValue(COLOURS[slot] ?? '--ink').trim()),
            transparent: true,
            opacity,
            depthTest: false,
          }),
        );
        line.frustumCulled = false;
        line.renderOrder = 5;
        return line;
      };
      return { whole: make(faint ? 0.14 : 0.3), near: make(faint ? 0.4 : 0.95), frames: path.length / 3 };
    });
  }, [paths, faint]);
  useEffect(() => {
    invalidate();
    return () => {
      for (const { whole, near } of lines)
        for (const l of [whole, near]) {
          l.geometry.dispose();
          (l.material as LineBasicMaterial).dispose();
        }
    };
  }, [lines, invalidate]);
  useFrame(() => {
    const around = Math.round(clock.fps * 0.35);
    for (const { near, frames } of lines) {
      const from = Math.max(0, clock.frame - around);
      near.geometry.setDrawRange(from, Math.min(frames, clock.frame + around) - from);
    }
  });
  return (
    <>
      {lines.flatMap(({ whole, near }, i) => [
        <primitive key={`w${i.toString()}`} object={whole} />,
        <primitive key={`n${i.toString()}`} object={near} />,
      ])}
    </>
  );
}
