/** The way through pieces of work, against every way that there is. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Point } from '../types/index.ts';
import { Tour, type Stop, type TourOptions } from './tour.ts';

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

/** The shortest way through all, each before its holder, by trying each. */
function shortest(stops: readonly Stop[], { from, to, holders }: TourOptions): number {
  const go = (left: readonly number[], here: Point | undefined): number =>
    left.length === 0
      ? apart(here, to)
      : Math.min(
          ...left
            .filter((stop) => !left.some((other) => holders?.[other] === stop))
            .flatMap((stop) =>
              waysThrough(stops[stop]!).map(([a, b]) => {
                const rest = left.filter((other) => other !== stop);
                return apart(here, a) + go(rest, b);
              }),
            ),
        );
  return go(
    stops.map((_, i) => i),
    from,
  );
}

/** How long a tour's way is, from what it tells alone; every stop has to come once. */
function wayOf(tour: Tour, stops: readonly Stop[], { from, to, holders }: TourOptions): number {
  const told = tour.result();
  expect(told.map(({ stop }) => stop).sort((a, b) => a - b)).toEqual(stops.map((_, i) => i));
  const rank = new Map(told.map(({ stop }, k) => [stop, k]));
  holders?.forEach((holder, stop) => {
    if (holder >= 0) expect(rank.get(stop)).toBeLessThan(rank.get(holder)!);
  });
  let [sum, here] = [0, from];
  for (const { stop, backwards, place } of told) {
    const { enter, leave, places } = stops[stop]!;
    const at = place >= 0 ? { x: places![2 * place]!, y: places![2 * place + 1]! } : undefined;
    sum += apart(here, at ?? (backwards ? leave : enter));
    here = at ?? (backwards ? enter : leave);
  }
  return sum + apart(here, to);
}

const straight = (stops: readonly Stop[], options: TourOptions): number => wayOf(new Tour(stops, options), stops, options);

/** For some stops a later one that holds them. */
const anyHolders = (count: number): fc.Arbitrary<Int32Array> =>
  fc
    .array(fc.option(fc.nat(count), { nil: -1 }), { minLength: count, maxLength: count })
    .map((chosen) => Int32Array.from(chosen, (holder, stop) => (holder > stop && holder < count ? holder : -1)));
const anyHeldStops = (most: number): fc.Arbitrary<{ stops: Stop[]; holders: Int32Array }> =>
  anyStops(most).chain((stops) => anyHolders(stops.length).map((holders) => ({ stops, holders })));

describe('a tour', () => {
  test('finds the shortest of all ways through a few pieces, nearly always', () => {
    let [found, asked] = [0, 0];
    fc.assert(
      fc.property(anyHeldStops(5), anyEnd, anyEnd, fc.integer({ min: 1, max: 99 }), ({ stops, holders }, from, to, seed) => {
        const options = { from, to, holders };
        const tour = new Tour(stops, { ...options, seed });
        tour.descend();
        tour.search((kicks) => kicks >= 300);
        const [way, least] = [wayOf(tour, stops, options), shortest(stops, options)];
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
      fc.property(anyHeldStops(60), anyEnd, anyEnd, fc.nat(120), fc.boolean(), ({ stops, holders }, from, to, most, isHeld) => {
        const options = { from, to, ...(isHeld ? { holders } : {}) };
        const before = straight(stops, options);
        const tour = new Tour(stops, { ...options, seed: most + 1 });
        tour.descend();
        const descended = wayOf(tour, stops, options);
        expect(descended).toBeLessThanOrEqual(before + 1e-6);
        tour.search((kicks) => kicks >= most);
        expect(wayOf(tour, stops, options)).toBeLessThanOrEqual(descended + 1e-6);
      }),
      { numRuns: 120 },
    );
  });

  test('that is broken off at once is still a way through all', () => {
    fc.assert(
      fc.property(anyStops(80), anyEnd, (stops, from) => {
        const tour = new Tour(stops, { from });
        tour.descend(() => true);
        tour.search(() => true);
        expect(wayOf(tour, stops, { from })).toBeLessThanOrEqual(straight(stops, { from }) + 1e-6);
      }),
      { numRuns: 40 },
    );
  });

  test('is the same for the same seed and the same number of kicks, and takes neighbours that were found before', () => {
    fc.assert(
      fc.property(anyStops(40), fc.integer({ min: 1, max: 99 }), (stops, seed) => {
        const of = (near?: Int32Array): Tour => {
          const tour = new Tour(stops, { from: { x: 0, y: 0 }, seed, near });
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
    const one = new Tour([ring], { from: { x: 0, y: 0 } });
    one.descend();
    expect(one.result()).toEqual([{ stop: 0, backwards: false, place: 1 }]);
    const line = new Tour([{ enter: { x: 90, y: 0 }, leave: { x: 10, y: 0 } }], { from: { x: 0, y: 0 } });
    line.descend();
    expect(line.result()[0]).toMatchObject({ backwards: true });
  });

  test('a way through places on a ring is the ring; lines are run from the nearer end', () => {
    const n = 40;
    const ring = Array.from({ length: n }, (_, i) => ({
      x: 100 * Math.cos((i * 2 * Math.PI) / n),
      y: 100 * Math.sin((i * 2 * Math.PI) / n),
    }));
    const mixed = [...ring].sort((a, b) => Math.sin(a.x * 17) - Math.sin(b.x * 17));
    const tour = new Tour(
      mixed.map((place) => ({ enter: place, leave: place })),
      { from: mixed[0], seed: 5 },
    );
    tour.descend();
    tour.search((kicks) => kicks >= 300);
    const way = tour.result().map(({ stop }) => mixed[stop]!);
    const length = way.slice(1).reduce((sum, { x, y }, i) => sum + Math.hypot(x - way[i]!.x, y - way[i]!.y), 0);
    expect(length).toBeLessThan((n - 1) * 2 * 100 * Math.sin(Math.PI / n) + 1e-6);
    // strokes one under the other, drawn alternately from the left and from the right
    const strokes = Array.from({ length: 8 }, (_, i) => ({ enter: { x: 0, y: 10 * i }, leave: { x: 300, y: 10 * i } }));
    const lines = new Tour(strokes, { from: { x: 0, y: 0 }, seed: 5 });
    lines.descend();
    lines.search((kicks) => kicks >= 200);
    expect(lines.result().map(({ backwards }) => backwards)).toEqual([false, true, false, true, false, true, false, true]);
  });
});
