/** Rolls below one another, sheets of one beside one another: none on another, every one found where it lies, all of its work on it. */
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
    of: fc.oneof(fc.constant(1), fc.integer({ min: 2, max: 40 })),
  })
  .map(({ widthMm, lengthMm, used, isCut, of }) =>
    Array.from(
      { length: of },
      (_, number) =>
        ({
          material: { widthMm, lengthMm },
          usedLengthMm: (lengthMm * used) / 200,
          layUp: { sheetLengthMm: isCut ? lengthMm : null },
          number,
          of,
        }) as unknown as SheetPlan,
    ),
  );
/** Of some films, one or more sheets of each. */
const some = fc
  .array(sheet, { minLength: 1, maxLength: 5 })
  .map((banks) => banks.flatMap((bank, i) => bank.map((one): SheetPlan => ({ ...one, layer: { id: `film-${i}` } as SheetPlan['layer'] }))));

describe('lanes', () => {
  test('none lies on another, and each shows all of its work', () => {
    fc.assert(
      fc.property(some, (sheets) => {
        const all = lanes.lanesOf(sheets);
        expect(all.map((lane) => lane.sheet)).toEqual(sheets);
        all.forEach((lane, i) => {
          for (const other of all.slice(i + 1)) {
            const isBeside = lane.x + lane.lengthMm < other.x || other.x + other.lengthMm < lane.x;
            expect(isBeside || lane.y + lane.sheet.material.widthMm < other.y || other.y + other.sheet.material.widthMm < lane.y).toBe(
              true,
            );
          }
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
        for (const lane of all) {
          const at = { x: lane.x + share * lane.lengthMm, y: lane.y + share * lane.sheet.material.widthMm };
          expect(lanes.laneAt(all, at)).toBe(lane);
        }
        const { maxY } = lanes.boxOfLanes(all);
        expect(lanes.laneAt(all, { x: 0, y: -100 })).toBeUndefined();
        expect(lanes.laneAt(all, { x: 0, y: maxY + 100 })).toBeUndefined();
      }),
    );
  });

  test('many sheets lie so that their box is neither a column nor a row', () => {
    const many = Array.from({ length: 334 }, (_, number) => ({
      material: { widthMm: 1370, lengthMm: 170 },
      usedLengthMm: 147,
      layUp: { sheetLengthMm: 170 },
      layer: { id: 'print-p' },
      number,
      of: 334,
    })) as unknown as SheetPlan[];
    const all = lanes.lanesOf(many);
    const { maxX, maxY } = lanes.boxOfLanes(all);
    expect(maxX / maxY).toBeGreaterThan(0.9);
    expect(maxX / maxY).toBeLessThan(2);
    // as one reads: the first at the left of the top, the next one beside it
    expect([all[0]!.x, all[0]!.y + 1370]).toEqual([0, maxY]);
    expect([all[1]!.x > all[0]!.x, all[1]!.y]).toEqual([true, all[0]!.y]);
  });

  test('what they are called: one sheet with what is used of it, several at once, and mirrored is always said', () => {
    const one = {
      layer: { series: 'Chartroom print', name: 'Window clear' },
      material: { widthMm: 1370 },
      usedLengthMm: 1152.34,
      of: 1,
    } as unknown as SheetPlan;
    expect(lanes.describeLane(one, false, 'mm')).toBe('Chartroom print Window clear  ·  1370 mm wide  ·  1152.3 mm used');
    const several = { ...one, of: 5 };
    expect(lanes.describeLane(several, false, 'mm')).toBe('Chartroom print Window clear  ·  5 sheets  ·  1370 mm wide');
    for (const sheet of [one, several]) expect(lanes.describeLane(sheet, true, 'mm')).toMatch(/mirrored$/);
  });

  test('their box holds all of them; without any there is still something to look at', () => {
    fc.assert(
      fc.property(some, (sheets) => {
        const all = lanes.lanesOf(sheets);
        const box = lanes.boxOfLanes(all);
        for (const lane of all) {
          expect(lane.y).toBeGreaterThanOrEqual(box.minY);
          expect(lane.y + lane.sheet.material.widthMm).toBeLessThanOrEqual(box.maxY);
          expect(lane.x + lane.lengthMm).toBeLessThanOrEqual(box.maxX);
        }
      }),
    );
    const none = lanes.boxOfLanes([]);
    expect(none.maxX - none.minX).toBeGreaterThan(0);
    expect(none.maxY - none.minY).toBeGreaterThan(0);
  });
});

describe('names of rolls', () => {
  test('law: of rolls that are seen whole, a name is in sight: over its roll, beside it, or on it', () => {
    fc.assert(
      fc.property(some, fc.integer({ min: 60, max: 400 }), (sheets, widthPx) => {
        const size = { width: 760, height: 690 };
        const all = lanes.lanesOf(sheets.filter(({ of }) => of === 1));
        fc.pre(all.length > 0);
        const { maxX, maxY } = lanes.boxOfLanes(all);
        const scale = Math.min((size.width - 60) / maxX, (size.height - 60) / maxY);
        const view = { scale, x: -40 / scale, y: -20 / scale } as Parameters<typeof lanes.labelAt>[1]['view'];
        for (const lane of all)
          for (const isTight of [false, true]) {
            const { x, isOnWork } = lanes.labelAt(lane, { view, size, isTight }, widthPx);
            expect(x).toBeGreaterThanOrEqual(28);
            expect(x + widthPx).toBeLessThanOrEqual(size.width);
            if (!isTight) expect(isOnWork).toBe(false);
          }
      }),
    );
  });
});
