'use client';

import { OrbitControls } from '@react-three/drei';
import { useFrame, useThree } from '@react-three/fiber';
import type { Shot } from '@velvet-reel/motion';
import { type RefObject, useEffect, useRef } from 'react';
import { type Object3D, type PerspectiveCamera, type Scene, Vector3 } from 'three';
import type { OrbitControls as Controls } from 'three-stdlib';
import type { Clock } from './clock';
import { pickFrom, type StageFigure, type StageHandle } from './contract';
import { distanceFor, reshaped } from './framing';
import { GROUND } from './ground';

/** One whom the camera goes along with. */
export interface Followed {
  readonly hips: Object3D;
  /** How far it is set to the side, metres: the camera stays in the middle of the row. */
  readonly offset: number;
  /** How high its hips are at rest, metres. */
  readonly stands: number;
}

/** Those whom the camera of a scene goes along with. */
export function followedIn(scene: Scene): Set<Followed> {
  scene.userData.followed ??= new Set<Followed>();
  return scene.userData.followed as Set<Followed>;
}

/** Opening of the eye that follows, degrees. */
export const FOV = 30;

const at = new Vector3();
const middle = new Vector3();
const moved = new Vector3();

/** The camera goes along with those it follows, over the middle of where they stand, and can be turned around it. */
export function Eye({
  clock,
  height,
  width,
  from,
  handle,
  shot,
}: {
  clock: Clock;
  height: number;
  width: number;
  from: readonly [number, number, number];
  handle: RefObject<StageHandle | null> | undefined;
  /** Where it stands at a frame; without it, it goes along with those it follows. */
  shot: ((frame: number) => Shot | undefined) | undefined;
}) {
  const controls = useRef<Controls>(null);
  const { scene, camera, invalidate, size } = useThree();
  const last = useRef<Vector3 | null>(null);
  const aspect = size.width / Math.max(1, size.height);
  const { fov } = camera as PerspectiveCamera;
  const framed = useRef({ height, width, aspect });
  // a stage of another shape shows the same from the same side
  useEffect(() => {
    const before = framed.current;
    framed.current = { height, width, aspect };
    const same = before.height === height && before.width === width;
    if (!same || before.aspect === aspect || !controls.current) return;
    const { target } = controls.current;
    const eye = camera.position.clone().sub(target).toArray();
    camera.position.set(...reshaped(eye, { height, width }, fov, before.aspect, aspect)).add(target);
    controls.current.update();
    invalidate();
  }, [camera, fov, height, width, aspect, invalidate]);
  useEffect(() => {
    const distance = distanceFor({ height, width }, fov, framed.current.aspect);
    const target = last.current ?? new Vector3(0, 0, 0);
    const eye = new Vector3(...from).normalize().multiplyScalar(distance);
    const middle = height * 0.5 + target.y;
    controls.current?.target.set(target.x, middle, target.z);
    camera.position.set(target.x + eye.x, middle + eye.y, target.z + eye.z);
    controls.current?.update();
    invalidate();
  }, [camera, fov, height, width, from, invalidate]);
  useEffect(() => {
    if (!handle) return;
    const seen = new Vector3();
    const project = (figure: StageFigure<never>, joint: number): { x: number; y: number; z: number } => {
      figure.place(joint, seen);
      seen.project(camera);
      return { x: ((seen.x + 1) / 2) * size.width, y: ((1 - seen.y) / 2) * size.height, z: seen.z };
    };
    handle.current = {
      project,
      pick: (figure, x, y, withinPx) =>
        pickFrom(
          Array.from({ length: figure.jointCount }, (_, joint) => ({ joint, ...project(figure, joint) })),
          x,
          y,
          withinPx,
        ),
      look: (from) => {
        const target = controls.current?.target;
        if (!target) return;
        const far = camera.position.distanceTo(target);
        camera.position
          .set(...from)
          .normalize()
          .multiplyScalar(far)
          .add(target);
        controls.current?.update();
        invalidate();
      },
      view: () => {
        const target = controls.current?.target ?? new Vector3();
        const { fov } = camera as PerspectiveCamera;
        return { eye: camera.position.toArray(), target: target.toArray(), fov };
      },
      eye: () => {
        const target = controls.current?.target ?? new Vector3();
        return camera.position.clone().sub(target).toArray() as [number, number, number];
      },
    };
    return () => {
      handle.current = null;
    };
  }, [handle, camera, invalidate, size.width, size.height]);
  // through a camera of the reel: at every frame where it stands then; turned by hand in between it stays as it was turned
  const shown = useRef<number | null>(null);
  useEffect(() => {
    shown.current = null;
    const lens = camera as PerspectiveCamera;
    if (!shot && lens.fov !== FOV) {
      lens.fov = FOV;
      lens.updateProjectionMatrix();
    }
    (scene.userData.ask ?? invalidate)();
  }, [shot, camera, scene, invalidate]);
  useFrame(() => {
    const seen = shot?.(clock.frame);
    if (seen) {
      if (shown.current === clock.frame || !controls.current) return;
      shown.current = clock.frame;
      const lens = camera as PerspectiveCamera;
      lens.position.set(...seen.eye);
      controls.current.target.set(...seen.target);
      lens.lookAt(...seen.target);
      if (lens.fov !== seen.fov) {
        lens.fov = seen.fov;
        lens.updateProjectionMatrix();
      }
      const ground = scene.getObjectByName(GROUND);
      if (ground) ground.position.set(Math.round(seen.target[0] * 2) / 2, -0.002, Math.round(seen.target[2] * 2) / 2);
      // whoever is followed afterwards is followed from here
      last.current = null;
      return;
    }
    const all = followedIn(scene);
    if (all.size === 0 || !controls.current) return;
    middle.set(0, 0, 0);
    for (const { hips, offset, stands } of all) {
      hips.getWorldPosition(at);
      // up a slope or a stair the eye climbs too, and down with who crawls; bobbing leaves it alone
      const climb = Math.max(0, at.y - 1.14 * stands) + 0.7 * Math.min(0, at.y - 0.85 * stands);
      middle.x += (at.x - offset) / all.size;
      middle.y += climb / all.size;
      middle.z += at.z / all.size;
    }
    const goal = moved.copy(middle);
    if (!last.current) last.current = new Vector3(controls.current.target.x, 0, controls.current.target.z);
    // a little late while playing, at once when the time jumps
    const share = clock.playing && goal.distanceTo(last.current) < 1 ? 0.3 : 1;
    moved.sub(last.current).multiplyScalar(share);
    last.current.add(moved);
    controls.current.target.add(moved);
    camera.position.add(moved);
    const ground = scene.getObjectByName(GROUND);
    // the floor's lines stand still in the world while its light goes along
    if (ground) ground.position.set(Math.round(last.current.x * 2) / 2, -0.002, Math.round(last.current.z * 2) / 2);
  }, -1);
  return (
    <OrbitControls
      ref={controls as never}
      makeDefault
      enableDamping={false}
      minDistance={0.4}
      maxDistance={20}
      maxPolarAngle={Math.PI * 0.52}
      onChange={() => (scene.userData.ask ?? invalidate)()}
    />
  );
}
