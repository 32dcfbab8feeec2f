/** Outlines whose contours cross themselves or one another, against the weld of all of them. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { crossingPairs } from '../check/cut-check.ts';
import { area, contourArea, parsePath, reverseContour, weld, type Contour, type Outline } from '../geometry/index.ts';
import { withoutCrossings } from './crossings.ts';

const plate = parsePath('M0 0L100 0L100 80L0 80Z').contours[0] as Contour;
const far = parsePath('M200 0L230 0L230 30L200 30Z').contours[0] as Contour;
/** A ring through some places well within the plate, that may cross itself; on the whole it runs the way that is wanted. */
const ringOf = (places: readonly (readonly [number, number])[], isHole: boolean): Contour => {
  const ring = parsePath(`M${places.map(([x, y]) => `${10 + x} ${10 + y}`).join('L')}Z`).contours[0] as Contour;
  return contourArea(ring) < 0 === isHole ? ring : reverseContour(ring);
};
const place = fc.tuple(fc.integer({ min: 0, max: 80 }), fc.integer({ min: 0, max: 60 }));
const places = fc.uniqueArray(place, { minLength: 4, maxLength: 9, selector: ([x, y]) => 1000 * x + y });

const isClean = (outline: Outline): boolean => crossingPairs(outline).length === 0;

describe('contours that cross', () => {
  // Law: welding those that cross alone leaves what welding everything leaves
  test('a hole that crosses itself is cut out of its plate alone, as with all the rest', () => {
    fc.assert(
      fc.property(places, (list) => {
        const hole = ringOf(list, true);
        fc.pre(Math.abs(contourArea(hole)) > 20);
        const outline: Outline = { contours: [plate, far, hole] };
        const clean = withoutCrossings(outline, 1);
        expect(isClean(clean)).toBe(true);
        expect(clean.contours).toContain(far);
        expect(Math.abs(area(clean) - area(weld([outline])))).toBeLessThan(0.5);
      }),
      { numRuns: 60 },
    );
  });

  // what lies within another without crossing it stays there and covers nothing more, so covers are compared, not sums
  test('so are two that cross one another', () => {
    fc.assert(
      fc.property(places, places, (one, other) => {
        const [a, b] = [ringOf(one, false), ringOf(other, false)];
        fc.pre(Math.min(contourArea(a), contourArea(b)) > 20 && !isClean({ contours: [a, b] }));
        const outline: Outline = { contours: [far, a, b] };
        const clean = withoutCrossings(outline, 1);
        expect(isClean(clean)).toBe(true);
        expect(Math.abs(area(weld([clean])) - area(weld([outline])))).toBeLessThan(0.5);
      }),
      {
        numRuns: 60,
        examples: [
          [
            [
              [0, 0],
              [77, 22],
              [0, 57],
              [0, 1],
            ],
            [
              [0, 26],
              [0, 28],
              [1, 1],
              [2, 19],
            ],
          ],
        ],
      },
    );
  });

  test('what does not cross stays as it is', () => {
    const outline: Outline = { contours: [plate, far] };
    expect(withoutCrossings(outline, 1)).toBe(outline);
  });
});
