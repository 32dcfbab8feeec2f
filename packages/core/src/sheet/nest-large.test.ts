/** Large parts among small ones: as short as the best of all orders, and left alone where they hinder nothing. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, flatten, type Outline } from '../geometry/index.ts';
import { randomFrom } from '../search/random.ts';
import { Grid, lay, type Entry, type Shape } from './nest-grid.ts';
import { largeFirst, type LargeProblem, type Turned } from './nest-large.ts';

const TOLERANCE = 0.05;
const shapeOf = (outline: Outline): Shape => ({ outline, lines: flatten(outline, TOLERANCE), areaMm2: 1 });
const plate = (length: number, across: number): Shape => shapeOf(boxShape(length, across));
const strip = { widthMm: 300, gapMm: 2 };

/** The plates and as many stickers, the plates first. */
function among(plates: readonly Shape[], fields: Partial<LargeProblem> = {}): LargeProblem {
  const things = [...plates, ...plates.map(() => plate(10, 10))];
  let asked = 0;
  return {
    grid: new Grid(things, strip, 300, TOLERANCE),
    order: things.map((_, thing) => ({ thing, copy: 0 })),
    strip,
    turns: [0],
    usedMm: Infinity,
    tolerance: TOLERANCE,
    random: randomFrom(5),
    isOver: () => ++asked > 8000,
    ...fields,
  };
}

const lengthOf = (grid: Grid, sequence: readonly Turned[]): number => {
  const turnOf = new Map(sequence.map(({ entry, turnDeg }) => [entry, [turnDeg]]));
  const found = lay(
    grid,
    sequence.map(({ entry }) => entry),
    (entry) => turnOf.get(entry) ?? [],
  );
  return found && found.leftOut.length === 0 ? found.usedLengthMm : Infinity;
};

function* ordersOf(entries: readonly Entry[]): Generator<Entry[]> {
  if (entries.length === 0) yield [];
  for (const [i, entry] of entries.entries())
    for (const rest of ordersOf([...entries.slice(0, i), ...entries.slice(i + 1)])) yield [entry, ...rest];
}

const anyPlates = fc
  .array(fc.record({ length: fc.integer({ min: 100, max: 150 }), across: fc.integer({ min: 70, max: 150 }) }), {
    minLength: 3,
    maxLength: 5,
  })
  .map((sizes) => sizes.map(({ length, across }) => plate(length, across)));

describe('large parts first', () => {
  test('they lie about as short as in the best of all orders on the coarse grid', () => {
    fc.assert(
      fc.property(anyPlates, (plates) => {
        const { grid, order } = among(plates);
        const coarse = new Grid(grid.things, strip, 100, TOLERANCE);
        const orders = [...ordersOf(order.slice(0, plates.length))].map((entries) => entries.map((entry) => ({ entry, turnDeg: 0 })));
        const best = Math.min(...orders.map((sequence) => lengthOf(coarse, sequence)));
        const usedMm = lengthOf(grid, orders[0]!);
        const found = largeFirst(among(plates, { usedMm }));
        // what is asked for is shorter than before, and good enough from a share of it on
        expect(found ? lengthOf(grid, found) : usedMm).toBeLessThanOrEqual(Math.max(1.03 * best, 0.93 * usedMm));
      }),
      { numRuns: 10, seed: 11 },
    );
  });

  test('every large part is in it once, in an allowed turn, and no small one', () => {
    fc.assert(
      fc.property(anyPlates, fc.constantFrom([0], [0, 90], [0, 90, 180, 270]), (plates, turns) => {
        const found = largeFirst(among(plates, { turns, usedMm: 10_000, isOver: endsAfter(400) }));
        // a strip so much longer than the plates is not so long because of them
        expect(found).toBeUndefined();
        const { grid, order } = among(plates);
        const usedMm = lengthOf(
          grid,
          order.slice(0, plates.length).map((entry) => ({ entry, turnDeg: 0 })),
        );
        const better = largeFirst(among(plates, { turns, usedMm, isOver: endsAfter(4000) }));
        if (!better) return;
        expect(better.map(({ entry }) => entry.thing).sort()).toEqual(plates.map((_, i) => i));
        for (const { turnDeg } of better) expect(turns).toContain(turnDeg);
        expect(lengthOf(grid, better)).toBeLessThan(usedMm);
      }),
      { numRuns: 15, seed: 12 },
    );
  });

  test('where nearly all parts are large, or only one is, there is nothing to lay first', () => {
    const alike = Array.from({ length: 6 }, () => plate(100, 100));
    const { grid, order, ...rest } = among(alike);
    expect(largeFirst({ ...rest, grid, order: order.slice(0, alike.length), usedMm: 320 })).toBeUndefined();
    expect(largeFirst(among([plate(150, 150)], { usedMm: 151 }))).toBeUndefined();
  });

  test('it ends by itself when no order is shorter, and before it begins where what is fixed reaches as far', () => {
    const plates = [plate(140, 120), plate(140, 120)];
    let asked = 0;
    const fields = { usedMm: 141, isOver: () => ++asked > 1e6 };
    largeFirst(among([...plates], fields));
    expect(asked).toBeLessThan(20_000);
    asked = 0;
    const { order, ...rest } = among(plates, fields);
    const withFixed = { ...strip, fixed: [boxShape(141, 20)] };
    expect(largeFirst({ ...rest, order, strip: withFixed })).toBeUndefined();
    expect(asked).toBe(0);
  });

  test('a stop ends it at once', () => {
    let asked = 0;
    const plates = [plate(140, 120), plate(120, 140), plate(150, 100), plate(130, 130)];
    expect(largeFirst(among(plates, { usedMm: 290, isOver: () => ++asked > 0 }))).toBeUndefined();
    expect(asked).toBeLessThan(10);
  });
});

function endsAfter(looks: number): () => boolean {
  let asked = 0;
  return () => ++asked > looks;
}
