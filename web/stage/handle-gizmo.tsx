'use client';

import { Html, TransformControls } from '@react-three/drei';
import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Object3D, Quaternion, type Vector3 } from 'three';
import type { Figure3D } from './figure-3d';

export interface Pull {
  /** Move in the world since the pull began, metres. */
  move: [number, number, number];
  /** Turn in the world since the pull began, x y z w. */
  turn: [number, number, number, number];
  /** World turn of the joint when the pull began. */
  from: [number, number, number, number];
}

/** A handle on one joint: drags tell how far it was moved or turned since they began. */
export function HandleGizmo({
  figure,
  joint,
  name,
  mode,
  onStart,
  onPull,
  onEnd,
}: {
  figure: Figure3D;
  joint: number;
  /** What is held, written beside it. */
  name: string;
  mode: 'move' | 'turn';
  onStart: () => void;
  onPull: (pull: Pull) => void;
  onEnd: () => void;
}) {
  const { invalidate } = useThree();
  const anchor = useMemo(() => new Object3D(), []);
  const [ready, setReady] = useState(false);
  const pulling = useRef<{ at: Vector3; turn: Quaternion } | null>(null);
  useEffect(() => {
    setReady(true);
    invalidate();
  }, [invalidate]);
  useFrame(() => {
    const it = figure.joints[joint];
    if (!it || pulling.current) return;
    it.getWorldPosition(anchor.position);
    it.getWorldQuaternion(anchor.quaternion);
    // a gizmo stands in the scene itself; its figure may be shifted aside
    anchor.updateMatrixWorld();
  });
  const turned = useMemo(() => new Quaternion(), []);
  return (
    <>
      <primitive object={anchor}>
        <Html zIndexRange={[5, 0]} className="pointer-events-none">
          <span data-testid="held" className="absolute size-0" />
          <span className="absolute top-3 left-3 rounded bg-panel/85 px-1.5 text-[11.5px] whitespace-nowrap text-brass-text">
            {name}
          </span>
        </Html>
      </primitive>
      {ready && (
        <TransformControls
          object={anchor}
          mode={mode === 'move' ? 'translate' : 'rotate'}
          space={mode === 'move' ? 'world' : 'local'}
          size={0.8}
          onMouseDown={() => {
            pulling.current = { at: anchor.position.clone(), turn: anchor.quaternion.clone() };
            onStart();
          }}
          onObjectChange={() => {
            const p = pulling.current;
            if (!p) return;
            turned.copy(anchor.quaternion).multiply(p.turn.clone().invert());
            onPull({
              move: anchor.position.clone().sub(p.at).toArray() as [number, number, number],
              turn: turned.toArray() as [number, number, number, number],
              from: p.turn.toArray() as [number, number, number, number],
            });
          }}
          onMouseUp={() => {
            pulling.current = null;
            onEnd();
          }}
        />
      )}
    </>
  );
}
