/** Path data as SVG 2 states it: what is relative, repeated, short or cramped draws the same as what is spelt out. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { evaluate } from '../../geometry/span.ts';
import type { Span } from '../../types/index.ts';
import { arcSpans, parsePathData } from './path-data.ts';

const drawn = (text: string) => parsePathData(text).contours;
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const whole = fc.integer({ min: -99, max: 99 });

/** Commands in absolute numbers, and the same in relative ones. */
const steps = fc.array(fc.tuple(fc.constantFrom('L', 'C', 'Q', 'H', 'V'), fc.array(whole, { minLength: 6, maxLength: 6 })), {
  minLength: 1,
  maxLength: 8,
});
function bothWays(list: readonly (readonly [string, readonly number[]])[]): { absolute: string; relative: string } {
  let [x, y] = [5, -7];
  let [absolute, relative] = ['M5 -7', 'm5-7'];
  for (const [letter, n] of list) {
    const count = { L: 2, C: 6, Q: 4, H: 1, V: 1 }[letter] as number;
    const to = n.slice(0, count).map((v, i) => v + (letter === 'V' || (letter !== 'H' && i % 2 === 1) ? y : x));
    absolute += `${letter}${to.join(',')}`;
    relative += `${letter.toLowerCase()}${n.slice(0, count).join(' ')}`;
    if (letter === 'H') x = to[0] as number;
    else if (letter === 'V') y = to[0] as number;
    else [x, y] = to.slice(-2) as [number, number];
  }
  return { absolute, relative };
}

describe('commands', () => {
  test('in relative numbers draw what absolute ones draw', () => {
    fc.assert(
      fc.property(steps, (list) => {
        const { absolute, relative } = bothWays(list);
        expect(drawn(relative)).toEqual(drawn(absolute));
      }),
    );
  });

  test('need no letter when they go on, no blank where a sign or a second point parts numbers', () => {
    expect(drawn('M0 0L10 0L10 10')).toEqual(drawn('M0 0 10 0 10 10'));
    expect(drawn('M.5.5-1-1')).toEqual(drawn('M 0.5 0.5 L -1 -1'));
    expect(drawn('M1e1-2E0L3 4')).toEqual(drawn('M10 -2L3 4'));
    expect(drawn('M0,0,\n10\t,5')).toEqual(drawn('M0 0L10 5'));
  });

  test('a smooth curve goes on in the direction of the one before; after anything else from where it is', () => {
    expect(drawn('M0 0C0 10 10 10 20 0S40-10 50 0')).toEqual(drawn('M0 0C0 10 10 10 20 0C30-10 40-10 50 0'));
    expect(drawn('M0 0L20 0S40-10 50 0')).toEqual(drawn('M0 0L20 0C20 0 40-10 50 0'));
    expect(drawn('M0 0Q10 10 20 0T40 0')).toEqual(drawn('M0 0Q10 10 20 0Q30-10 40 0'));
  });

  test('a contour is closed by Z to where it began, and the next one may begin there', () => {
    const [square, rest] = drawn('M10 10h5v5h-5zl3 3');
    expect([square?.closed, square?.spans.length]).toEqual([true, 4]);
    expect(square?.spans.at(-1)?.slice(-2)).toEqual([10, 10]);
    expect([rest?.closed, rest?.spans[0]]).toEqual([false, [10, 10, 13, 13]]);
  });

  test('a quadratic curve is the cubic that it is', () => {
    fc.assert(
      fc.property(fc.array(whole, { minLength: 6, maxLength: 6 }), number(0, 1), ([x0, y0, x1, y1, x2, y2], t) => {
        const [span] = drawn(`M${x0} ${y0}Q${x1} ${y1} ${x2} ${y2}`)[0]?.spans ?? [];
        if (!span) return;
        const at = (a: number, b: number, c: number): number => (1 - t) ** 2 * a + 2 * t * (1 - t) * b + t * t * c;
        expect(evaluate(span, t, 0)).toBeCloseTo(at(x0 as number, x1 as number, x2 as number), 8);
        expect(evaluate(span, t, 1)).toBeCloseTo(at(y0 as number, y1 as number, y2 as number), 8);
      }),
    );
  });
});

describe('mistakes', () => {
  test('draw what comes before them, and say so', () => {
    for (const text of ['M0 0L10 0L5', 'M0 0L10 0X', 'M0 0L10 0 A5 5 0 2 1 9 9', 'M0 0L10 0 C1 2 3'])
      expect([text, parsePathData(text).isBroken, parsePathData(text).contours[0]?.spans[0]]).toEqual([text, true, [0, 0, 10, 0]]);
    expect(parsePathData('L10 10')).toEqual({ contours: [], isBroken: true });
    expect(parsePathData('')).toEqual({ contours: [], isBroken: false });
    expect(parsePathData('M3 3')).toEqual({ contours: [], isBroken: false });
  });

  test('of any kind end, and never in numbers that are none', () => {
    const odd = fc.stringMatching(/^[MmLlHhVvCcSsQqTtAaZz0-9eE+.,\- ]{0,80}$/);
    fc.assert(
      fc.property(odd, (text) => {
        for (const { spans } of drawn(`M0 0${text}`)) for (const span of spans) expect(span.every(Number.isFinite)).toBe(true);
      }),
      { numRuns: 400 },
    );
  });
});

describe('arcs', () => {
  const points = (spans: readonly Span[]): [number, number][] =>
    spans.flatMap((span) => Array.from({ length: 9 }, (_, k): [number, number] => [evaluate(span, k / 8, 0), evaluate(span, k / 8, 1)]));

  test('begin and end where they are told and lie on an ellipse of their radii, grown where it would not reach', () => {
    fc.assert(
      fc.property(
        whole,
        whole,
        number(1, 60),
        number(1, 60),
        number(0, 180),
        fc.boolean(),
        fc.boolean(),
        (x, y, rx, ry, turnDeg, large, sweep) => {
          fc.pre(x !== 0 || y !== 0);
          const spans = arcSpans([0, 0], [x, y], { rx, ry, turnDeg, large, sweep });
          expect(spans[0]?.slice(0, 2)).toEqual([0, 0]);
          expect(spans.at(-1)?.slice(-2)).toEqual([x, y]);
          // in the ellipse's own axes, its radii taken for one, it is a circle round a middle that all points agree on
          const phi = (turnDeg * Math.PI) / 180;
          const unit = points(spans).map(([px, py]) => [
            (Math.cos(phi) * px + Math.sin(phi) * py) / rx,
            (Math.cos(phi) * py - Math.sin(phi) * px) / ry,
          ]);
          const [a, b, c] = [0, Math.floor(unit.length / 2), unit.length - 1].map((i) => unit[i]) as [number[], number[], number[]];
          const middle = circleThrough(a, b, c);
          if (!middle) return;
          const radii = unit.map(([u = 0, v = 0]) => Math.hypot(u - middle[0], v - middle[1]));
          expect(Math.max(...radii) - Math.min(...radii)).toBeLessThan(2e-3 * Math.max(1, ...radii));
          expect(Math.max(...radii)).toBeGreaterThan(0.99);
        },
      ),
    );
  });

  test('of no radius are lines, of no way nothing', () => {
    expect(arcSpans([0, 0], [9, 3], { rx: 0, ry: 5, turnDeg: 0, large: false, sweep: true })).toEqual([[0, 0, 9, 3]]);
    expect(arcSpans([4, 4], [4, 4], { rx: 5, ry: 5, turnDeg: 0, large: true, sweep: true })).toEqual([]);
  });

  test('small and large, this way and that, are four arcs that make two circles', () => {
    const top = (large: boolean, sweep: boolean): number => {
      const ys = points(arcSpans([0, 0], [6, 0], { rx: 5, ry: 5, turnDeg: 0, large, sweep })).map(([, y]) => y);
      return (Math.round(Math.max(...ys.map(Math.abs)) * 100) / 100) * Math.sign(ys[4] ?? 0);
    };
    expect([top(false, false), top(false, true), top(true, false), top(true, true)]).toEqual([1, -1, 9, -9]);
  });
});

/** Middle of the circle through three points; undefined when they are in line. */
function circleThrough([ax = 0, ay = 0]: number[], [bx = 0, by = 0]: number[], [cx = 0, cy = 0]: number[]): [number, number] | undefined {
  const d = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by));
  if (Math.abs(d) < 1e-2) return undefined;
  const [a, b, c] = [ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy];
  return [(a * (by - cy) + b * (cy - ay) + c * (ay - by)) / d, (a * (cx - bx) + b * (ax - cx) + c * (bx - ax)) / d];
}
