/** Lines traced along their middle: where they were drawn, each once, closed ones closed. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { segmentDistance } from '../geometry/hit.ts';
import { flatten } from '../geometry/flatten.ts';
import type { Outline } from '../types/index.ts';
import { centreLines } from './centre-line.ts';
import type { Plane } from './pixels.ts';

type Point = readonly [x: number, y: number];
const SIZE = 80;
const USUAL = { tolPx: 0.6, cornerDeg: 40, shortestPx: 4 };

/** Pixels whose middle is no farther from what is drawn than half its width are black. */
function plane(offAt: (x: number, y: number) => number, widthPx: number): Plane {
  const rgb = new Uint8ClampedArray(3 * SIZE * SIZE).fill(255);
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) if (offAt(x + 0.5, y + 0.5) <= widthPx / 2) rgb.fill(0, 3 * (y * SIZE + x), 3 * (y * SIZE + x) + 3);
  return { width: SIZE, height: SIZE, rgb, alpha: undefined };
}
const offLine =
  (points: readonly Point[]) =>
  (x: number, y: number): number =>
    Math.min(...points.slice(1).map((b, i) => segmentDistance(x, y, ...points[i]!, ...b)));
const cornersOf = (outline: Outline): Point[] =>
  flatten(outline, 0.05).flatMap(({ xy }) => Array.from({ length: xy.length / 2 }, (_, i): Point => [xy[2 * i]!, xy[2 * i + 1]!]));
/** From a place to the nearest traced line. */
const offTraced = (outline: Outline, x: number, y: number): number =>
  Math.min(
    Infinity,
    ...flatten(outline, 0.05).flatMap(({ xy, closed }) =>
      Array.from({ length: xy.length / 2 - (closed ? 0 : 1) }, (_, i) => {
        const j = (2 * i + 2) % xy.length;
        return segmentDistance(x, y, xy[2 * i]!, xy[2 * i + 1]!, xy[j]!, xy[j + 1]!);
      }),
    ),
  );

const inside = fc.double({ min: 12, max: 68, noNaN: true });
const anyStroke = fc.record({
  from: fc.tuple(inside, inside),
  to: fc.tuple(inside, inside),
  widthPx: fc.double({ min: 1.6, max: 7, noNaN: true }),
});

describe('centre lines', () => {
  test('a slanting stroke stays whole, though on its way to one pixel it is two wide', () => {
    const [from, to] = [
      [55.43, 68],
      [13.87, 26.03],
    ] as const;
    const traced = centreLines(plane(offLine([from, to]), 5.14), USUAL);
    for (let t = 0.1; t < 0.9; t += 0.02)
      expect(offTraced(traced, from[0] + t * (to[0] - from[0]), from[1] + t * (to[1] - from[1]))).toBeLessThan(1.3);
  });

  test('a stroke becomes one open line along its middle, short or long by no more than half its width', () => {
    fc.assert(
      fc.property(anyStroke, ({ from, to, widthPx }) => {
        const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
        fc.pre(length > 20);
        const traced = centreLines(plane(offLine([from, to]), widthPx), USUAL);
        expect(traced.contours).toHaveLength(1);
        expect(traced.contours[0]!.closed).toBe(false);
        const off = offLine([from, to]);
        const isAtEnd = (x: number, y: number): boolean => [from, to].some(([ex, ey]) => Math.hypot(x - ex, y - ey) < widthPx / 2 + 1.5);
        for (const [x, y] of cornersOf(traced)) expect(off(x, y)).toBeLessThan(isAtEnd(x, y) ? widthPx / 2 + 0.7 : 1.3);
        // and all of it is there, but for its ends
        const cut = (widthPx / 2 + 2) / length;
        for (let t = cut; t <= 1 - cut; t += 0.02)
          expect(offTraced(traced, from[0] + t * (to[0] - from[0]), from[1] + t * (to[1] - from[1]))).toBeLessThan(1.3);
      }),
      { numRuns: 80 },
    );
  });

  test('a ring becomes one closed line of its radius', () => {
    fc.assert(
      fc.property(fc.double({ min: 10, max: 30, noNaN: true }), fc.double({ min: 1.6, max: 6, noNaN: true }), (radius, widthPx) => {
        const off = (x: number, y: number): number => Math.abs(Math.hypot(x - 40.2, y - 39.7) - radius);
        const traced = centreLines(plane(off, widthPx), USUAL);
        expect(traced.contours.map(({ closed }) => closed)).toEqual([true]);
        for (const [x, y] of cornersOf(traced)) expect(off(x, y)).toBeLessThan(1.2);
        for (let k = 0; k < 40; k++) expect(offTraced(traced, 40.2 + radius * Math.cos(k), 39.7 + radius * Math.sin(k))).toBeLessThan(1.2);
      }),
      { numRuns: 40 },
    );
  });

  test('lines that cross are all there, and what is shorter than asked for is left out', () => {
    const cross = (x: number, y: number): number =>
      Math.min(
        offLine([
          [10, 40],
          [70, 40],
        ])(x, y),
        offLine([
          [40, 10],
          [40, 70],
        ])(x, y),
      );
    const traced = centreLines(plane(cross, 3), USUAL);
    for (let t = 13; t <= 67; t++) {
      expect(offTraced(traced, t, 40)).toBeLessThan(1.5);
      expect(offTraced(traced, 40, t)).toBeLessThan(1.5);
    }
    const dot = plane((x, y) => Math.hypot(x - 40, y - 40), 5);
    expect(centreLines(dot, { ...USUAL, shortestPx: 8 }).contours).toEqual([]);
    expect(
      centreLines(
        plane(() => 9, 3),
        USUAL,
      ).contours,
    ).toEqual([]);
  });
});
