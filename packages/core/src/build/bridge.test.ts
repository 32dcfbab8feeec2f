/** A bridge from a part that is too small to what lies nearest of its film: it is one with both, and no longer than it must be. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds, boxShape, isInside, mapOutline, area, ovalShape, rotation, compose, translation, weld } from '../geometry/index.ts';
import type { Contour, Outline } from '../types/index.ts';
import { bridgeTo } from './bridge.ts';

const one = ({ contours: [contour] }: Outline): Contour => contour as Contour;
const placed = (outline: Outline, x: number, y: number, deg = 0): Outline => mapOutline(compose(translation(x, y), rotation(deg)), outline);

describe('a bridge', () => {
  test('goes straight to a long side, not to its corner', () => {
    const [dot, plate] = [placed(ovalShape(1, 1), 250, 105), boxShape(500, 100)];
    const { bar, from, to } = bridgeTo(one(dot), [...plate.contours, ...dot.contours], 1.5)!;
    expect(to.x).toBeCloseTo(from.x, 1);
    const { minX, maxX, minY, maxY } = bounds(bar);
    expect(maxX - minX).toBeLessThan(1.6);
    expect(maxY - minY).toBeLessThan(105 - 100 + 1.5 + 1);
  });

  test('goes to the middle of what lies along one another: the dot of an i, also aslant; not into the gap between two stems', () => {
    fc.assert(
      fc.property(fc.integer({ min: 4, max: 40 }), fc.integer({ min: 4, max: 40 }), fc.nat(359), (stem, dot, deg) => {
        const on = (outline: Outline): Outline => mapOutline(rotation(deg), outline);
        const [i, over] = [on(boxShape(stem, 60)), on(placed(boxShape(dot, 8), stem / 2 - 1, 63))];
        const { bar, from, to } = bridgeTo(one(over), [...i.contours, ...over.contours], 0.8)!;
        expect(Math.hypot(to.x - from.x, to.y - from.y)).toBeCloseTo(3, 2);
        // nothing but what lies between them is added
        const shared = Math.min(stem, stem / 2 - 1 + dot) - (stem / 2 - 1);
        if (shared > 1) expect(area(weld([i, bar, over])) - area(i) - area(over)).toBeCloseTo(3 * 0.8, 1);
      }),
      { numRuns: 60 },
    );
    const stems = [boxShape(10, 60), placed(boxShape(10, 60), 40, 0)];
    const over = placed(boxShape(50, 8), 0, 64);
    const { from, to } = bridgeTo(one(over), [...stems.flatMap(({ contours }) => contours), ...over.contours], 1)!;
    expect(Math.hypot(to.x - from.x, to.y - from.y)).toBeCloseTo(4, 2);
    expect([5, 45].some((middle) => Math.abs(to.x - middle) < 0.1)).toBe(true);
  });

  test('does not join a ring to its own hole, and nothing to nothing', () => {
    const ring = { contours: [one(ovalShape(4, 4)), one(placed(ovalShape(3, 3), 0.5, 0.5))] };
    expect(bridgeTo(ring.contours[0]!, ring.contours, 1)).toBeUndefined();
    const far = placed(boxShape(10, 10), 30, 0);
    expect(bridgeTo(ring.contours[0]!, [...ring.contours, ...far.contours], 1)?.to.x).toBeGreaterThan(20);
  });

  test('law: what it joins is one piece with it, it is as long as they are apart, and it does not come out behind a part that is as wide', () => {
    const size = fc.integer({ min: 6, max: 80 }).map((n) => n / 2);
    fc.assert(
      fc.property(size, size, size, fc.nat(359), fc.nat(359), fc.integer({ min: 1, max: 30 }), (w, h, small, deg, way, gap) => {
        const part = placed(ovalShape(small, small), 0, 0);
        const centre = { x: (bounds(part).minX + bounds(part).maxX) / 2, y: (bounds(part).minY + bounds(part).maxY) / 2 };
        const reach = small / 2 + gap + Math.hypot(w, h);
        const turned = placed(boxShape(w, h), 0, 0, deg);
        const box = bounds(turned);
        const angle = (way * Math.PI) / 180;
        const other = placed(
          turned,
          centre.x + reach * Math.cos(angle) - (box.minX + box.maxX) / 2,
          centre.y + reach * Math.sin(angle) - (box.minY + box.maxY) / 2,
        );
        const { bar, from, to } = bridgeTo(one(part), [...part.contours, ...other.contours], 0.6)!;
        expect(weld([part, other]).contours).toHaveLength(2);
        expect(weld([part, bar, other]).contours).toHaveLength(1);
        expect(Math.hypot(from.x - centre.x, from.y - centre.y)).toBeCloseTo(small / 2, 1);
        // nothing of the box is nearer than where the bar goes
        const apart = Math.hypot(to.x - from.x, to.y - from.y);
        for (const [x = 0, y = 0] of one(other).spans)
          expect(Math.hypot(x - centre.x, y - centre.y) - small / 2).toBeGreaterThan(apart - 0.05);
        // beyond what lies between, all of it lies in the two
        const between = apart * 0.6;
        expect(area(weld([part, bar, other])) - area(part) - area(other)).toBeLessThan(between + 0.4);
        expect(isInside(weld([part, bar, other]), (from.x + to.x) / 2, (from.y + to.y) / 2)).toBe(true);
      }),
      { numRuns: 80 },
    );
  });
});
