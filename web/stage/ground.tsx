'use client';

import { useMemo } from 'react';
import { BufferGeometry, Color, Float32BufferAttribute } from 'three';
import { useThemeVersion } from './use-theme';

export const GROUND = 'ground';

/** Half its side, metres, and how far its lines are apart. */
const GROUND_M = 4;
const LINES_M = 0.5;

/** Lines that fade towards the edge; a surface would have every point of the floor drawn, which takes a processor 15 ms. */
export function Ground() {
  const theme = useThemeVersion();
  // biome-ignore lint/correctness/useExhaustiveDependencies: colours are read off the page, which has others then
  const geometry = useMemo(() => {
    const n = (2 * GROUND_M) / LINES_M;
    const line = new Color(getComputedStyle(document.documentElement).getPropertyValue('--line').trim());
    const places: number[] = [];
    const colors: number[] = [];
    const add = (x: number, z: number): void => {
      places.push(x, 0, z);
      colors.push(line.r, line.g, line.b, 0.8 * Math.min(1, Math.max(0, 1.16 * (1 - Math.hypot(x, z) / GROUND_M))));
    };
    for (let i = 0; i <= n; i++) {
      for (let k = 0; k < n; k++) {
        const [a, b, c] = [i, k, k + 1].map((v) => v * LINES_M - GROUND_M) as [number, number, number];
        add(a, b);
        add(a, c);
        add(b, a);
        add(c, a);
      }
    }
    const g = new BufferGeometry();
    g.setAttribute('position', new Float32BufferAttribute(places, 3));
    g.setAttribute('color', new Float32BufferAttribute(colors, 4));
    return g;
  }, [theme]);
  return (
    <lineSegments name={GROUND} geometry={geometry} position-y={-0.002} renderOrder={-2}>
      <lineBasicMaterial vertexColors transparent depthWrite={false} />
    </lineSegments>
  );
}
