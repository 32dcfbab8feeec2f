import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds, mapPoint, type Point } from '@lorvek/core/geometry';
import {
  applyPatch,
  emptyDrawing,
  itemOf,
  plainOutline,
  setShapeSize,
  type BoxItem,
  type Drawing,
  type OvalItem,
  type PolygonItem,
} from '../index.ts';

const on = (item: BoxItem | OvalItem | PolygonItem): Drawing => ({ ...emptyDrawing(), [item.id]: item });
const apply = (drawing: Drawing, args: Parameters<typeof setShapeSize>[1]): Drawing => {
  const plan = setShapeSize({ drawing, selection: [] }, args);
  if (!plan.enabled) throw new Error(plan.why);
  return applyPatch(drawing, plan.run().patch);
};
const placeOf = (drawing: Drawing, id: string, anchor: Point): Point => {
  const item = itemOf(drawing, id) as BoxItem;
  const box = bounds(plainOutline(item));
  return mapPoint(item.matrix, { x: box.minX + anchor.x * (box.maxX - box.minX), y: box.minY + anchor.y * (box.maxY - box.minY) });
};
const side = fc.constantFrom(0, 0.5, 1);
const mm = fc.double({ min: 20, max: 500, noNaN: true });

describe('sizes of shapes', () => {
  test('law: the anchor stays, the asked size is there, the ratio is kept when wanted', () => {
    fc.assert(
      fc.property(mm, mm, mm, fc.boolean(), fc.boolean(), fc.record({ x: side, y: side }), (w, h, next, keepRatio, wide, anchor) => {
        const item = {
          type: 'item',
          kind: 'box',
          id: 'item-aaaaaaaa',
          name: 'A',
          layer: null,
          widthMm: w,
          heightMm: h,
          cornerMm: 0,
          matrix: [0.6, 0.8, -0.8, 0.6, 40, 70],
        } as BoxItem;
        const before = on(item);
        const after = apply(before, { id: 'item-aaaaaaaa', size: wide ? { widthMm: next } : { heightMm: next }, keepRatio, anchor });
        const now = itemOf(after, 'item-aaaaaaaa') as BoxItem;
        expect(wide ? now.widthMm : now.heightMm).toBe(next);
        if (keepRatio) expect(now.widthMm / now.heightMm).toBeCloseTo(w / h, 6);
        else expect(wide ? now.heightMm : now.widthMm).toBe(wide ? h : w);
        const [was, is] = [placeOf(before, 'item-aaaaaaaa', anchor), placeOf(after, 'item-aaaaaaaa', anchor)];
        expect(Math.hypot(was.x - is.x, was.y - is.y)).toBeLessThan(2e-4);
      }),
    );
  });

  test('a size that cannot be is refused in words', () => {
    const item = {
      type: 'item',
      kind: 'oval',
      id: 'item-aaaaaaaa',
      name: 'A',
      layer: null,
      widthMm: 10,
      heightMm: 10,
      matrix: [1, 0, 0, 1, 0, 0],
    } as OvalItem;
    const plan = setShapeSize(
      { drawing: on(item), selection: [] },
      {
        id: 'item-aaaaaaaa',
        size: { widthMm: -1 },
        keepRatio: false,
        anchor: { x: 0, y: 0 },
      },
    );
    expect(JSON.stringify(plan)).toMatch(/cannot be/);
  });
});
