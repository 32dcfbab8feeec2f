/** The order in which contours are cut, against every order that there is. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, mapOutline, ovalShape, translation, type Contour, type Outline } from '../geometry/index.ts';
import { randomFrom } from '../search/random.ts';
import type { Point } from '../types/index.ts';
import { containment, orderCuts } from './index.ts';

describe('order', () => {
  const contour = (outline: Outline): Contour => outline.contours[0] as Contour;
  const anyBox = fc
    .record({ x: fc.integer({ min: 0, max: 400 }), y: fc.integer({ min: 0, max: 400 }), w: fc.integer({ min: 2, max: 200 }) })
    .map(({ x, y, w }) => mapOutline(translation(x, y), ovalShape(w, w)));

  test('every contour comes once and after all that it holds', () => {
    fc.assert(
      fc.property(fc.array(anyBox, { minLength: 1, maxLength: 40 }), (shapes) => {
        const { order } = orderCuts(shapes);
        expect([...order].sort((a, b) => a - b)).toEqual(shapes.map((_, i) => i));
        containment(shapes.map(contour)).forEach((parent, i) => {
          if (parent >= 0) expect(order.indexOf(i)).toBeLessThan(order.indexOf(parent));
        });
      }),
      { numRuns: 30, seed: 21 },
    );
  });

  test('law: the way that is told is that of the order, lines and rings within rings, with a clock as without one', () => {
    const place = fc.integer({ min: 0, max: 300 });
    const anyLine = fc.array(fc.tuple(place, place), { minLength: 2, maxLength: 4 }).map((points): Outline => {
      const spans = points.slice(1).map(([x, y], i) => [...points[i]!, x, y]);
      return { contours: [{ closed: false, spans }] };
    });
    fc.assert(
      fc.property(fc.array(fc.oneof(anyBox, anyLine), { minLength: 1, maxLength: 25 }), fc.boolean(), (shapes, hasClock) => {
        let clock = 0;
        const control = hasClock ? { budgetMs: 60, now: () => (clock += 0.5) } : {};
        const { order, startIndex, travelMm } = orderCuts(shapes, { start: { x: 7, y: 9 } }, control);
        expect([...order].sort((a, b) => a - b)).toEqual(shapes.map((_, i) => i));
        let [here, mm] = [{ x: 7, y: 9 }, 0];
        order.forEach((index, k) => {
          const { closed, spans } = contour(shapes[index]!);
          const from = startIndex[k]!;
          const [first, last] = [spans[0]!, spans.at(-1)!];
          const ends = [
            { x: first[0]!, y: first[1]! },
            { x: last.at(-2)!, y: last.at(-1)! },
          ] as const;
          const node = closed ? { x: spans[from]![0]!, y: spans[from]![1]! } : ends[from === 0 ? 0 : 1];
          if (!closed) expect([0, spans.length]).toContain(from);
          mm += Math.hypot(node.x - here.x, node.y - here.y);
          here = closed ? node : ends[from === 0 ? 1 : 0];
        });
        expect(travelMm).toBeCloseTo(mm, 6);
        containment(shapes.map(contour)).forEach((parent, i) => {
          if (parent >= 0) expect(order.indexOf(i)).toBeLessThan(order.indexOf(parent));
        });
      }),
      { numRuns: 60 },
    );
  });

  test('the way between is far shorter than in the order in which they were drawn', () => {
    const random = randomFrom(7);
    const shapes = Array.from({ length: 200 }, () => mapOutline(translation(1000 * random(), 600 * random()), ovalShape(5, 5)));
    const drawn = shapes.slice(1).reduce((sum, shape, i) => {
      const [a, b] = [contour(shapes[i] as Outline).spans[0] as number[], contour(shape).spans[0] as number[]];
      return sum + Math.hypot((a[0] as number) - (b[0] as number), (a[1] as number) - (b[1] as number));
    }, 0);
    expect(orderCuts(shapes).travelMm).toBeLessThan(0.15 * drawn);
  });

  test('plates with holes are cut by the shortest of all ways that keep holes before plates, nearly always', () => {
    const box = (x: number, y: number, w: number, h: number): Outline => mapOutline(translation(x, y), boxShape(w, h));
    const nodesOf = (outline: Outline): Point[] => outline.contours[0]!.spans.map((span) => ({ x: span[0]!, y: span[1]! }));
    /** Each order that keeps holes before plates, each contour begun at each of its nodes. */
    const shortest = (outlines: Outline[], parent: Int32Array): number => {
      const go = (left: number[], ends: { at: Point; mm: number }[]): number =>
        left.length === 0
          ? Math.min(...ends.map(({ mm }) => mm))
          : Math.min(
              ...left
                .filter((i) => !left.some((inner) => parent[inner] === i))
                .map((i) =>
                  go(
                    left.filter((other) => other !== i),
                    nodesOf(outlines[i]!).map((at) => ({
                      at,
                      mm: Math.min(...ends.map((end) => end.mm + Math.hypot(end.at.x - at.x, end.at.y - at.y))),
                    })),
                  ),
                ),
            );
      return go(
        outlines.map((_, i) => i),
        [{ at: { x: 0, y: 0 }, mm: 0 }],
      );
    };
    let [found, asked] = [0, 0];
    fc.assert(
      fc.property(fc.array(fc.nat(90), { minLength: 8, maxLength: 8 }), (places) => {
        const hole = (k: number, x: number): Outline => box(x + 2 + places[k]!, 2 + places[k + 1]!, 5, 5);
        const plates = [box(0, 0, 100, 100), box(102, 0, 100, 100), hole(0, 0), hole(2, 102), hole(4, 204), hole(6, 204)];
        const { order, travelMm } = orderCuts(plates);
        expect(order.indexOf(2)).toBeLessThan(order.indexOf(0));
        expect(order.indexOf(3)).toBeLessThan(order.indexOf(1));
        const least = shortest(plates, containment(plates.map(({ contours }) => contours[0]!)));
        expect(travelMm).toBeGreaterThanOrEqual(least - 1e-6);
        asked++;
        if (travelMm < least + 1e-6) found++;
      }),
      { numRuns: 40, seed: 11 },
    );
    expect(found / asked).toBeGreaterThan(0.8);
  });

  test('what lies within a contour is cut on the way to it: washers in a row take little more than the row', () => {
    const washers = Array.from({ length: 12 }, (_, i) => [
      mapOutline(translation(40 * i, 0), ovalShape(30, 30)),
      mapOutline(translation(40 * i + 5, 12), ovalShape(4, 4)),
      mapOutline(translation(40 * i + 20, 12), ovalShape(4, 4)),
    ]).flat();
    expect(orderCuts(washers).travelMm).toBeLessThan(12 * 40 + 200);
  });

  test('more time never gives a longer way, the same kicks the same way', () => {
    const next = randomFrom(3);
    const shapes = Array.from({ length: 40 }, () => mapOutline(translation(900 * next(), 500 * next()), ovalShape(8, 8)));
    expect(orderCuts(shapes)).toEqual(orderCuts(shapes));
    let clock = 0;
    const control = { budgetMs: 150, now: () => (clock += 1) };
    expect(orderCuts(shapes, {}, control).travelMm).toBeLessThanOrEqual(1.02 * orderCuts(shapes).travelMm);
  });
});
