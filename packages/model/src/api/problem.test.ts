/** Refusals are known by what RFC 9457 asks of them, whatever else an answer holds. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { isProblem } from './problem.ts';

const PROBLEM = { type: 'input.patch', title: 'x', status: 409, detail: 'It does not fit.' };

test('what has its four parts is one, with whatever besides; without one of them, or with one of another kind, it is none', () => {
  fc.assert(
    fc.property(
      fc.dictionary(fc.string(), fc.jsonValue()),
      fc.constantFrom(...Object.keys(PROBLEM)),
      fc.jsonValue(),
      (more, part, other) => {
        const { field: _field, remedy: _remedy, ...besides } = more;
        expect(isProblem({ ...besides, ...PROBLEM })).toBe(true);
        const { [part as keyof typeof PROBLEM]: own, ...lacking } = PROBLEM;
        expect(isProblem(lacking)).toBe(false);
        expect(isProblem({ ...PROBLEM, [part]: other })).toBe(typeof other === typeof own);
      },
    ),
  );
});

test('a field and a way out are words, or not there', () => {
  expect(isProblem({ ...PROBLEM, field: 'patch', remedy: 'Send less.' })).toBe(true);
  expect(isProblem({ ...PROBLEM, remedy: 3 })).toBe(false);
  expect(isProblem({ ...PROBLEM, field: null })).toBe(false);
});

test('answers that are no objects are none', () => {
  for (const body of [undefined, null, 'no', 4, [], true]) expect(isProblem(body)).toBe(false);
});
