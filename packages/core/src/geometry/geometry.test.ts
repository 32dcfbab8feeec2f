import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AppError } from '../index.ts';
import { lineDistance } from './hit.ts';
import {
  arcShape,
  area,
  bounds,
  boxShape,
  compose,
  deviation,
  evaluate,
  flatten,
  formatPath,
  invert,
  isInside,
  mapOutline,
  mapPoint,
  mappedBounds,
  ovalShape,
  parsePath,
  pathLength,
  polygonShape,
  rotation,
  spanBox,
  subSpan,
  translation,
  type Matrix,
  type Outline,
  type Span,
} from './index.ts';

const coordinate = fc.double({ min: -1e4, max: 1e4, noNaN: true });
const span = fc.oneof(fc.array(coordinate, { minLength: 4, maxLength: 4 }), fc.array(coordinate, { minLength: 8, maxLength: 8 }));

/** A closed chain of random lines and curves. */
const outline = fc.array(fc.array(coordinate, { minLength: 6, maxLength: 6 }), { minLength: 2, maxLength: 8 }).map((legs): Outline => {
  const spans: Span[] = legs.map((leg, i) => {
    const end = legs[(i + 1) % legs.length] as number[];
    return i % 2 === 0 ? [leg[4], leg[5], leg[0], leg[1], leg[2], leg[3], end[4], end[5]] : [leg[4], leg[5], end[4], end[5]];
  }) as Span[];
  return { contours: [{ closed: true, spans }] };
});

const codeOf = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    return error instanceof AppError ? error.code : 'other';
  }
  return 'none';
};

describe('boxes', () => {
  test('law: the box of an outline is the least one that holds its finely flattened line', () => {
    fc.assert(
      fc.property(outline, (o) => {
        const box = bounds(o);
        const line = flatten(o, 0.01).flatMap(({ xy }) => [...xy]);
        const of = (axis: 0 | 1) => line.filter((_, i) => i % 2 === axis);
        for (const [axis, low, high] of [
          [0, box.minX, box.maxX],
          [1, box.minY, box.maxY],
        ] as const) {
          const [least, most] = [Math.min(...of(axis)), Math.max(...of(axis))];
          expect(least).toBeGreaterThanOrEqual(low - 1e-6);
          expect(most).toBeLessThanOrEqual(high + 1e-6);
          expect(least - low).toBeLessThan(0.03);
          expect(high - most).toBeLessThan(0.03);
        }
      }),
      { numRuns: 60 },
    );
  });

  test('law: the box under a map is the box of what the map makes of the outline', () => {
    const number = fc.integer({ min: -8, max: 8 }).filter((n) => n !== 0);
    const maps = fc.oneof(
      fc.tuple(number, number).map(([x, y]): Matrix => [x / 4, 0, 0, y / 4, 17, -3]),
      fc.tuple(number, number).map(([x, y]): Matrix => [0, x / 4, y / 4, 0, -5, 80]),
      fc.integer({ min: 1, max: 359 }).map((deg): Matrix => rotation(deg)),
    );
    fc.assert(
      fc.property(outline, maps, (o, map) => {
        const [fast, made] = [mappedBounds(map, o), bounds(mapOutline(map, o))];
        for (const side of ['minX', 'minY', 'maxX', 'maxY'] as const) expect(fast[side]).toBeCloseTo(made[side], 6);
      }),
      { numRuns: 100 },
    );
    expect(mappedBounds(rotation(90), { contours: [] })).toEqual(bounds({ contours: [] }));
  });
});

describe('path strings', () => {
  test('reading what was written gives the same numbers', () => {
    fc.assert(
      fc.property(outline, (o) => expect(formatPath(parsePath(formatPath(o)))).toBe(formatPath(o))),
      { seed: 1 },
    );
  });

  test.each(['M0 0L1 1 2', 'M0 0L1', 'Q1 1 2 2', 'M0 0A5 5 0 0 0 9 9', 'M0 0L1e999 2', 'L', 'M0 0 NaN 1', 'M1 2;L3 4'])(
    '%s is refused',
    (path) => {
      expect(codeOf(() => parsePath(path))).toBe('input.path');
    },
  );

  test('an open contour stays open and a closed one gets its way back', () => {
    const read = parsePath('M0 0L10 0L10 10 M20 20L30 20L30 30Z');
    expect(read.contours.map((c) => [c.closed, c.spans.length])).toEqual([
      [false, 2],
      [true, 3],
    ]);
  });
});

describe('measures', () => {
  test('the box of a span is exact: it touches the curve and holds it', () => {
    fc.assert(
      fc.property(span, (s) => {
        const box = spanBox(s);
        let [minX, maxX] = [Infinity, -Infinity];
        for (let k = 0; k <= 400; k++) {
          const x = evaluate(s, k / 400, 0);
          expect(x).toBeGreaterThanOrEqual(box.minX - 1e-6);
          expect(x).toBeLessThanOrEqual(box.maxX + 1e-6);
          minX = Math.min(minX, x);
          maxX = Math.max(maxX, x);
        }
        const size = 1 + box.maxX - box.minX;
        expect((minX - box.minX) / size).toBeLessThan(1e-3);
        expect((box.maxX - maxX) / size).toBeLessThan(1e-3);
      }),
      { numRuns: 60, seed: 2 },
    );
  });

  test('areas and lengths of known shapes', () => {
    expect(area(boxShape(30, 20))).toBeCloseTo(600, 9);
    expect(area(boxShape(30, 20, 5)) / (600 - (4 - Math.PI) * 25)).toBeCloseTo(1, 3);
    expect(area(ovalShape(20, 20)) / (Math.PI * 100)).toBeCloseTo(1, 3);
    expect(pathLength(ovalShape(20, 20)) / (2 * Math.PI * 10)).toBeCloseTo(1, 3);
  });

  test('area does not change with place and turn, and grows with the square of the scale', () => {
    fc.assert(
      fc.property(outline, fc.double({ min: 0, max: 360, noNaN: true }), coordinate, (o, turn, shift) => {
        const size = 1 + bounds(o).maxX - bounds(o).minX + bounds(o).maxY - bounds(o).minY;
        const moved = area(mapOutline(compose(translation(shift, -shift), rotation(turn)), o));
        expect(Math.abs(moved - area(o)) / (size * size)).toBeLessThan(1e-9);
      }),
      { seed: 3 },
    );
  });
});

describe('flattening and splitting', () => {
  test('a polyline keeps within its tolerance of the curve', () => {
    fc.assert(
      fc.property(outline, fc.constantFrom(0.1, 1, 10), (o, tol) => {
        const lines = flatten(o, tol);
        for (const contour of o.contours)
          for (const s of contour.spans)
            for (let k = 0; k < 12; k++)
              expect(lineDistance(lines, evaluate(s, k / 12, 0), evaluate(s, k / 12, 1))).toBeLessThan(tol * 1.001 + 1e-7);
      }),
      { numRuns: 25, seed: 4 },
    );
  });

  test('a part of a span lies on the span', () => {
    fc.assert(
      fc.property(span, fc.double({ min: 0, max: 0.45, noNaN: true }), fc.double({ min: 0.55, max: 1, noNaN: true }), (s, t0, t1) => {
        const part = subSpan(s, t0, t1);
        for (const u of [0, 0.3, 0.7, 1]) expect(evaluate(part, u, 0)).toBeCloseTo(evaluate(s, t0 + u * (t1 - t0), 0), 5);
      }),
      { seed: 5 },
    );
  });
});

describe('maps', () => {
  test('a map and its inverse give the point back', () => {
    fc.assert(
      fc.property(fc.tuple(...[1, 2, 3, 4, 5, 6].map(() => fc.double({ min: -50, max: 50, noNaN: true }))), coordinate, (numbers, x) => {
        const m = numbers as unknown as Matrix;
        const back = invert(m);
        fc.pre(back !== undefined && Math.abs(m[0] * m[3] - m[1] * m[2]) > 0.1);
        const p = mapPoint(back as Matrix, mapPoint(m, { x, y: 3 }));
        expect(p.x).toBeCloseTo(x, 4);
      }),
      { seed: 6 },
    );
  });

  test('a mirrored outline keeps its outer contours counter-clockwise', () => {
    expect(area(mapOutline([-1, 0, 0, 1, 0, 0], ovalShape(30, 10)))).toBeGreaterThan(0);
  });

  test('points are inside or outside, and boundaries are as far apart as they are', () => {
    expect(isInside(ovalShape(10, 10), 5, 5)).toBe(true);
    expect(isInside(ovalShape(10, 10), 0.5, 0.5)).toBe(false);
    expect(deviation(boxShape(10, 10), mapOutline(translation(0.5, 0), boxShape(10, 10)))).toBeCloseTo(0.5, 3);
  });
});

test('corners of a box: rounded keeps most, cut less, scooped least; polygons, stars and arcs have their exact areas', () => {
  const left = (kind: 'round' | 'cut' | 'scoop'): number => area(boxShape(60, 40, 10, kind));
  expect(left('round')).toBeCloseTo(2400 - (4 - Math.PI) * 100, 0);
  expect(left('cut')).toBeCloseTo(2400 - 200, 9);
  expect(left('scoop')).toBeCloseTo(2400 - Math.PI * 100, 0);
  expect(area(polygonShape(6, 10))).toBeCloseTo(((3 * Math.sqrt(3)) / 2) * 100, 9);
  expect(area(polygonShape(5, 10, 0.5))).toBeCloseTo(5 * 100 * 0.5 * Math.sin(Math.PI / 5), 9);
  expect(area(arcShape(10, 30, -90, 'sector'))).toBeCloseTo(25 * Math.PI, 1);
  expect(area(arcShape(10, 0, 180, 'chord'))).toBeCloseTo(50 * Math.PI, 1);
  expect(arcShape(10, 0, 90, 'open').contours[0]?.closed).toBe(false);
});
