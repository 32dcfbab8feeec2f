import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { PrintPicture } from './page.ts';
import { shrinkPicture } from './shrink-picture.ts';

const pictureOf = (widthPx: number, heightPx: number, rgba: Uint8Array): PrintPicture => ({
  widthPx,
  heightPx,
  hasAlpha: true,
  rows: async (from, count) => rgba.slice(4 * widthPx * from, 4 * widthPx * (from + count)),
});

const pictures = fc.tuple(fc.integer({ min: 1, max: 23 }), fc.integer({ min: 1, max: 19 })).chain(([width, height]) =>
  fc.record({
    width: fc.constant(width),
    height: fc.constant(height),
    rgba: fc.uint8Array({ minLength: 4 * width * height, maxLength: 4 * width * height }),
  }),
);

/** Every square by itself, as the method says. */
function byHand(width: number, height: number, rgba: Uint8Array, step: number): number[][] {
  const out: number[][] = [];
  for (let top = 0; top < height; top += step)
    for (let left = 0; left < width; left += step) {
      const sums = [0, 0, 0, 0];
      let pixels = 0;
      for (let y = top; y < Math.min(height, top + step); y++)
        for (let x = left; x < Math.min(width, left + step); x++, pixels++) {
          const i = 4 * (y * width + x);
          for (let c = 0; c < 3; c++) sums[c]! += rgba[i + c]! * rgba[i + 3]!;
          sums[3]! += rgba[i + 3]!;
        }
      const [r, g, b, a] = sums as [number, number, number, number];
      out.push(a > 0 ? [r / a, g / a, b / a, a / pixels].map(Math.round) : [255, 255, 255, 0]);
    }
  return out;
}

test('each pixel is the mean of its square, weighed with the alpha, whatever sizes and edges', async () => {
  await fc.assert(
    fc.asyncProperty(pictures, fc.integer({ min: 1, max: 30 }), async ({ width, height, rgba }, wanted) => {
      const small = await shrinkPicture(pictureOf(width, height, rgba), wanted, {});
      const step = Math.max(1, Math.floor(width / (2 * wanted)));
      expect([small.width, small.height]).toEqual([Math.ceil(width / step), Math.ceil(height / step)]);
      const seen = Array.from(small.alpha, (a, i) => [...small.rgb.subarray(3 * i, 3 * i + 3), a]);
      expect(seen).toEqual(byHand(width, height, rgba, step));
    }),
  );
});

test('a picture that is read in many batches is the same as in one; stopping ends it', async () => {
  const [width, height] = [3000, 900];
  const rgba = Uint8Array.from({ length: 4 * width * height }, (_, i) => (i * 31 + (i >> 9)) & 255);
  let reads = 0;
  const picture = { ...pictureOf(width, height, rgba), rows: pictureOf(width, height, rgba).rows };
  const counted: PrintPicture = { ...picture, rows: (from, count) => (reads++, picture.rows(from, count)) };
  const small = await shrinkPicture(counted, 500, {});
  expect(reads).toBeGreaterThan(1);
  const seen = Array.from(small.alpha, (a, i) => [...small.rgb.subarray(3 * i, 3 * i + 3), a]);
  expect(seen).toEqual(byHand(width, height, rgba, 3));
  const stop = new AbortController();
  stop.abort();
  await expect(shrinkPicture(counted, 500, { signal: stop.signal })).rejects.toMatchObject({ code: 'cancelled' });
});
