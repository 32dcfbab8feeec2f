/** Snapping as laws: never farther than the reach, always onto something, the nearest of its kind. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, type Box, type Point } from '@lorvek/core/geometry';
import { addFilm, addItems, applyPatch, emptyDrawing, type Drawing, type Item } from '@lorvek/model';
import { film, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { fastenedPlace, snapBox, snapPoint, snapTargets, useSnap, type SnapTargets } from './snap.ts';
import type { View } from './view.ts';

const OFF = { on: true, guides: true, items: true, nodes: true, grid: false, gridMm: 10 };
beforeEach(() => useSnap.setState(OFF));

const mm = fc.integer({ min: -2000, max: 2000 }).map((n) => n / 8);
const point: fc.Arbitrary<Point> = fc.record({ x: mm, y: mm });
const size = fc.integer({ min: 1, max: 600 }).map((n) => n / 8);
const box: fc.Arbitrary<Box> = fc
  .tuple(point, size, size)
  .map(([{ x, y }, width, height]) => ({ minX: x, minY: y, maxX: x + width, maxY: y + height }));
const view: fc.Arbitrary<View> = fc.record({ scale: fc.constantFrom(0.2, 1, 3.78, 40), x: mm, y: mm });
const line = fc.record({ axis: fc.constantFrom('x' as const, 'y' as const), mm, reason: fc.constant('line') });
const targets: fc.Arbitrary<SnapTargets> = fc.record({
  lines: fc.array(line, { maxLength: 12 }),
  points: fc.array(
    point.map((p) => ({ ...p, reason: 'point' })),
    { maxLength: 12 },
  ),
  boxes: fc.array(box, { maxLength: 6 }),
});
/** Screen pixels within which things snap: what a hand can aim at. */
const REACH_PX = 7;

describe('a point', () => {
  test('goes to the nearest target point within reach, before any line', () => {
    fc.assert(
      fc.property(targets, point, view, (given, at, seen) => {
        const reach = REACH_PX / seen.scale;
        const far = (p: Point): number => Math.hypot(p.x - at.x, p.y - at.y);
        const least = Math.min(Infinity, ...given.points.map(far));
        const snapped = snapPoint(given, at, seen);
        if (least > reach) return;
        expect(far(snapped.at)).toBe(least);
        expect(given.points.some(({ x, y }) => x === snapped.at.x && y === snapped.at.y)).toBe(true);
        expect(snapped.lines).toEqual([]);
      }),
    );
  });

  test('else goes along each axis to the nearest line within reach, or stays', () => {
    fc.assert(
      fc.property(targets, point, view, (given, at, seen) => {
        const reach = REACH_PX / seen.scale;
        const snapped = snapPoint({ ...given, points: [] }, at, seen);
        for (const axis of ['x', 'y'] as const) {
          const least = Math.min(Infinity, ...given.lines.filter((one) => one.axis === axis).map((one) => Math.abs(one.mm - at[axis])));
          expect(Math.abs(snapped.at[axis] - at[axis])).toBe(least <= reach ? least : 0);
          expect(snapped.lines.some((one) => one.axis === axis)).toBe(least <= reach);
        }
      }),
    );
  });

  test('goes to the grid where nothing else is within reach, and nowhere when snapping is off', () => {
    fc.assert(
      fc.property(point, fc.constantFrom(2, 5, 12.5), (at, gridMm) => {
        useSnap.setState({ grid: true, gridMm, on: true });
        const seen = { scale: 1, x: 0, y: 0 };
        const none: SnapTargets = { lines: [], points: [], boxes: [] };
        const { x, y } = snapPoint(none, at, seen).at;
        for (const v of [x, y]) expect(Math.abs(v / gridMm - Math.round(v / gridMm))).toBeLessThan(1e-9);
        useSnap.setState({ on: false });
        expect(snapPoint(none, at, seen).at).toEqual(at);
      }),
    );
  });
});

describe('a moved box', () => {
  test('goes no farther than the reach, and an edge or its middle then lies on a line that is shown', () => {
    fc.assert(
      fc.property(targets, box, view, (given, own, seen) => {
        const reach = REACH_PX / seen.scale;
        const snapped = snapBox(given, own, seen);
        for (const axis of ['x', 'y'] as const) {
          const shift = snapped.at[axis];
          expect(Math.abs(shift)).toBeLessThanOrEqual(reach + 1e-9);
          const [low, high] = axis === 'x' ? [own.minX, own.maxX] : [own.minY, own.maxY];
          const shown = snapped.lines.filter((one) => one.axis === axis);
          for (const { mm: at } of shown)
            expect(Math.min(...[low, (low + high) / 2, high].map((edge) => Math.abs(edge + shift - at)))).toBeLessThan(1e-9);
          const least = Math.min(
            Infinity,
            ...given.lines
              .filter((one) => one.axis === axis)
              .flatMap((one) => [low, (low + high) / 2, high].map((edge) => Math.abs(one.mm - edge))),
          );
          if (least <= reach) expect(Math.abs(shift)).toBeCloseTo(least, 9);
        }
      }),
    );
  });

  test('keeps equal gaps where it says so: all that are shown are as long as one another', () => {
    let found = 0;
    fc.assert(
      fc.property(fc.array(size, { minLength: 3, maxLength: 5 }), size, fc.integer({ min: -40, max: 40 }), (widths, gap, off) => {
        let x = 0;
        const row = widths.map((width): Box => {
          const one = { minX: x, maxX: x + width, minY: 0, maxY: 40 };
          x += width + gap;
          return one;
        });
        // the last of a row of even gaps, moved a little
        const last = row.at(-1) as Box;
        const moved = { ...last, minX: last.minX + off / 8, maxX: last.maxX + off / 8 };
        const { gaps = [], at } = snapBox({ lines: [], points: [], boxes: row.slice(0, -1) }, moved, { scale: 1, x: 0, y: 0 });
        if (gaps.length === 0) return;
        found++;
        const [first, second] = gaps.map(({ from, to }) => Math.hypot(to.x - from.x, to.y - from.y)) as [number, number];
        expect(first).toBeCloseTo(second, 9);
        if (Math.abs(at.x + off / 8) < 1e-9) expect(first).toBeCloseTo(gap, 9);
      }),
    );
    expect(found).toBeGreaterThan(20);
  });
});

describe('what there is to snap to', () => {
  const item = (id: string, x: number): Item => ({ ...shapeOf(id, 'film-a', boxShape(40, 20)), matrix: [1, 0, 0, 1, x, 10] });
  const drawing = ((): Drawing => {
    let now = emptyDrawing();
    for (const [command, args] of [
      [addFilm, { film: film('film-a') }],
      [addItems, { items: [item('item-one', 0), item('item-two', 100)], roots: ['item-one', 'item-two'] }],
    ] as const) {
      const plan = (command as typeof addItems)({ drawing: now, selection: [] }, args as never);
      if (!plan.enabled) throw new Error(plan.why);
      now = applyPatch(now, plan.run().patch);
    }
    return now;
  })();

  test('is nothing of what is moved itself, and of the others edges, middles, corners and nodes', () => {
    const { boxes, points, lines } = snapTargets(drawing, new Set(['item-one']));
    expect(boxes).toEqual([{ minX: 100, maxX: 140, minY: 10, maxY: 30 }]);
    expect(points.every(({ reason }) => reason.includes('“item-two”'))).toBe(true);
    for (const x of [100, 120, 140]) expect(lines.some((one) => one.axis === 'x' && one.mm === x)).toBe(true);
    expect(lines.some((one) => one.axis === 'x' && one.mm === 40)).toBe(false);
  });

  test('is left out by its switch', () => {
    useSnap.setState({ ...OFF, items: false, nodes: false });
    expect(snapTargets(drawing, new Set())).toMatchObject({ boxes: [], points: [] });
    useSnap.setState({ ...OFF, on: false });
    expect(snapTargets(drawing, new Set())).toEqual({ lines: [], points: [], boxes: [] });
  });

  test('a place that is fastened to an item is found again there, and nowhere when the item is gone', () => {
    for (const target of snapTargets(drawing, new Set()).points) {
      if (!target.fast) continue;
      const { item: id, u, v } = target.fast;
      const at = fastenedPlace(drawing, id, u, v);
      expect(Math.hypot((at?.x ?? Infinity) - target.x, (at?.y ?? Infinity) - target.y)).toBeLessThan(1e-9);
    }
    expect(fastenedPlace(drawing, 'gone', 0, 0)).toBeUndefined();
  });
});
