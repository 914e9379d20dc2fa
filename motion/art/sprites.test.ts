import { seeded } from '../math/random';
import type { Raster } from './raster';
import { SpriteSheet, spriteHeight } from './sprites';

/** A clear frame with a filled rectangle. */
function frame(size: [number, number], at: [number, number, number, number], shade: number): Raster {
  const [width, height] = size;
  const rgba = new Uint8Array(4 * width * height);
  const [x0, y0, w, h] = at;
  for (let y = y0; y < y0 + h; y++)
    for (let x = x0; x < x0 + w; x++) rgba.set([shade, x % 256, y % 256, 255], 4 * (y * width + x));
  return { width, height, rgba };
}

describe('a sheet of sprites', () => {
  const size: [number, number] = [90, 70];
  const random = seeded(5);
  const pictures = Array.from({ length: 40 }, (_, i) =>
    frame(size, [Math.floor(40 * random()), Math.floor(30 * random()), 5 + (i % 7) * 6, 4 + (i % 5) * 7], i),
  );
  const movie = [...pictures, pictures[3]!, pictures[3]!, frame(size, [0, 0, 0, 0], 0)];
  const sheet = new SpriteSheet();
  for (const picture of movie) sheet.add(picture);
  const laid = sheet.laidOut();

  test('every frame comes back from it to the byte', () => {
    movie.forEach((picture, f) => {
      const { at, offset } = laid.sprites[laid.frames[f]!]!;
      const [x0, y0, w, h] = at;
      const back = new Uint8Array(picture.rgba.length);
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++) {
          const from = 4 * ((y0 + y) * laid.sheet.width + x0 + x);
          back.set(laid.sheet.rgba.subarray(from, from + 4), 4 * ((offset[1] + y) * size[0] + offset[0] + x));
        }
      expect(Buffer.compare(back, picture.rgba)).toBe(0);
    });
  });

  test('equal frames are kept once, and no two pictures touch', () => {
    expect(laid.sprites).toHaveLength(41);
    expect(laid.frames.slice(40, 42)).toEqual([3, 3]);
    const boxes = laid.sprites.map((s) => s.at);
    const apart = ([ax, ay, aw, ah]: (typeof boxes)[number], [bx, by, bw, bh]: (typeof boxes)[number]): boolean =>
      ax + aw < bx || bx + bw < ax || ay + ah < by || by + bh < ay;
    expect(boxes.every((a, i) => boxes.slice(i + 1).every((b) => apart(a, b)))).toBe(true);
    expect(boxes.every(([x, y, w, h]) => x + w < laid.sheet.width && y + h < laid.sheet.height)).toBe(true);
    expect(laid.size).toEqual(size);
  });

  test('little of it is empty', () => {
    const painted = laid.sprites.reduce((sum, { at: [, , w, h] }) => sum + w * h, 0);
    expect(painted / (laid.sheet.width * laid.sheet.height)).toBeGreaterThan(0.6);
  });

  test('so many frames fit at the height that is offered for them, and what does not fit is refused', () => {
    for (const count of [1, 30, 300, 2000]) {
      const height = spriteHeight(count, [3, 4]);
      const width = Math.floor((height * 3) / 4);
      const perRow = Math.floor(4094 / (width + 2));
      expect(Math.ceil(count / perRow) * (height + 2)).toBeLessThanOrEqual(4094);
    }
    const large = new SpriteSheet();
    large.add(frame([5000, 2], [0, 0, 5000, 2], 1));
    expect(() => large.laidOut()).toThrow(/smaller/);
  });
});
