/** The way through pieces of work, against every way that there is. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Point } from '../types/index.ts';
import { Tour, type Stop } from './tour.ts';

const anyPoint = fc.record({ x: fc.integer({ min: 0, max: 200 }), y: fc.integer({ min: 0, max: 100 }) });
/** A line from one end to the other, or a ring that comes back to where it was begun, at one of some places. */
const anyStop: fc.Arbitrary<Stop> = fc.oneof(
  fc.record({ enter: anyPoint, leave: anyPoint }),
  fc.array(anyPoint, { minLength: 1, maxLength: 4 }).map((points): Stop => {
    const first = points[0]!;
    return {
      enter: first,
      leave: first,
      ...(points.length > 1 ? { places: Float64Array.from(points.flatMap(({ x, y }) => [x, y])) } : {}),
    };
  }),
);
const anyStops = (most: number) => fc.array(anyStop, { minLength: 1, maxLength: most });
const anyEnd = fc.option(anyPoint, { nil: undefined });

const apart = (a: Point | undefined, b: Point | undefined): number => (a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0);

/** The ways in which a stop can be gone through. */
function waysThrough({ enter, leave, places }: Stop): [Point, Point][] {
  const ways: [Point, Point][] = [
    [enter, leave],
    [leave, enter],
  ];
  for (let p = 0; p < (places?.length ?? 0); p += 2) {
    const at = { x: places![p]!, y: places![p + 1]! };
    ways.push([at, at]);
  }
  return ways;
}

/** The shortest way through all, by trying each. */
function shortest(stops: readonly Stop[], from: Point | undefined, to: Point | undefined): number {
  const go = (left: readonly Stop[], here: Point | undefined): number =>
    left.length === 0
      ? apart(here, to)
      : Math.min(
          ...left.flatMap((stop, i) =>
            waysThrough(stop).map(([a, b]) => apart(here, a) + go([...left.slice(0, i), ...left.slice(i + 1)], b)),
          ),
        );
  return go(stops, from);
}

/** How long a tour's way is, from what it tells alone; every stop has to come once. */
function wayOf(tour: Tour, stops: readonly Stop[], from: Point | undefined, to: Point | undefined): number {
  const told = tour.result();
  expect(told.map(({ stop }) => stop).sort((a, b) => a - b)).toEqual(stops.map((_, i) => i));
  let [sum, here] = [0, from];
  for (const { stop, backwards, place } of told) {
    const { enter, leave, places } = stops[stop]!;
    const at = place >= 0 ? { x: places![2 * place]!, y: places![2 * place + 1]! } : undefined;
    sum += apart(here, at ?? (backwards ? leave : enter));
    here = at ?? (backwards ? enter : leave);
  }
  return sum + apart(here, to);
}

const straight = (stops: readonly Stop[], from: Point | undefined, to: Point | undefined): number =>
  wayOf(new Tour(stops, from, to), stops, from, to);

describe('a tour', () => {
  test('finds the shortest of all ways through a few pieces, nearly always', () => {
    let [found, asked] = [0, 0];
    fc.assert(
      fc.property(anyStops(4), anyEnd, anyEnd, fc.integer({ min: 1, max: 99 }), (stops, from, to, seed) => {
        const tour = new Tour(stops, from, to, seed);
        tour.descend();
        tour.search((kicks) => kicks >= 300);
        const [way, least] = [wayOf(tour, stops, from, to), shortest(stops, from, to)];
        expect(way).toBeGreaterThanOrEqual(least - 1e-6);
        asked++;
        if (way < least + 1e-6) found++;
      }),
      { numRuns: 150 },
    );
    expect(found / asked).toBeGreaterThan(0.8);
  });

  test('is never longer than the order that it was given, however long it is looked for', () => {
    fc.assert(
      fc.property(anyStops(60), anyEnd, anyEnd, fc.nat(120), fc.integer({ min: 1, max: 99 }), (stops, from, to, most, seed) => {
        const before = straight(stops, from, to);
        const tour = new Tour(stops, from, to, seed);
        tour.descend();
        const descended = wayOf(tour, stops, from, to);
        expect(descended).toBeLessThanOrEqual(before + 1e-6);
        tour.search((kicks) => kicks >= most);
        expect(wayOf(tour, stops, from, to)).toBeLessThanOrEqual(descended + 1e-6);
      }),
      { numRuns: 60 },
    );
  });

  test('that is broken off at once is still a way through all', () => {
    fc.assert(
      fc.property(anyStops(80), anyEnd, (stops, from) => {
        const tour = new Tour(stops, from, undefined);
        tour.descend(() => true);
        tour.search(() => true);
        expect(wayOf(tour, stops, from, undefined)).toBeLessThanOrEqual(straight(stops, from, undefined) + 1e-6);
      }),
      { numRuns: 40 },
    );
  });

  test('is the same for the same seed and the same number of kicks, and takes neighbours that were found before', () => {
    fc.assert(
      fc.property(anyStops(40), fc.integer({ min: 1, max: 99 }), (stops, seed) => {
        const of = (near?: Int32Array): Tour => {
          const tour = new Tour(stops, { x: 0, y: 0 }, undefined, seed, near);
          tour.descend();
          tour.search((kicks) => kicks >= 50);
          return tour;
        };
        const first = of();
        expect(of().result()).toEqual(first.result());
        expect(of(first.near).result()).toEqual(first.result());
      }),
      { numRuns: 30 },
    );
  });

  test('a ring is begun where that is nearest, and a line is run from its nearer end', () => {
    const ring: Stop = { enter: { x: 50, y: 0 }, leave: { x: 50, y: 0 }, places: Float64Array.from([50, 0, 30, 0, 40, 10]) };
    const one = new Tour([ring], { x: 0, y: 0 }, undefined);
    one.descend();
    expect(one.result()).toEqual([{ stop: 0, backwards: false, place: 1 }]);
    const line = new Tour([{ enter: { x: 90, y: 0 }, leave: { x: 10, y: 0 } }], { x: 0, y: 0 }, undefined);
    line.descend();
    expect(line.result()[0]).toMatchObject({ backwards: true });
  });
});
