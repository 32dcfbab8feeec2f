/** Frames of what is selected, and the handles on them, as laws. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds, boxShape, compose, mapOutline, mapPoint, rotation, scaling, translation, type Matrix } from '@lorvek/core/geometry';
import { addFilm, addItems, applyPatch, emptyDrawing, type Drawing, type ShapeItem } from '@lorvek/model';
import { film, shapeOf } from '../../../../packages/model/src/drawing.support.ts';
import { handleAt, handlePlace, SIZE_HANDLES, turnHandlePlace } from './hit.ts';
import { anchorPlace, boxOf, frameOf, mirrorInFrame, scaleInFrame, turnAbout } from './selection.ts';

const number = (min: number, max: number) => fc.integer({ min: min * 16, max: max * 16 }).map((n) => n / 16);
/** Moved, turned, sized, perhaps mirrored; no skew, as items usually lie. */
const matrices: fc.Arbitrary<Matrix> = fc
  .tuple(number(-200, 200), number(-200, 200), number(-180, 180), number(0.25, 4), number(0.25, 4), fc.boolean())
  .map(([x, y, deg, kx, ky, flipped]) => compose(translation(x, y), compose(rotation(deg), scaling(flipped ? -kx : kx, ky))));
const OUTLINE = mapOutline(translation(-7, 3), boxShape(50, 30));

function drawingOf(items: readonly ShapeItem[]): Drawing {
  const run = (now: Drawing, plan: ReturnType<typeof addItems>): Drawing => {
    if (!plan.enabled) throw new Error(plan.why);
    return applyPatch(now, plan.run().patch);
  };
  const empty = emptyDrawing();
  const filmed = run(empty, addFilm({ drawing: empty, selection: [] }, { film: film('film-a') }));
  return run(filmed, addItems({ drawing: filmed, selection: [] }, { items, roots: items.map(({ id }) => id) }));
}
const itemAt = (id: string, matrix: Matrix): ShapeItem => ({
  ...shapeOf(id, 'film-a', OUTLINE),
  matrix: [...matrix] as ShapeItem['matrix'],
});

const frames = matrices.map((matrix) => {
  const drawing = drawingOf([itemAt('item-one', matrix)]);
  return { matrix, drawing, frame: frameOf(drawing, ['item-one'])! };
});
const near = (a: { x: number; y: number }, b: { x: number; y: number }): number => Math.hypot(a.x - b.x, a.y - b.y);

describe('the frame of one item', () => {
  test('is turned with it, has its size, and its corners are the item’s', () => {
    fc.assert(
      fc.property(frames, ({ matrix, frame }) => {
        const [a, b, c, d] = frame.matrix;
        for (const length of [Math.hypot(a, b), Math.hypot(c, d)]) expect(length).toBeCloseTo(1, 9);
        expect(a * c + b * d).toBeCloseTo(0, 9);
        expect(a * d - b * c).toBeCloseTo(Math.sign(a * d - b * c), 9);
        const corners = [
          [-7, 3],
          [43, 3],
          [-7, 33],
          [43, 33],
        ].map(([x, y]) => mapPoint(matrix, { x: x!, y: y! }));
        const seen = [0, 1].flatMap((x) => [0, 1].map((y) => anchorPlace(frame, { x, y })));
        for (const corner of corners) expect(Math.min(...seen.map((one) => near(one, corner)))).toBeLessThan(1e-6);
      }),
    );
  });

  test('a scale in it leaves its anchor where it is and makes it so much larger', () => {
    fc.assert(
      fc.property(frames, fc.constantFrom(...SIZE_HANDLES), number(0.25, 4), number(0.25, 4), ({ matrix, frame }, anchor, kx, ky) => {
        const map = scaleInFrame(frame, anchor, kx, ky);
        expect(near(mapPoint(map, anchorPlace(frame, anchor)), anchorPlace(frame, anchor))).toBeLessThan(1e-6);
        const scaled = frameOf(drawingOf([itemAt('item-one', compose(map, matrix))]), ['item-one'])!;
        expect(scaled.box.maxX - scaled.box.minX).toBeCloseTo(kx * (frame.box.maxX - frame.box.minX), 6);
        expect(scaled.box.maxY - scaled.box.minY).toBeCloseTo(ky * (frame.box.maxY - frame.box.minY), 6);
      }),
    );
  });

  test('mirrored twice is as it was, and stays in its place', () => {
    fc.assert(
      fc.property(frames, fc.constantFrom('sideways' as const, 'upside-down' as const), ({ frame }, across) => {
        const map = mirrorInFrame(frame, across);
        compose(map, map).forEach((n, i) => expect(n).toBeCloseTo([1, 0, 0, 1, 0, 0][i]!, 6));
        const middle = anchorPlace(frame, { x: 0.5, y: 0.5 });
        expect(near(mapPoint(map, middle), middle)).toBeLessThan(1e-6);
      }),
    );
  });

  test('a turn about a place leaves that place where it is and all distances from it', () => {
    fc.assert(
      fc.property(number(-50, 50), number(-50, 50), number(-360, 360), number(-99, 99), (x, y, deg, far) => {
        const map = turnAbout({ x, y }, deg);
        expect(near(mapPoint(map, { x, y }), { x, y })).toBeLessThan(1e-9);
        expect(near(mapPoint(map, { x: x + far, y }), { x, y })).toBeCloseTo(Math.abs(far), 9);
      }),
    );
  });
});

test('the box of several is the box of all their outlines, in whatever order they are named', () => {
  fc.assert(
    fc.property(fc.array(matrices, { minLength: 2, maxLength: 5 }), (list) => {
      const items = list.map((matrix, i) => itemAt(`item-${i}`, matrix));
      const drawing = drawingOf(items);
      const ids = items.map(({ id }) => id);
      const all = bounds({ contours: list.flatMap((matrix) => mapOutline(matrix, OUTLINE).contours) });
      for (const named of [ids, [...ids].reverse()]) {
        const box = boxOf(drawing, named)!;
        for (const side of ['minX', 'minY', 'maxX', 'maxY'] as const) expect(box[side]).toBeCloseTo(all[side], 6);
      }
      expect(frameOf(drawing, ids)).toMatchObject({ turnDeg: 0, matrix: [1, 0, 0, 1, 0, 0] });
    }),
  );
});

describe('handles', () => {
  const view = { scale: 4, x: 30, y: 700 };

  test('are found where they are drawn, whatever way the item lies', () => {
    fc.assert(
      fc.property(frames, fc.constantFrom(...SIZE_HANDLES), ({ frame }, anchor) => {
        const isLarge = Math.min(frame.box.maxX - frame.box.minX, frame.box.maxY - frame.box.minY) * view.scale > 80;
        fc.pre(isLarge);
        expect(handleAt(frame, view, handlePlace(frame, view, anchor))).toEqual({ kind: 'size', anchor });
        expect(handleAt(frame, view, turnHandlePlace(frame, view))).toEqual({ kind: 'turn' });
        expect(handleAt(frame, view, handlePlace(frame, view, { x: 0.5, y: 0.5 }))).toBeUndefined();
      }),
    );
  });

  test('of an item so small that they lie on one another, a corner is taken before an edge', () => {
    fc.assert(
      fc.property(frames, fc.constantFrom(...SIZE_HANDLES), ({ frame }, anchor) => {
        const far = { scale: 0.01, x: 0, y: 0 };
        const handle = handleAt(frame, far, handlePlace(frame, far, anchor));
        expect(handle).toMatchObject({ kind: 'size' });
        if (handle?.kind === 'size') expect([handle.anchor.x, handle.anchor.y]).not.toContain(0.5);
      }),
    );
  });
});
