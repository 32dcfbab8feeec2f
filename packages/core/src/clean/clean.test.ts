import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  boxShape,
  deviation,
  flatten,
  mapOutline,
  nodeCount,
  ovalShape,
  parsePath,
  pathLength,
  polygon,
  rotation,
  translation,
  weld,
  type Outline,
} from '../geometry/index.ts';
import { checkFilm } from '../check/index.ts';
import { dropDoubled, dropSpecks, makeCuttable, smoothBumps } from './index.ts';

const limits = { gapMm: 0.5, doubledMm: 0.05, speckMm: 0.5, thinMm: 0.05 };
const join = (...parts: Outline[]): Outline => ({ contours: parts.flatMap((p) => p.contours) });

describe('making foreign outlines cuttable', () => {
  test('sound outlines are left as they are', () => {
    expect(makeCuttable(ovalShape(40, 30), limits)).toEqual([]);
    expect(makeCuttable(weld([ovalShape(40, 30), boxShape(30, 10)]), limits)).toEqual([]);
  });

  test('each fault is named, in order, and nothing is left to find', () => {
    const loose = parsePath('M0 0L50 0L50 30M50.1 30.1L0 30L0 0.2');
    const doubled = mapOutline(translation(80, 0), join(ovalShape(20, 20), ovalShape(20, 20)));
    const crossing = mapOutline(translation(0, 60), join(boxShape(40, 20), mapOutline(translation(20, 10), boxShape(40, 20))));
    const speck = mapOutline(translation(120, 0), boxShape(0.2, 0.2));
    const dense = mapOutline(translation(160, 40), {
      contours: [
        polygon(Array.from({ length: 1200 }, (_, i) => [20 * Math.cos((i * Math.PI) / 600), 20 * Math.sin((i * Math.PI) / 600)]).flat()),
      ],
    });
    const steps = makeCuttable(join(loose, doubled, crossing, speck, dense), limits);
    expect(steps.map(({ step }) => step)).toEqual(['join', 'doubled', 'weld', 'specks', 'thin-out']);
    const last = steps.at(-1)?.outline ?? { contours: [] };
    expect(checkFilm([{ id: 'a', name: 'a', outline: last }], { smallestPartMm: 0.5, thinnestMm: 0.5 })).toEqual([]);
    expect(last.contours.every((c) => c.closed)).toBe(true);
    expect(nodeCount(last)).toBeLessThan(60);
  });

  test('a line drawn twice, backwards and turned, is dropped once', () => {
    const one = mapOutline(rotation(30), boxShape(40, 20, 5));
    const again: Outline = { contours: one.contours.map((c) => ({ closed: true, spans: [...c.spans.slice(3), ...c.spans.slice(0, 3)] })) };
    expect(dropDoubled(join(one, again, ovalShape(39, 19)), 0.05).dropped).toHaveLength(1);
    expect(dropSpecks(join(one, boxShape(0.1, 0.1)), 0.5).dropped).toHaveLength(1);
  });

  test('a tooth on a straight edge goes, corners stay', () => {
    const tooth = parsePath('M0 0L60 0L60 30L30.1 30L30 30.3L29.9 30L0 30Z');
    const { outline, smoothed } = smoothBumps(tooth);
    expect(smoothed).toBeGreaterThan(0);
    expect(deviation(outline, boxShape(60, 30))).toBeLessThan(0.35);
    expect(Math.abs(area(outline))).toBeCloseTo(1800, -1);
    expect(smoothBumps(boxShape(60, 30, 5)).smoothed).toBe(0);
  });

  test('whatever comes in, steps give closed and finite outlines', () => {
    const point = fc.tuple(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 0, max: 300 })).map(([x, y]) => [x / 4, y / 4] as const);
    const lines = fc.array(fc.array(point, { minLength: 2, maxLength: 7 }), { minLength: 1, maxLength: 4 });
    fc.assert(
      fc.property(lines, (list) => {
        const outline = parsePath(list.map((points) => points.map(([x, y], i) => `${i === 0 ? 'M' : 'L'}${x} ${y}`).join('')).join(''));
        for (const { outline: next } of makeCuttable(outline, limits)) {
          expect(Number.isFinite(pathLength(next))).toBe(true);
          for (const { closed, xy } of flatten(next, 0.05)) expect(closed || xy.length >= 4).toBe(true);
        }
      }),
      { numRuns: 60 },
    );
  });
});
