import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, bounds } from '../geometry/index.ts';
import { largestUnder, LEAST_OFFCUT_MM, offcutOf } from './offcut.ts';

describe('an offcut', () => {
  test('the largest rectangle under bars is what trying them all finds', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 30 }), { minLength: 1, maxLength: 30 }), (bars) => {
        let best = 0;
        for (let i = 0; i < bars.length; i++)
          for (let j = i; j < bars.length; j++) best = Math.max(best, (j - i + 1) * Math.min(...bars.slice(i, j + 1)));
        const { from, count, height } = largestUnder(bars);
        expect(count * height).toBe(best);
        for (let i = from; i < from + count; i++) expect(bars[i]!).toBeGreaterThanOrEqual(height);
      }),
      { numRuns: 300, seed: 4 },
    );
  });

  test('lies beside the work, is no larger than what is free, and holds the rectangle that it counts as', () => {
    const anyBox = fc
      .record({
        x: fc.integer({ min: 0, max: 800 }),
        y: fc.integer({ min: 0, max: 500 }),
        w: fc.integer({ min: 5, max: 300 }),
        h: fc.integer({ min: 5, max: 300 }),
      })
      .map(({ x, y, w, h }) => ({ minX: x, minY: y, maxX: Math.min(900, x + w), maxY: Math.min(610, y + h) }));
    fc.assert(
      fc.property(fc.array(anyBox, { maxLength: 12 }), (used) => {
        const left = offcutOf(used, 900, 610, 5);
        if (!left) return;
        const { outline, widthMm, lengthMm } = left;
        const box = bounds(outline);
        expect([box.minX, box.minY].map((v) => Math.round(v * 1e6))).toEqual([0, 0]);
        expect(widthMm).toBeGreaterThanOrEqual(LEAST_OFFCUT_MM);
        expect(widthMm).toBeLessThanOrEqual(610);
        expect(Math.abs(area(outline))).toBeGreaterThanOrEqual(widthMm * lengthMm - 1e-6);
        const covered = used.reduce((sum, b) => Math.max(sum, b.maxY - b.minY), 0);
        // what one piece takes across is not free anywhere along it on that side
        expect(Math.abs(area(outline))).toBeLessThanOrEqual(900 * 610 - (used.length > 0 ? 5 * covered : 0) + 1e-6);
      }),
      { numRuns: 300, seed: 6 },
    );
  });

  test('work along one edge leaves the strip above it; a sheet that is full leaves nothing', () => {
    const strip = offcutOf([{ minX: 10, minY: 10, maxX: 890, maxY: 200 }], 900, 610, 5)!;
    expect([strip.widthMm, strip.lengthMm]).toEqual([405, 900]);
    expect(strip.outline.contours[0]?.spans).toHaveLength(4);
    expect(offcutOf([{ minX: 10, minY: 10, maxX: 890, maxY: 580 }], 900, 610, 5)).toBeUndefined();
    // a tall piece at the end makes a step
    const stepped = offcutOf(
      [
        { minX: 10, minY: 10, maxX: 695, maxY: 200 },
        { minX: 705, minY: 10, maxX: 890, maxY: 400 },
      ],
      900,
      610,
      5,
    )!;
    expect(stepped.outline.contours[0]?.spans).toHaveLength(6);
    expect(stepped.widthMm).toBe(405);
  });
});
