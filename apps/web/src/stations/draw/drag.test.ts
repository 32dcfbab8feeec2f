/** What a drag means, as laws: what is held stays, what is dragged goes with the pointer. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { compose, mapPoint, rotation, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import { handleAt, handlePlace, SIZE_HANDLES, turnHandlePlace } from '../../drawing/hit.ts';
import { anchorPlace, type Frame } from '../../drawing/selection.ts';
import { boxBetween, moveBy, sizeBy, turnBy, type Drag } from './drag.ts';

const mm = fc.integer({ min: -4000, max: 4000 }).map((n) => n / 8);
const point: fc.Arbitrary<Point> = fc.record({ x: mm, y: mm });
const size = fc.integer({ min: 8, max: 2000 }).map((n) => n / 4);
const frame: fc.Arbitrary<Frame> = fc
  .record({ at: point, width: size, height: size, turnDeg: fc.integer({ min: -179, max: 180 }) })
  .map(({ at, width, height, turnDeg }) => ({
    matrix: compose(translation(at.x, at.y), rotation(turnDeg)),
    box: { minX: 0, minY: 0, maxX: width, maxY: height },
    turnDeg,
  }));
const anchor = fc.constantFrom(...SIZE_HANDLES);
const NO_KEYS = { shiftKey: false, altKey: false };
const away = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);
const sized = (of: Frame, handle: Point, to: Point, keys = NO_KEYS, ratio = false): Matrix => {
  const drag: Extract<Drag, { kind: 'size' }> = {
    kind: 'size',
    from: anchorPlace(of, handle),
    frame: of,
    handle: { kind: 'size', anchor: handle },
  };
  return sizeBy(drag, to, keys, ratio);
};
/** A place of the frame in its own directions, 0 to 1 from corner to corner. */
const within = ({ matrix, box }: Frame, { x, y }: Point): Point => mapPoint(matrix, { x: box.maxX * x, y: box.maxY * y });

describe('moving', () => {
  test('what is dragged goes with the pointer, with Shift along the nearer axis alone', () => {
    fc.assert(
      fc.property(point, point, (from, to) => {
        expect(mapPoint(moveBy(from, to, NO_KEYS), from)).toEqual(to);
        const straight = mapPoint(moveBy(from, to, { ...NO_KEYS, shiftKey: true }), from);
        const [dx, dy] = [Math.abs(to.x - from.x), Math.abs(to.y - from.y)];
        expect(straight).toEqual(dx >= dy ? { x: to.x, y: from.y } : { x: from.x, y: to.y });
      }),
    );
  });
});

describe('sizing', () => {
  test('the handle goes where it is dragged to, the one across stays; with Alt the middle does', () => {
    fc.assert(
      fc.property(
        frame,
        anchor,
        fc.double({ min: 0.2, max: 3, noNaN: true }),
        fc.double({ min: 0.2, max: 3, noNaN: true }),
        (of, handle, kx, ky) => {
          const opposite = { x: 1 - handle.x, y: 1 - handle.y };
          // somewhere else in the frame's own directions
          const to = within(of, { x: opposite.x + (handle.x - opposite.x) * kx, y: opposite.y + (handle.y - opposite.y) * ky });
          const map = sized(of, handle, to);
          expect(away(mapPoint(map, anchorPlace(of, opposite)), anchorPlace(of, opposite))).toBeLessThan(1e-6);
          expect(away(mapPoint(map, anchorPlace(of, handle)), to)).toBeLessThan(1e-6);
          const middle = { x: 0.5, y: 0.5 };
          const about = sized(of, handle, to, { ...NO_KEYS, altKey: true });
          expect(away(mapPoint(about, anchorPlace(of, middle)), anchorPlace(of, middle))).toBeLessThan(1e-6);
        },
      ),
    );
  });

  test('with the lock closed nothing is bent out of its ratio, and Shift turns that round', () => {
    const ratioOf = (of: Frame, map: Matrix): number => {
      const at = (p: Point): Point => mapPoint(map, within(of, p));
      return (away(at({ x: 0, y: 0 }), at({ x: 1, y: 0 })) / of.box.maxX / away(at({ x: 0, y: 0 }), at({ x: 0, y: 1 }))) * of.box.maxY;
    };
    fc.assert(
      fc.property(frame, anchor, point, (of, handle, to) => {
        expect(ratioOf(of, sized(of, handle, to, NO_KEYS, true))).toBeCloseTo(1, 5);
        expect(ratioOf(of, sized(of, handle, to, { ...NO_KEYS, shiftKey: true }, false))).toBeCloseTo(1, 5);
        expect(sized(of, handle, to, { ...NO_KEYS, shiftKey: true }, true)).toEqual(sized(of, handle, to, NO_KEYS, false));
      }),
    );
  });

  test('nothing is turned inside out or made nothing, however far it is dragged', () => {
    fc.assert(
      fc.property(frame, anchor, point, fc.boolean(), fc.boolean(), (of, handle, to, altKey, ratio) => {
        const [a, b, c, d] = sized(of, handle, to, { ...NO_KEYS, altKey }, ratio);
        expect(a * d - b * c).toBeGreaterThan(0);
      }),
    );
  });
});

describe('turning', () => {
  test('is about the middle, by what the pointer went round it; with Shift to steps of 15 degrees', () => {
    fc.assert(
      fc.property(frame, fc.integer({ min: -179, max: 179 }), (of, deg) => {
        const middle = anchorPlace(of, { x: 0.5, y: 0.5 });
        const from = { x: middle.x + 100, y: middle.y };
        const to = { x: middle.x + 50 * Math.cos((deg * Math.PI) / 180), y: middle.y + 50 * Math.sin((deg * Math.PI) / 180) };
        const drag: Extract<Drag, { kind: 'turn' }> = { kind: 'turn', from, frame: of };
        const free = turnBy(drag, to, NO_KEYS);
        expect(free.angleDeg).toBeCloseTo(deg, 6);
        expect(away(mapPoint(free.map, middle), middle)).toBeLessThan(1e-6);
        const stepped = turnBy(drag, to, { ...NO_KEYS, shiftKey: true });
        const whole = (of.turnDeg + stepped.angleDeg) / 15;
        expect(Math.abs(whole - Math.round(whole))).toBeLessThan(1e-6);
        const off = (((stepped.angleDeg - deg + 180) % 360) + 360) % 360;
        expect(Math.abs(off - 180)).toBeLessThanOrEqual(7.5 + 1e-6);
      }),
    );
  });
});

test('a box between two corners begins at the first one and is square when asked', () => {
  fc.assert(
    fc.property(point, point, (from, to) => {
      const free = boxBetween(from, to, false);
      expect([free.x, free.y]).toEqual([Math.min(from.x, to.x), Math.min(from.y, to.y)]);
      expect([free.width, free.height]).toEqual([Math.abs(from.x - to.x), Math.abs(from.y - to.y)]);
      const square = boxBetween(from, to, true);
      expect(square.width).toBe(square.height);
      expect(square.width).toBe(Math.max(free.width, free.height));
      // the corner where it began is one of its corners
      expect([square.x, square.x + square.width]).toContain(from.x);
      expect([square.y, square.y + square.height]).toContain(from.y);
    }),
  );
});

describe('handles', () => {
  const view = fc.record({ scale: fc.constantFrom(0.4, 1, 3.78), x: mm, y: mm });

  test('each is hit where it stands; a corner goes before a side', () => {
    fc.assert(
      fc.property(frame, view, anchor, (of, seen, handle) => {
        const there = handlePlace(of, seen, handle);
        const hit = handleAt(of, seen, there);
        // a small frame on the screen has its handles over one another: then some handle is hit
        const others = [
          ...SIZE_HANDLES.filter((other) => other !== handle).map((other) => handlePlace(of, seen, other)),
          turnHandlePlace(of, seen),
        ];
        if (others.every((other) => away(other, there) > 8)) expect(hit).toEqual({ kind: 'size', anchor: handle });
        else expect(hit).toBeDefined();
      }),
    );
  });

  test('the turn handle stands outside the frame, above its middle, and is hit there', () => {
    fc.assert(
      fc.property(frame, view, (of, seen) => {
        const there = turnHandlePlace(of, seen);
        expect(handleAt(of, seen, there)).toEqual({ kind: 'turn' });
        expect(away(there, handlePlace(of, seen, { x: 0.5, y: 1 }))).toBeCloseTo(26, 6);
        const [top, foot] = [handlePlace(of, seen, { x: 0.5, y: 1 }), handlePlace(of, seen, { x: 0.5, y: 0 })];
        expect(away(there, foot)).toBeGreaterThan(away(top, foot));
      }),
    );
  });
});
