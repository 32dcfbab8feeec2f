/** What a press takes hold of among the nodes, and where a drag leads, without a screen. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, mapPoint, nodePlace, ovalShape, type Matrix, type NodeAddress, type Outline, type Point } from '@lorvek/core/geometry';
import { shapeOf } from '../../../../../../packages/model/src/drawing.support.ts';
import { NEAR_PX, nodesWithin, placesOf, pressAt, same, screenMap, withHandleAt, withNodesAt, type Grabbed } from './node-grab.ts';

const BOX = boxShape(100, 60);
const OVAL = ovalShape(100, 60);
const view = { scale: 4, x: 300, y: 500 };
const keys = (shiftKey = false, altKey = false) => ({ shiftKey, altKey });
const item = (outline: Outline, matrix: Matrix = [1, 0, 0, 1, 0, 0]) => ({
  ...shapeOf('item-a', 'film-a', outline),
  matrix: [...matrix] as never,
});
const mapOf = (outline: Outline, matrix?: Matrix): Matrix => screenMap(view, item(outline, matrix));
/** Where the pointer is when it is at a place of the screen. */
const at = (screen: Point): Point => ({ x: (screen.x - view.x) / view.scale, y: (view.y - screen.y) / view.scale });
const on = (map: Matrix, outline: Outline, { contour, node }: NodeAddress): Point =>
  mapPoint(map, nodePlace(outline.contours[contour] as Outline['contours'][number], node));
const press = (outline: Outline, screen: Point, chosen: readonly NodeAddress[] = [], event = keys(), map = mapOf(outline)) =>
  pressAt(outline, map, chosen, { at: at(screen), screen, event });
const matrix = fc
  .tuple(fc.double({ min: -3, max: 3, noNaN: true }), fc.double({ min: 0.4, max: 3, noNaN: true }), fc.integer({ min: -90, max: 90 }))
  .map(([turn, k, x]): Matrix => [k * Math.cos(turn), k * Math.sin(turn), -k * Math.sin(turn), k * Math.cos(turn), x, -x]);
const nudge = fc.record({ x: fc.double({ min: -0.6, max: 0.6, noNaN: true }), y: fc.double({ min: -0.6, max: 0.6, noNaN: true }) });

describe('a press', () => {
  test('on a node takes it and chooses it alone, wherever the shape lies', () => {
    fc.assert(
      fc.property(matrix, fc.nat(3), nudge, (m, node, off) => {
        const map = mapOf(BOX, m);
        const p = on(map, BOX, { contour: 0, node });
        const taken = press(BOX, { x: p.x + off.x * NEAR_PX, y: p.y + off.y * NEAR_PX }, [], keys(), map);
        expect(taken?.chosen).toEqual([{ contour: 0, node }]);
        expect(taken?.grabbed?.kind === 'nodes' && taken.grabbed.toggled).toEqual({ contour: 0, node });
      }),
    );
  });

  test('on a chosen node keeps all that are chosen, so that they are dragged together', () => {
    const chosen = [0, 1, 2].map((node) => ({ contour: 0, node }));
    const taken = press(BOX, on(mapOf(BOX), BOX, { contour: 0, node: 1 }), chosen);
    expect(taken?.chosen).toBeUndefined();
    expect(taken?.grabbed?.kind).toBe('nodes');
  });

  test('with Shift takes a node in or out, and drags nothing', () => {
    const [a, b] = [
      { contour: 0, node: 0 },
      { contour: 0, node: 2 },
    ];
    expect(press(BOX, on(mapOf(BOX), BOX, b), [a], keys(true))).toEqual({ chosen: [a, b] });
    expect(press(BOX, on(mapOf(BOX), BOX, b), [a, b], keys(true))).toEqual({ chosen: [a] });
  });

  test('on the line chooses the nodes at both ends of the span, round the seam too', () => {
    const map = mapOf(BOX);
    for (let span = 0; span < 4; span++) {
      const [p, q] = [span, (span + 1) % 4].map((node) => on(map, BOX, { contour: 0, node })) as [Point, Point];
      const taken = press(BOX, { x: (p.x + q.x) / 2, y: (p.y + q.y) / 2 });
      expect(taken?.chosen?.map(({ node }) => node)).toEqual([span, (span + 1) % 4]);
    }
  });

  test('away from the shape takes nothing', () => {
    expect(press(BOX, { x: 0, y: 0 })).toBeUndefined();
    const middle = mapPoint(mapOf(BOX), { x: 50, y: 30 });
    expect(press(BOX, middle)).toBeUndefined();
  });

  test('takes a handle of a chosen node before anything else; with Alt it goes its own way', () => {
    const chosen = [{ contour: 0, node: 0 }];
    const span = OVAL.contours[0]?.spans[0] as readonly number[];
    const handle = mapPoint(mapOf(OVAL), { x: span[2] as number, y: span[3] as number });
    const smooth = press(OVAL, handle, chosen);
    expect(smooth?.grabbed?.kind === 'handle' && [smooth.grabbed.side, smooth.grabbed.node]).toEqual(['after', 'even']);
    const alone = press(OVAL, handle, chosen, keys(false, true));
    expect(alone?.grabbed?.kind === 'handle' && alone.grabbed.node).toBe('corner');
    expect(press(OVAL, handle, [])?.grabbed?.kind).not.toBe('handle');
  });
});

const free = (wanted: Point) => ({ at: wanted, reasons: [], lines: [] });

describe('a drag', () => {
  test('moves the chosen nodes by the way of the pointer, and no other, wherever the shape lies', () => {
    fc.assert(
      fc.property(matrix, fc.integer({ min: -50, max: 50 }), fc.integer({ min: -50, max: 50 }), (m, dx, dy) => {
        const shape = item(BOX, m);
        const chosen = [{ contour: 0, node: 1 }];
        const grabbed: Grabbed & { kind: 'nodes' } = { kind: 'nodes', from: { x: 7, y: 9 }, outline: BOX, moved: true };
        const to = { at: { x: 7 + dx, y: 9 + dy }, event: keys() };
        const moved = withNodesAt(shape, grabbed, chosen, to, free)?.outline ?? BOX;
        for (let node = 0; node < 4; node++) {
          const [p, q] = [BOX, moved].map((outline) => on(shape.matrix, outline, { contour: 0, node })) as [Point, Point];
          expect(q.x - p.x).toBeCloseTo(node === 1 ? dx : 0, 6);
          expect(q.y - p.y).toBeCloseTo(node === 1 ? dy : 0, 6);
        }
      }),
    );
  });

  test('brings the node that was taken to where it snaps; with Shift it stays level or upright', () => {
    const shape = item(BOX, [2, 0, 0, 2, 10, 10]);
    const toggled = { contour: 0, node: 2 };
    const grabbed: Grabbed & { kind: 'nodes' } = { kind: 'nodes', from: { x: 211, y: 131 }, outline: BOX, moved: true, toggled };
    const snapped = withNodesAt(shape, grabbed, [toggled], { at: { x: 230, y: 150 }, event: keys() }, () => free({ x: 250, y: 160 }));
    expect(on(shape.matrix, snapped?.outline ?? BOX, toggled)).toEqual({ x: 250, y: 160 });
    const level = withNodesAt(shape, grabbed, [toggled], { at: { x: 261, y: 140 }, event: keys(true) }, free);
    expect(on(shape.matrix, level?.outline ?? BOX, toggled)).toEqual({ x: 260, y: 130 });
  });

  test('of a handle takes it to the pointer; a shape that was flattened to nothing stays', () => {
    const shape = item(OVAL, [1, 0, 0, 1, 40, 0]);
    const grabbed: Grabbed & { kind: 'handle' } = {
      kind: 'handle',
      address: { contour: 0, node: 0 },
      side: 'after',
      node: 'corner',
      outline: OVAL,
    };
    const moved = withHandleAt(shape, grabbed, { x: 150, y: 77 });
    expect(moved?.contours[0]?.spans[0]?.slice(2, 4)).toEqual([110, 77]);
    expect(withHandleAt(item(OVAL, [0, 0, 0, 0, 0, 0]), grabbed, { x: 1, y: 1 })).toBeUndefined();
  });
});

test('a box marked out holds just the nodes within it, from whichever corner it was drawn', () => {
  const screen = fc.record({ x: fc.integer({ min: 200, max: 800 }), y: fc.integer({ min: 150, max: 600 }) });
  fc.assert(
    fc.property(screen, screen, (a, b) => {
      const map = mapOf(OVAL);
      const found = nodesWithin(OVAL, map, a, b);
      expect(nodesWithin(OVAL, map, b, a)).toEqual(found);
      for (const { address, screen: p } of placesOf(OVAL, map)) {
        const inside = (p.x - a.x) * (p.x - b.x) <= 0 && (p.y - a.y) * (p.y - b.y) <= 0;
        expect(found.some((one) => same(one, address))).toBe(inside);
      }
    }),
  );
});
