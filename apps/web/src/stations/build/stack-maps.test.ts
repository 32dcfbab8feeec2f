/** Films pulled apart stay in view, one above another, and their names never lie on one another. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { namePlaces, stackMaps, type Affine } from './stack-maps.ts';

const ground = fc
  .record({
    x: fc.integer({ min: -500, max: 500 }),
    y: fc.integer({ min: -500, max: 500 }),
    width: fc.integer({ min: 1, max: 6000 }),
    height: fc.integer({ min: 1, max: 3000 }),
  })
  .map(({ x, y, width, height }) => ({ minX: x, minY: y, maxX: x + width, maxY: y + height }));
const view = fc.record({ width: fc.integer({ min: 200, max: 2000 }), height: fc.integer({ min: 200, max: 1500 }) });
const planes = fc.integer({ min: 1, max: 12 });
const apart = fc.double({ min: 0, max: 1, noNaN: true });
const cornersOf = ([a, b, c, d, e, f]: Affine, box: { minX: number; minY: number; maxX: number; maxY: number }) =>
  [
    [box.minX, box.minY],
    [box.maxX, box.minY],
    [box.maxX, box.maxY],
    [box.minX, box.maxY],
  ].map(([x = 0, y = 0]) => ({ x: a * x + c * y + e, y: b * x + d * y + f }));

describe('films pulled apart', () => {
  test('lie in the view with all of their corners, each above the one before, by the same way', () => {
    fc.assert(
      fc.property(ground, planes, view, apart, (box, count, size, by) => {
        const maps = stackMaps(box, count, size, by);
        expect(maps).toHaveLength(count + 1);
        const all = maps.map((map) => cornersOf(map, box));
        for (const { x, y } of all.flat()) {
          expect(x).toBeGreaterThan(0);
          expect(x).toBeLessThan(size.width);
          expect(y).toBeGreaterThan(0);
          expect(y).toBeLessThan(size.height);
        }
        const middles = all.map((corners) => corners.reduce((sum, { y }) => sum + y / 4, 0));
        const steps = middles.slice(1).map((y, i) => middles[i]! - y);
        for (const step of steps) expect(Math.abs(step - steps[0]!)).toBeLessThan(1e-6 * size.height);
        expect(steps[0]!).toBeGreaterThan(-1e-9);
      }),
    );
  });

  test('flat, they are the drawing itself: nothing is sheared, all lie on one another', () => {
    fc.assert(
      fc.property(ground, planes, view, (box, count, size) => {
        const maps = stackMaps(box, count, size, 0);
        for (const [a, b, c, d, e, f] of maps) {
          expect([b, c]).toEqual([0, 0]);
          expect(a).toBeCloseTo(-d, 9);
          expect([e, f]).toEqual([maps[0]![4], maps[0]![5]]);
        }
      }),
    );
  });

  test('have names of their own places, the uppermost film’s uppermost, none over the left edge', () => {
    fc.assert(
      fc.property(ground, planes, view, apart, (box, count, size, by) => {
        const places = namePlaces(stackMaps(box, count, size, by), box);
        expect(places).toHaveLength(count);
        places.slice(1).forEach(({ top }, i) => expect(places[i]!.top - top).toBeGreaterThan(16.9));
        for (const { left } of places) expect(left).toBeGreaterThanOrEqual(2);
      }),
    );
  });
});
