'use client';

import { useThree } from '@react-three/fiber';
import { useEffect } from 'react';
import { followedIn } from './eye';
import { GROUND } from './ground';

/** A canvas of a stage that can be asked for its picture. */
export interface Photographed extends HTMLCanvasElement {
  /** Draws the stage as it is now, without ground and grid, and copies it before the buffer is cleared. */
  takePicture?: (side: number) => HTMLCanvasElement;
  /** Draws the stage as it is now, at once: what is on the canvas then is to be copied before the page goes on. */
  drawNow?: () => void;
  /** Whether somebody stands on the stage. */
  peopled?: () => boolean;
  /** Where pictures are drawn beside the canvas: puts the last one onto it. */
  showPicture?: () => void;
}

/** Lets the page take pictures of the stage. */
export function Shutter() {
  const { gl, scene, camera, advance } = useThree();
  useEffect(() => {
    const canvas = gl.domElement as Photographed;
    canvas.drawNow = () => {
      advance(performance.now());
      canvas.showPicture?.();
    };
    canvas.peopled = () => followedIn(scene).size > 0;
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
  }, [gl, scene, camera, advance]);
  return null;
}
