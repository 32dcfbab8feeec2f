/** Curves of DXF against what the standard's own formulas give, worked out another way. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { evaluate } from '../../geometry/span.ts';
import type { Span } from '../../types/index.ts';
import { arcSpans, bulgeSpans, ellipseSpans, splineSpans, throughPoints, type SplineData } from './curves.ts';

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const along = (spans: readonly Span[], steps = 16): [number, number][] =>
  spans.flatMap((span) =>
    Array.from({ length: steps + 1 }, (_, k): [number, number] => [evaluate(span, k / steps, 0), evaluate(span, k / steps, 1)]),
  );
const first = (spans: readonly Span[]): readonly number[] => (spans[0] as Span).slice(0, 2);
const last = (spans: readonly Span[]): readonly number[] => (spans.at(-1) as Span).slice(-2);

test('an arc keeps its radius to a few ten thousandths, begins and ends where it is told', () => {
  fc.assert(
    fc.property(number(-500, 500), number(-500, 500), number(0.1, 900), number(-6, 6), number(-6.2, 6.2), (cx, cy, r, from, sweep) => {
      fc.pre(Math.abs(sweep) > 1e-3);
      const spans = arcSpans(cx, cy, r, from, from + sweep);
      expect(Math.max(...along(spans).map(([x, y]) => Math.abs(Math.hypot(x - cx, y - cy) - r)))).toBeLessThan(2.8e-4 * r);
      expect(first(spans)[0]).toBeCloseTo(cx + r * Math.cos(from), 8);
      expect(last(spans)[1]).toBeCloseTo(cy + r * Math.sin(from + sweep), 8);
    }),
  );
});

test('points of an ellipse lie on it: its own map brings them back to the unit circle', () => {
  fc.assert(
    fc.property(number(1, 300), number(0.05, 1), number(-3, 3), (a, ratio, turn) => {
      const u: [number, number] = [a * Math.cos(turn), a * Math.sin(turn)];
      const v: [number, number] = [-ratio * u[1], ratio * u[0]];
      const det = u[0] * v[1] - u[1] * v[0];
      for (const [x, y] of along(ellipseSpans([0, 0], u, v, 0, 2 * Math.PI))) {
        const [p, q] = [(x * v[1] - y * v[0]) / det, (u[0] * y - u[1] * x) / det];
        expect(Math.hypot(p, q)).toBeCloseTo(1, 3);
      }
    }),
  );
});

test('a bulge rises over its chord by the bulge times half of the chord, to the right when it is above zero', () => {
  fc.assert(
    fc.property(number(-200, 200), number(-200, 200), number(1, 300), number(-3, 3), number(-3, 3), (x, y, chord, turn, bulge) => {
      fc.pre(Math.abs(bulge) > 1e-3);
      const [ux, uy] = [Math.cos(turn), Math.sin(turn)];
      const spans = bulgeSpans(x, y, x + chord * ux, y + chord * uy, bulge);
      expect(first(spans)[0]).toBeCloseTo(x, 6);
      expect(last(spans)).toEqual([x + chord * ux, y + chord * uy]);
      // the farthest of the arc from its chord, on the right of the way from end to end
      const off = along(spans, 64).map(([px, py]) => (px - x) * uy - (py - y) * ux);
      const farthest = bulge > 0 ? Math.max(...off) : Math.min(...off);
      expect(farthest / ((bulge * chord) / 2)).toBeCloseTo(1, 2);
    }),
  );
  expect(bulgeSpans(1, 2, 1, 2, 0.5)).toEqual([]);
  expect(bulgeSpans(1, 2, 5, 2, 0)).toEqual([[1, 2, 5, 2]]);
});

/** A point of a rational B-spline by the recursion of Cox and de Boor itself. */
function deBoor({ degree, knots, control }: SplineData, t: number): [number, number] {
  const n = (i: number, k: number): number => {
    const [a, b] = [knots[i] as number, knots[i + 1] as number];
    if (k === 0) return a <= t && t < b ? 1 : 0;
    const [lo, hi] = [(knots[i + k] as number) - a, (knots[i + k + 1] as number) - b];
    return (lo > 0 ? ((t - a) / lo) * n(i, k - 1) : 0) + (hi > 0 ? (((knots[i + k + 1] as number) - t) / hi) * n(i + 1, k - 1) : 0);
  };
  let [x, y, w] = [0, 0, 0];
  control.forEach(([cx, cy, cw], i) => {
    const share = n(i, degree) * cw;
    [x, y, w] = [x + share * cx, y + share * cy, w + share];
  });
  return [x / w, y / w];
}

/** The knots of a spline that begins and ends in its first and last control point. */
const clamped = (degree: number, count: number): number[] => [
  ...new Array<number>(degree + 1).fill(0),
  ...Array.from({ length: count - degree - 1 }, (_, i) => i + 1),
  ...new Array<number>(degree + 1).fill(count - degree),
];

/** How far a point is from a straight line between two others. */
function awayFrom([x, y]: readonly [number, number], [ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]): number {
  const [dx, dy] = [bx - ax, by - ay];
  const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(x - ax - t * dx, y - ay - t * dy);
}

test('a spline lies within its tolerance of what the recursion gives', () => {
  const point = fc.tuple(number(-100, 100), number(-100, 100), number(0.3, 4));
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 4 }), fc.array(point, { minLength: 5, maxLength: 8 }), (degree, control) => {
      const data: SplineData = { degree, knots: clamped(degree, control.length), control };
      const spans = splineSpans(data, 0.01);
      const drawn = along(spans ?? [], 60);
      const end = control.length - degree;
      for (let k = 0; k < 40; k++) {
        const [x, y] = deBoor(data, (k / 40) * end);
        const far = drawn.slice(1).map((b, i) => awayFrom([x, y], drawn[i] as [number, number], b));
        // the tolerance, and what chords of a sixtieth of a span cut off
        expect(Math.min(...far)).toBeLessThan(0.03);
      }
    }),
    { numRuns: 12 },
  );
});

test('a cubic without weights comes out as the Bézier that it is', () => {
  const control = [
    [0, 0, 1],
    [10, 30, 1],
    [40, -20, 1],
    [60, 5, 1],
  ] as const;
  expect(
    splineSpans({ degree: 3, knots: [0, 0, 0, 0, 1, 1, 1, 1], control }, 0.001)?.map((s) => s.map((v) => Math.round(v * 1e9) / 1e9)),
  ).toEqual([[0, 0, 10, 30, 40, -20, 60, 5]]);
});

test('knots and control points that do not belong together give nothing', () => {
  const control = [[0, 0, 1] as const, [1, 1, 1] as const, [2, 0, 1] as const];
  expect(splineSpans({ degree: 2, knots: [0, 0, 0, 1, 1], control }, 0.01)).toBeUndefined();
  expect(splineSpans({ degree: 2, knots: [0, 0, 0, 1, 0, 1], control }, 0.01)).toBeUndefined();
  expect(
    splineSpans(
      {
        degree: 2,
        knots: [0, 0, 0, 1, 1, 1],
        control: [
          [0, 0, 1],
          [1, 1, -1],
          [2, 0, 1],
        ],
      },
      0.01,
    ),
  ).toBeUndefined();
  expect(splineSpans({ degree: 0, knots: [0, 1, 2, 3], control }, 0.01)).toBeUndefined();
});

test('a curve through points goes through each of them and is smooth there', () => {
  const point = fc.tuple(fc.integer({ min: -200, max: 200 }), fc.integer({ min: -200, max: 200 }));
  fc.assert(
    fc.property(fc.uniqueArray(point, { minLength: 2, maxLength: 12, selector: (p) => p.join() }), (points) => {
      const spans = throughPoints(points);
      expect(spans).toHaveLength(points.length - 1);
      points.forEach(([x, y], i) => {
        const [before, after] = [spans[i - 1], spans[i]];
        if (after) expect(after.slice(0, 2)).toEqual([x, y]);
        if (before) expect(before.slice(6)).toEqual([x, y]);
        if (!before || !after) return;
        // one direction on both sides
        const [ax, ay] = [x - (before[4] as number), y - (before[5] as number)];
        const [bx, by] = [(after[2] as number) - x, (after[3] as number) - y];
        expect(Math.abs(ax * by - ay * bx)).toBeLessThan(1e-6 * (1 + Math.hypot(ax, ay) * Math.hypot(bx, by)));
        expect(ax * bx + ay * by).toBeGreaterThanOrEqual(-1e-9);
      });
    }),
  );
  expect(throughPoints([[3, 4]])).toEqual([]);
});
