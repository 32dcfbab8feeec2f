/** One curve through points: what was a curve is found again, the error that is told is the error, and merging keeps to what it merges. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Contour, Outline, Span } from '../../types/index.ts';
import { flatten } from '../flatten.ts';
import { lineDistance } from '../hit.ts';
import { nodeCount } from '../outline.ts';
import { endTangent, evaluate, spanLength } from '../span.ts';
import { fitG1 } from './fit-g1.ts';
import { mergeSmooth, type Joints } from './merge-smooth.ts';
import { directionAt, drawParallel, parallelPoint } from './parallel-curve.ts';

/** To a thousandth: sides of 1e-300 are no drawings. */
const number = (min: number, max: number) => fc.integer({ min: Math.round(min * 1000), max: Math.round(max * 1000) }).map((n) => n / 1000);
/** Curves that bend one way or wave gently: their handles are a part of the chord, at no more than 60 degrees from it. */
const curve = fc
  .record({
    chord: number(10, 100),
    a: number(0.15, 0.6),
    b: number(0.15, 0.6),
    alpha: number(-1, 1),
    beta: number(-1, 1),
    turn: number(0, 6.28),
  })
  .map(({ chord, a, b, alpha, beta, turn }): Span => {
    const points: [number, number][] = [
      [0, 0],
      [a * chord * Math.cos(alpha), a * chord * Math.sin(alpha)],
      [chord - b * chord * Math.cos(beta), b * chord * Math.sin(beta)],
      [chord, 0],
    ];
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    return points.flatMap(([x, y]) => [x * cos - y * sin, x * sin + y * cos]) as unknown as Span;
  });
const pointsOf = (span: Span, count: number): number[] =>
  Array.from({ length: count + 1 }, (_, k) => [evaluate(span, k / count, 0), evaluate(span, k / count, 1)]).flat();
const lineOf = (span: Span): Outline => ({ contours: [{ closed: false, spans: [span] }] });

describe('one curve through points', () => {
  test('finds a curve again of which they are, to a ten-thousandth of its length', () => {
    fc.assert(
      fc.property(curve, fc.integer({ min: 8, max: 40 }), (span, count) => {
        const fit = fitG1(pointsOf(span, count), endTangent(span, 0), endTangent(span, 1));
        expect(fit.error).toBeLessThan(1e-4 * spanLength(span));
      }),
      { seed: 11 },
    );
  });

  test('begins and ends at the first and the last of them, the way that was asked', () => {
    fc.assert(
      fc.property(curve, fc.array(number(-0.3, 0.3), { minLength: 21, maxLength: 21 }), (span, noise) => {
        const xy = pointsOf(span, 20).map((v, i) => (i < 2 || i >= 40 ? v : v + (noise[i >> 1] ?? 0)));
        const fit = fitG1(xy, endTangent(span, 0), endTangent(span, 1));
        expect(fit.span.slice(0, 2)).toEqual(xy.slice(0, 2));
        expect(fit.span.slice(-2)).toEqual(xy.slice(-2));
        const [dx, dy] = endTangent(fit.span, 0);
        const [tx, ty] = endTangent(span, 0);
        expect(dx * tx + dy * ty).toBeGreaterThan(0.999);
        // the error that is told is the greatest distance of a point, to the search's own fineness
        const line = flatten(lineOf(fit.span), 1e-4);
        const most = Math.max(...Array.from({ length: 21 }, (_, i) => lineDistance(line, xy[2 * i]!, xy[2 * i + 1]!)));
        expect(most).toBeLessThan(fit.error + 0.01);
      }),
      { seed: 12, numRuns: 60 },
    );
  });
});

describe('the parallel of a curve', () => {
  test('lies at its distance to the right of it, all along where it bends less than that', () => {
    fc.assert(
      fc.property(curve, number(-4, 4), (span, d) => {
        fc.pre(Math.abs(d) > 0.2);
        const drawn: Span[] = [];
        let at: readonly [number, number] = [NaN, NaN];
        drawParallel(span, d, 0.002, {
          lineTo: (x, y) => {
            if (!Number.isNaN(at[0])) drawn.push([...at, x, y]);
            at = [x, y];
          },
          draw: (piece) => {
            drawn.push(piece);
            at = [piece.at(-2)!, piece.at(-1)!];
          },
        });
        const art = flatten(lineOf(span), 1e-4);
        const far = drawn.flatMap((piece) =>
          pointsOf(piece, 8).flatMap((x, i, all) => (i % 2 === 0 ? [lineDistance(art, x, all[i + 1]!)] : [])),
        );
        // never farther than the distance; nearer only where the curve bends more tightly than it
        expect(Math.max(...far)).toBeLessThan(Math.abs(d) + 0.01);
        for (const t of [0, 0.5, 1]) {
          const [x, y] = parallelPoint(span, t, d);
          const [dx, dy] = directionAt(span, t);
          expect(x - evaluate(span, t, 0)).toBeCloseTo(d * dy, 9);
          expect(y - evaluate(span, t, 1)).toBeCloseTo(-d * dx, 9);
        }
      }),
      { seed: 13, numRuns: 60 },
    );
  });
});

describe('merging smooth curves', () => {
  const ring = fc.array(number(0.85, 1.15), { minLength: 8, maxLength: 40 }).map((reaches): Contour => {
    const points = reaches.map((r, i): [number, number] => {
      const angle = (2 * Math.PI * i) / reaches.length;
      return [40 * r * Math.cos(angle), 40 * r * Math.sin(angle)];
    });
    const at = (i: number): [number, number] => points[(i + points.length) % points.length]!;
    return {
      closed: true,
      spans: points.map((_, i) => {
        const [[ax, ay], [bx, by], [cx, cy], [dx, dy]] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
        return [bx, by, bx + (cx - ax) / 6, by + (cy - ay) / 6, cx - (dx - bx) / 6, cy - (dy - by) / 6, cx, cy];
      }),
    };
  });

  test('never makes more of them, and keeps to the line within the tolerance, wherever joints may be', () => {
    fc.assert(
      fc.property(
        ring,
        number(0.005, 0.3),
        fc.constantFrom<Joints>('known', 'anywhere', 'beside'),
        fc.boolean(),
        (contour, tol, joints, straight) => {
          const before: Outline = { contours: [contour] };
          const after = mergeSmooth(before, tol, { joints, straight });
          expect(nodeCount(after)).toBeLessThanOrEqual(nodeCount(before));
          const [was, is] = [flatten(before, tol / 20), flatten(after, tol / 20)];
          const off = (from: typeof was, to: typeof was): number =>
            Math.max(
              ...from.flatMap(({ xy }) => Array.from({ length: xy.length / 2 }, (_, i) => lineDistance(to, xy[2 * i]!, xy[2 * i + 1]!))),
            );
          expect(Math.max(off(was, is), off(is, was))).toBeLessThan(1.15 * tol);
        },
      ),
      { seed: 14, numRuns: 25 },
    );
  });

  test('what is straight within the tolerance goes into the line beside it, also where the contour begins; what is not stays', () => {
    const flat = (y: number): Outline => ({
      contours: [
        {
          closed: true,
          spans: [
            [9, 0, 9.5, y, 9.8, y, 10, 0],
            [10, 0, 10, 10],
            [10, 10, 6, 10],
            [6, 10, 4, 10 + y, 2, 10 + y, 0, 10],
            [0, 10, 0, 0],
            [0, 0, 9, 0],
          ],
        },
      ],
    });
    expect(mergeSmooth(flat(0.004), 0.005, { straight: true }).contours[0]!.spans).toEqual([
      [0, 0, 10, 0],
      [10, 0, 10, 10],
      [10, 10, 0, 10],
      [0, 10, 0, 0],
    ]);
    expect(mergeSmooth(flat(0.02), 0.005, { straight: true })).toEqual(flat(0.02));
    expect(mergeSmooth(flat(0.004), 0.005)).toEqual(flat(0.004));
  });

  test('joins pieces of one curve, and leaves corners and straight sides', () => {
    const box: Outline = {
      contours: [
        {
          closed: true,
          spans: [
            [0, 0, 40, 0],
            [40, 0, 40, 30],
            [40, 30, 0, 30],
            [0, 30, 0, 0],
          ],
        },
      ],
    };
    expect(mergeSmooth(box, 0.5)).toEqual(box);
    const half: Span = [0, 0, 10, 15, 30, 15, 40, 0];
    const quarters = [0, 1, 2, 3].map((k): Span => {
      const at = (t: number): [number, number] => [evaluate(half, t, 0), evaluate(half, t, 1)];
      const slope = (t: number): [number, number] => {
        const u = 1 - t;
        const d = (i: 0 | 1): number =>
          3 * (u * u * (half[2 + i]! - half[i]!) + 2 * u * t * (half[4 + i]! - half[2 + i]!) + t * t * (half[6 + i]! - half[4 + i]!));
        return [d(0), d(1)];
      };
      const [t0, t1] = [k / 4, (k + 1) / 4];
      const [[x0, y0], [x1, y1], [ax, ay], [bx, by]] = [at(t0), at(t1), slope(t0), slope(t1)];
      return [x0, y0, x0 + ax / 12, y0 + ay / 12, x1 - bx / 12, y1 - by / 12, x1, y1];
    });
    const bow: Outline = { contours: [{ closed: true, spans: [...quarters, [40, 0, 20, -10], [20, -10, 0, 0]] }] };
    expect(mergeSmooth(bow, 0.01).contours[0]!.spans).toHaveLength(3);
  });
});
