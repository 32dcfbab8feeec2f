import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  boxShape,
  flatten,
  lineDistance,
  mapOutline,
  nearParts,
  ovalShape,
  parsePath,
  pathLength,
  translation,
  type Outline,
} from './index.ts';

const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);

describe('parts of a line that run near to an outline', () => {
  test('of a line past a box they are what lies within the distance, to within a step', () => {
    const line = parsePath('M -50 3 L 100 3');
    const { parts, reachMm } = nearParts(line, boxShape(20, 2), 5, 0.1);
    expect(parts.contours).toHaveLength(1);
    expect(parts.contours[0]!.closed).toBe(false);
    // the box ends at y 2: the line is 1 mm off along it and 5 mm off at √24 beside it
    expect(pathLength(parts)).toBeCloseTo(20 + 2 * Math.sqrt(24), 0);
    expect(reachMm).toBeLessThan(5);
    expect(reachMm).toBeGreaterThan(4.9);
  });

  test('a contour that is near all round comes back as it is, one that is nowhere near not at all', () => {
    const round = ovalShape(40, 30);
    expect(nearParts(round, round, 1, 0.2).parts.contours[0]).toBe(round.contours[0]);
    expect(nearParts(at(100, 0, round), round, 1, 0.2)).toEqual({ parts: { contours: [] }, reachMm: 0, samples: [] });
    expect(nearParts(round, { contours: [] }, 1, 0.2).parts.contours).toEqual([]);
  });

  test('law: every point of a part is near, every sample left out is not', () => {
    const place = fc.integer({ min: -30, max: 30 });
    fc.assert(
      fc.property(place, place, fc.integer({ min: 1, max: 12 }), (x, y, within) => {
        const [line, to] = [ovalShape(60, 40), at(x, y, boxShape(35, 25))];
        const step = within / 8;
        const { parts } = nearParts(line, to, within, step);
        const [kept, ends] = [flatten(parts, 0.01), flatten(to, 0.001)];
        for (const { xy } of kept)
          for (let i = 0; i < xy.length; i += 2) expect(lineDistance(ends, xy[i]!, xy[i + 1]!)).toBeLessThan(within + 0.05);
        for (const { xy } of flatten(line, 0.01))
          for (let i = 0; i < xy.length; i += 2)
            if (lineDistance(ends, xy[i]!, xy[i + 1]!) < within - step - 0.05)
              expect(lineDistance(kept, xy[i]!, xy[i + 1]!)).toBeLessThan(0.1);
      }),
      { numRuns: 40 },
    );
  });
});
