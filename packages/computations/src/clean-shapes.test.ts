/** Cleaning of shapes as they lie on the drawing: what was done is told, what crosses is named, nothing else changes. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, boxShape, compose, formatPath, parsePath, rotation, type Matrix, type Outline } from '@lorvek/core/geometry';
import { cleanShapes, type CleanAsked, type ShapeToClean } from './clean-shapes.ts';

const LIMITS: CleanAsked['limits'] = { gapMm: 0.5, doubledMm: 0.05, speckMm: 1, thinMm: 0.05 };
const HERE: Matrix = [1, 0, 0, 1, 0, 0];
const shape = (id: string, path: string | Outline, matrix: Matrix = HERE, film: string | null = 'film-a'): ShapeToClean => ({
  id,
  path: typeof path === 'string' ? path : formatPath(path, 5),
  matrix,
  film,
});
const at = (x: number, y: number, scale = 1): Matrix => [scale, 0, 0, scale, x, y];

describe('cleaning', () => {
  test('shapes that are clean come back untouched, wherever and however they lie', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 5, max: 80 }),
        fc.integer({ min: 5, max: 80 }),
        fc.integer({ min: 0, max: 359 }),
        fc.constantFrom(0.5, 1, 3),
        (w, h, deg, scale) => {
          const answer = cleanShapes({ shapes: [shape('a', boxShape(w, h), compose(rotation(deg), at(7, -3, scale)))], limits: LIMITS });
          expect(answer).toEqual({ paths: {}, dropped: [], deviationMm: 0, crossing: [], joined: [], done: [] });
        },
      ),
      { numRuns: 40, seed: 3 },
    );
  });

  test('limits are true on the drawing: a gap of 0.4 mm closes at any scale, one of 0.8 mm at none', () => {
    // three sides and most of a fourth, the ends `gap` apart on the drawing
    const open = (gap: number, scale: number): string =>
      `M0 0L${20 / scale} 0L${20 / scale} ${20 / scale}L0 ${20 / scale}L0 ${gap / scale}`;
    for (const scale of [0.25, 1, 4])
      for (const [gap, closes] of [
        [0.4, true],
        [0.8, false],
      ] as const) {
        const { paths } = cleanShapes({ shapes: [shape('a', open(gap, scale), at(0, 0, scale))], limits: LIMITS, only: ['join'] });
        expect([scale, gap, paths.a !== undefined && parsePath(paths.a).contours[0]!.closed]).toEqual([scale, gap, closes]);
      }
  });

  test('lines of several items whose ends meet become one outline, film by film', () => {
    const halves = [shape('a', 'M0 0L20 0L20 20'), shape('b', 'M20.2 20L0 20L0 0.1'), shape('c', 'M0 0L9 9', HERE, 'film-b')];
    const { joined } = cleanShapes({ shapes: halves, limits: LIMITS, only: ['join'] });
    expect(joined.map(({ ids }) => ids)).toEqual([['a', 'b']]);
    const [contour] = parsePath(joined[0]!.path).contours;
    expect(contour!.closed).toBe(true);
    expect(Math.abs(area(parsePath(joined[0]!.path)))).toBeCloseTo(400, -1);
    // on another film they are not one line
    const apart = cleanShapes({ shapes: [halves[0]!, { ...halves[1]!, film: 'film-b' }], limits: LIMITS, only: ['join'] });
    expect(apart.joined).toEqual([]);
  });

  test('specks go and are told with their places on the drawing; of a shape that was one nothing is left', () => {
    const dusty = `${formatPath(boxShape(30, 30), 3)} M40 40L40.3 40L40.3 40.3Z`;
    const { paths, dropped, done } = cleanShapes({
      shapes: [shape('a', dusty, at(100, 50, 2)), shape('speck', 'M0 0L0.2 0L0.2 0.2Z', at(5, 5))],
      limits: LIMITS,
      only: ['specks'],
    });
    expect(parsePath(paths.a!).contours).toHaveLength(1);
    expect(paths.speck).toBe('');
    const place = dropped.find(({ id }) => id === 'a')!.place;
    expect(place.x).toBeCloseTo(100 + 2 * 40.15, 1);
    expect(place.y).toBeCloseTo(50 + 2 * 40.15, 1);
    expect(done).toEqual([{ step: 'specks', shapes: 2, text: 'Specks dropped in 2 shapes.' }]);
  });

  test('items of one film that cross are named in groups, those of others and open cuts are not', () => {
    const box = boxShape(20, 20);
    const { crossing } = cleanShapes({
      shapes: [
        shape('a', box),
        shape('b', box, at(10, 10)),
        shape('c', box, at(25, 25)),
        shape('apart', box, at(200, 0)),
        shape('other', box, at(5, 5), 'film-b'),
        shape('cut', 'M-5 10L60 10'),
      ],
      limits: LIMITS,
      only: ['weld'],
    });
    expect(crossing.map((group) => [...group].sort())).toEqual([['a', 'b', 'c']]);
  });

  test('thinning out that would bring two items across one another leaves both as they were', () => {
    // a shallow bow of many nodes close beside a straight edge: one line for the bow would cross the edge
    const bow = Array.from({ length: 41 }, (_, i) => `L${i} ${(0.04 * Math.sin((Math.PI * i) / 40)).toFixed(4)}`).join('');
    const shapes = [shape('bow', `M0 0${bow}L40 -10L0 -10Z`), shape('edge', 'M0.5 0.02L39 0.045L39 10L0.5 10Z')];
    const thinned = cleanShapes({ shapes: [shapes[0]!], limits: LIMITS, only: ['thin-out'] });
    expect(thinned.paths.bow).toBeDefined();
    expect(thinned.deviationMm).toBeLessThanOrEqual(LIMITS.thinMm);
    const both = cleanShapes({ shapes, limits: LIMITS, only: ['thin-out'] });
    const crosses = (paths: Readonly<Record<string, string>>): boolean => {
      const after = shapes.map((one) => ({ ...one, path: paths[one.id] ?? one.path }));
      return cleanShapes({ shapes: after, limits: LIMITS, only: ['weld'] }).crossing.length > 0;
    };
    expect(crosses(both.paths)).toBe(crosses({}));
  });

  test('cleaned once, nothing is left to clean', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 0, max: 60 })), { minLength: 4, maxLength: 9 }),
        (points) => {
          const path = `M${points.map(([x, y]) => `${x} ${y}`).join('L')}Z`;
          const first = cleanShapes({ shapes: [shape('a', path)], limits: LIMITS });
          const kept = first.paths.a ?? path;
          if (kept === '') return;
          const second = cleanShapes({ shapes: [shape('a', kept)], limits: LIMITS, only: ['join', 'doubled', 'weld', 'specks'] });
          expect(second.done.filter(({ step }) => step === 'weld' || step === 'doubled')).toEqual([]);
        },
      ),
      { numRuns: 30, seed: 8 },
    );
  });
});
