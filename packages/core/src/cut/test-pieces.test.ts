/** Small pieces that try a tool out: what they are to show can be seen on them. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds, joinBoxes } from '../geometry/outline.ts';
import { bladeTest, CALIBRATION, calibrationSquare, TEST_CUT_MM, testCut } from './test-pieces.ts';

test('the test cut is a closed triangle within a closed square of its size, from the origin on', () => {
  const { contours } = testCut();
  expect(contours.map(({ closed, spans }) => [closed, spans.length])).toEqual([
    [true, 3],
    [true, 4],
  ]);
  expect(bounds(testCut())).toEqual({ minX: 0, minY: 0, maxX: TEST_CUT_MM, maxY: TEST_CUT_MM });
});

test('tries of a blade step evenly about what is set, never below nothing, and lie apart from one another', () => {
  const about = fc.integer({ min: 0, max: 100 }).map((n) => n / 100);
  fc.assert(
    fc.property(
      about,
      fc.integer({ min: 1, max: 4 }).map((n) => n / 20),
      fc.integer({ min: 1, max: 7 }),
      (offset, step, count) => {
        const tries = bladeTest(offset, step, count);
        expect(tries).toHaveLength(count);
        const offsets = tries.map(({ bladeOffsetMm }) => bladeOffsetMm);
        expect(Math.min(...offsets)).toBeGreaterThanOrEqual(0);
        offsets.slice(1).forEach((value, i) => expect(value - (offsets[i] ?? 0)).toBeCloseTo(step, 6));
        // what is set is among them, unless that would go below nothing
        if (offset >= step * Math.floor(count / 2)) expect(offsets.some((value) => Math.abs(value - offset) < 1e-6)).toBe(true);
        const boxes = tries.map(({ outline }) => bounds(outline));
        boxes.slice(1).forEach((box, i) => expect(box.minX).toBeGreaterThan(boxes[i]?.maxX ?? 0));
      },
    ),
  );
});

test('each try is told by as many strokes as its place, and has corners that show a wrong offset', () => {
  bladeTest(0.25).forEach(({ outline }, i) => {
    expect(outline.contours.filter(({ closed }) => !closed)).toHaveLength(i + 1);
    expect(outline.contours.filter(({ closed }) => closed).map(({ spans }) => spans.length)).toEqual([10, 4]);
  });
});

test('a calibration square has its cross in its middle, wherever that is', () => {
  fc.assert(
    fc.property(fc.integer({ min: -500, max: 500 }), fc.integer({ min: -500, max: 500 }), (x, y) => {
      const { contours } = calibrationSquare({ x, y });
      const [square, ...cross] = contours.map((contour) => bounds({ contours: [contour] }));
      const { halfMm, armMm } = CALIBRATION;
      expect(square).toEqual({ minX: x - halfMm, minY: y - halfMm, maxX: x + halfMm, maxY: y + halfMm });
      expect(cross.reduce(joinBoxes)).toEqual({ minX: x - armMm, minY: y - armMm, maxX: x + armMm, maxY: y + armMm });
    }),
  );
});
