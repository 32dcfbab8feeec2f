import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Clipper, EndType, JoinType } from 'clipper2-ts';
import { AppError } from '../../index.ts';
import {
  area,
  bounds,
  boxShape,
  compose,
  evaluate,
  flatten,
  lineDistance,
  mapOutline,
  nodeCount,
  offset,
  ovalShape,
  parsePath,
  pathLength,
  rotation,
  strokeToShape,
  translation,
  weld,
  type Outline,
} from '../index.ts';

const size = fc.double({ min: 4, max: 60, noNaN: true });
const shape = fc
  .record({
    oval: fc.boolean(),
    w: size,
    h: size,
    corner: fc.double({ min: 0, max: 10, noNaN: true }),
    turn: fc.double({ min: 0, max: 360, noNaN: true }),
  })
  .map(({ oval, w, h, corner, turn }) => mapOutline(rotation(turn), oval ? ovalShape(w, h) : boxShape(w, h, corner)));
const union = fc
  .tuple(shape, shape, fc.double({ min: -20, max: 20, noNaN: true }))
  .map(([a, b, x]) => weld([a, mapOutline(translation(x, x / 2), b)]));

/** A closed curve through points round a middle, bent as their neighbours say: hollows tighter than most distances. */
const bumpy = fc.array(fc.double({ min: 0.6, max: 1.3, noNaN: true }), { minLength: 7, maxLength: 24 }).map((shares): Outline => {
  const n = shares.length;
  const points = shares.map((share, i) => {
    const angle = (2 * Math.PI * i) / n;
    return [30 * share * Math.cos(angle), 30 * share * Math.sin(angle)] as const;
  });
  const point = (i: number) => points[(i + n) % n]!;
  const spans = points.map(([x, y], i) => {
    const [before, next, after] = [point(i - 1), point(i + 1), point(i + 2)];
    const bend = (k: 0 | 1): readonly [number, number] => [(next[k] - before[k]) / 6, (after[k] - [x, y][k]!) / 6];
    const [[ax, bx], [ay, by]] = [bend(0), bend(1)];
    return [x, y, x + ax, y + ay, next[0] - bx, next[1] - by, next[0], next[1]];
  });
  return { contours: [{ closed: true, spans }] };
});

/** The area of a shape grown as a polygon of fine chords, by other means. */
function grownArea(outline: Outline, d: number): number {
  const scale = 1e4;
  const rings = flatten(outline, 0.0005).map(({ xy }) =>
    Array.from({ length: xy.length / 2 }, (_, i) => ({ x: Math.round(xy[2 * i]! * scale), y: Math.round(xy[2 * i + 1]! * scale) })),
  );
  const grown = Clipper.inflatePaths(rings, d * scale, JoinType.Round, EndType.Polygon, 4, 0.0005 * scale);
  return grown.reduce((sum, ring) => sum + Clipper.area(ring), 0) / scale ** 2;
}

/** How far the boundary of a result is from lying at a distance from an outline, mm. */
function residual(of: Outline, from: Outline, distanceMm: number): number {
  const lines = flatten(from, 0.0005);
  let worst = 0;
  for (const { spans } of of.contours) {
    for (const span of spans)
      for (const t of [0, 0.2, 0.5, 0.8])
        worst = Math.max(worst, Math.abs(lineDistance(lines, evaluate(span, t, 0), evaluate(span, t, 1)) - distanceMm));
  }
  return worst;
}

describe('offset', () => {
  test('every point of a round offset lies at the distance, within 5 µm, outward and inward', () => {
    fc.assert(
      fc.property(union, fc.double({ min: 0.2, max: 15, noNaN: true }), (outline, d) => {
        expect(residual(offset(outline, d, { join: 'round' }), outline, d)).toBeLessThan(0.005);
        expect(residual(offset(outline, -d, { join: 'round' }), outline, d)).toBeLessThan(0.005);
      }),
      { numRuns: 60, seed: 71 },
    );
  });

  test('hollows tighter than the distance fold away: what is left is what polygons of fine chords leave', () => {
    fc.assert(
      fc.property(bumpy, fc.double({ min: 0.5, max: 14, noNaN: true }), (outline, d) => {
        for (const by of [d, -d]) {
          const own = offset(outline, by, { join: 'round' });
          expect(residual(own, weld([outline]), d)).toBeLessThan(0.006);
          const edge = own.contours.reduce((sum, contour) => sum + pathLength({ contours: [contour] }), 0);
          expect(Math.abs(area(own) - grownArea(outline, by))).toBeLessThan(0.004 * edge + 0.01);
        }
      }),
      { numRuns: 15, seed: 5 },
    );
  });

  test('an inset past vanishing leaves nothing, also of a circle', () => {
    expect(offset(ovalShape(100, 100), -50.01, { join: 'round' }).contours).toEqual([]);
    expect(offset(boxShape(30, 10), -5.01, { join: 'mitre' }).contours).toEqual([]);
    expect(area(offset(ovalShape(100, 100), -49.9, { join: 'round' }))).toBeCloseTo(Math.PI * 0.01, 2);
  });

  test('mitres at corners up to the limit, bevels beyond, rounds on request', () => {
    expect(area(offset(boxShape(40, 20), 5, { join: 'mitre' }))).toBeCloseTo(1500, 6);
    expect(area(offset(boxShape(40, 20), 5, { join: 'bevel' }))).toBeCloseTo(1500 - 4 * 12.5, 6);
    expect(area(offset(boxShape(40, 20), 5, { join: 'round' })) - (800 + 600 + 25 * Math.PI)).toBeLessThan(0.05);
    const spike = parsePath('M0 0L100 4L0 8Z');
    expect(bounds(offset(spike, 2, { join: 'mitre', mitreLimit: 4 })).maxX).toBeLessThan(104);
    expect(bounds(offset(spike, 2, { join: 'mitre', mitreLimit: 100 })).maxX).toBeGreaterThan(130);
  });

  test('holes shrink when the shape grows, and close', () => {
    const ring: Outline = { contours: [...boxShape(60, 60).contours, ...parsePath('M20 20L20 40L40 40L40 20Z').contours] };
    expect(offset(ring, 4, { join: 'round' }).contours.length).toBe(2);
    expect(offset(ring, 10.1, { join: 'round' }).contours.length).toBe(1);
  });

  test('a short sharp turn before a long curve is not smoothed over, nor a chord taken for a wide one', () => {
    const hooked = parsePath('M0 0C30 -2 60 -3 90 0C90.4 0.05 90.6 0.4 90.5 0.8C88 12 60 40 0 30C-1 20 -1 10 0 0Z');
    const wide = mapOutline([40, 0, 0, 40, 0, 0], hooked);
    for (const [outline, d] of [
      [hooked, 3],
      [hooked, -0.5],
      [wide, 25],
    ] as const)
      expect(residual(offset(outline, d, { join: 'round' }), outline, Math.abs(d))).toBeLessThan(0.005);
    // one curve of 3.6 m may be long, but no more than twice as many are needed as there were
    expect(nodeCount(offset(wide, 25, { join: 'round' }))).toBeLessThanOrEqual(2 * nodeCount(wide));
  });

  test('few nodes: an oval grown is still some curves, a rounded box keeps its eight spans', () => {
    expect(nodeCount(offset(ovalShape(60, 40), 5, { join: 'round' }))).toBeLessThanOrEqual(8);
    expect(nodeCount(offset(boxShape(60, 40, 6), 3, { join: 'round' }))).toBe(8);
  });
});

describe('stroke to shape', () => {
  const wave = parsePath('M0 0C20 40 40 -40 60 0');

  test('every point of a round stroke lies half its width from the line', () => {
    for (const width of [0.5, 3, 12])
      expect(residual(strokeToShape(wave, { width, cap: 'round', join: 'round' }), wave, width / 2)).toBeLessThan(0.005);
  });

  test('caps: butt ends flush, square reaches on by half the width', () => {
    const line = parsePath('M0 0L50 0');
    expect(area(strokeToShape(line, { width: 4, cap: 'butt', join: 'round' }))).toBeCloseTo(200, 6);
    expect(area(strokeToShape(line, { width: 4, cap: 'square', join: 'round' }))).toBeCloseTo(216, 6);
    expect(area(strokeToShape(line, { width: 4, cap: 'round', join: 'round' }))).toBeCloseTo(200 + 4 * Math.PI, 2);
  });

  test('a closed line becomes a ring', () => {
    const ring = strokeToShape(boxShape(50, 30), { width: 2, cap: 'butt', join: 'mitre' });
    expect(ring.contours.length).toBe(2);
    expect(area(ring)).toBeCloseTo(2 * 160, 6);
  });

  test('a line that crosses itself is covered once', () => {
    const cross = parsePath('M0 0L40 0L40 20L20 20L20 -20');
    expect(area(strokeToShape(cross, { width: 2, cap: 'butt', join: 'mitre' }))).toBeCloseTo(2 * 120 - 4, 4);
  });

  test('dashes have their lengths, also on a curve and with an offset', () => {
    const line = parsePath('M0 0L100 0');
    const dashes = (dash: number[], dashOffset = 0): number[] =>
      [strokeToShape(line, { width: 2, cap: 'butt', join: 'round', dash, dashOffset })].flatMap((o) => [
        o.contours.length,
        Math.round(area(o) * 1000) / 1000,
      ]);
    expect(dashes([10, 10])).toEqual([5, 100]);
    expect(dashes([10, 10], 5)).toEqual([6, 100]);
    expect(dashes([30])).toEqual([2, 120]);
    const round = strokeToShape(ovalShape(100, 100), { width: 1, cap: 'butt', join: 'round', dash: [20, 20] });
    expect(Math.abs(area(round) - 20 * Math.ceil((Math.PI * 100) / 40 - 0.4))).toBeLessThan(15);
  });

  test.each([
    ['width', { width: 0 }],
    ['width', { width: Number.NaN }],
    ['dash', { width: 1, dash: [5, -1] }],
  ])('an impossible %s is refused', (_, fields) => {
    try {
      strokeToShape(wave, { cap: 'round', join: 'round', ...fields });
      throw new Error('accepted');
    } catch (error) {
      expect(error instanceof AppError && error.code).toBe('input.stroke');
    }
  });

  test('the place and the turn of the line do not matter', () => {
    const there = mapOutline(compose(translation(500, -300), rotation(37)), wave);
    const a = area(strokeToShape(wave, { width: 5, cap: 'round', join: 'round' }));
    expect(Math.abs(area(strokeToShape(there, { width: 5, cap: 'round', join: 'round' })) - a)).toBeLessThan(0.05);
  });
});
