import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Box } from '../types/index.ts';
import { mapPoint } from '../geometry/index.ts';
import { align, distribute, repeatMaps } from './index.ts';

const box = (x: number, width: number): Box => ({ minX: x, maxX: x + width, minY: 0, maxY: 10 });
const boxes = fc.array(
  fc.tuple(fc.integer({ min: -500, max: 500 }), fc.integer({ min: 1, max: 80 })).map(([x, w]) => box(x, w)),
  { minLength: 2, maxLength: 12 },
);
const moved = (all: readonly Box[], shifts: readonly number[]): Box[] =>
  all.map((b, i) => ({ ...b, minX: b.minX + (shifts[i] ?? 0), maxX: b.maxX + (shifts[i] ?? 0) }));
const inOrder = (all: readonly Box[], first: readonly Box[]): Box[] =>
  all
    .map((b, i) => ({ b, c: (first[i]?.minX ?? 0) + (first[i]?.maxX ?? 0), i }))
    .sort((p, q) => p.c - q.c || p.i - q.i)
    .map(({ b }) => b);

describe('distributing', () => {
  test('gap, edge pitch and centre pitch are what they say, and the first box stays', () => {
    fc.assert(
      fc.property(
        boxes,
        fc.integer({ min: -20, max: 100 }),
        fc.constantFrom('gap' as const, 'edge-pitch' as const, 'centre-pitch' as const),
        (all, step, spacing) => {
          const { shifts } = distribute(all, 'x', spacing, step);
          const row = inOrder(moved(all, shifts), all);
          row.slice(1).forEach((b, i) => {
            const a = row[i] as Box;
            const measured = {
              gap: b.minX - a.maxX,
              'edge-pitch': b.minX - a.minX,
              'centre-pitch': (b.minX + b.maxX - a.minX - a.maxX) / 2,
            }[spacing];
            expect(measured).toBeCloseTo(step, 9);
          });
          expect(row[0]).toEqual(inOrder(all, all)[0]);
        },
      ),
      { seed: 81 },
    );
  });

  test('evenly: the first and the last stay and the spaces are alike', () => {
    const all = [box(0, 10), box(33, 30), box(100, 20)];
    const { shifts, overallMm } = distribute(all, 'x', 'gap');
    expect(shifts).toEqual([0, 7, 0]);
    expect(overallMm).toBe(120);
  });

  test('pegs of 16 mm with 2 mm clearance at a pitch: the overall size is said', () => {
    expect(distribute([box(0, 16), box(20, 16), box(40, 16)], 'x', 'edge-pitch', 18).overallMm).toBe(52);
    expect(distribute([box(0, 16), box(20, 16), box(40, 16)], 'x', 'gap', 2).overallMm).toBe(52);
  });
});

test('aligning brings the same line of all onto the frame’s', () => {
  const all = [box(0, 10), box(33, 30)];
  expect(align(all, box(0, 63), 'x', 'low')).toEqual([0, -33]);
  expect(align(all, box(0, 63), 'x', 'high')).toEqual([53, 0]);
  expect(align(all, box(0, 63), 'x', 'middle')).toEqual([26.5, -16.5]);
});

describe('repeating', () => {
  const at = (x: number, y: number): { x: number; y: number } => ({ x, y });

  // Law: so many further copies, each as far from the one before as the first from the thing itself
  test('along a line and in a grid', () => {
    const way = fc.integer({ min: -900, max: 900 });
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 12 }), way, way, (columns, rows, dxMm, dyMm) => {
        const line = repeatMaps({ kind: 'line', copies: columns, dxMm, dyMm });
        expect(line.map((map) => mapPoint(map, at(3, 4)))).toEqual(line.map((_, i) => at(3 + dxMm * (i + 1), 4 + dyMm * (i + 1))));
        const places = repeatMaps({ kind: 'grid', columns, rows, dxMm, dyMm }).map((map) => mapPoint(map, at(0, 0)));
        expect(places).toHaveLength(columns * rows - 1);
        const wanted = Array.from({ length: columns * rows }, (_, i) => `${(i % columns) * dxMm} ${Math.floor(i / columns) * dyMm}`).slice(
          1,
        );
        expect(places.map(({ x, y }) => `${x + 0} ${y + 0}`).sort()).toEqual(
          wanted.map((w) => w.replaceAll('-0 ', '0 ').replace(/ -0$/, ' 0')).sort(),
        );
      }),
      { numRuns: 40 },
    );
  });

  // Law: round a centre all stand as far from it as the thing itself; a full round comes back to it
  test('round a centre, turning with it or staying upright', () => {
    const place = fc.integer({ min: -500, max: 500 });
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 36 }), place, place, place, place, fc.boolean(), (copies, cx, cy, x, y, turning) => {
        const [centre, middle] = [at(cx, cy), at(x, y)];
        const maps = repeatMaps({ kind: 'round', copies, centre, stepDeg: 360 / copies, turning, middle });
        for (const map of maps) {
          const p = mapPoint(map, middle);
          expect(Math.hypot(p.x - cx, p.y - cy)).toBeCloseTo(Math.hypot(x - cx, y - cy), 6);
          if (!turning) expect([map[0], map[1], map[2], map[3]]).toEqual([1, 0, 0, 1]);
        }
        const last = mapPoint(maps.at(-1) ?? [1, 0, 0, 1, 0, 0], middle);
        expect([last.x, last.y]).toEqual([expect.closeTo(x, 6), expect.closeTo(y, 6)]);
      }),
      { numRuns: 60 },
    );
  });

  test('no copies, half ones and too many are refused', () => {
    for (const copies of [0, -1, 1.5, NaN]) expect(() => repeatMaps({ kind: 'line', copies, dxMm: 1, dyMm: 0 })).toThrow('copies');
    expect(() => repeatMaps({ kind: 'grid', columns: 100, rows: 100, dxMm: 1, dyMm: 1 })).toThrow('5000');
  });
});
