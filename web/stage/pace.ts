import type { LatePictures } from './late-pictures';

/** Share of the time that pictures of a stage that plays may take; the rest is the page's. */
const STAGE_SHARE = 0.9;
/** The same while a pointer elsewhere leads the time and a picture takes long. */
const LED_SHARE = 0.09;
const LONG_MS = 14;
/** Soon enough to be drawn with the screen's next frame. */
const SOON_MS = 4;

/** What a pace goes by: see Clock. */
export interface Paced {
  readonly playing: boolean;
  readonly led: boolean;
  readonly patience: number;
  /** Told of every picture that is finished. */
  pictureShown: () => void;
}

/**
 * When pictures of a stage are drawn: each is asked for, and fewer come where one takes long (no graphics card), so that they
 * never queue. A picture that waits for a motion on its way is drawn with it.
 */
export class Pace {
  private cost = 8;
  private last = Number.NEGATIVE_INFINITY;
  private drawing = false;
  /** A finished picture is on its way to the screen: what was drawn now would have to be waited for with it. */
  private landing = false;
  /** Somebody asked while a picture was on its way. */
  private wanted = false;
  /** The next picture waits for a motion. */
  private patient = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** It is drawn as soon as the page's running task is done. */
  private called = false;

  constructor(
    private readonly clock: Paced,
    /** Draws beside the canvas, where the processor stands in for a graphics card. */
    private readonly late: Pick<LatePictures, 'busy' | 'soon'> | undefined,
    private readonly draw: () => void,
    /** Tells when a picture drawn onto the canvas is finished. */
    private readonly whenDrawn: (then: () => void) => void,
  ) {}

  /** Asks for a picture as soon as one may be drawn. */
  readonly ask = (): void => {
    // what drawing itself moves, the eye for one, is in the picture already
    if (this.drawing || this.called) return;
    const { patience } = this.clock;
    if (this.timer !== undefined) {
      if (!this.patient || patience > 0) return;
      this.rest();
    }
    if (!this.free) {
      this.wanted = true;
      return;
    }
    const share = this.clock.led && this.cost > LONG_MS ? LED_SHARE : this.clock.playing ? STAGE_SHARE : 1;
    const due = this.last + this.cost / share - performance.now();
    const wait = Math.max(due, patience);
    this.patient = patience > due;
    if (!this.late && wait <= SOON_MS) {
      this.draw();
      return;
    }
    if (wait > SOON_MS) {
      this.timer = setTimeout(() => {
        this.timer = undefined;
        this.draw();
      }, wait);
    } else {
      // with everything that the page changes now, and before it paints the rest
      this.called = true;
      void Promise.resolve().then(() => {
        if (!this.called) return;
        this.called = false;
        this.draw();
      });
    }
  };

  /** Nothing is in the way of the next picture. */
  get idle(): boolean {
    return !this.drawing && !this.called && this.free && this.timer === undefined;
  }

  private get free(): boolean {
    return !this.landing && !this.late?.busy;
  }

  /** A picture is begun. */
  begin(): void {
    this.last = performance.now();
    this.drawing = true;
  }

  /** Everything of it has been handed over; whoever draws it needs a while yet. */
  end(): void {
    if (!this.drawing) return;
    this.drawing = false;
    if (this.late) this.late.soon(() => this.finished(true));
    else this.whenDrawn(() => this.finished(false));
  }

  private finished(lands: boolean): void {
    this.cost = 0.7 * this.cost + 0.3 * (performance.now() - this.last);
    if (!lands) {
      this.go();
      return;
    }
    this.landing = true;
    requestAnimationFrame(() => setTimeout(() => this.go()));
  }

  /** The picture is on the screen: what waited for it may have the processor. */
  private go(): void {
    this.landing = false;
    this.clock.pictureShown();
    if (!this.wanted) return;
    this.wanted = false;
    this.ask();
  }

  private rest(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
  }

  /** No more pictures. */
  stop(): void {
    this.rest();
    this.called = false;
    this.wanted = false;
  }
}
