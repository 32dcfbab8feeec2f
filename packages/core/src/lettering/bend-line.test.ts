/** Where letters stand on circles, arches and paths: laws of the line that they stand on. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AppError } from '../errors/index.ts';
import type { Matrix } from '../types/index.ts';
import { archRadius, bendLine, type CircleBend, type LineOfBend } from './bend.ts';

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const line: LineOfBend = { index: 0, count: 1, capHeightMm: 20, pitchMm: 30, longestMm: 200, align: 'centre' };
const circle: CircleBend = { kind: 'circle', radiusMm: 120, lines: 'over', middleDeg: 90, stand: 'above', sameSide: false };

/** Upright and not stretched. */
const isTurned = ([a, b, c, d]: Matrix): boolean =>
  Math.abs(Math.hypot(a, b) - 1) < 1e-9 && Math.abs(a - d) < 1e-9 && Math.abs(b + c) < 1e-9;

test('on a circle every letter stands at its radius, turned and not stretched, and ways along it are kept', () => {
  fc.assert(
    fc.property(
      number(30, 900),
      number(-180, 180),
      number(-100, 100),
      number(0.1, 20),
      fc.boolean(),
      (radiusMm, middleDeg, s, step, over) => {
        const { place } = bendLine({ ...circle, radiusMm, middleDeg, lines: over ? 'over' : 'under' }, line);
        const [p, q] = [place(s), place(s + step)];
        expect(isTurned(p)).toBe(true);
        expect(Math.hypot(p[4], p[5])).toBeCloseTo(radiusMm, 6);
        // the way on the circle is the way in the words
        const angle = Math.acos(Math.min(1, (p[4] * q[4] + p[5] * q[5]) / radiusMm ** 2));
        expect(Math.abs(angle * radiusMm - step)).toBeLessThan(1e-3 * (1 + step));
        // the letter's foot runs on towards the next one
        expect(p[0] * (q[4] - p[4]) + p[1] * (q[5] - p[5])).toBeGreaterThan(0);
        // over the top heads point outward, under the bottom inward
        expect(Math.sign(p[2] * p[4] + p[3] * p[5])).toBe(over ? 1 : -1);
      },
    ),
  );
});

test('words over and under read upright at the top and at the bottom', () => {
  const over = bendLine(circle, line).place(0);
  expect([over[0], over[1], over[4], over[5]].map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([1, 0, 0, 120]);
  const under = bendLine({ ...circle, lines: 'under' }, line).place(0);
  expect([under[0], under[1], under[4], under[5]].map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([1, 0, 0, -120]);
});

test('letters below the circle have their heads on it, in the middle their half', () => {
  for (const [stand, share] of [
    ['above', 0],
    ['centred', 0.5],
    ['below', 1],
  ] as const) {
    const [, , c, d, x, y] = bendLine({ ...circle, stand }, line).place(33);
    const rise = share * line.capHeightMm;
    expect(Math.hypot(x + rise * c, y + rise * d)).toBeCloseTo(circle.radiusMm, 6);
  }
});

test('further lines go inward over the top and outward under the bottom', () => {
  const radiusOf = (lines: 'over' | 'under', index: number): number => {
    const [, , , , x, y] = bendLine({ ...circle, lines }, { ...line, index, count: 3 }).place(5);
    return Math.hypot(x, y);
  };
  for (const index of [0, 1, 2]) {
    expect(radiusOf('over', index)).toBeCloseTo(120 - 30 * index, 6);
    expect(radiusOf('under', index)).toBeCloseTo(120 + 30 * index, 6);
  }
});

test('a circle that is too small for its letters is refused by its code', () => {
  const code = (radiusMm: number): string | undefined => {
    try {
      bendLine({ ...circle, radiusMm, stand: 'below' }, line);
      return undefined;
    } catch (error) {
      return (error as AppError).code;
    }
  };
  expect(code(19)).toBe('input.bend');
  expect(code(25)).toBeUndefined();
});

test('an arch has the length and the rise that are asked for; its ends lie level', () => {
  fc.assert(
    fc.property(number(20, 2000), number(0.002, 0.35), fc.boolean(), (length, share, sags) => {
      const rise = share * length;
      expect(archRadius(length, rise) * (1 - Math.cos(length / 2 / archRadius(length, rise)))).toBeCloseTo(rise, 5);
      const { place } = bendLine({ kind: 'arch', riseMm: sags ? -rise : rise }, { ...line, longestMm: length });
      expect(place(-length / 2)[5]).toBeCloseTo(0, 4);
      expect(place(length / 2)[5]).toBeCloseTo(0, 4);
      expect(place(0)[5]).toBeCloseTo(sags ? -rise : rise, 4);
      expect(isTurned(place(length / 5))).toBe(true);
    }),
  );
  const flat = bendLine({ kind: 'arch', riseMm: 0 }, { ...line, index: 1 }).place(17);
  expect([...flat].map((v) => v + 0)).toEqual([1, 0, 0, 1, 17, -30]);
});

test('along a path letters keep their way, run on straight beyond an open end, and go round a closed one', () => {
  const span = [0, 0, 40, 80, 120, -60, 160, 0];
  const open = { contours: [{ closed: false, spans: [span] }] };
  const at = (s: number, fields = {}): Matrix =>
    bendLine({ kind: 'path', path: open, startMm: 0, stand: 'above', reverse: false, ...fields }, { ...line, align: 'left' }).place(s);
  let way = 0;
  for (let s = 1; s <= 100; s++) way += Math.hypot(at(s)[4] - at(s - 1)[4], at(s)[5] - at(s - 1)[5]);
  expect(way).toBeCloseTo(100, 1);
  const [before, end] = [at(-25), at(0)];
  expect(Math.hypot(before[4], before[5])).toBeCloseTo(25, 6);
  expect([before[0], before[1]].map((v) => v.toFixed(6))).toEqual([end[0], end[1]].map((v) => v.toFixed(6)));
  const box = {
    contours: [
      {
        closed: true,
        spans: [
          [0, 0, 50, 0],
          [50, 0, 50, 50],
          [50, 50, 0, 50],
          [0, 50, 0, 0],
        ],
      },
    ],
  };
  const [once, again] = [70, 270].map((s) => at(s, { path: box }));
  expect(again).toEqual(once);
  const back = at(30, { path: box, reverse: true });
  expect([back[4], back[5]].map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, 30]);
  expect(() => at(0, { path: { contours: [] } })).toThrow(AppError);
});
