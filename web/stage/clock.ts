'use client';

import { useSyncExternalStore } from 'react';

/** A motion that takes longer is not waited for. */
const AWAIT_MS = 160;
/** Nor is a picture. */
const SHOWN_MS = 250;

/** What of a motion tells the time: its frames and their rate. */
export interface Timed {
  readonly frameCount: number;
  readonly fps: number;
}

/**
 * Time of one stage, in seconds: motions of any rate play together on it, each reading its own frame. It runs as long as the
 * longest of them, whose frames its own counter shows. Frames are read from it without React; only its settings reach components.
 */
export class Clock {
  time = 0;
  duration = 0;
  fps = 30;
  frameCount = 1;
  playing = true;
  speed = 1;
  loop = true;
  /** Time is being led by a pointer elsewhere on the page, which must stay quick. */
  led = false;
  /** Until when a picture may wait for a motion that is on its way, performance time. */
  private awaited = 0;
  private readonly waiting = new Set<() => void>();
  private begun = false;
  private readonly tickers = new Set<() => void>();
  private readonly listeners = new Set<() => void>();
  private version = 0;

  /** Told on every change of time, many times a second. */
  onTick(run: () => void): () => void {
    this.tickers.add(run);
    return () => this.tickers.delete(run);
  }

  /** Told when something other than time changes. */
  subscribe = (run: () => void): (() => void) => {
    this.listeners.add(run);
    return () => this.listeners.delete(run);
  };
  snapshot = (): number => this.version;

  private changed(): void {
    this.version++;
    for (const run of this.listeners) run();
    this.tick();
  }

  private tick(): void {
    for (const run of this.tickers) run();
  }

  /** The frame of the motion that it counts by. */
  get frame(): number {
    return this.frameOf(this);
  }

  /** The frame that a motion shows now; its last one where others are longer. */
  frameOf({ frameCount, fps }: Timed): number {
    return Math.min(frameCount - 1, Math.max(0, Math.floor(this.time * fps + 1e-4)));
  }

  /** Its first stage is there. Who asked the system for less motion presses play before anything moves. */
  begin(calm: boolean): void {
    if (this.begun) return;
    this.begun = true;
    if (calm) this.setPlaying(false);
  }

  /** A new motion is on its way: what else changes on a stage that stands is drawn together with it. */
  awaitMotion(): void {
    this.awaited = performance.now() + AWAIT_MS;
  }

  /** It is here. */
  motionArrived(): void {
    this.awaited = 0;
    this.tick();
  }

  /** Settles with the next picture that is finished, or soon where none comes. */
  readonly shown = (): Promise<void> =>
    new Promise((resolve) => {
      this.waiting.add(resolve);
      setTimeout(resolve, SHOWN_MS);
    });

  /** A picture of the stage is finished. */
  pictureShown(): void {
    for (const resolve of this.waiting) resolve();
    this.waiting.clear();
  }

  /** How long a picture may still wait for a motion, milliseconds. */
  get patience(): number {
    return this.playing ? 0 : Math.max(0, this.awaited - performance.now());
  }

  /** A new motion; time is kept where it still makes sense. */
  load(frameCount: number, fps: number): void {
    if (frameCount === this.frameCount && fps === this.fps) return;
    this.frameCount = frameCount;
    this.fps = fps;
    this.duration = frameCount / fps;
    if (this.time >= this.duration) this.time = 0;
    this.changed();
  }

  private readonly held = new Set<Timed>();

  /** A motion plays on this clock until what is handed back is called. */
  play(motion: Timed): () => void {
    const own: Timed = { frameCount: motion.frameCount, fps: motion.fps };
    this.held.add(own);
    this.takeLongest();
    return () => {
      this.held.delete(own);
      this.takeLongest();
    };
  }

  private takeLongest(): void {
    const seconds = (m: Timed): number => m.frameCount / m.fps;
    let longest: Timed | undefined;
    for (const m of this.held)
      if (!longest || seconds(m) > seconds(longest) || (seconds(m) === seconds(longest) && m.fps > longest.fps))
        longest = m;
    // between one motion and the next time goes on as it was
    if (longest) this.load(longest.frameCount, longest.fps);
  }

  advance(seconds: number): void {
    // of a pose there is one picture, however long it plays
    if (!this.playing || this.frameCount < 2) return;
    this.time += seconds * this.speed;
    if (this.time >= this.duration) {
      if (this.loop) this.time %= this.duration;
      else {
        this.time = this.duration - 1e-6;
        this.setPlaying(false);
      }
    }
    this.tick();
  }

  seekFrame(frame: number): void {
    this.time = (Math.min(this.frameCount - 1, Math.max(0, frame)) + 0.001) / this.fps;
    this.tick();
  }

  step(frames: number): void {
    this.setPlaying(false);
    const next = this.frame + frames;
    this.seekFrame(this.loop ? (next + this.frameCount) % this.frameCount : next);
  }

  setPlaying(playing: boolean): void {
    if (playing === this.playing) return;
    this.playing = playing;
    this.changed();
  }

  setSpeed(speed: number): void {
    this.speed = speed;
    this.changed();
  }

  setLoop(loop: boolean): void {
    this.loop = loop;
    this.changed();
  }
}

/** Redraws a component when the clock's settings change (not its time). */
export function useClock(clock: Clock): Clock {
  useSyncExternalStore(clock.subscribe, clock.snapshot, clock.snapshot);
  return clock;
}
