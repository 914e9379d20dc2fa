'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { PoseReader } from '@velvet-reel/motion';
import { useEffect, useMemo } from 'react';
import { BufferAttribute, BufferGeometry, Color, LineBasicMaterial, LineSegments } from 'three';
import type { Playable } from '@/solver/solve';
import type { Clock } from './clock';
import type { RigView } from './rig-view';

/** Poses a little before and after now, as thin bones: the farther away in time the fainter. */
const STEPS_S = [-0.4, -0.2, 0.2, 0.4];

export function Ghosts({ clock, view, motion }: { clock: Clock; view: RigView; motion: Playable }) {
  const { invalidate } = useThree();
  const { rig, segments } = view;
  const drawn = useMemo(() => {
    const bones = segments.filter((s) => s.b >= 0);
    const style = getComputedStyle(document.documentElement);
    return STEPS_S.map((at) => {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(new Float32Array(6 * bones.length), 3));
      const lines = new LineSegments(
        geometry,
        new LineBasicMaterial({
          color: new Color(style.getPropertyValue(at < 0 ? '--muted' : '--brass').trim()),
          transparent: true,
          opacity: 0.75 - Math.abs(at),
        }),
      );
      lines.frustumCulled = false;
      return { at, lines, bones };
    });
  }, [segments]);
  const reader = useMemo(() => new PoseReader(rig, motion), [rig, motion]);
  useEffect(() => {
    invalidate();
    return () => {
      for (const { lines } of drawn) {
        lines.geometry.dispose();
        (lines.material as LineBasicMaterial).dispose();
      }
    };
  }, [drawn, invalidate]);
  useFrame(() => {
    for (const { at, lines, bones } of drawn) {
      const frame = clock.frameOf(motion) + Math.round(at * motion.fps);
      lines.visible = frame >= 0 && frame < motion.frameCount;
      if (!lines.visible) continue;
      const { p } = reader.at(frame);
      const position = lines.geometry.getAttribute('position') as BufferAttribute;
      bones.forEach(({ a, b }, i) => {
        position.setXYZ(2 * i, p[3 * a]!, p[3 * a + 1]!, p[3 * a + 2]!);
        position.setXYZ(2 * i + 1, p[3 * b]!, p[3 * b + 1]!, p[3 * b + 2]!);
      });
      position.needsUpdate = true;
    }
  });
  return (
    <>
      {drawn.map(({ at, lines }) => (
        <primitive key={at} object={lines} />
      ))}
    </>
  );
}
