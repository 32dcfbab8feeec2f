/** What tears or is lost when it is weeded, told from what is not: stretches, gaps, islands and small parts of any size and turn. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, compose, knockOut, mapOutline, ovalShape, rotation, translation, weld, type Outline } from '../geometry/index.ts';
import type { CheckPart } from './cut-check.ts';
import { findIslands, findThin, findTiny, type Spot } from './weeding.ts';

const part = (id: string, outline: Outline): CheckPart => ({ id, name: id, outline });
const limits = (thinnestMm: number, smallestPartMm = 2) => ({ thinnestMm, smallestPartMm });
const number = (min: number, max: number) => fc.integer({ min: min * 100, max: max * 100 }).map((n) => n / 100);
const deg = fc.integer({ min: 0, max: 359 });
const fresh = (): Map<string, readonly Spot[]> => new Map();
const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
const turned = (by: number, outline: Outline): Outline => mapOutline(compose(translation(70, -30), rotation(by)), outline);

/** Two plates with a strip of a width between them. */
const dumbbell = (widthMm: number, lengthMm = 20): Outline =>
  weld([boxShape(20, 20), at(20 + lengthMm, 0, boxShape(20, 20)), at(19, 10 - widthMm / 2, boxShape(lengthMm + 2, widthMm))]);

describe('stretches', () => {
  test('thinner than the limit are found wherever they lie, wider ones are not', () => {
    fc.assert(
      fc.property(number(0.4, 3), number(0.15, 0.8), number(1.2, 3), deg, (limit, thinner, wider, by) => {
        const found = (share: number) => findThin([part('bar', turned(by, dumbbell(share * limit)))], limits(limit), fresh());
        const thin = found(thinner);
        expect(thin.map(({ code }) => code)).toEqual(['thin-part']);
        expect(thin[0]!.parts).toEqual(['bar']);
        expect(found(wider)).toEqual([]);
      }),
      { seed: 21, numRuns: 40 },
    );
  });

  test('are shown where they are: in the middle of the strip', () => {
    const [thin] = findThin([part('bar', dumbbell(0.5))], limits(1), fresh());
    expect(thin?.place?.x).toBeGreaterThan(20);
    expect(thin?.place?.x).toBeLessThan(40);
    expect(thin?.place?.y).toBeCloseTo(10, 0);
    expect(thin?.text).toMatch(/thinner than 1 mm/);
  });

  test('no limit, nothing is thin', () => {
    expect(findThin([part('bar', dumbbell(0.01))], limits(0), fresh())).toEqual([]);
  });
});

describe('gaps', () => {
  test('between parts narrower than the limit are found and name both, wider ones are not', () => {
    fc.assert(
      fc.property(number(0.5, 3), number(0.2, 0.8), number(1.2, 3), deg, (limit, narrow, wide, by) => {
        const found = (share: number) =>
          findThin(
            [part('left', turned(by, boxShape(20, 20))), part('right', turned(by, at(20 + share * limit, 0, boxShape(20, 20))))],
            limits(limit),
            fresh(),
          );
        const gap = found(narrow);
        expect(gap.map(({ code }) => code)).toEqual(['thin-gap']);
        expect([...gap[0]!.parts].sort()).toEqual(['left', 'right']);
        expect(found(wide)).toEqual([]);
      }),
      { seed: 22, numRuns: 40 },
    );
  });

  test('what was looked at once is known again: the same letters elsewhere cost no second look, and have their own places', () => {
    const known = fresh();
    const first = findThin([part('bar', dumbbell(0.5))], limits(1), known);
    const looks = known.size;
    const again = findThin([part('bar', at(300, 40, dumbbell(0.5)))], limits(1), known);
    expect(known.size).toBe(looks);
    expect(again[0]!.place!.x).toBeCloseTo(first[0]!.place!.x + 300, 3);
    expect(again[0]!.place!.y).toBeCloseTo(first[0]!.place!.y + 40, 3);
  });
});

describe('small parts', () => {
  test('are those whose area is below the smallest squared; counters are said to be counters', () => {
    fc.assert(
      fc.property(number(1, 6), number(0.3, 12), (smallest, side) => {
        fc.pre(Math.abs(side - smallest) > 0.01);
        const found = findTiny([part('dot', boxShape(side, side))], limits(1, smallest));
        expect(found.map(({ code }) => code)).toEqual(side < smallest ? ['tiny-part'] : []);
      }),
    );
    const holed = knockOut(boxShape(30, 30), [at(10, 10, ovalShape(1.2, 1.2))]);
    const [counter] = findTiny([part('plate', holed)], limits(1, 2));
    expect(counter?.text).toMatch(/counter/);
  });

  test('that lie alone within a counter come off with it: told for small ones, not for large ones, nor for those outside', () => {
    const ring = knockOut(boxShape(60, 60), [at(5, 5, boxShape(50, 50))]);
    const island = (side: number, x: number): string[] =>
      findIslands([part('ring', ring), part('isle', at(x, 25, boxShape(side, side)))], limits(1, 2)).map(({ code }) => code);
    expect(island(4, 25)).toEqual(['island']);
    expect(island(20, 25)).toEqual([]);
    expect(island(4, 90)).toEqual([]);
    // below the smallest it is lost anyway, and said so by another finding
    expect(island(1, 25)).toEqual([]);
  });
});
