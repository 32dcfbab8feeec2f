/** The better of two layouts: an order, whatever searches find and whenever. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { NestAnswer } from '@lorvek/computations';
import { betterNest } from './better-nest.ts';

const place = fc.record({ sheet: fc.nat({ max: 3 }), copy: fc.nat({ max: 9 }) });
const answer: fc.Arbitrary<NestAnswer> = fc.record({
  placed: fc.array(
    place.map(({ sheet, copy }) => ({ id: 'a', copy, sheet, map: [1, 0, 0, 1, 0, 0] as const })),
    { maxLength: 5 },
  ),
  leftOut: fc.array(
    fc.nat({ max: 3 }).map((copies) => ({ id: 'a', copies })),
    { maxLength: 2 },
  ),
  usedLengthMm: fc.nat({ max: 5 }),
  partsAreaMm2: fc.constant(1),
  elapsedMs: fc.nat(),
}) as fc.Arbitrary<NestAnswer>;

test('nothing is better than itself, no two are each better than the other, and better than better is better', () => {
  fc.assert(
    fc.property(answer, answer, answer, (a, b, c) => {
      expect(betterNest(a, undefined)).toBe(true);
      expect(betterNest(a, { ...a, elapsedMs: a.elapsedMs + 1 })).toBe(false);
      expect(betterNest(a, b) && betterNest(b, a)).toBe(false);
      if (betterNest(a, b) && betterNest(b, c)) expect(betterNest(a, c)).toBe(true);
    }),
    { numRuns: 500 },
  );
});

test('of two searches that tell what they have the best of all is shown in the end, in whatever order they tell it', () => {
  fc.assert(
    fc.property(fc.array(answer, { minLength: 1, maxLength: 8 }), (told) => {
      const shown = (list: readonly NestAnswer[]): NestAnswer =>
        list.reduce<NestAnswer | undefined>((best, one) => (betterNest(one, best) ? one : best), undefined) as NestAnswer;
      const [first, last] = [shown(told), shown([...told].reverse())];
      expect(betterNest(first, last) || betterNest(last, first)).toBe(false);
      for (const one of told) expect(betterNest(one, first)).toBe(false);
    }),
  );
});

test('what finds room for more goes before what is shorter', () => {
  const base: NestAnswer = { placed: [], leftOut: [], usedLengthMm: 100, partsAreaMm2: 1, elapsedMs: 0 };
  expect(betterNest(base, { ...base, leftOut: [{ id: 'a', copies: 1 }], usedLengthMm: 50 })).toBe(true);
  expect(betterNest({ ...base, usedLengthMm: 99 }, base)).toBe(true);
});
