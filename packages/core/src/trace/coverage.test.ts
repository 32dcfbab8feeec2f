/** Pixels covered by lines, looked at as a whole and through a window. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Coverage } from './coverage.ts';

const place = fc.tuple(fc.double({ min: 1, max: 29, noNaN: true }), fc.double({ min: 1, max: 19, noNaN: true }));
const ring = fc.array(place, { minLength: 3, maxLength: 8 });

function covered(
  points: readonly (readonly [number, number])[],
  x: number,
  y: number,
  width: number,
  height: number,
): (u: number, v: number) => number {
  const cover = new Coverage(x, y, width, height);
  points.forEach(([ax, ay], k) => {
    const [bx, by] = points[(k + 1) % points.length] as readonly [number, number];
    cover.line(ax, ay, bx, by, 1);
  });
  const sums = cover.sums();
  return (u, v) => sums[(v - y) * cover.stride + u - x] as number;
}

const areaOf = (points: readonly (readonly [number, number])[]): number =>
  points.reduce((sum, [ax, ay], k) => {
    const [bx, by] = points[(k + 1) % points.length] as readonly [number, number];
    return sum + (ax * by - bx * ay) / 2;
  }, 0);

// Law: all pixels together are covered by the ring's area, as it runs
test('coverage sums up to the area', () => {
  fc.assert(
    fc.property(ring, (points) => {
      const at = covered(points, 0, 0, 30, 20);
      let sum = 0;
      for (let v = 0; v < 20; v++) for (let u = 0; u < 30; u++) sum += at(u, v);
      expect(Math.abs(Math.abs(sum) - Math.abs(areaOf(points)))).toBeLessThan(0.01);
    }),
  );
});

// Law: a window sees what is seen of it in the whole, wherever lines run in and out of it
test('a window has the pixels of the whole', () => {
  fc.assert(
    fc.property(
      ring,
      fc.nat(20),
      fc.nat(12),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 7 }),
      (points, x, y, width, height) => {
        const [whole, part] = [covered(points, 0, 0, 30, 20), covered(points, x, y, width, height)];
        for (let v = y; v < y + height; v++)
          for (let u = x; u < x + width; u++) expect(Math.abs(part(u, v) - whole(u, v))).toBeLessThan(1e-4);
      },
    ),
  );
});
