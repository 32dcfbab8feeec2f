import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Box } from '../types/index.ts';
import { align, distribute } from './index.ts';

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
