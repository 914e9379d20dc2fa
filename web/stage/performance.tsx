'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { type ReactNode, useEffect, useLayoutEffect, useRef } from 'react';
import { type Group, type InstancedMesh, Matrix4, Vector3 } from 'three';
import type { Playable } from '@/solver/solve';
import type { Clock } from './clock';
import { followedIn } from './eye';
import type { Figure3D } from './figure-3d';

export interface PerformanceProps {
  clock: Clock;
  figure: Figure3D;
  motion: Playable | undefined;
  /** What it shows in place of a motion, one frame, asked for with every picture. */
  live?: (() => Playable | undefined) | undefined;
  /** Shift to the side, metres. */
  x?: number;
  /** Given, the camera goes along with this one: how high its hips are at rest, metres. */
  followAt?: number | undefined;
  hips: number;
  /** Joint to be lit up, or several. */
  lit?: number | readonly number[] | undefined;
  /** Takes down where this one's anchor is, for others to stay beside. */
  leaves?: Spot;
  /** Stays beside whoever leaves this, however far both travel. */
  beside?: Spot;
  /** Joint at which those who stay beside each other are laid together; the hips where left out. */
  anchor?: number | undefined;
  /** Turned about the vertical through its origin, radians. */
  turned?: number;
  /** How many of those on stage are listed before this one. */
  listed?: number;
  /** Shown or only followed. */
  visible?: boolean;
  /** Drawn in the figure's own world: trails, ghosts, handles. */
  children?: ReactNode;
}

const place = new Matrix4();
/** More joints of a set are not lit. */
const MOST_LIT = 200;

export interface Spot {
  current: { x: number; y: number; z: number } | null;
}

/** Moves a figure's joints by the clock. Per-frame work stays out of React. */
export function Performance({
  clock,
  figure,
  motion: told,
  live,
  x = 0,
  followAt,
  hips,
  lit,
  leaves,
  beside,
  anchor = hips,
  turned = 0,
  listed = 0,
  visible = true,
  children,
}: PerformanceProps) {
  const group = useRef<Group>(null);
  const shadow = useRef<Group>(null);
  const marker = useRef<InstancedMesh>(null);
  const shown = useRef<{ motion: Playable | undefined; frame: number; figure: Figure3D | undefined }>({
    motion: undefined,
    frame: -1,
    figure: undefined,
  });
  const { scene, invalidate } = useThree();
  useEffect(() => {
    const joint = figure.joints[hips];
    if (followAt === undefined || !joint) return;
    const all = followedIn(scene);
    const own = { hips: joint, offset: x, stands: followAt };
    all.add(own);
    return () => void all.delete(own);
  }, [followAt, scene, figure, hips, x]);
  useEffect(() => {
    figure.onArrival = () => {
      shown.current = { ...shown.current, frame: -1 };
      invalidate();
    };
    return () => {
      figure.onArrival = () => undefined;
    };
  }, [figure, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the motion is what arrives
  useLayoutEffect(() => clock.motionArrived(), [clock, told, live]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is shown has changed, so a picture is due
  useLayoutEffect(() => invalidate(), [told, live, figure, lit, anchor, visible, beside, x, turned, invalidate]);
  useFrame(() => {
    const motion = live ? live() : told;
    const frame = motion ? clock.frameOf(motion) : -1;
    const now = shown.current;
    if (motion && (now.motion !== motion || now.frame !== frame || now.figure !== figure)) {
      figure.apply(motion, frame);
      // a new motion has reached the stage: what benchmarks wait for; what comes a frame at a time would fill the list
      if (now.motion !== motion && motion.frameCount > 1) performance.mark('velvet-shown');
      figure.root.updateMatrixWorld(true);
      shown.current = { motion, frame, figure };
    }
    const joint = figure.joints[hips];
    const low = figure.lowest;
    const meeting = figure.joints[anchor] ?? joint;
    if (meeting && group.current && !beside) group.current.position.set(x, 0, 0);
    if (meeting && group.current && (leaves || beside)) {
      group.current.updateMatrixWorld();
      meeting.getWorldPosition(spot);
      if (leaves) leaves.current = { x: spot.x - x, y: low, z: spot.z };
      if (beside?.current) {
        group.current.position.x += beside.current.x + x - spot.x;
        group.current.position.y += beside.current.y - low;
        group.current.position.z += beside.current.z - spot.z;
        group.current.updateMatrixWorld();
      }
    }
    if (joint && shadow.current && group.current) {
      joint.getWorldPosition(spot);
      spot.y = ground(low);
      shadow.current.position.copy(group.current.worldToLocal(spot));
    }
    if (marker.current) {
      const wanted = lit === undefined ? [] : typeof lit === 'number' ? [lit] : lit;
      let n = 0;
      for (const j of wanted.slice(0, MOST_LIT)) {
        const at = figure.joints[j];
        if (!at) continue;
        at.getWorldPosition(spot);
        group.current?.worldToLocal(spot);
        place.makeTranslation(spot.x, spot.y, spot.z);
        marker.current.setMatrixAt(n++, place);
      }
      marker.current.count = n;
      marker.current.visible = n > 0;
      marker.current.instanceMatrix.needsUpdate = true;
    }
  }, -2);
  // once the camera has moved
  useFrame(({ camera }) => figure.seenFrom(camera, listed));
  return (
    <group ref={group} position-x={x} rotation-y={turned} visible={visible}>
      <primitive object={figure.root} />
      {children}
      <group ref={shadow}>
        <mesh rotation-x={-Math.PI / 2} renderOrder={-1}>
          <circleGeometry args={[0.34, 32]} />
          <meshBasicMaterial color="#08040a" transparent opacity={0.28} depthWrite={false} />
        </mesh>
      </group>
      <instancedMesh
        ref={marker}
        args={[undefined, undefined, MOST_LIT]}
        renderOrder={9}
        frustumCulled={false}
        visible={false}
      >
        <sphereGeometry args={[0.034, 16, 12]} />
        <meshBasicMaterial color="#dca844" depthTest={false} transparent opacity={0.92} />
      </instancedMesh>
    </group>
  );
}

const spot = new Vector3();

/** The floor, or the step or slope under a climber. */
const ground = (low: number): number => (low > 0.16 ? low : 0.001);
