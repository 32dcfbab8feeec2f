/** Covers never have too few cells, and not many too many; the area counts what lies twice once. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds } from '../geometry/outline.ts';
import { flatten, type Polyline } from '../geometry/flatten.ts';
import { boxShape, ovalShape } from '../geometry/shapes.ts';
import { mapOutline, rotation, translation, compose } from '../geometry/transform.ts';
import type { Outline } from '../types/index.ts';
import { coveredArea, rasterOf, ringsRound, runsOf, type Cover } from './raster.ts';

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const shape = fc
  .tuple(fc.boolean(), number(3, 60), number(3, 60), number(0, 180), number(-50, 50), number(-50, 50))
  .map(([isBox, w, h, turn, x, y]): Outline =>
    mapOutline(compose(translation(x, y), rotation(turn)), isBox ? boxShape(w, h) : ovalShape(w, h)),
  );
const isSet = ({ column, row, columns, rows, cells }: Cover, cell: number, x: number, y: number): boolean => {
  const [c, r] = [Math.floor(x / cell) - column, Math.floor(y / cell) - row];
  return c >= 0 && r >= 0 && c < columns && r < rows && cells[c * rows + r] === 1;
};
/** A place on the border of two cells lies in either. */
const isCovered = (cover: Cover, cell: number, x: number, y: number): boolean =>
  [-1e-6, 1e-6].some((dx) => [-1e-6, 1e-6].some((dy) => isSet(cover, cell, x + dx, y + dy)));
const pointsOf = (lines: readonly Polyline[]): [number, number][] =>
  lines.flatMap(({ xy }) =>
    Array.from({ length: xy.length / 2 }, (_, i): [number, number] => [xy[2 * i] as number, xy[2 * i + 1] as number]),
  );

test('every place of the line, grown by the radius, lies in a cell that counts', () => {
  fc.assert(
    fc.property(shape, number(0.4, 4), number(0, 5), number(0, 6.283), (outline, cell, radius, way) => {
      const lines = flatten(outline, 0.02);
      const cover = rasterOf(lines, bounds(outline), cell, radius);
      const reach = 0.999 * radius;
      const [dx, dy] = [reach * Math.cos(way), reach * Math.sin(way)];
      const missed = pointsOf(lines).filter(([x, y]) => !isCovered(cover, cell, x, y) || !isCovered(cover, cell, x + dx, y + dy));
      expect(missed).toEqual([]);
    }),
    { numRuns: 60 },
  );
});

test('no cell counts that is farther off than the radius and a cell’s diagonal', () => {
  fc.assert(
    fc.property(shape, number(0.5, 3), number(0, 4), (outline, cell, radius) => {
      const lines = flatten(outline, 0.02);
      const cover = rasterOf(lines, bounds(outline), cell, radius);
      const { minX, minY, maxX, maxY } = bounds(outline);
      const far = radius + Math.SQRT2 * cell;
      let beyond = 0;
      for (let c = 0; c < cover.columns; c++)
        for (let r = 0; r < cover.rows; r++) {
          if (cover.cells[c * cover.rows + r] !== 1) continue;
          const [x, y] = [(c + cover.column + 0.5) * cell, (r + cover.row + 0.5) * cell];
          if (x < minX - far || x > maxX + far || y < minY - far || y > maxY + far) beyond++;
        }
      expect(beyond).toBe(0);
    }),
    { numRuns: 60 },
  );
});

test('shapes that meet share a cell, wherever they meet', () => {
  fc.assert(
    fc.property(shape, shape, fc.nat(), fc.nat(), number(0.5, 4), (a, b, m, n, cell) => {
      const [p, q] = [pointsOf(flatten(a, 0.5)), pointsOf(flatten(b, 0.5))];
      const [[x, y], [u, v]] = [p[m % p.length], q[n % q.length]] as [[number, number], [number, number]];
      const moved = mapOutline(translation(x - u, y - v), b);
      const [ca, cb] = [a, moved].map((one) => rasterOf(flatten(one, 0.5), bounds(one), cell, 0.001)) as [Cover, Cover];
      let shared = 0;
      for (let c = 0; c < ca.columns; c++)
        for (let r = 0; r < ca.rows; r++)
          if (ca.cells[c * ca.rows + r] === 1 && isSet(cb, cell, (c + ca.column + 0.5) * cell, (r + ca.row + 0.5) * cell)) shared++;
      expect(shared).toBeGreaterThan(0);
    }),
  );
});

test('runs say the same as the cells', () => {
  fc.assert(
    fc.property(shape, number(0.7, 4), (outline, cell) => {
      const cover = rasterOf(flatten(outline, 0.05), bounds(outline), cell, 1);
      const runs = runsOf(cover);
      expect(runs).toHaveLength(cover.columns);
      let wrong = 0;
      runs.forEach((own, c) => {
        const set = new Set<number>();
        for (let k = 0; k < own.length; k += 2) for (let r = own[k] as number; r <= (own[k + 1] as number); r++) set.add(r - cover.row);
        for (let r = 0; r < cover.rows; r++) if (set.has(r) !== (cover.cells[c * cover.rows + r] === 1)) wrong++;
      });
      expect(wrong).toBe(0);
    }),
    { numRuns: 40 },
  );
});

test('the area of a turned oval is its area; two that lie on one another count once, apart twice', () => {
  const oval = (x: number): Outline => mapOutline(compose(translation(x, 0), rotation(40)), ovalShape(80, 30));
  const area = (...outlines: Outline[]): number => {
    const all = { contours: outlines.flatMap(({ contours }) => contours) };
    return coveredArea(flatten(all, 0.005), bounds(all));
  };
  const own = Math.PI * 40 * 15;
  expect(area(oval(0)) / own).toBeCloseTo(1, 2);
  expect(area(oval(0), oval(0)) / own).toBeCloseTo(1, 2);
  expect(area(oval(0), oval(200)) / own).toBeCloseTo(2, 1);
  expect(coveredArea([], { minX: 0, minY: 0, maxX: 0, maxY: 0 })).toBe(0);
});

test('rings round cells hold these cells and no others: crossings of any line tell so', () => {
  const anyCells = fc.tuple(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 9 })).chain(([columns, rows]) =>
    fc.array(fc.constantFrom(0, 1), { minLength: columns * rows, maxLength: columns * rows }).map((cells): Cover => {
      return { column: -2, row: 3, columns, rows, cells: Uint8Array.from(cells) };
    }),
  );
  fc.assert(
    fc.property(anyCells, number(0.1, 7), (cover, cell) => {
      const rings = ringsRound(cover, cell);
      for (let c = 0; c < cover.columns; c++)
        for (let r = 0; r < cover.rows; r++) {
          const [x, y] = [(c + cover.column + 0.5) * cell, (r + cover.row + 0.5) * cell];
          // winding by the upright sides that a ray to the right crosses: +1 each way round, in holes 0
          let winding = 0;
          for (const { xy } of rings)
            for (let i = 0, j = xy.length - 2; i < xy.length; j = i, i += 2) {
              const [y0, y1] = [xy[j + 1]!, xy[i + 1]!];
              if (xy[i]! > x && y0 > y !== y1 > y) winding += y1 > y0 ? 1 : -1;
            }
          expect(winding).toBe(cover.cells[c * cover.rows + r]);
        }
    }),
  );
});
