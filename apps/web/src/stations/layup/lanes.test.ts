/** Rolls below one another: none on another, every one found where it lies, all of its work on it. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { standInForBrowser } from '../../browser.support.ts';
import type * as Lanes from './lanes.ts';

standInForBrowser();
let lanes: typeof Lanes;
beforeAll(async () => {
  lanes = await import('./lanes.ts');
});

const sheet = fc
  .record({
    widthMm: fc.integer({ min: 100, max: 1600 }),
    lengthMm: fc.integer({ min: 200, max: 50_000 }),
    used: fc.integer({ min: 0, max: 200 }),
    isCut: fc.boolean(),
  })
  .map(
    ({ widthMm, lengthMm, used, isCut }) =>
      ({
        material: { widthMm, lengthMm },
        usedLengthMm: (lengthMm * used) / 200,
        layUp: { sheetLengthMm: isCut ? lengthMm : null },
      }) as unknown as SheetPlan,
  );
const some = fc.array(sheet, { minLength: 1, maxLength: 8 });

describe('lanes', () => {
  test('none lies on another, and each shows all of its work', () => {
    fc.assert(
      fc.property(some, (sheets) => {
        const all = lanes.lanesOf(sheets);
        expect(all.map((lane) => lane.sheet)).toEqual(sheets);
        all.forEach((lane, i) => {
          const next = all[i + 1];
          if (next) expect(lane.y + lane.sheet.material.widthMm).toBeLessThan(next.y);
          expect(lane.lengthMm).toBeGreaterThanOrEqual(lane.sheet.usedLengthMm - 1e-9);
          expect(lane.lengthMm).toBeLessThanOrEqual(lane.sheet.material.lengthMm);
        });
      }),
    );
  });

  test('what lies on a lane is found on it, what lies beside all of them on none', () => {
    fc.assert(
      fc.property(some, fc.double({ min: 0, max: 1, noNaN: true }), (sheets, share) => {
        const all = lanes.lanesOf(sheets);
        for (const lane of all) expect(lanes.laneAt(all, { x: 0, y: lane.y + share * lane.sheet.material.widthMm })).toBe(lane);
        const { maxY } = lanes.boxOfLanes(all);
        expect(lanes.laneAt(all, { x: 0, y: -100 })).toBeUndefined();
        expect(lanes.laneAt(all, { x: 0, y: maxY + 100 })).toBeUndefined();
      }),
    );
  });

  test('their box holds all of them; without any there is still something to look at', () => {
    fc.assert(
      fc.property(some, (sheets) => {
        const all = lanes.lanesOf(sheets);
        const box = lanes.boxOfLanes(all);
        for (const lane of all) {
          expect(lane.y).toBeGreaterThanOrEqual(box.minY);
          expect(lane.y + lane.sheet.material.widthMm).toBeLessThanOrEqual(box.maxY);
          expect(lane.lengthMm).toBeLessThanOrEqual(box.maxX);
        }
      }),
    );
    const none = lanes.boxOfLanes([]);
    expect(none.maxX - none.minX).toBeGreaterThan(0);
    expect(none.maxY - none.minY).toBeGreaterThan(0);
  });
});
