'use client';

import { Canvas } from '@react-three/fiber';
import type { Shot } from '@velvet-reel/motion';
import type { ReactNode, RefObject } from 'react';
import type { Clock } from './clock';
import type { StageHandle } from './contract';
import { Eye, FOV } from './eye';
import { drawnBySoftware } from './graphics';
import { Ground } from './ground';
import { Shutter } from './shutter';
import { Ticker } from './ticker';

interface StageProps {
  clock: Clock;
  /** Height of what is shown, metres: sets the first camera distance. */
  height: number;
  /** Width of what is shown. */
  width?: number;
  label: string;
  /** Where the eye stands at first against what it looks at; a little aside where left out. */
  from?: readonly [number, number, number];
  /** Filled with ways to ask the stage things from outside. */
  handle?: RefObject<StageHandle | null>;
  /** Where the eye stands at a frame; it goes along with those it follows where left out. */
  shot?: ((frame: number) => Shot | undefined) | undefined;
  children: ReactNode;
}

const ASIDE: readonly [number, number, number] = [0.5, 0.2, 1];
/** Straight ahead of what lies in a plane. */
export const AHEAD: readonly [number, number, number] = [0, 0.06, 1];

/** A lit floor with a camera to turn. Draws only when something changes. */
export function Stage({ clock, height, width = 1, label, from = ASIDE, handle, shot, children }: StageProps) {
  return (
    <div className="stage-back h-full w-full" role="img" aria-label={label}>
      <Canvas
        frameloop="demand"
        dpr={[1, 1.5]}
        // smooth edges cost a graphics card nothing, and a processor that stands in for one half its pictures
        gl={{ antialias: !drawnBySoftware(), alpha: true, powerPreference: 'high-performance' }}
        camera={{ fov: FOV, near: 0.05, far: 120, position: [1.6 * height, 0.85 * height, 2.5 * height] }}
      >
        <hemisphereLight args={['#fff3df', '#4a2b3b', 1.5]} />
        <directionalLight position={[2.5, 4, 3]} intensity={2.5} color="#fff1dc" />
        <directionalLight position={[-3, 2.5, -2.5]} intensity={1.6} color="#9fd6d0" />
        <Ground />
        {children}
        <Ticker clock={clock} />
        <Shutter />
        <Eye clock={clock} height={height} width={width} from={from} handle={handle} shot={shot} />
      </Canvas>
    </div>
  );
}
