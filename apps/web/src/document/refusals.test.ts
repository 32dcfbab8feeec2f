import { expect, test } from '@jest/globals';
import { AppError, InputError, StaleError } from '@lorvek/core';
import { troubleText, verdictOf } from './refusals.ts';

const answered = (code: string, status: number): AppError => new AppError(code, 'as said', { status });

test.each([
  ['a drawing that has moved on', new StaleError('as said'), 'rebase'],
  ['nobody signed in', answered('access.sign-in', 401), 'sign-in'],
  ['a full disk', answered('storage.full', 507), 'trouble'],
  ['no answer', new TypeError('Failed to fetch'), 'wait'],
  ['too many requests', answered('http.429', 429), 'wait'],
  ['a gateway without a server', answered('http.502', 502), 'wait'],
  ['a change that would break the drawing', new InputError('document', 'as said'), 'aside'],
  ['a change that is too large', answered('http.413', 413), 'aside'],
])('%s', (_, error, verdict) => expect(verdictOf(error, 0)).toBe(verdict));

test('a fault of the server’s own is tried three times, then the change is set aside', () => {
  const fault = answered('internal', 500);
  expect([0, 1, 2, 3].map((failures) => verdictOf(fault, failures))).toEqual(['again', 'again', 'aside', 'aside']);
});

test('since when nothing is saved is told by the clock where the server says it, and left as it is where it says nonsense', () => {
  const full = (since: unknown): string =>
    troubleText(new AppError('storage.full', 'The disk is full; nothing is saved until that is put right.', { since }));
  expect(full('2026-05-31T14:02:00')).toBe('The disk is full; nothing since 14:02 is saved.');
  for (const since of [undefined, 7, 'once']) expect(full(since)).toBe('The disk is full; nothing is saved until that is put right.');
});
