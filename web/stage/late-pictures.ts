/** A picture that is not finished by then is shown as it comes: a stage never stands for good. */
const LONGEST_MS = 1000;

/**
 * Where the processor stands in for a graphics card, the page stands still until the picture that it has just asked for is
 * drawn. So pictures are drawn beside the canvas, and copied onto it once they are finished: the page waits for the copy
 * alone. Whatever would draw on the canvas of this context draws beside it from now on.
 */
export class LatePictures {
  private static readonly made = new WeakMap<WebGL2RenderingContext, LatePictures>();

  /** The one of a context. */
  static of(gl: WebGL2RenderingContext): LatePictures {
    const known = LatePictures.made.get(gl) ?? new LatePictures(gl);
    LatePictures.made.set(gl, known);
    return known;
  }

  private readonly bind: WebGL2RenderingContext['bindFramebuffer'];
  private readonly beside: WebGLFramebuffer;
  private readonly colours: WebGLRenderbuffer;
  private readonly depths: WebGLRenderbuffer;
  private size = [0, 0];
  private fence: WebGLSync | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;

  private constructor(private readonly gl: WebGL2RenderingContext) {
    this.bind = gl.bindFramebuffer.bind(gl);
    this.beside = gl.createFramebuffer()!;
    this.colours = gl.createRenderbuffer()!;
    this.depths = gl.createRenderbuffer()!;
    gl.bindFramebuffer = (target, framebuffer) => this.bind(target, framebuffer ?? this.beside);
    this.fit();
  }

  /** Makes room for a picture of the canvas's size. To be called before drawing. */
  fit(): void {
    const { gl } = this;
    const { drawingBufferWidth: w, drawingBufferHeight: h } = gl;
    if (this.size[0] === w && this.size[1] === h) return;
    this.size = [w, h];
    gl.bindRenderbuffer(gl.RENDERBUFFER, this.colours);
    gl.renderbufferStorage(gl.RENDERBUFFER, gl.RGBA8, w, h);
    gl.bindRenderbuffer(gl.RENDERBUFFER, this.depths);
    gl.renderbufferStorage(gl.RENDERBUFFER, gl.DEPTH24_STENCIL8, w, h);
    gl.bindRenderbuffer(gl.RENDERBUFFER, null);
    this.bind(gl.FRAMEBUFFER, this.beside);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.RENDERBUFFER, this.colours);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.DEPTH_STENCIL_ATTACHMENT, gl.RENDERBUFFER, this.depths);
  }

  /** A picture is being drawn that has not been shown yet. */
  get busy(): boolean {
    return this.fence !== undefined;
  }

  /** A picture has been asked for: it is shown when it is finished, and `then` is told. */
  soon(then: () => void): void {
    const { gl } = this;
    // one that is overtaken would never be shown where they come quicker than they are finished
    const overtaken = this.busy;
    this.forget();
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    if (!fence || overtaken) {
      if (fence) gl.deleteSync(fence);
      this.show();
      then();
      return;
    }
    this.fence = fence;
    const asked = performance.now();
    gl.flush();
    const look = (): void => {
      if (this.fence !== fence) return;
      const late = performance.now() - asked > LONGEST_MS;
      if (!late && gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) this.timer = setTimeout(look, 4);
      else {
        this.show();
        then();
      }
    };
    this.timer = setTimeout(look, 4);
  }

  /** Copies the picture onto the canvas now, finished or not. */
  show(): void {
    const { gl } = this;
    const [w, h] = this.size as [number, number];
    this.forget();
    this.bind(gl.READ_FRAMEBUFFER, this.beside);
    this.bind(gl.DRAW_FRAMEBUFFER, null);
    gl.disable(gl.SCISSOR_TEST);
    gl.blitFramebuffer(0, 0, w, h, 0, 0, w, h, gl.COLOR_BUFFER_BIT, gl.NEAREST);
    this.bind(gl.FRAMEBUFFER, this.beside);
  }

  private forget(): void {
    clearTimeout(this.timer);
    if (this.fence) this.gl.deleteSync(this.fence);
    this.fence = undefined;
  }

  /** Nothing is shown any more. */
  end(): void {
    this.forget();
  }
}
