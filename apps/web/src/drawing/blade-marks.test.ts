/** Blade view says what it does not show: never fewer marks without a word. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { polygonShape, type Contour } from '@lorvek/core/geometry';
import { standInForBrowser } from '../browser.support.ts';
import type * as Marks from './blade-marks.ts';

standInForBrowser({ navigator: {} });
let marks: typeof Marks;
beforeAll(async () => {
  marks = await import('./blade-marks.ts');
});

const VIEW = { scale: 1, x: 400, y: 400 };
const SIZE = { width: 800, height: 800 };
const contourOf = (sides: number, radius = 100): Contour => polygonShape(sides, radius).contours[0]!;

/** A canvas that counts squares of nodes and notes words. */
function noted(): { context: CanvasRenderingContext2D; words: string[]; squares: () => number } {
  const words: string[] = [];
  let squares = 0;
  const nothing = (): void => undefined;
  const context = {
    ...Object.fromEntries(
      ['save', 'restore', 'beginPath', 'arc', 'fill', 'stroke', 'moveTo', 'lineTo', 'fillRect'].map((name) => [name, nothing]),
    ),
    strokeRect: () => squares++,
    measureText: (text: string) => ({ width: 6 * text.length }),
    fillText: (text: string) => words.push(text),
  };
  return { context: context as unknown as CanvasRenderingContext2D, words, squares: () => squares };
}

describe('blade view', () => {
  test('marks every node in view and numbers every outline in its order, with no further word', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 3, max: 60 }), { minLength: 1, maxLength: 12 }), (sides) => {
        const { context, words, squares } = noted();
        marks.paintBladeMarks(
          context,
          sides.map((n, i) => ({ contour: contourOf(n), film: 0, order: i + 1, start: 0 })),
          VIEW,
          SIZE,
        );
        expect(squares()).toBe(sides.reduce((sum, n) => sum + n, 0));
        expect(words).toEqual(sides.map((_, i) => String(i + 1)));
      }),
    );
  });

  test('with more nodes than it shows says how many there are; what lies out of view does not count', () => {
    const { context, words, squares } = noted();
    const near = { contour: contourOf(9000), film: 0, order: 1, start: 0 };
    const away = { contour: contourOf(5000, 90_000), film: 0, order: 2, start: 0 };
    marks.paintBladeMarks(context, [near, away], VIEW, SIZE);
    expect(squares()).toBe(6000);
    expect(words.join(' ')).toMatch(/6000 of 9000 nodes are shown here/);
    const few = noted();
    marks.paintBladeMarks(few.context, [away], VIEW, SIZE);
    expect(few.words.join(' ')).not.toMatch(/nodes are shown/);
  });

  test('of films whose order is not worked out says so, once', () => {
    const contours = [0, 0, 1, 2].map((film, i) => ({ contour: contourOf(4), film, order: film === 1 ? 1 : 0, start: i }));
    expect(marks.leftOutOf(10, contours)).toHaveLength(1);
    expect(marks.leftOutOf(10, contours)[0]).toMatch(/without their order/);
    expect(marks.leftOutOf(10, [])).toEqual([]);
  });
});
