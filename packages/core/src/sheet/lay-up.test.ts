import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  bounds,
  boxesMeet,
  boxShape,
  mapOutline,
  mapPoint,
  parsePath,
  translation,
  weld,
  type Box,
  type Outline,
} from '../geometry/index.ts';
import { jobCode, layUp, marksBandMm, placeMarks, plainLetters, type LayUpProblem, type MarkKind } from './index.ts';

const flag = parsePath('M0 0L60 0L60 10L10 10L10 40L0 40Z');
const work = mapOutline(translation(-500, 900), flag);
const placed = (fields: Partial<LayUpProblem>): Outline[] => layUp(problem(fields)).placements.map((map) => mapOutline(map, work));
const problem = (fields: Partial<LayUpProblem> = {}): LayUpProblem => ({
  outlines: [work],
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
      const [one] = placed(fields) as [Outline];
      const b = bounds(one);
      return [b.maxX - b.minX, b.maxY - b.minY, Math.abs(area(one))].map((n) => Math.round(n * 1e6) / 1e6);
    };
    expect(size({ turnDeg: 90 })).toEqual([40, 60, 900]);
    expect(size({ mirror: true })).toEqual([60, 40, 900]);
  });

  test('mirrored work has its left edge on the right', () => {
    const [one] = placed({ mirror: true }) as [Outline];
    expect(one.contours[0]?.spans.some((s) => s[0] === 70 && s[1] === 50)).toBe(true);
  });

  test('copies keep their gap, fill the width first and never overlap', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 0, max: 30 }),
        fc.constantFrom(0, 90, 180, 270),
        fc.integer({ min: 100, max: 900 }),
        (copies, gapMm, turn, width) => {
          const { placements, overWidthMm, across } = layUp(
            problem({ copies, gapMm, turnDeg: turn as 0, materialWidthMm: width, materialLengthMm: 1e6 }),
          );
          expect(placements.length).toBe(copies);
          expect(overWidthMm).toBe(0);
          expect(across).toBe(Math.min(copies, Math.floor((width - 20 + gapMm) / ((turn % 180 === 0 ? 40 : 60) + gapMm))));
          const boxes = placements.map((map) => bounds(mapOutline(map, work)));
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
    const laid = layUp(problem({ outlines: [boxShape(700, 620)], materialLengthMm: 600 }));
    expect([laid.overWidthMm, laid.overLengthMm]).toEqual([30, 120]);
  });

  test('room for marks is kept on every side, and before the work for a code', () => {
    const { box, usedLengthMm } = layUp(problem({ bandMm: 9, leadMm: 14 }));
    expect([box.minX, box.minY, usedLengthMm]).toEqual([33, 19, 112]);
    expect(layUp(problem({ bandMm: 9, materialWidthMm: 70 })).overWidthMm).toBe(8);
  });

  test('a place on the roll leads back to the drawing', () => {
    const [placing] = layUp(problem({ turnDeg: 90, mirror: true })).placements;
    expect(mapPoint(placing ?? [1, 0, 0, 1, 0, 0], { x: -500, y: 900 })).toEqual({ x: 50, y: 70 });
  });
});

describe('registration marks', () => {
  const frame: Box = { minX: 0, minY: 0, maxX: 3000, maxY: 1400 };

  test('lie round the work at their distance, the first nearest to the start, and keep clear of it', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<MarkKind>('corners-in', 'corners-out', 'dots', 'crosses'),
        fc.constantFrom(2, 3, 4),
        fc.integer({ min: 100, max: 900 }),
        fc.integer({ min: 80, max: 600 }),
        fc.integer({ min: 3, max: 20 }),
        (kind, count, width, height, distanceMm) => {
          const work: Box = { minX: 120, minY: 100, maxX: 120 + width, maxY: 100 + height };
          const settings = { kind, armMm: 12, thicknessMm: 1, distanceMm };
          const marks = placeMarks({ ...settings, work, frame, count: count as 2 | 3 | 4 });
          expect(marks).toHaveLength(count);
          expect(marks[0]!.centre.x).toBe(Math.min(...marks.map(({ centre }) => centre.x)));
          expect(marks[0]!.centre.y).toBe(Math.min(...marks.map(({ centre }) => centre.y)));
          const band = marksBandMm(settings);
          for (const { outline, clear } of marks) {
            expect(boxesMeet(clear, work)).toBe(false);
            const ink = bounds(outline);
            expect(ink.minX).toBeGreaterThanOrEqual(work.minX - band - 1e-6);
            expect(ink.maxY).toBeLessThanOrEqual(work.maxY + band + 1e-6);
            const away = Math.max(work.minX - ink.maxX, ink.minX - work.maxX, work.minY - ink.maxY, ink.minY - work.maxY);
            expect(away).toBeGreaterThan(distanceMm - 1e-6 - (kind === 'corners-in' ? 12 : 0));
          }
        },
      ),
      { seed: 41, numRuns: 40 },
    );
  });

  test('mid marks stand no farther apart than asked; marks off the material are refused', () => {
    const work: Box = { minX: 50, minY: 50, maxX: 2050, maxY: 500 };
    const settings = { kind: 'dots' as const, armMm: 6, thicknessMm: 1, distanceMm: 8, work, count: 4 as const };
    const xs = [...new Set(placeMarks({ ...settings, frame, midSpacingMm: 400 }).map(({ centre }) => Math.round(centre.x)))].sort(
      (a, b) => a - b,
    );
    expect(Math.max(...xs.slice(1).map((x, i) => x - xs[i]!))).toBeLessThanOrEqual(401);
    expect(() => placeMarks({ ...settings, frame: { ...frame, maxY: 505 } })).toThrow(expect.objectContaining({ code: 'input.marks' }));
  });

  test('the job code is a square of dark modules, figures are as high as asked', () => {
    const { outline, sizeMm } = jobCode('402918-1', 0.8);
    const box = bounds(outline);
    expect([box.minX, box.minY, box.maxX, box.maxY].map((n) => Math.round(n * 1e6) / 1e6)).toEqual([0, 0, 9.6, 9.6]);
    const dark = Math.abs(area(outline)) / sizeMm ** 2;
    expect(dark).toBeGreaterThan(0.35);
    expect(dark).toBeLessThan(0.7);
    const figures = bounds(plainLetters('402918-1', 3));
    expect(figures.maxY - figures.minY).toBeCloseTo(3 * 1.16, 2);
    for (const kind of ['data-matrix', 'qr'] as const) {
      const made = jobCode('773004-12', 0.5, kind).outline;
      // squares that meet are one, none lies on another, and every side runs along the grid
      expect(Math.abs(area(weld([made])))).toBeCloseTo(Math.abs(area(made)), 6);
      for (const { spans } of made.contours)
        for (const [x0, y0, x1, y1] of spans as readonly (readonly [number, number, number, number])[])
          expect(x0 === x1 || y0 === y1).toBe(true);
    }
    expect(() => jobCode('ü', 1)).toThrow(expect.objectContaining({ code: 'input.code' }));
  });
});
