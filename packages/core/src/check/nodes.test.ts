/** Bumps are told from corners and curves; too many nodes are counted. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Contour, Span } from '../types/index.ts';
import { ovalShape } from '../geometry/shapes.ts';
import { bumpsOf, findBumps, findCrowded } from './nodes.ts';

const through = (points: readonly (readonly [number, number])[], closed: boolean): Contour => ({
  closed,
  spans: points.slice(0, closed ? undefined : -1).map((p, i): Span => [...p, ...(points[(i + 1) % points.length] as [number, number])]),
});
const part = (...contours: Contour[]) => ({ id: 'p', name: 'Part', outline: { contours }, smallestPartMm: 0, thinnestMm: 0 }) as never;
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });

test('a small tooth on a straight line is found where it begins, however the line runs', () => {
  fc.assert(
    fc.property(number(0, 6.283), number(0.1, 0.27), number(10, 60), (turn, high, at) => {
      const [c, s] = [Math.cos(turn), Math.sin(turn)];
      const on = (x: number, y: number): [number, number] => [c * x - s * y, s * x + c * y];
      const line = through([on(0, 0), on(at, 0), on(at + high, high), on(at + 2 * high, 0), on(100, 0)], false);
      const [bump, ...more] = bumpsOf(line);
      expect(more).toEqual([]);
      expect(Math.hypot((bump?.at.x ?? 0) - c * at, (bump?.at.y ?? 0) - s * at)).toBeLessThan(1e-9);
    }),
  );
});

test('a tooth large enough to be meant is none, and neither are the corners of boxes and stars', () => {
  const tooth = through(
    [
      [0, 0],
      [40, 0],
      [42, 2],
      [44, 0],
      [100, 0],
    ],
    false,
  );
  expect(bumpsOf(tooth)).toEqual([]);
  const star = Array.from({ length: 10 }, (_, k): [number, number] => {
    const r = k % 2 === 0 ? 30 : 12;
    return [r * Math.sin((k * Math.PI) / 5), r * Math.cos((k * Math.PI) / 5)];
  });
  expect(bumpsOf(through(star, true))).toEqual([]);
  expect(
    bumpsOf(
      through(
        [
          [0, 0],
          [50, 0],
          [50, 30],
          [0, 30],
        ],
        true,
      ),
    ),
  ).toEqual([]);
  expect(ovalShape(40, 25).contours.flatMap(bumpsOf)).toEqual([]);
});

test('a bump over the seam of a closed outline is found too', () => {
  const step: [number, number][] = [
    [50, 0.2],
    [50.2, 0],
    [100, 0],
    [100, 50],
    [0, 50],
    [0, 0],
    [49.8, 0],
  ];
  for (let k = 0; k < step.length; k++) {
    const turned = [...step.slice(k), ...step.slice(0, k)];
    expect(bumpsOf(through(turned, true)).length).toBe(1);
  }
});

test('findings name the part and where; nothing is said of what is well', () => {
  const [found] = findBumps([
    part(
      through(
        [
          [0, 0],
          [20, 0],
          [20.2, 0.2],
          [20.4, 0],
          [60, 0],
        ],
        false,
      ),
    ),
  ]);
  expect([found?.code, found?.place, found?.parts]).toEqual(['bump', { x: 20, y: 0 }, ['p']]);
  expect(
    findBumps([
      part(
        through(
          [
            [0, 0],
            [60, 0],
          ],
          false,
        ),
      ),
    ]),
  ).toEqual([]);
});

test('an outline is crowded when its nodes stand nearer than they need, not when it is only long', () => {
  const round = (count: number, r: number): Contour =>
    through(
      Array.from({ length: count }, (_, k): [number, number] => [
        r * Math.cos((2 * Math.PI * k) / count),
        r * Math.sin((2 * Math.PI * k) / count),
      ]),
      true,
    );
  expect(findCrowded([part(round(400, 10))]).map(({ code }) => code)).toEqual(['many-nodes']);
  expect(findCrowded([part(round(400, 100))])).toEqual([]);
  expect(findCrowded([part(round(40, 1))])).toEqual([]);
  // a plain part beside it does not hide it
  expect(findCrowded([part(round(400, 10), round(8, 500))])).toHaveLength(1);
});
