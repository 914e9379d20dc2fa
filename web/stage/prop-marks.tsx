'use client';

import { type Motion, pathOf } from '@velvet-reel/motion';
import { useMemo } from 'react';
import { BoxGeometry } from 'three';
import type { NeededProp } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { RigView } from './rig-view';

/** Side of what has no size of its own, metres. */
const SIDE = 0.44;
const NO_HEIGHT = 0.3;

export interface PropPlace {
  name: string;
  x: number;
  z: number;
  height: number;
}

/**
 * Where props that a motion needs are stood in for: those with a height where the hips come lowest, for that is where a body
 * sits or steps; those without beside the start. Heights are told for the source's body and follow the shown one's size.
 */
export function propPlaces(view: RigView, motion: Playable, props: readonly NeededProp[], scale: number): PropPlace[] {
  const path = pathOf(view.rig, view.map, motion as Motion, 'hips');
  if (!path) return [];
  let low = 0;
  for (let f = 1; f < motion.frameCount; f++) if (path[3 * f + 1]! < path[3 * low + 1]!) low = f;
  let beside = 0;
  return props.map(({ name, heightM }) => {
    const known = heightM !== null && heightM > 0;
    const at = known ? low : 0;
    const aside = known ? 0 : SIDE + 0.25 + 0.6 * beside++;
    return {
      name,
      x: path[3 * at]! + aside,
      z: path[3 * at + 2]!,
      height: Math.max(0.02, scale * (known ? heightM : NO_HEIGHT)),
    };
  });
}

/** Boxes that can be looked through, one for each prop that is not there. */
export function PropMarks({ places }: { places: readonly PropPlace[] }) {
  return places.map((p, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: two props may be called the same
    <PropBox key={`${p.name}-${i}`} place={p} />
  ));
}

function PropBox({ place: { x, z, height } }: { place: PropPlace }) {
  const box = useMemo(() => new BoxGeometry(SIDE, height, SIDE), [height]);
  return (
    <group position={[x, height / 2, z]}>
      <mesh geometry={box} renderOrder={2}>
        <meshBasicMaterial color="#dca844" transparent opacity={0.16} depthWrite={false} />
      </mesh>
      <lineSegments renderOrder={3}>
        <edgesGeometry args={[box]} />
        <lineBasicMaterial color="#dca844" transparent opacity={0.7} />
      </lineSegments>
    </group>
  );
}
