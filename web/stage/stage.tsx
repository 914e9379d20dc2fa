'use client';

import { OrbitControls } from '@react-three/drei';
import { addAfterEffect, Canvas, useFrame, useThree } from '@react-three/fiber';
import { type ReactNode, type RefObject, useCallback, useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import {
  BufferGeometry,
  Color,
  Float32BufferAttribute,
  type Group,
  type InstancedMesh,
  Matrix4,
  type Object3D,
  type PerspectiveCamera,
  Vector3,
} from 'three';
import type { OrbitControls as Controls } from 'three-stdlib';
import type { Playable } from '@/solver/solve';
import type { Clock } from './clock';
import type { Figure3D } from './figures';
import { drawnBySoftware } from './graphics';
import { LatePictures } from './late-pictures';
import { Pace } from './pace';
import { useThemeVersion } from './use-theme';

interface StageProps {
  clock: Clock;
  /** Height of what is shown, metres: sets the first camera distance. */
  height: number;
  /** Width of what is shown. */
  width?: number;
  label: string;
  /** Filled with ways to ask the stage things from outside. */
  handle?: RefObject<StageHandle | null>;
  children: ReactNode;
}

/** What a page can ask of a stage. */
export interface StageHandle {
  /** Where a joint is seen, in pixels from the stage's corner; z grows with distance, 0 to 1 in front of the eye. */
  project: (joint: Object3D) => { x: number; y: number; z: number };
  /** Looks at what is followed from a direction, as far away as before. */
  look: (from: readonly [number, number, number]) => void;
  /** Where the eye is against what it looks at, and the other way round. */
  eye: () => [number, number, number];
}

/** A lit floor with a camera to turn. Draws only when something changes. */
export function Stage({ clock, height, width = 1, label, handle, children }: StageProps) {
  return (
    <div className="stage-back h-full w-full" role="img" aria-label={label}>
      <Canvas
        frameloop="demand"
        dpr={[1, 1.5]}
        // smooth edges cost a graphics card nothing, and a processor that stands in for one half its pictures
        gl={{ antialias: !drawnBySoftware(), alpha: true, powerPreference: 'high-performance' }}
        camera={{ fov: 30, near: 0.05, far: 120, position: [1.6 * height, 0.85 * height, 2.5 * height] }}
      >
        <hemisphereLight args={['#fff3df', '#4a2b3b', 1.5]} />
        <directionalLight position={[2.5, 4, 3]} intensity={2.5} color="#fff1dc" />
        <directionalLight position={[-3, 2.5, -2.5]} intensity={1.6} color="#9fd6d0" />
        <Ground />
        {children}
        <Ticker clock={clock} />
        <Shutter />
        <Eye clock={clock} height={height} width={width} handle={handle} />
      </Canvas>
    </div>
  );
}

/** A canvas of a stage that can be asked for its picture. */
export interface Photographed extends HTMLCanvasElement {
  /** Draws the stage as it is now, without ground and grid, and copies it before the buffer is cleared. */
  takePicture?: (side: number) => HTMLCanvasElement;
  /** Where pictures are drawn beside the canvas: puts the last one onto it. */
  showPicture?: () => void;
}

function Shutter() {
  const { gl, scene, camera } = useThree();
  useEffect(() => {
    const canvas = gl.domElement as Photographed;
    canvas.takePicture = (side) => {
      const ground = scene.getObjectByName(GROUND);
      if (ground) ground.visible = false;
      gl.render(scene, camera);
      canvas.showPicture?.();
      const scale = Math.min(1, side / Math.max(canvas.width, canvas.height));
      const out = document.createElement('canvas');
      out.width = Math.max(1, Math.round(canvas.width * scale));
      out.height = Math.max(1, Math.round(canvas.height * scale));
      out.getContext('2d')!.drawImage(canvas, 0, 0, out.width, out.height);
      if (ground) ground.visible = true;
      gl.render(scene, camera);
      canvas.showPicture?.();
      return out;
    };
  }, [gl, scene, camera]);
  return null;
}

/** Moves time on while playing and asks for a picture whenever time moves or something in the scene changes; see Pace. */
function Ticker({ clock }: { clock: Clock }) {
  const { invalidate: first, advance, gl, scene, set } = useThree();
  // the one that draws; everybody else's is set to ask for a picture instead
  const draw = useRef(first);
  // asked for once a context: from then on everything is drawn beside the canvas
  const late = useMemo(
    () => (drawnBySoftware() ? LatePictures.of(gl.getContext() as WebGL2RenderingContext) : undefined),
    [gl],
  );
  const pace = useMemo(
    () =>
      new Pace(
        clock,
        late,
        // what is drawn beside the canvas need not wait for the screen's next frame
        late ? () => advance(performance.now()) : () => draw.current(),
        (then) => whenDrawn(gl.getContext() as WebGL2RenderingContext, then),
      ),
    [clock, late, advance, gl],
  );
  useEffect(() => clock.begin(matchMedia('(prefers-reduced-motion: reduce)').matches), [clock]);
  useEffect(() => {
    scene.userData.ask = pace.ask;
    set({ invalidate: pace.ask });
    draw.current();
    const stops = [clock.onTick(pace.ask), clock.subscribe(pace.ask)];
    return () => {
      for (const stop of stops) stop();
      pace.stop();
    };
  }, [clock, pace, scene, set]);
  // time goes on by itself
  useEffect(() => {
    let handle = 0;
    let before = performance.now();
    const go = (now: number): void => {
      handle = requestAnimationFrame(go);
      // everything that shows the time moves with the pictures: moved in between it would take their time
      if (late && !pace.idle) return;
      clock.advance(Math.min((now - before) / 1000, 0.25));
      before = now;
    };
    handle = requestAnimationFrame(go);
    return () => cancelAnimationFrame(handle);
  }, [clock, late, pace]);
  useEffect(() => {
    if (late) (gl.domElement as Photographed).showPicture = () => late.show();
    return () => late?.end();
  }, [late, gl]);
  useEffect(() => addAfterEffect(() => pace.end()), [pace]);
  useFrame(() => {
    pace.begin();
    late?.fit();
  }, -3);
  return null;
}

/** How long the graphics side needs shows in when it has finished. */
function whenDrawn(context: WebGL2RenderingContext, then: () => void): void {
  requestAnimationFrame(() => {
    const asked = performance.now();
    const sync = context.fenceSync(context.SYNC_GPU_COMMANDS_COMPLETE, 0);
    if (!sync) return;
    context.flush();
    const look = (): void => {
      const state = context.clientWaitSync(sync, 0, 0);
      if (state === context.TIMEOUT_EXPIRED && performance.now() - asked < 1000) setTimeout(look, 4);
      else {
        context.deleteSync(sync);
        then();
      }
    };
    look();
  });
}

const GROUND = 'ground';

/** Half its side, metres, and how far its lines are apart. */
const GROUND_M = 4;
const LINES_M = 0.5;

/** Lines that fade towards the edge; a surface would have every point of the floor drawn, which takes a processor 15 ms. */
function Ground() {
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

const followed = new Vector3();
const moved = new Vector3();

/** The camera goes along with the first figure's hips on the ground and can be turned around them. */
function Eye({
  clock,
  height,
  width,
  handle,
}: {
  clock: Clock;
  height: number;
  width: number;
  handle: RefObject<StageHandle | null> | undefined;
}) {
  const controls = useRef<Controls>(null);
  const { scene, camera, invalidate, size } = useThree();
  const last = useRef<Vector3 | null>(null);
  const aspect = size.width / Math.max(1, size.height);
  /** How far away the camera must be for everything to be in the picture. */
  const far = useCallback(
    (ratio: number): number => {
      const half = Math.tan(((camera as PerspectiveCamera).fov * Math.PI) / 360);
      return Math.max((height * 1.32) / 2 / half, (width * 1.12) / 2 / half / ratio) + width * 0.14;
    },
    [camera, height, width],
  );
  const framed = useRef({ far, aspect });
  // a stage of another shape shows the same from the same side, as near or far as it was made
  useEffect(() => {
    const before = framed.current;
    framed.current = { far, aspect };
    if (before.far !== far || before.aspect === aspect || !controls.current) return;
    const { target } = controls.current;
    camera.position
      .sub(target)
      .multiplyScalar(far(aspect) / far(before.aspect))
      .add(target);
    controls.current.update();
    invalidate();
  }, [camera, far, aspect, invalidate]);
  useEffect(() => {
    const distance = far(framed.current.aspect);
    const target = last.current ?? new Vector3(0, 0, 0);
    const eye = new Vector3(0.5, 0.2, 1).normalize().multiplyScalar(distance);
    const middle = height * 0.5 + target.y;
    controls.current?.target.set(target.x, middle, target.z);
    camera.position.set(target.x + eye.x, middle + eye.y, target.z + eye.z);
    controls.current?.update();
    invalidate();
  }, [camera, height, far, invalidate]);
  useEffect(() => {
    if (!handle) return;
    const at = new Vector3();
    handle.current = {
      project: (joint) => {
        joint.getWorldPosition(at).project(camera);
        return { x: ((at.x + 1) / 2) * size.width, y: ((1 - at.y) / 2) * size.height, z: at.z };
      },
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
      eye: () => {
        const target = controls.current?.target ?? new Vector3();
        return camera.position.clone().sub(target).toArray() as [number, number, number];
      },
    };
    return () => {
      handle.current = null;
    };
  }, [handle, camera, invalidate, size.width, size.height]);
  useFrame(() => {
    const hips = scene.getObjectByName('followed-hips') ?? (scene.userData.followed as Object3D | undefined);
    if (!hips || !controls.current) return;
    hips.getWorldPosition(followed);
    followed.x -= (scene.userData.offset as number | undefined) ?? 0;
    // up a slope or a stair the eye climbs too, and down with who crawls; bobbing leaves it alone
    const stands = (scene.userData.stands as number | undefined) ?? height * 0.53;
    const climb = Math.max(0, followed.y - 1.14 * stands) + 0.7 * Math.min(0, followed.y - 0.85 * stands);
    const goal = moved.set(followed.x, climb, followed.z);
    if (!last.current) last.current = new Vector3(controls.current.target.x, 0, controls.current.target.z);
    // a little late while playing, at once when the time jumps
    const share = clock.playing && goal.distanceTo(last.current) < 1 ? 0.3 : 1;
    moved.sub(last.current).multiplyScalar(share);
    last.current.add(moved);
    controls.current.target.add(moved);
    camera.position.add(moved);
    const ground = scene.getObjectByName('ground');
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

export interface PerformanceProps {
  clock: Clock;
  figure: Figure3D;
  motion: Playable | undefined;
  /** Shift to the side, metres. */
  x?: number;
  /** The camera goes along with this one, whose hips are so high at rest, metres. */
  leads?: number | undefined;
  hips: number;
  /** Joint to be lit up, or several. */
  lit?: number | readonly number[] | undefined;
  /** Where this one's hips are on the ground, written for another to keep abreast. */
  shares?: Spot;
  /** Moves this one sideways of whoever shares, however far both travel. */
  abreast?: Spot;
  /** Joint at which the two meet; the hips where left out. */
  meet?: number | undefined;
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
  motion,
  x = 0,
  leads,
  hips,
  lit,
  shares,
  abreast,
  meet = hips,
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
    if (leads === undefined) return;
    scene.userData.stands = leads;
    scene.userData.followed = figure.joints[hips];
    scene.userData.offset = x;
  }, [leads, scene, figure, hips, x]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the motion is what arrives
  useLayoutEffect(() => clock.motionArrived(), [clock, motion]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is shown has changed, so a picture is due
  useLayoutEffect(() => invalidate(), [motion, figure, lit, meet, visible, abreast, x, invalidate]);
  useFrame(() => {
    const frame = motion ? clock.frameOf(motion) : -1;
    const now = shown.current;
    if (motion && (now.motion !== motion || now.frame !== frame || now.figure !== figure)) {
      apply(figure, motion, frame);
      // a new motion has reached the stage: what benchmarks wait for
      if (now.motion !== motion) performance.mark('velvet-shown');
      figure.root.updateMatrixWorld(true);
      shown.current = { motion, frame, figure };
    }
    const joint = figure.joints[hips];
    const low = lowestOf(figure);
    const meeting = figure.joints[meet] ?? joint;
    if (meeting && group.current && !abreast) group.current.position.set(x, 0, 0);
    if (meeting && group.current && (shares || abreast)) {
      group.current.updateMatrixWorld();
      meeting.getWorldPosition(spot);
      if (shares) shares.current = { x: spot.x - x, y: low, z: spot.z };
      if (abreast?.current) {
        group.current.position.x += abreast.current.x + x - spot.x;
        group.current.position.y += abreast.current.y - low;
        group.current.position.z += abreast.current.z - spot.z;
        group.current.updateMatrixWorld();
      }
    }
    if (joint && shadow.current && group.current) {
      joint.getWorldPosition(spot);
      shadow.current.position.set(
        spot.x - group.current.position.x,
        ground(low) - group.current.position.y,
        spot.z - group.current.position.z,
      );
    }
    if (marker.current) {
      const wanted = lit === undefined ? [] : typeof lit === 'number' ? [lit] : lit;
      let n = 0;
      for (const j of wanted.slice(0, MOST_LIT)) {
        const at = figure.joints[j];
        if (!at) continue;
        at.getWorldPosition(spot);
        place.makeTranslation(
          spot.x - (group.current?.position.x ?? 0),
          spot.y - (group.current?.position.y ?? 0),
          spot.z - (group.current?.position.z ?? 0),
        );
        marker.current.setMatrixAt(n++, place);
      }
      marker.current.count = n;
      marker.current.visible = n > 0;
      marker.current.instanceMatrix.needsUpdate = true;
    }
  }, -2);
  return (
    <group ref={group} position-x={x} visible={visible}>
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

/** Height of the lowest joint, which stands about an ankle's height above what carries it. */
function lowestOf({ joints }: Figure3D): number {
  let low = Number.POSITIVE_INFINITY;
  for (const j of joints) low = Math.min(low, j.matrixWorld.elements[13]!);
  return low;
}

/** The floor, or the step or slope under a climber. */
const ground = (low: number): number => (low > 0.16 ? low : 0.001);

function apply({ joints, faces }: Figure3D, motion: Playable, frame: number): void {
  const n = joints.length;
  for (let j = 0; j < n; j++) joints[j]!.quaternion.fromArray(motion.turns, 4 * (frame * n + j));
  for (const t of motion.places) joints[t.joint]!.position.fromArray(t.values, 3 * frame);
  for (const face of faces) {
    for (const s of motion.numbers) {
      const k = face.morphTargetDictionary?.[s.name];
      if (k !== undefined && face.morphTargetInfluences) face.morphTargetInfluences[k] = s.values[frame]!;
    }
  }
}
