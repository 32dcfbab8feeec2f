import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, bounds, boxShape, joinOutlines, mapOutline, mapPoint, parsePath, translation } from '../geometry/index.ts';
import { layUp, type LayUpProblem } from './index.ts';

const flag = parsePath('M0 0L60 0L60 10L10 10L10 40L0 40Z');
const problem = (fields: Partial<LayUpProblem> = {}): LayUpProblem => ({
  parts: [{ id: 'a', outline: mapOutline(translation(-500, 900), flag) }],
  materialWidthMm: 610,
  materialLengthMm: 5000,
  marginMm: 10,
  turnDeg: 0,
  mirror: false,
  copies: 1,
  gapMm: 5,
  ...fields,
});

describe('laying up', () => {
  test('the work sits in the corner of the margin, whatever its place on the drawing', () => {
    const { box, usedLengthMm } = layUp(problem());
    expect([box.minX, box.minY, usedLengthMm]).toEqual([10, 10, 80]);
  });

  test('a quarter turn swaps the sides, a mirror keeps them; both keep the area', () => {
    const size = (fields: Partial<LayUpProblem>): number[] => {
      const { parts } = layUp(problem(fields));
      const b = bounds(joinOutlines(parts.map((p) => p.outline)));
      return [b.maxX - b.minX, b.maxY - b.minY, area(joinOutlines(parts.map((p) => p.outline)))].map((n) => Math.round(n * 1e6) / 1e6);
    };
    expect(size({ turnDeg: 90 })).toEqual([40, 60, 900]);
    expect(size({ mirror: true })).toEqual([60, 40, 900]);
  });

  test('mirrored work has its left edge on the right', () => {
    const { parts } = layUp(problem({ mirror: true }));
    expect(parts[0]?.outline.contours[0]?.spans.some((s) => s[0] === 70 && s[1] === 50)).toBe(true);
  });

  test('copies keep their gap, fill the width first and never overlap', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 0, max: 30 }),
        fc.constantFrom(0, 90, 180, 270),
        fc.integer({ min: 100, max: 900 }),
        (copies, gapMm, turn, width) => {
          const { parts, overWidthMm, across } = layUp(
            problem({ copies, gapMm, turnDeg: turn as 0, materialWidthMm: width, materialLengthMm: 1e6 }),
          );
          expect(parts.length).toBe(copies);
          expect(overWidthMm).toBe(0);
          expect(across).toBe(Math.min(copies, Math.floor((width - 20 + gapMm) / ((turn % 180 === 0 ? 40 : 60) + gapMm))));
          const boxes = parts.map((p) => bounds(p.outline));
          boxes.forEach((a, i) => {
            for (const b of boxes.slice(i + 1)) {
              const apart = Math.max(b.minX - a.maxX, a.minX - b.maxX, b.minY - a.maxY, a.minY - b.maxY);
              expect(apart).toBeGreaterThanOrEqual(gapMm - 1e-6);
            }
          });
        },
      ),
      { numRuns: 60, seed: 31 },
    );
  });

  test('a weed box goes round each copy and counts for the used length', () => {
    const { weedBoxes, usedLengthMm, box } = layUp(problem({ copies: 3, weedBoxMm: 4 }));
    expect(weedBoxes.length).toBe(3);
    expect(bounds(weedBoxes[0] ?? { contours: [] })).toEqual({ minX: 10, minY: 10, maxX: 78, maxY: 58 });
    expect(usedLengthMm).toBe(box.maxX + 10);
  });

  test('too large is said in mm each way', () => {
    const laid = layUp(problem({ parts: [{ id: 'a', outline: boxShape(700, 620) }], materialLengthMm: 600 }));
    expect([laid.overWidthMm, laid.overLengthMm]).toEqual([30, 120]);
  });

  test('a place on the roll leads back to the drawing', () => {
    const { placing } = layUp(problem({ turnDeg: 90, mirror: true }));
    expect(mapPoint(placing, { x: -500, y: 900 })).toEqual({ x: 50, y: 70 });
  });
});
