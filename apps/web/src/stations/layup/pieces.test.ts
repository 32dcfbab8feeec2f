/** Pieces on the material: hits, snapping and what a drag lights, as laws. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, translation, type Box, type Outline, type Point } from '@lorvek/core/geometry';
import type { LayPart, Placement } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { boxOfPieces, chosenPieces, keyOf, litWhile, pieceAt, piecesOn, shifted, snapped } from './pieces.ts';

const number = (min: number, max: number) => fc.integer({ min: min * 8, max: max * 8 }).map((n) => n / 8);

/** A sheet as far as its pieces are looked at. */
function sheetOf(id: string, outlines: readonly Outline[], places: readonly (Point & { part: number })[]): SheetPlan {
  const parts = outlines.map((outline, i) => ({ id: `part-${i}`, sources: [{ outline }] }) as unknown as LayPart);
  const placements = places.map(
    ({ part, x, y }, copy) => ({ part: `part-${part}`, copy, sheet: 0, map: translation(x, y), locked: false }) as unknown as Placement,
  );
  return { id, layer: { id: `film-${id}` }, parts, placements, material: { widthMm: 600, lengthMm: 2000 } } as unknown as SheetPlan;
}

const sheets = fc
  .tuple(
    fc.array(fc.tuple(number(2, 90), number(2, 90)), { minLength: 1, maxLength: 4 }),
    fc.array(fc.record({ part: fc.nat(3), x: number(0, 400), y: number(0, 400) }), { minLength: 1, maxLength: 8 }),
  )
  .map(([sizes, places]) =>
    sheetOf(
      'a',
      sizes.map(([w, h]) => boxShape(w, h)),
      places.map((place) => ({ ...place, part: place.part % sizes.length })),
    ),
  );
const within = ({ minX, minY, maxX, maxY }: Box, { x, y }: Point): boolean => x >= minX && x <= maxX && y >= minY && y <= maxY;

describe('what lies under the pointer', () => {
  test('is the smallest piece that holds the place, and nothing where none does', () => {
    fc.assert(
      fc.property(sheets, number(0, 500), number(0, 500), (sheet, x, y) => {
        const all = piecesOn(sheet).map((piece) => ({ piece, box: boxOfPieces([piece])! }));
        const holding = all.filter(({ box }) => within(box, { x, y }));
        const area = ({ box }: { box: Box }): number => (box.maxX - box.minX) * (box.maxY - box.minY);
        const hit = pieceAt(sheet, { x, y }, 0);
        if (holding.length === 0) return expect(hit).toBeUndefined();
        const found = all.find(({ piece }) => piece.placement === hit?.placement)!;
        expect(within(found.box, { x, y })).toBe(true);
        expect(area(found)).toBe(Math.min(...holding.map(area)));
      }),
    );
  });

  test('keys tell all pieces of all sheets apart, and choose just those', () => {
    fc.assert(
      fc.property(sheets, fc.infiniteStream(fc.boolean()), (sheet, lots) => {
        const other = { ...sheet, layer: { ...sheet.layer, id: 'film-b' } } as SheetPlan;
        const all = [sheet, other].flatMap(piecesOn);
        const keys = all.map((piece) => keyOf(piece.sheet, piece.placement));
        expect(new Set(keys).size).toBe(keys.length);
        const chosen = new Set(keys.filter(() => lots.next().value));
        expect(chosenPieces([sheet, other], chosen).map((piece) => keyOf(piece.sheet, piece.placement))).toEqual(
          keys.filter((key) => chosen.has(key)),
        );
      }),
    );
  });
});

describe('moved pieces', () => {
  const box = fc
    .tuple(number(0, 300), number(0, 300), number(2, 90), number(2, 90))
    .map(([x, y, w, h]): Box => ({ minX: x, minY: y, maxX: x + w, maxY: y + h }));
  const clear: Box = { minX: 10, minY: 10, maxX: 1990, maxY: 590 };

  test('snap no farther than a hand can aim, onto an edge of the ground or of a neighbour', () => {
    fc.assert(
      fc.property(
        box,
        fc.array(box, { maxLength: 6 }),
        number(-40, 40),
        number(-40, 40),
        fc.constantFrom(0.5, 1, 4),
        (own, others, x, y, scale) => {
          const by = snapped(own, { x, y }, others, clear, scale);
          expect(Math.abs(by.x - x)).toBeLessThanOrEqual(7 / scale);
          expect(Math.abs(by.y - y)).toBeLessThanOrEqual(7 / scale);
          const there = shifted(own, by);
          const edges = [clear, ...others].flatMap(({ minX, maxX }) => [minX, maxX]);
          if (by.x !== x)
            expect(Math.min(...edges.flatMap((edge) => [Math.abs(there.minX - edge), Math.abs(there.maxX - edge)]))).toBeLessThan(1e-9);
          // none of the ground's own edges was nearer
          for (const edge of [clear.minX, clear.maxX])
            for (const side of [own.minX, own.maxX]) expect(Math.abs(by.x - x)).toBeLessThanOrEqual(Math.abs(edge - side - x) + 1e-9);
        },
      ),
    );
  });

  test('are lit where they lie on another piece or leave the material, and nowhere else', () => {
    fc.assert(
      fc.property(number(-80, 700), number(-80, 700), (dx, dy) => {
        const sheet = sheetOf(
          'a',
          [boxShape(50, 40)],
          [
            { part: 0, x: 0, y: 0 },
            { part: 0, x: 300, y: 300 },
          ],
        );
        const [moving] = piecesOn(sheet);
        const lit = litWhile([moving!], { dx, dy, to: sheet });
        const leaves = dx < -0.01 || dy < -0.01 || dx + 50 > 2000.01 || dy + 40 > 600.01;
        const [overX, overY] = [Math.min(dx + 50, 350) - Math.max(dx, 300), Math.min(dy + 40, 340) - Math.max(dy, 300)];
        // what only touches, or nearly, may be told either way
        if (!leaves && Math.min(overX, overY) > -0.1 && Math.min(overX, overY) < 0.1) return;
        expect(lit.length).toBe(leaves || Math.min(overX, overY) > 0 ? 1 : 0);
      }),
    );
  });

  test('are not lit by themselves', () => {
    const sheet = sheetOf(
      'a',
      [boxShape(50, 40)],
      [
        { part: 0, x: 0, y: 0 },
        { part: 0, x: 60, y: 0 },
      ],
    );
    expect(litWhile(piecesOn(sheet), { dx: 20, dy: 0, to: sheet })).toEqual([]);
  });
});
