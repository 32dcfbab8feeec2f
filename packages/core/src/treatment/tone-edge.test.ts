/** The region on one side of a two-tone edge: half of the box and its other half make the whole, whatever the edge. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, boxShape, isInside, keepOverlap, knockOut, mapOutline, parsePath, translation } from '../geometry/index.ts';
import { edgeRegion, type ToneEdge } from './tone-edge.ts';

const number = (min: number, max: number) => fc.integer({ min: min * 10, max: max * 10 }).map((n) => n / 10);
const box = fc
  .record({ x: number(-200, 200), y: number(-200, 200), width: number(5, 300), height: number(5, 300) })
  .map(({ x, y, width, height }) => ({ minX: x, minY: y, maxX: x + width, maxY: y + height }));
const edge = (fields: Partial<ToneEdge>): ToneEdge => ({
  edge: 'straight',
  angleDeg: 0,
  shiftMm: 0,
  amplitudeMm: 5,
  waveMm: 40,
  phasePct: 0,
  ...fields,
});
const shapeOf = ({ minX, minY, maxX, maxY }: { minX: number; minY: number; maxX: number; maxY: number }) =>
  mapOutline(translation(minX, minY), boxShape(maxX - minX, maxY - minY));

describe('a two-tone edge', () => {
  test('straight through the middle halves the box at any angle', () => {
    fc.assert(
      fc.property(box, fc.integer({ min: 0, max: 359 }), (of, angleDeg) => {
        const whole = shapeOf(of);
        const share = area(keepOverlap([whole, edgeRegion(of, edge({ angleDeg }))])) / area(whole);
        expect(share).toBeCloseTo(0.5, 4);
      }),
      { numRuns: 60 },
    );
  });

  test('shifted to its left by a length leaves a box of that much less above it', () => {
    fc.assert(
      fc.property(box, number(-0.4, 0.4), (of, part) => {
        const height = of.maxY - of.minY;
        const whole = shapeOf(of);
        const left = area(keepOverlap([whole, edgeRegion(of, edge({ shiftMm: part * height }))])) / area(whole);
        expect(left).toBeCloseTo(0.5 - part, 4);
      }),
      { numRuns: 60 },
    );
  });

  test('in waves cuts the box into two that make the whole, and begins where its phase says', () => {
    fc.assert(
      fc.property(box, number(1, 20), number(10, 80), fc.integer({ min: 0, max: 100 }), (of, amplitudeMm, waveMm, phasePct) => {
        const region = edgeRegion(of, edge({ edge: 'wave', amplitudeMm, waveMm, phasePct }));
        const whole = shapeOf(of);
        const [upper, lower] = [area(keepOverlap([whole, region])), area(knockOut(whole, [region]))];
        expect(upper + lower).toBeCloseTo(area(whole), 1);
        // in the middle of the box it lies where the sine does
        const [mx, my] = [(of.minX + of.maxX) / 2, (of.minY + of.maxY) / 2];
        const at = my + amplitudeMm * Math.sin(2 * Math.PI * (phasePct / 100));
        expect(isInside(region, mx, at + 0.05 * amplitudeMm + 0.02)).toBe(true);
        expect(isInside(region, mx, at - 0.05 * amplitudeMm - 0.02)).toBe(false);
      }),
      { numRuns: 40 },
    );
  });

  test('that is drawn as a shape is that shape; as a line it has all on the line’s left', () => {
    const of = { minX: 0, minY: 0, maxX: 100, maxY: 60 };
    const drawn = edgeRegion(of, edge({ edge: 'drawn', path: boxShape(30, 20) }));
    expect(area(drawn)).toBeCloseTo(600, 6);
    const line = edgeRegion(of, edge({ edge: 'drawn', path: parsePath('M-10 20L50 40L110 20') }));
    expect([isInside(line, 50, 55), isInside(line, 50, 25), isInside(line, 5, 30)]).toEqual([true, false, true]);
  });

  test('without a line, or with waves of no length, is refused in words', () => {
    const of = { minX: 0, minY: 0, maxX: 100, maxY: 60 };
    const refused = (fields: Partial<ToneEdge>, code: string): void =>
      void expect(() => edgeRegion(of, edge(fields))).toThrow(expect.objectContaining({ code }));
    refused({ edge: 'drawn' }, 'input.treatment');
    refused({ edge: 'drawn', path: { contours: [] } }, 'input.treatment');
    refused({ edge: 'wave', waveMm: 0 }, 'input.treatment');
    refused({ edge: 'wave', waveMm: 0.001 }, 'limit.treatment');
  });
});
