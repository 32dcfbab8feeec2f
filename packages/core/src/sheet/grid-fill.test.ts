import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  bounds,
  boxShape,
  flatten,
  lineDistance,
  mapOutline,
  ovalShape,
  parsePath,
  polygonShape,
  type Polyline,
} from '../geometry/index.ts';
import { gridFill, type GridProblem } from './grid-fill.ts';
import { lyingTogether } from './lying-together.ts';
import { frameSheet } from './lay-up.ts';
import { weedLines } from './weed-lines.ts';

const wedge = parsePath('M0 0 L60 10 L0 20 Z');
const usual: Omit<GridProblem, 'rows'> = { outline: wedge, widthMm: 200, lengthMm: 1000, gapMm: 3, copies: null };

/** Least distance between two sets of lines, by the points of both; crossing ones come out near zero, for their points are dense. */
function apart(a: readonly Polyline[], b: readonly Polyline[]): number {
  const near = (one: readonly Polyline[], other: readonly Polyline[]): number => {
    let least = Infinity;
    for (const { xy } of one) for (let i = 0; i < xy.length; i += 2) least = Math.min(least, lineDistance(other, xy[i]!, xy[i + 1]!));
    return least;
  };
  return Math.min(near(a, b), near(b, a));
}

describe('grid fill', () => {
  test('straight rows: as many as the boxes allow, what is left over and what one more row needs', () => {
    const grid = gridFill({ ...usual, outline: boxShape(100, 40), rows: 'straight', gapMm: 10 });
    // (200 + 10) / 50 = 4 across, (1000 + 10) / 110 = 9 along
    expect(grid.perSheet).toBe(36);
    expect(grid.leftAcrossMm).toBeCloseTo(10, 9);
    expect(grid.leftAlongMm).toBeCloseTo(20, 9);
    expect(grid.moreForRowMm).toBeCloseTo(90, 9);
    const exact = gridFill({ ...usual, outline: boxShape(100, 40), rows: 'straight', gapMm: 10, lengthMm: 1090 });
    expect(exact.perSheet).toBe(40);
  });

  test('copies by number go onto as many sheets as they need', () => {
    const grid = gridFill({ ...usual, outline: boxShape(100, 40), rows: 'straight', gapMm: 10, copies: 80 });
    expect([0, 1, 2].map((sheet) => grid.placed.filter((one) => one.sheet === sheet).length)).toEqual([36, 36, 8]);
  });

  test('wedges head to tail lie closer than straight ones', () => {
    const straight = gridFill({ ...usual, rows: 'straight' });
    const turned = gridFill({ ...usual, rows: 'head-to-tail' });
    expect(turned.perSheet).toBeGreaterThan(1.4 * straight.perSheet);
    expect(turned.placed.some(({ turnDeg }) => turnDeg === 180)).toBe(true);
  });

  test('discs shifted by half lie closer, as near as their gap', () => {
    const disc = ovalShape(40, 40);
    const half = gridFill({ ...usual, outline: disc, rows: 'half', gapMm: 0, widthMm: 2000 });
    // discs of 40 in the closest packing: rows 40 · √3 / 2 apart
    expect(half.pitchMm[0]).toBeGreaterThan(20 * Math.sqrt(3));
    expect(half.pitchMm[0]).toBeLessThan(20 * Math.sqrt(3) + 0.3);
  });

  test('no two copies come nearer than the gap, none leaves the sheet', () => {
    const shapes = [wedge, ovalShape(50, 20), polygonShape(5, 25, 10), parsePath('M0 0 L50 0 L50 10 L10 10 L10 50 L0 50 Z')];
    fc.assert(
      fc.property(
        fc.constantFrom(...shapes),
        fc.constantFrom<GridProblem['rows']>('straight', 'half', 'head-to-tail'),
        fc.integer({ min: 0, max: 12 }),
        fc.integer({ min: 80, max: 260 }),
        (outline, rows, gapMm, widthMm) => {
          const { placed } = gridFill({ outline, rows, gapMm, widthMm, lengthMm: 300, copies: null });
          const lie = placed.map(({ map }) => mapOutline(map, outline));
          const lines = lie.map((one) => flatten(one, 0.05));
          expect(lyingTogether(gapMm > 0 ? lie : []).every((set) => set.length === 1)).toBe(true);
          lie.slice(0, 12).forEach((one, i) => {
            const box = bounds(one);
            expect(Math.min(box.minX, box.minY, 300 - box.maxX, widthMm - box.maxY)).toBeGreaterThan(-0.01);
            for (const [j, other] of lie.entries()) {
              const far = bounds(other);
              if (j <= i || far.minX > box.maxX + gapMm || far.maxX < box.minX - gapMm) continue;
              if (far.minY > box.maxY + gapMm || far.maxY < box.minY - gapMm) continue;
              expect(apart(lines[i]!, lines[j]!)).toBeGreaterThan(gapMm - 0.06);
            }
          });
        },
      ),
      { numRuns: 9 },
    );
  });

  test('rows of combs with 100 000 corners are pushed together like those of few: the teeth are too narrow for others', () => {
    const comb = (teeth: number) => {
      const upper = Array.from({ length: teeth }, (_, i) => `${(i * 300) / teeth} ${i % 2 ? 0 : 5}`);
      const lower = Array.from({ length: teeth }, (_, i) => `${(i * 300) / teeth} ${i % 2 ? 80 : 85}`).reverse();
      return parsePath(`M${[...upper, ...lower].join('L')}Z`);
    };
    const problem = { widthMm: 600, lengthMm: 3000, gapMm: 2, copies: null, rows: 'half' } as const;
    const [few, many] = [gridFill({ ...problem, outline: comb(600) }), gridFill({ ...problem, outline: comb(50_000) })];
    expect(many.perSheet).toBe(few.perSheet);
    expect(Math.abs(many.pitchMm[0] - few.pitchMm[0])).toBeLessThan(1);
  });

  test('what cannot be is told', () => {
    expect(gridFill({ ...usual, outline: boxShape(100, 300), rows: 'straight' }).perSheet).toBe(0);
    expect(gridFill({ ...usual, outline: boxShape(1200, 30), rows: 'straight' }).moreForRowMm).toBeCloseTo(200, 9);
    expect(() => gridFill({ ...usual, widthMm: -4, rows: 'half' })).toThrow(/narrower/);
    expect(() => gridFill({ ...usual, copies: 0, rows: 'half' })).toThrow(/copies/);
    expect(() => gridFill({ ...usual, copies: 100_000, rows: 'half' })).toThrow(/at most 2000/);
  });
});

describe('weeding', () => {
  const parts = [
    boxShape(80, 40),
    mapOutline([1, 0, 0, 1, 100, 60], boxShape(80, 40)),
    mapOutline([1, 0, 0, 1, 40, 120], ovalShape(90, 40)),
  ];
  const box = { minX: 0, minY: 0, maxX: 200, maxY: 200 };

  test.each(['straight', 'gaps'] as const)('lines (%s) keep their distance from every part', (kind) => {
    const lines = weedLines({ parts, box, kind, spacingMm: 50, clearMm: 3 });
    expect(lines.contours.length).toBeGreaterThan(2);
    for (const { xy } of flatten(lines, 0.01))
      for (let i = 0; i + 3 < xy.length; i += 2)
        for (let t = 0; t <= 1; t += 0.05) {
          const [x, y] = [xy[i]! + t * (xy[i + 2]! - xy[i]!), xy[i + 1]! + t * (xy[i + 3]! - xy[i + 1]!)];
          for (const part of parts) expect(lineDistance(flatten(part, 0.01), x, y)).toBeGreaterThanOrEqual(2.99);
        }
  });

  test('a line that follows the gaps comes through where a straight one is broken off', () => {
    const wall = [boxShape(60, 90), mapOutline([1, 0, 0, 1, 70, 100], boxShape(60, 90)), mapOutline([1, 0, 0, 1, 66, 0], boxShape(60, 90))];
    const length = (kind: 'straight' | 'gaps'): number =>
      weedLines({ parts: wall, box: { minX: 0, minY: 0, maxX: 130, maxY: 190 }, kind, spacingMm: 70, clearMm: 1 }).contours.length;
    expect(length('gaps')).toBe(1);
    expect(length('straight')).toBeGreaterThanOrEqual(1);
  });

  test('boxes that meet become one, and the used length counts them', () => {
    const frame = frameSheet({
      boxes: [
        { minX: 10, minY: 10, maxX: 50, maxY: 50 },
        { minX: 55, minY: 20, maxX: 90, maxY: 60 },
        { minX: 200, minY: 10, maxX: 240, maxY: 50 },
      ],
      weedBoxMm: 5,
      materialWidthMm: 100,
      materialLengthMm: 1000,
      marginMm: 5,
    });
    expect(frame.weedBoxes).toHaveLength(2);
    expect(frame.usedLengthMm).toBeCloseTo(250, 9);
    expect(frame.overWidthMm).toBe(0);
  });
});
