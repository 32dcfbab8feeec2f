import { expect, jest, test } from '@jest/globals';
import { boxShape } from '@lorvek/core/geometry';
import { boxesLength, countingClock, nestParts, type NestAsked } from './nest-parts.ts';

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
  const { placed, leftOut } = await nestParts(asked({ parts, fixed: [[boxShape(60, 60)]], fill: true }), countingClock());
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
  const { placed, leftOut } = await nestParts(asked({ parts, sheets: true }), countingClock());
  expect(leftOut).toEqual([]);
  expect(placed).toHaveLength(14);
  expect(new Set(placed.map(({ id, copy }) => `${id} ${copy}`)).size).toBe(14);
  expect(Math.max(...placed.map(({ sheet }) => sheet))).toBeGreaterThan(0);
});

test('how long the boxes are is the same on a busy computer, and no longer than boxes beside one another', async () => {
  const parts = [
    { id: 'a', outline: boxShape(75, 62), copies: numbers(0, 7) },
    { id: 'b', outline: boxShape(31, 118), copies: numbers(0, 5) },
    { id: 'c', outline: boxShape(53, 24), copies: numbers(0, 9) },
  ];
  const problem = asked({ parts, lengthMm: 3000 });
  const idle = await boxesLength(problem);
  // the clock of a computer that is so busy that a minute is gone whenever it is looked at
  const date = jest.spyOn(Date, 'now');
  let ms = 0;
  date.mockImplementation(() => (ms += 60_000));
  const busy = await boxesLength(problem).finally(() => date.mockRestore());
  expect(busy).toEqual(idle);
  const areaMm2 = 7 * 75 * 62 + 5 * 31 * 118 + 9 * 53 * 24;
  expect(idle.sheets).toBe(1);
  expect(idle.usedLengthMm).toBeGreaterThan(areaMm2 / problem.widthMm);
  // across the sheet lie three of the first, one of the second, six of the third
  expect(idle.usedLengthMm).toBeLessThanOrEqual(3 * 80 + 5 * 36 + 2 * 58);
});
