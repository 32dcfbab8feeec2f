/** Fields that are looked at without their schema are taken and refused as by it. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { isItemMatrix, matrixSchema } from './fields.ts';

test('a map is taken without its schema just where the schema takes it', () => {
  const edge = fc.constantFrom(0, 1, -1, 1e-6, 1e-13, 1e6, 1e7, -1e7, 1.0000001e7, NaN, Infinity, -Infinity);
  const value = fc.oneof(edge, fc.double());
  fc.assert(
    fc.property(fc.tuple(value, value, value, value, value, value), (map) => {
      expect(isItemMatrix(map)).toBe(matrixSchema.safeParse(map).success);
    }),
    { numRuns: 1000 },
  );
  expect(isItemMatrix([1, 0, 0, 1, 1e7, -1e7])).toBe(true);
  expect(isItemMatrix([1, 2, 2, 4, 0, 0])).toBe(false);
});
