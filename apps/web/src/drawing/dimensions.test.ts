/** Dimension lines as laws: what they say is the distance they stand beside, wherever they stand off to. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, type Point } from '@lorvek/core/geometry';
import { addFilm, addItems, emptyDrawing, transformItems, type DimensionItem, type Drawing } from '@lorvek/model';
import { film, run, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { dimensionAt, dimensionLine, dimensionsOf } from './dimensions.ts';

const mm = fc.integer({ min: -4000, max: 4000 }).map((n) => n / 8);
const point: fc.Arbitrary<Point> = fc.record({ x: mm, y: mm });
const standOff = fc.integer({ min: -80, max: 80 });
const away = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);
const bare = emptyDrawing();
const measured = (from: Point, to: Point, measure: DimensionItem['measure'], standOffMm: number) =>
  dimensionLine(bare, { from, to, measure, standOffMm });

describe('a dimension line', () => {
  test('across the points is as long as they are apart, stands off by what was asked, square to them', () => {
    fc.assert(
      fc.property(point, point, standOff, (from, to, off) => {
        const line = measured(from, to, 'straight', off);
        expect(line.mm).toBeCloseTo(away(from, to), 9);
        expect(away(line.a, line.b)).toBeCloseTo(line.mm, 9);
        if (line.mm === 0) return;
        expect(away(line.a, from)).toBeCloseTo(Math.abs(off), 9);
        expect(away(line.b, to)).toBeCloseTo(Math.abs(off), 9);
      }),
    );
  });

  test('level and upright say the way along their axis alone and stand clear of both points', () => {
    fc.assert(
      fc.property(point, point, fc.integer({ min: 1, max: 80 }), (from, to, off) => {
        const [level, upright] = [measured(from, to, 'level', off), measured(from, to, 'upright', off)];
        expect(level.mm).toBe(Math.abs(to.x - from.x));
        expect(level.a.y).toBe(level.b.y);
        expect(level.a.y).toBeGreaterThan(Math.max(from.y, to.y));
        expect(upright.mm).toBe(Math.abs(to.y - from.y));
        expect(upright.a.x).toBe(upright.b.x);
        expect(upright.a.x).toBeLessThan(Math.min(from.x, to.x));
        // no way is longer than the straight one
        expect(Math.hypot(level.mm, upright.mm)).toBeCloseTo(measured(from, to, 'straight', off).mm, 9);
      }),
    );
  });
});

describe('on a drawing', () => {
  const dimension = (fields: Partial<DimensionItem>): DimensionItem => ({
    type: 'item',
    kind: 'dimension',
    id: 'item-d',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    name: 'Width',
    from: { x: 0, y: 0 },
    to: { x: 100, y: 0 },
    measure: 'level',
    standOffMm: 10,
    ...fields,
  });
  const drawn = (...dimensions: DimensionItem[]): Drawing => {
    const start = run(emptyDrawing(), addFilm, { film: film('film-a') });
    const items = [shapeOf('item-s', 'film-a', boxShape(100, 40)), ...dimensions];
    return run(start, addItems, { items, roots: items.map(({ id }) => id) });
  };

  test('the one under the pointer is found within reach and no farther, the last of several', () => {
    const drawing = drawn(dimension({}), dimension({ id: 'item-e', standOffMm: 12 }));
    expect(dimensionsOf(drawing)).toHaveLength(2);
    expect(dimensionAt(drawing, { x: 50, y: 11 }, 2)).toBe('item-e');
    expect(dimensionAt(drawing, { x: 50, y: 9 }, 2)).toBe('item-d');
    expect(dimensionAt(drawing, { x: 50, y: 20 }, 2)).toBeUndefined();
    expect(dimensionAt(drawing, { x: -10, y: 10 }, 2)).toBeUndefined();
  });

  test('an end whose item is gone stays where it was', () => {
    const drawing = drawn(dimension({ to: { x: 100, y: 40, item: 'item-gone', u: 1, v: 1 } }));
    expect(dimensionLine(drawing, dimensionsOf(drawing)[0]!).to).toEqual({ x: 100, y: 40 });
    const moved = run(drawing, transformItems, { ids: ['item-s'], map: [1, 0, 0, 1, 500, 0] });
    expect(dimensionLine(moved, dimensionsOf(moved)[0]!).to).toEqual({ x: 100, y: 40 });
  });
});
