import { jest } from '@jest/globals';
import { LatePictures } from './late-pictures';

/** As much of a drawing context as is asked for: what is drawn where, and fences that are passed by hand. */
function context() {
  const log: string[] = [];
  const bound: Record<number, unknown> = {};
  let done = false;
  const gl = {
    FRAMEBUFFER: 1,
    READ_FRAMEBUFFER: 2,
    DRAW_FRAMEBUFFER: 3,
    RENDERBUFFER: 4,
    TIMEOUT_EXPIRED: 5,
    CONDITION_SATISFIED: 6,
    drawingBufferWidth: 640,
    drawingBufferHeight: 360,
    createFramebuffer: () => 'beside',
    createRenderbuffer: () => ({}),
    bindFramebuffer: (target: number, framebuffer: unknown) => {
      bound[target] = framebuffer;
      if (target === 1) bound[2] = bound[3] = framebuffer;
    },
    bindRenderbuffer: () => undefined,
    renderbufferStorage: (_: number, _format: string, w: number, h: number) => log.push(`room ${w}x${h}`),
    framebufferRenderbuffer: () => undefined,
    fenceSync: () => ({}),
    deleteSync: () => log.push('forgot'),
    flush: () => undefined,
    disable: () => undefined,
    clientWaitSync: () => (done ? 6 : 5),
    blitFramebuffer: () => log.push(`shown from ${bound[2]} onto ${bound[3] ?? 'canvas'}`),
  };
  return {
    gl: gl as unknown as WebGL2RenderingContext & typeof gl,
    log,
    bound,
    finish: () => {
      done = true;
    },
    again: () => {
      done = false;
    },
  };
}
const shown = (log: string[]): number => log.filter((l) => l === 'shown from beside onto canvas').length;

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

test('what would be drawn on the canvas is drawn beside it; other targets are left alone', () => {
  const c = context();
  LatePictures.of(c.gl);
  c.gl.bindFramebuffer(1, null);
  expect(c.bound[1]).toBe('beside');
  c.gl.bindFramebuffer(1, 'another' as never);
  expect(c.bound[1]).toBe('another');
});

test('a picture is shown once it is finished, not before, and drawing goes on beside', () => {
  const c = context();
  const late = LatePictures.of(c.gl);
  const told: string[] = [];
  late.soon(() => told.push('ready'));
  jest.advanceTimersByTime(40);
  expect([shown(c.log), late.busy, told]).toEqual([0, true, []]);
  c.finish();
  jest.advanceTimersByTime(8);
  expect([shown(c.log), late.busy, told]).toEqual([1, false, ['ready']]);
  expect(c.bound[1]).toBe('beside');
  jest.advanceTimersByTime(100);
  expect(shown(c.log)).toBe(1);
});

test('a picture that is never finished does not stop the stage', () => {
  const c = context();
  const late = LatePictures.of(c.gl);
  let ready = 0;
  late.soon(() => ready++);
  jest.advanceTimersByTime(900);
  expect([shown(c.log), ready]).toEqual([0, 0]);
  jest.advanceTimersByTime(200);
  expect([shown(c.log), ready, late.busy]).toEqual([1, 1, false]);
});

test('pictures that overtake each other are shown all the same', () => {
  const c = context();
  const late = LatePictures.of(c.gl);
  let ready = 0;
  for (let i = 0; i < 6; i++) {
    late.soon(() => ready++);
    jest.advanceTimersByTime(2);
  }
  expect(shown(c.log)).toBeGreaterThanOrEqual(3);
  c.finish();
  jest.advanceTimersByTime(20);
  expect(late.busy).toBe(false);
  expect(ready).toBeGreaterThanOrEqual(3);
});

test('a picture can be put on the canvas at once, and a context has one of these only', () => {
  const c = context();
  const late = LatePictures.of(c.gl);
  expect(LatePictures.of(c.gl)).toBe(late);
  late.soon(() => undefined);
  late.show();
  expect([shown(c.log), late.busy]).toEqual([1, false]);
  c.finish();
  jest.advanceTimersByTime(50);
  expect(shown(c.log)).toBe(1);
});

test('room is made anew only when the canvas has another size', () => {
  const c = context();
  const late = LatePictures.of(c.gl);
  late.fit();
  c.gl.drawingBufferWidth = 800;
  late.fit();
  late.fit();
  expect(c.log.filter((l) => l.startsWith('room'))).toEqual([
    'room 640x360',
    'room 640x360',
    'room 800x360',
    'room 800x360',
  ]);
});

test('one that has ended shows nothing any more', () => {
  const c = context();
  const late = LatePictures.of(c.gl);
  late.soon(() => undefined);
  late.end();
  c.finish();
  jest.advanceTimersByTime(50);
  expect(shown(c.log)).toBe(0);
});
