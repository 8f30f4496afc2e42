import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { inDots, sizeInside } from './logo.ts';

const picture = (width: number, height: number, grey: (x: number, y: number) => number) => ({
  ...{ width, height },
  greys: Uint8Array.from({ length: width * height }, (_, i) => grey(i % width, Math.floor(i / width))),
});
const share = (dots: Uint8Array): number => dots.reduce((sum, d) => sum + d, 0) / dots.length;

describe('D2 a logo in the dots of a head', () => {
  it('is as dark as it was: the share of black dots is that of its grey', () => {
    for (const grey of [80, 128, 170, 225]) {
      const dots = inDots(
        picture(90, 60, () => grey),
        120,
        80,
      );
      expect(Math.abs(share(dots) - (255 - grey) / 255)).toBeLessThan(0.02);
    }
  });
  it('keeps the edges of a drawing: no stray dot in what is white or black, and nearly so', () => {
    const half = picture(80, 10, (x) => (x < 40 ? 60 : 240));
    const dots = inDots(half, 160, 20);
    for (let y = 0; y < 20; y += 1) for (let x = 0; x < 160; x += 1) expect(dots[y * 160 + x]).toBe(x < 80 ? 1 : 0);
  });
  it('keeps its shape in any room, and never leaves it', () => {
    const side = fc.integer({ min: 1, max: 2000 });
    fc.assert(
      fc.property(side, side, side, side, (width, height, across, down) => {
        const size = sizeInside({ width, height }, { width: across, height: down });
        expect(size.width >= 1 && size.height >= 1 && size.width <= across && size.height <= down).toBe(true);
        expect(size.width === across || size.height === down).toBe(true);
      }),
    );
  });
  it('reads no pixel that is not there, whatever the sizes', () => {
    const side = fc.integer({ min: 1, max: 40 });
    fc.assert(
      fc.property(side, side, side, side, (width, height, across, down) => {
        const white = inDots(
          picture(width, height, () => 255),
          across,
          down,
        );
        const black = inDots(
          picture(width, height, () => 0),
          across,
          down,
        );
        expect([white.length, share(white), share(black)]).toEqual([across * down, 0, 1]);
      }),
    );
  });
});
