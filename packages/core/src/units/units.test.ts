import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AppError } from '../index.ts';
import { formatLength, parseLength, type LengthUnit } from './index.ts';

describe('lengths as people write them', () => {
  test.each([
    ['120', 'mm', 120],
    ['3*16 + 2 in', 'mm', 98.8],
    ['4 1/2 in', 'mm', 114.3],
    ['3/8"', 'mm', 9.525],
    ['2 3/8', 'in-fraction', 60.325],
    ['(10+5)*2 cm', 'mm', 300],
    ['1/2/4', 'cm', 1.25],
    ['12,5', 'mm', 12.5],
    ['-(4 - 6)', 'mm', 2],
    ['10 ft', 'mm', 3048],
    ['1.5m/3', 'mm', 500],
    ['6\' 2"', 'mm', 1879.6],
    ['1 m 20', 'mm', 1200],
    ['6 ft 2 1/2 in', 'mm', 1892.3],
    ['2 cm 5 + 1', 'mm', 26],
  ] as const)('%s in %s', (text, unit, mm) => expect(parseLength(text, unit)).toBeCloseTo(mm, 9));

  test.each(['', 'abc', '3 +', '2 in * 3 in', '1/0', '5 / (2 in)', '(3', '7 furlongs', '3 mm 4', '2 in 1 m', '1e999', '9'.repeat(300)])(
    '%p is refused with the place',
    (text) => {
      try {
        parseLength(text, 'mm');
        throw new Error('accepted');
      } catch (error) {
        expect(error instanceof AppError && error.code).toBe('input.length');
      }
    },
  );

  test('what is shown reads back as what it was, within half of the last digit', () => {
    const half: Record<LengthUnit, number> = { mm: 0.005, cm: 0.005, in: 0.0127, 'in-fraction': 0.0128 };
    fc.assert(
      fc.property(
        fc.double({ min: -1e5, max: 1e5, noNaN: true }),
        fc.constantFrom<LengthUnit>('mm', 'cm', 'in', 'in-fraction'),
        (mm, unit) => {
          expect(Math.abs(parseLength(formatLength(mm, unit), unit) - mm)).toBeLessThanOrEqual(half[unit] + 1e-6);
        },
      ),
      { seed: 41 },
    );
  });

  test('inches show the fraction when there is one', () => {
    expect([60.325, 25.4, -12.7, 100].map((mm) => formatLength(mm, 'in-fraction'))).toEqual(['2 3/8', '1', '-1/2', '3.937']);
  });
});
