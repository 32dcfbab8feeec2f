/** Equations by least squares: what was put in comes out, and what is left over is square to every factor. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { leastSquares } from './least-squares.ts';

const value = fc.double({ min: -10, max: 10, noNaN: true });
const equations = fc
  .tuple(fc.integer({ min: 1, max: 6 }), fc.integer({ min: 0, max: 9 }))
  .chain(([n, more]) =>
    fc.tuple(
      fc.array(fc.array(value, { minLength: n, maxLength: n }), { minLength: n + more, maxLength: n + more }),
      fc.array(value, { minLength: n + more, maxLength: n + more }),
    ),
  );
const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((sum, v, i) => sum + v * (b[i] ?? 0), 0);

test('coefficients that the values were made of come out again', () => {
  fc.assert(
    fc.property(equations, fc.array(value, { minLength: 6, maxLength: 6 }), ([rows], wanted) => {
      const n = rows[0]?.length ?? 0;
      const found = leastSquares(
        rows,
        rows.map((row) => dot(row, wanted)),
      );
      // rows that hardly settle them may not be asked to
      if (!found) return;
      rows.forEach((row) => expect(Math.abs(dot(row, found) - dot(row, wanted.slice(0, n)))).toBeLessThan(1e-6));
    }),
  );
});

test('what is left over is square to every column, so no other coefficients are nearer', () => {
  fc.assert(
    fc.property(equations, ([rows, values]) => {
      const found = leastSquares(rows, values);
      if (!found || found.some((v) => Math.abs(v) > 1e4)) return;
      const rest = rows.map((row, i) => dot(row, found) - (values[i] ?? 0));
      for (let k = 0; k < found.length; k++)
        expect(
          Math.abs(
            dot(
              rows.map((row) => row[k] ?? 0),
              rest,
            ),
          ),
        ).toBeLessThan(1e-6);
    }),
  );
});

test('equations that do not settle them say so: too few, none, one that says what another does', () => {
  expect(leastSquares([[1, 2]], [3])).toBeUndefined();
  expect(leastSquares([], [])).toBeUndefined();
  expect(
    leastSquares(
      [
        [1, 2],
        [2, 4],
        [3, 6],
      ],
      [1, 2, 3],
    ),
  ).toBeUndefined();
  expect(leastSquares([[0], [0]], [1, 1])).toBeUndefined();
  expect(leastSquares([[2], [2]], [4, 6])?.[0]).toBeCloseTo(2.5, 12);
});
