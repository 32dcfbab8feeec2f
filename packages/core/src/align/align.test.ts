import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { applyCorrection, solveMarks, type CorrectionModel } from './index.ts';
import type { Point } from '../types/index.ts';

type Warp = (p: Point) => Point;
const turned = (deg: number, dx: number, dy: number): Warp => {
  const [c, s] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
  return (p) => ({ x: c * p.x - s * p.y + dx, y: s * p.x + c * p.y + dy });
};
/** Marks along both long edges, so many rows of two. */
const rowsOf = (length: number, width: number, rows: number): Point[] =>
  [0, width].flatMap((y) => Array.from({ length: rows }, (_, i) => ({ x: (length * i) / (rows - 1), y })));
const between = (length: number, width: number): Point[] =>
  [0, 0.13, 0.31, 0.5, 0.77, 1].flatMap((u) => [0, 0.4, 1].map((v) => ({ x: length * u, y: width * v })));
const apart = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);
/** The greatest distance from the truth, on the marks and between them. */
const wrongBy = (nominal: Point[], warp: Warp, places: Point[], model?: CorrectionModel): number => {
  const found = solveMarks(nominal, nominal.map(warp), model ? { model } : {});
  return Math.max(...[...places, ...nominal].map((p) => apart(applyCorrection(found, p), warp(p))));
};

const angle = fc.double({ min: -179, max: 179, noNaN: true });
const shift = fc.double({ min: -3000, max: 3000, noNaN: true });
const grow = fc.double({ min: 0.97, max: 1.03, noNaN: true });

describe('solving marks that were read without noise', () => {
  test('a sheet turned, shifted and grown anyhow is brought back by two marks or more, to a thousandth', () => {
    fc.assert(
      fc.property(angle, shift, shift, grow, fc.integer({ min: 1, max: 4 }), (deg, dx, dy, scale, rows) => {
        const warp: Warp = (p) => turned(deg, dx, dy)({ x: p.x * scale, y: p.y * scale });
        const nominal = rows === 1 ? rowsOf(900, 500, 2).slice(0, 2) : rowsOf(900, 500, rows);
        expect(wrongBy(nominal, warp, between(900, 500))).toBeLessThan(1e-3);
      }),
    );
  });

  test('two scales and skew are brought back from three marks; which edge is the longer is no matter', () => {
    fc.assert(
      fc.property(angle, grow, grow, fc.double({ min: -0.01, max: 0.01, noNaN: true }), fc.boolean(), (deg, sx, sy, skew, upright) => {
        const warp: Warp = (p) => turned(deg, 40, -7)({ x: p.x * sx + skew * p.y, y: p.y * sy });
        const [length, width] = upright ? [300, 1100] : [1100, 300];
        expect(wrongBy(rowsOf(length, width, 2).slice(0, 3), warp, between(length, width), 'affine')).toBeLessThan(1e-6);
        expect(wrongBy(rowsOf(length, width, 2), warp, between(length, width))).toBeLessThan(0.4);
      }),
    );
  });

  test('a bow along the length is brought back from six marks, perspective from four', () => {
    fc.assert(
      fc.property(
        angle,
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: -3e-5, max: 3e-5, noNaN: true }),
        (deg, bow, tilt) => {
          const bowed: Warp = (p) => turned(deg, 5, 6)({ x: p.x, y: p.y + (4 * bow * p.x * (1200 - p.x)) / 1200 ** 2 });
          const tilted: Warp = (p) => turned(deg, 5, 6)({ x: p.x / (1 + tilt * p.x), y: p.y / (1 + tilt * p.x) });
          expect(wrongBy(rowsOf(1200, 600, 3), bowed, between(1200, 600), 'bow')).toBeLessThan(1e-6);
          expect(wrongBy(rowsOf(1200, 600, 2), tilted, between(1200, 600), 'projective')).toBeLessThan(1e-6);
        },
      ),
    );
  });

  test('uneven feed on a long sheet is followed through its rows of marks', () => {
    const uneven: Warp = (p) => turned(1, 3, 4)({ x: p.x + 0.5 * Math.sin(p.x / 700), y: p.y });
    const marks = rowsOf(5000, 600, 9);
    expect(solveMarks(marks, marks.map(uneven)).model).toBe('segments');
    expect(wrongBy(marks, uneven, between(5000, 600))).toBeLessThan(0.1);
    expect(wrongBy(marks, uneven, between(5000, 600), 'affine')).toBeGreaterThan(0.3);
  });
});

describe('which model is believed', () => {
  /** Noise of a twentieth of a millimetre, the same in every run. */
  const noisy = (warp: Warp, seed: number): Warp => {
    const at = (k: number): number => 0.07 * Math.sin(12.9898 * (seed + 3 * k) + 78.233 * k);
    let k = 0;
    return (p) => {
      const q = warp(p);
      return { x: q.x + at(++k), y: q.y + at(++k) };
    };
  };

  test('noise alone never buys a yielding model, and every mark stays within it', () => {
    for (let seed = 0; seed < 200; seed++) {
      const marks = rowsOf(1200, 600, 2 + (seed % 3));
      const found = solveMarks(marks, marks.map(noisy(turned(2, 10, 20), seed)));
      expect(found).toMatchObject({ model: 'similarity', doubtful: false });
      expect(found.outlier).toBeUndefined();
      expect(Math.max(...found.residualsMm)).toBeLessThan(0.25);
    }
  });

  test('a mark that was misread is found among six and left out; the rest lies right', () => {
    fc.assert(
      fc.property(
        fc.nat({ max: 5 }),
        fc.double({ min: 2, max: 8, noNaN: true }),
        fc.double({ min: 0, max: 6.28, noNaN: true }),
        (which, off, way) => {
          const warp = turned(1.5, -12, 30);
          const marks = rowsOf(1200, 600, 3);
          const measured = marks
            .map(warp)
            .map((p, i) => (i === which ? { x: p.x + off * Math.cos(way), y: p.y + off * Math.sin(way) } : p));
          const found = solveMarks(marks, measured);
          expect([found.outlier, found.worst, found.doubtful]).toEqual([which, which, false]);
          expect(found.residualsMm[which]).toBeCloseTo(off, 2);
          expect(Math.max(...marks.map((p) => apart(applyCorrection(found, p), warp(p))))).toBeLessThan(0.01);
        },
      ),
    );
  });

  test('with four marks a misread cannot be told from perspective: nobody is accused, the result is called doubtful', () => {
    const marks = rowsOf(1200, 600, 2);
    const measured = marks.map((p, i) => (i === 2 ? { x: p.x + 4, y: p.y } : p));
    const found = solveMarks(marks, measured);
    expect(found.doubtful).toBe(true);
    expect(found.outlier).toBeUndefined();
  });

  test('a sheet that no model follows is called doubtful', () => {
    const marks = rowsOf(1200, 600, 3);
    const found = solveMarks(
      marks,
      marks.map((p, i) => ({ x: p.x + (i % 2 ? 6 : -5), y: p.y + (i % 3) * 4 })),
    );
    expect(found.doubtful).toBe(true);
  });
});

describe('marks that settle nothing', () => {
  const square = rowsOf(9, 9, 2);
  const line = rowsOf(900, 0, 3).slice(0, 3);
  const cases: Record<string, { nominal: Point[]; measured: Point[]; model?: CorrectionModel }> = {
    'one mark': { nominal: [{ x: 0, y: 0 }], measured: [{ x: 1, y: 1 }] },
    'more printed than found': { nominal: square, measured: square.slice(1) },
    'no number': { nominal: square, measured: square.map((p, i) => (i > 0 ? p : { x: NaN, y: 0 })) },
    'all in one place': { nominal: square.map(() => ({ x: 3, y: 3 })), measured: square },
    'a line, and skew is asked for': { nominal: line, measured: line, model: 'affine' },
  };
  test.each(Object.keys(cases))('%s: refused by its code', (name) => {
    const { nominal, measured, model } = cases[name] as (typeof cases)[string];
    expect(() => solveMarks(nominal, measured, model ? { model } : {})).toThrow(
      expect.objectContaining({ code: 'input.marks' }) as unknown as Error,
    );
  });
});
