/** Boxes on shelves, and what a nest is asked: what is no problem is refused, turns are what was allowed. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AppError } from '../errors/index.ts';
import { boxShape, bounds, compose, mapOutline, rotation, scaling, translation, type Box, type Outline } from '../geometry/index.ts';
import { asBefore, checkProblem, entriesOf, isTurn, turnsOf, type NestProblem } from './nest-problem.ts';
import { onShelves, type ShelfPart } from './nest-shelves.ts';

const anySide = fc.integer({ min: 5, max: 120 });
const anyPart = fc.record({
  width: anySide,
  height: anySide,
  at: fc.integer({ min: -500, max: 500 }),
  copies: fc.integer({ min: 1, max: 6 }),
});
const partOf = ({ width, height, at, copies }: { width: number; height: number; at: number; copies: number }): ShelfPart => ({
  outline: mapOutline(translation(at, -at), boxShape(width, height)),
  copies,
});
const strip = { widthMm: 100, gapMm: 3 };

/** How far two boxes are apart along the axis on which they are farthest; below zero where they overlap. */
const apart = (a: Box, b: Box): number => Math.max(a.minX - b.maxX, b.minX - a.maxX, a.minY - b.maxY, b.minY - a.maxY);

function laid(parts: readonly ShelfPart[], shelved: ReturnType<typeof onShelves>): Box[] {
  return shelved.placed.map(({ part, map }) => bounds(mapOutline(map, (parts[part] as ShelfPart).outline)));
}

describe('boxes on shelves', () => {
  test('every copy lies on the strip, the gap from all others, or is told to be left out', () => {
    fc.assert(
      fc.property(
        fc.array(anyPart, { minLength: 1, maxLength: 6 }),
        fc.constantFrom([0], [0, 90], [0, 90, 180, 270]),
        fc.constantFrom(undefined, 90, 250),
        (sizes, turns, lengthMm) => {
          const parts = sizes.map(partOf);
          const shelved = onShelves(parts, { ...strip, ...(lengthMm === undefined ? {} : { lengthMm }) }, turns);
          const boxes = laid(parts, shelved);
          const seen = [...shelved.placed, ...shelved.leftOut].map(({ part, copy }) => `${part} ${copy}`);
          expect(seen.slice().sort()).toEqual(
            parts.flatMap(({ copies }, i) => Array.from({ length: copies }, (_, k) => `${i} ${k}`)).sort(),
          );
          for (const [i, box] of boxes.entries()) {
            expect(Math.min(box.minX, box.minY, strip.widthMm - box.maxY, (lengthMm ?? Infinity) - box.maxX)).toBeGreaterThan(-1e-6);
            for (const other of boxes.slice(i + 1)) expect(apart(box, other)).toBeGreaterThan(strip.gapMm - 1e-6);
          }
          expect(shelved.usedLengthMm).toBeCloseTo(Math.max(0, ...boxes.map(({ maxX }) => maxX)), 6);
        },
      ),
      { numRuns: 150 },
    );
  });

  test('a part lies the way that takes least of the length, and one that fits across in no turn is left out', () => {
    const parts: ShelfPart[] = [
      { outline: boxShape(90, 20), copies: 1 },
      { outline: boxShape(150, 120), copies: 2 },
    ];
    const { placed, leftOut, usedLengthMm } = onShelves(parts, strip, [0, 90]);
    expect(placed.map(({ turnDeg }) => turnDeg)).toEqual([90]);
    expect(usedLengthMm).toBeCloseTo(20);
    expect(leftOut).toEqual([
      { part: 1, copy: 0 },
      { part: 1, copy: 1 },
    ]);
  });

  test('what lies on the strip already stays in front', () => {
    const fixed: Outline[] = [mapOutline(translation(10, 0), boxShape(60, 100))];
    const parts: ShelfPart[] = [{ outline: boxShape(30, 30), copies: 4 }];
    const shelved = onShelves(parts, { ...strip, fixed }, [0]);
    for (const box of laid(parts, shelved)) expect(box.minX).toBeGreaterThanOrEqual(70 + strip.gapMm);
    expect(shelved.placed).toHaveLength(4);
    expect(onShelves([], { ...strip, fixed }, [0]).usedLengthMm).toBeCloseTo(70);
  });
});

describe('what a nest is asked', () => {
  const problem: NestProblem = { parts: [], widthMm: 100, gapMm: 2, turnStepDeg: 0, intoHoles: false };
  const part = (id: string, copies?: number) => ({ id, outline: boxShape(10, 10), ...(copies === undefined ? {} : { copies }) });
  const codeOf = (fields: Partial<NestProblem>): string => {
    try {
      checkProblem({ ...problem, ...fields });
      return '';
    } catch (error) {
      if (error instanceof AppError) return error.code;
      throw error;
    }
  };

  test('what is no width, length, gap, turn or number is refused by its code', () => {
    expect(codeOf({})).toBe('');
    for (const widthMm of [0, -1, NaN, Infinity]) expect(codeOf({ widthMm })).toBe('input.width');
    for (const lengthMm of [0, -5, NaN]) expect(codeOf({ lengthMm })).toBe('input.length');
    for (const gapMm of [-0.1, NaN, Infinity]) expect(codeOf({ gapMm })).toBe('input.gap');
    for (const turnStepDeg of [-90, 0.5, 361, NaN]) expect(codeOf({ turnStepDeg })).toBe('input.turn');
    for (const copies of [0, -1, 1.5, NaN]) expect(codeOf({ parts: [part('a', copies)] })).toBe('input.copies');
    expect(codeOf({ parts: [part('a', 1999), part('b')] })).toBe('');
    expect(codeOf({ parts: [part('a', 2000), part('b')] })).toBe('limit.parts');
    expect(codeOf({ parts: [part('a', 100_000)] })).toBe('limit.parts');
  });

  test('turns are the multiples of the step, each once, none whole round', () => {
    expect(turnsOf(0)).toEqual([0]);
    expect(turnsOf(360)).toEqual([0]);
    expect(turnsOf(90)).toEqual([0, 90, 180, 270]);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 360 }), (step) => {
        const turns = turnsOf(step);
        expect(new Set(turns).size).toBe(turns.length);
        for (const [i, deg] of turns.entries()) expect([deg, deg < 360]).toEqual([i * step, true]);
      }),
    );
  });

  test('a map is a turn when it only turns and moves', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 359 }), fc.integer({ min: -999, max: 999 }), (deg, by) => {
        const map = compose(translation(by, -by), rotation(deg));
        expect(isTurn(map, deg)).toBe(true);
        expect(isTurn(map, deg + 1)).toBe(false);
        expect(isTurn(compose(scaling(-1, 1), map), deg)).toBe(false);
        expect(isTurn(compose(scaling(1.01, 1.01), map), deg)).toBe(false);
      }),
    );
  });

  test('parts go the largest first, a copy of each entry; what was laid before goes in its order, what is new after it', () => {
    const parts = [part('small', 2), { id: 'large', outline: boxShape(50, 50) }, { id: 'none', outline: { contours: [] } }];
    const { ids, things, order } = entriesOf({ ...problem, parts }, 0.1);
    expect(ids).toEqual(['large', 'small']);
    expect(things.map(({ areaMm2 }) => Math.round(areaMm2))).toEqual([2500, 100]);
    expect(order.map(({ thing, copy }) => `${ids[thing]} ${copy}`)).toEqual(['large 0', 'small 0', 'small 1']);
    const before = [
      { id: 'small', copy: 1 },
      { id: 'gone', copy: 0 },
      { id: 'large', copy: 0 },
    ];
    expect(asBefore(order, ids, before).map(({ thing, copy }) => `${ids[thing]} ${copy}`)).toEqual(['small 1', 'large 0', 'small 0']);
  });
});
