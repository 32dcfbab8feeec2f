/** Pictures of twice the size: nothing moves, edges stay where they were, nothing comes from nowhere. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { enlargeTwice } from './enlarge.ts';
import type { Pixels } from './pixels.ts';

function picture(width: number, height: number, colour: (x: number, y: number) => readonly number[]): Pixels {
  const data = new Uint8ClampedArray(4 * width * height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(colour(x, y), 4 * (y * width + x));
  return { width, height, data };
}
const at = ({ width, data }: Pixels, x: number, y: number): number[] => [...data.subarray(4 * (y * width + x), 4 * (y * width + x) + 4)];
const solid = fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255)).map(([r, g, b]) => [r, g, b, 255]);

describe('twice the size', () => {
  test('moves nothing: a mirrored picture becomes the mirror image of what it becomes', () => {
    fc.assert(
      fc.property(fc.array(solid, { minLength: 120, maxLength: 120 }), (list) => {
        const [one, other] = [(x: number) => x, (x: number) => 11 - x].map((place) =>
          enlargeTwice(picture(12, 10, (x, y) => list[12 * y + place(x)] as number[])),
        ) as [Pixels, Pixels];
        expect([one.width, one.height]).toEqual([24, 20]);
        let most = 0;
        // at the edges of the picture there is nothing beyond to go by
        for (let y = 6; y < 14; y++)
          for (let x = 6; x < 18; x++)
            at(one, x, y).forEach((v, c) => (most = Math.max(most, Math.abs(v - (at(other, 23 - x, y)[c] as number)))));
        expect(most).toBeLessThanOrEqual(2);
      }),
      { numRuns: 30 },
    );
  });

  test('leaves one colour that colour, clear what is clear', () => {
    fc.assert(
      fc.property(solid, (colour) => {
        const large = enlargeTwice(picture(8, 6, () => colour));
        expect(new Set(Array.from({ length: 192 }, (_, i) => at(large, i % 16, Math.floor(i / 16)).join()))).toEqual(
          new Set([colour.join()]),
        );
      }),
    );
    const clear = enlargeTwice(picture(8, 8, () => [0, 0, 0, 0]));
    expect(Math.max(...clear.data)).toBe(0);
  });

  test('has no colour that clear pixels hide: what shows beside them is that of the solid ones', () => {
    const half = picture(12, 8, (x) => (x < 6 ? [200, 30, 40, 255] : [0, 255, 0, 0]));
    const large = enlargeTwice(half);
    for (let y = 0; y < 16; y++)
      for (let x = 0; x < 24; x++) {
        const [r = 0, g = 0, , a = 0] = at(large, x, y);
        if (a > 40) expect(r).toBeGreaterThan(g);
      }
  });

  test('keeps a straight edge where it was, level, upright or along a diagonal', () => {
    const size = 16;
    for (const [name, side] of [
      ['upright', (x: number) => x - 7.5],
      ['level', (_: number, y: number) => y - 7.5],
      ['diagonal', (x: number, y: number) => x - y],
    ] as const) {
      const large = enlargeTwice(picture(size, size, (x, y) => (side(x, y) < 0 ? [255, 255, 255, 255] : [0, 0, 0, 255])));
      let off = 0;
      for (let y = 6; y < 2 * size - 6; y++)
        for (let x = 6; x < 2 * size - 6; x++) {
          const away = side(x / 2, y / 2);
          // far enough from the edge there is no doubt
          if (Math.abs(away) >= 1.5 && (at(large, x, y)[0] as number) > 128 !== away < 0) off++;
        }
      expect([name, off]).toEqual([name, 0]);
    }
  });

  test('turns with the picture', () => {
    fc.assert(
      fc.property(fc.array(solid, { minLength: 64, maxLength: 64 }), (list) => {
        const one = picture(8, 8, (x, y) => list[8 * y + x] as number[]);
        const other = picture(8, 8, (x, y) => list[8 * x + y] as number[]);
        const [a, b] = [enlargeTwice(one), enlargeTwice(other)];
        let most = 0;
        for (let y = 0; y < 16; y++)
          for (let x = 0; x < 16; x++) at(a, x, y).forEach((v, c) => (most = Math.max(most, Math.abs(v - (at(b, y, x)[c] as number)))));
        expect(most).toBeLessThanOrEqual(2);
      }),
      { numRuns: 30 },
    );
  });
});
