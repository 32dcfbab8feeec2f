import { expect, test } from '@jest/globals';
import { boxShape } from '@lorvek/core/geometry';
import { nestParts, type NestAsked } from './nest-parts.ts';

const asked = (fields: Partial<NestAsked>): NestAsked => ({
  parts: [],
  fixed: [],
  widthMm: 200,
  lengthMm: 300,
  sheets: false,
  fill: false,
  gapMm: 5,
  turnStepDeg: 0,
  intoHoles: false,
  before: [],
  budgetMs: 0,
  seed: 1,
  ...fields,
});
const numbers = (from: number, to: number): number[] => Array.from({ length: to - from }, (_, i) => from + i);

test('a sheet is filled with copies of other numbers than the locked ones, round them', async () => {
  // copy 0 lies locked
  const parts = [{ id: 'a', outline: boxShape(60, 60), copies: numbers(1, 2000) }];
  const { placed, leftOut } = await nestParts(asked({ parts, fixed: [[boxShape(60, 60)]], fill: true }), () => 0);
  expect(placed.length).toBeGreaterThan(5);
  expect(leftOut).toEqual([]);
  expect(placed.map(({ copy }) => copy)).not.toContain(0);
  expect(new Set(placed.map(({ copy }) => copy)).size).toBe(placed.length);
});

test('what finds no room on one sheet goes to the next; every copy lies once', async () => {
  const parts = [
    { id: 'a', outline: boxShape(90, 90), copies: numbers(0, 9) },
    { id: 'b', outline: boxShape(40, 120), copies: numbers(0, 5) },
  ];
  const { placed, leftOut } = await nestParts(asked({ parts, sheets: true }), () => 0);
  expect(leftOut).toEqual([]);
  expect(placed).toHaveLength(14);
  expect(new Set(placed.map(({ id, copy }) => `${id} ${copy}`)).size).toBe(14);
  expect(Math.max(...placed.map(({ sheet }) => sheet))).toBeGreaterThan(0);
});
