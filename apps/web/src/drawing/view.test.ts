/** Where the screen looks, and its rulers. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { unitMm, type LengthUnit } from '@lorvek/core/units';
import { paintRuler, RULER_PX } from './rulers.ts';
import { fitBox, setView, showTrueSize, toDrawing, toScreen, TRUE_SCALE, useView, zoomAt, type View } from './view.ts';

const SIZE = { width: 1000, height: 700 };
const number = (min: number, max: number) => fc.integer({ min: min * 8, max: max * 8 }).map((n) => n / 8);
const views: fc.Arbitrary<View> = fc.record({
  scale: fc.double({ min: 0.01, max: 500, noNaN: true }),
  x: number(-900, 900),
  y: number(-900, 900),
});
const points = fc.record({ x: number(-2000, 2000), y: number(-2000, 2000) });
const viewNow = (): View => useView.getState().views.drawing!;

beforeEach(() => useView.setState(({ sizes }) => ({ sizes: { ...sizes, drawing: SIZE } })));

test('from the drawing to the screen and back is where it was', () => {
  fc.assert(
    fc.property(views, points, (view, p) => {
      const back = toDrawing(view, toScreen(view, p));
      expect(Math.hypot(back.x - p.x, back.y - p.y)).toBeLessThan(1e-6);
    }),
  );
});

test('zooming leaves what is under the pointer there, also at the ends of the scale', () => {
  fc.assert(
    fc.property(views, points, fc.constantFrom(1e-9, 0.5, 1.25, 1e9), (view, at, factor) => {
      setView('drawing', view);
      const before = toDrawing(view, at);
      zoomAt('drawing', factor, at);
      const now = viewNow();
      expect(now.scale).toBeGreaterThanOrEqual(0.002);
      expect(now.scale).toBeLessThanOrEqual(2000);
      const after = toScreen(now, before);
      expect(Math.hypot(after.x - at.x, after.y - at.y)).toBeLessThan(1e-3);
    }),
  );
});

test('a box that is fitted lies whole and in the middle; true size is true', () => {
  fc.assert(
    fc.property(points, number(1, 3000), number(1, 3000), ({ x, y }, width, height) => {
      fitBox('drawing', { minX: x, minY: y, maxX: x + width, maxY: y + height });
      const [low, high] = [toScreen(viewNow(), { x, y }), toScreen(viewNow(), { x: x + width, y: y + height })];
      expect((low.x + high.x) / 2).toBeCloseTo(SIZE.width / 2, 6);
      expect((low.y + high.y) / 2).toBeCloseTo(SIZE.height / 2, 6);
      expect(low.x).toBeGreaterThan(0);
      expect(high.y).toBeGreaterThan(0);
      showTrueSize('drawing');
      expect(viewNow().scale).toBeCloseTo(TRUE_SCALE, 9);
    }),
  );
  const before = viewNow();
  fitBox('drawing', { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity });
  expect(viewNow()).toBe(before);
});

describe('rulers', () => {
  /** A context that notes what is written, and where, in its own turn. */
  function noted(view: View, unit: LengthUnit): { upper: [number, number][]; left: [number, number][] } {
    const upper: [number, number][] = [];
    const left: [number, number][] = [];
    let moved: [number, number] | undefined;
    /** Also of fractions: −1 3/8. */
    const value = (text: string): number => {
      const size = text
        .replace('−', '')
        .split(' ')
        .reduce(
          (sum, part) =>
            sum +
            part
              .split('/')
              .map(Number)
              .reduce((a, b) => a / b),
          0,
        );
      return text.startsWith('−') ? -size : size;
    };
    const nothing = (): void => undefined;
    const context = {
      save: nothing,
      restore: () => (moved = undefined),
      fillRect: nothing,
      beginPath: nothing,
      moveTo: nothing,
      lineTo: nothing,
      stroke: nothing,
      rotate: nothing,
      translate: (x: number, y: number) => (moved = [x, y]),
      fillText: (text: string, x: number) => (moved ? left.push([value(text), moved[1] + 3]) : upper.push([value(text), x - 3])),
    };
    paintRuler(context as unknown as CanvasRenderingContext2D, view, SIZE, unit);
    return { upper, left };
  }

  test.each<LengthUnit>(['mm', 'cm', 'in', 'in-fraction'])('say in %s what lies there, close enough to read, never crowded', (unit) => {
    fc.assert(
      fc.property(views, (view) => {
        const { upper, left } = noted(view, unit);
        const px = view.scale * unitMm(unit);
        for (const [list, isAcross] of [
          [upper, true],
          [left, false],
        ] as const) {
          if (unit !== 'in-fraction' || px < 10_000) expect(list.length).toBeGreaterThan(1);
          if (list.length < 2) continue;
          for (const [said, at] of list) {
            const there = isAcross ? view.x + said * px : view.y - said * px;
            // labels have at most four decimals
            expect(Math.abs(there - at)).toBeLessThanOrEqual(1 + 6e-5 * px);
            expect(at).toBeGreaterThanOrEqual(RULER_PX);
          }
          const gaps = list.slice(1).map(([, at], i) => Math.abs(at - list[i]![1]));
          expect(Math.min(...gaps)).toBeGreaterThan(30);
          // nothing is finer than a sixty-fourth
          if (unit !== 'in-fraction' || px < 10_000) expect(Math.max(...gaps)).toBeLessThan(360);
        }
      }),
    );
  });
});
