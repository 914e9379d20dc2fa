'use client';

import { addAfterEffect, useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import type { Clock } from './clock';
import { drawnBySoftware } from './graphics';
import { LatePictures } from './late-pictures';
import { Pace } from './pace';
import type { Photographed } from './shutter';

/** Moves time on while playing and asks for a picture whenever time moves or something in the scene changes; see Pace. */
export function Ticker({ clock }: { clock: Clock }) {
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
