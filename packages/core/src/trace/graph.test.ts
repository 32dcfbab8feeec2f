/** Borders of regions: where the pixels say that they lie, shared by both sides, closed or ending in junctions. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { segmentDistance } from '../geometry/hit.ts';
import { Coverage } from './coverage.ts';
import { buildGraph, OUTSIDE, type Chain, type Graph } from './graph.ts';
import { Shares } from './shares.ts';

type Point = readonly [x: number, y: number];

/** A chain with the junctions at its ends. */
function pointsOf({ junctions }: Graph, { xy, from, to, closed }: Chain): Point[] {
  const own = Array.from({ length: xy.length / 2 }, (_, i): Point => [xy[2 * i]!, xy[2 * i + 1]!]);
  const at = (j: number): Point[] => (j < 0 ? [] : [[junctions[j]!.x, junctions[j]!.y]]);
  const points = [...at(from), ...own, ...at(to)];
  return closed ? [...points, points[0]!] : points;
}

/** What a label covers: each chain counts for its left side, seen with y up, and against its right one (Green's theorem). */
function areaOf(graph: Graph, label: number): number {
  return graph.chains.reduce((sum, chain) => {
    const points = pointsOf(graph, chain);
    const swept = points.slice(1).reduce((own, [x, y], i) => own - ((x + points[i]![0]) / 2) * (y - points[i]![1]), 0);
    return sum + (chain.left === label ? swept : 0) - (chain.right === label ? swept : 0);
  }, 0);
}

/** A polygon about the middle of a picture of 40 by 40 pixels, each pixel covered as much as it is. */
const anyPolygon = fc
  .record({
    corners: fc.integer({ min: 3, max: 8 }),
    turn: fc.double({ min: 0, max: 6, noNaN: true }),
    radii: fc.array(fc.double({ min: 11, max: 16, noNaN: true }), { minLength: 8, maxLength: 8 }),
  })
  .map(({ corners, turn, radii }) =>
    Array.from({ length: corners }, (_, k): Point => {
      const angle = turn + (2 * Math.PI * k) / corners;
      return [20.3 + radii[k]! * Math.cos(angle), 19.8 + radii[k]! * Math.sin(angle)];
    }),
  );
const SIZE = 40;

function drawn(polygon: readonly Point[]): { shares: Shares; labels: Uint8Array } {
  const cover = new Coverage(0, 0, SIZE, SIZE);
  polygon.forEach(([ax, ay], k) => cover.line(ax, ay, ...polygon[(k + 1) % polygon.length]!, 1));
  const sums = cover.sums();
  const part = (i: number): number => Math.min(1, Math.abs(sums[Math.floor(i / SIZE) * cover.stride + (i % SIZE)]!));
  const labels = Uint8Array.from({ length: SIZE * SIZE }, (_, i) => (part(i) >= 0.5 ? 1 : 0));
  const shares = new Shares(SIZE, SIZE, labels);
  labels.forEach((label, i) => {
    const own = label === 1 ? part(i) : 1 - part(i);
    if (own < 1) shares.mix(i, label, 1 - label, own);
  });
  return { shares, labels };
}

describe('the border of an antialiased polygon', () => {
  test('is one closed chain along its sides, to a tenth of a pixel but at its corners, and holds its area', () => {
    fc.assert(
      fc.property(anyPolygon, (polygon) => {
        const { shares, labels } = drawn(polygon);
        const graph = buildGraph(shares, labels, 0, true);
        expect(graph.chains).toHaveLength(1);
        const [chain] = graph.chains as [Chain];
        expect([chain.closed, chain.from, chain.to]).toEqual([true, -1, -1]);
        expect([chain.left, chain.right].sort()).toEqual([0, 1]);
        for (const [x, y] of pointsOf(graph, chain)) {
          const off = Math.min(...polygon.map(([ax, ay], k) => segmentDistance(x, y, ax, ay, ...polygon[(k + 1) % polygon.length]!)));
          const isAtCorner = polygon.some(([cx, cy]) => Math.hypot(x - cx, y - cy) < 3);
          expect(off).toBeLessThan(isAtCorner ? 1.2 : 0.1);
        }
        const truth = Math.abs(
          polygon.reduce((sum, [x, y], k) => {
            const [px, py] = polygon[(k + 1) % polygon.length]!;
            return sum + (x * py - px * y) / 2;
          }, 0),
        );
        expect(areaOf(graph, 1) / truth).toBeGreaterThan(0.97);
        expect(areaOf(graph, 1) / truth).toBeLessThan(1.01);
      }),
      { numRuns: 150 },
    );
  });
});

describe('borders of many regions', () => {
  const BLOCK = 5;
  const anyBlocks = fc.record({
    across: fc.integer({ min: 2, max: 5 }),
    cells: fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 20, maxLength: 20 }),
  });

  test('each lies between two labels, ends in junctions where three chains or more meet, and every label holds its pixels', () => {
    fc.assert(
      fc.property(anyBlocks, ({ across, cells }) => {
        const [width, height] = [across * BLOCK, 4 * BLOCK];
        const labels = Uint8Array.from(
          { length: width * height },
          (_, i) => cells[(Math.floor(Math.floor(i / width) / BLOCK) * across + Math.floor((i % width) / BLOCK)) % cells.length]!,
        );
        const graph = buildGraph(new Shares(width, height, labels), labels, OUTSIDE, true);
        const ends = new Map<number, number>();
        for (const { left, right, from, to, closed } of graph.chains) {
          expect(left).not.toBe(right);
          expect(closed).toBe(from < 0 && to < 0);
          for (const end of [from, to]) if (end >= 0) ends.set(end, (ends.get(end) ?? 0) + 1);
        }
        for (const count of ends.values()) expect(count).toBeGreaterThanOrEqual(3);
        for (const label of [0, 1, 2]) {
          const pixels = labels.filter((one) => one === label).length;
          // a corner is cut off, by less than half a pixel
          const corners = 4 * cells.length;
          expect(Math.abs(areaOf(graph, label) - pixels)).toBeLessThan(0.5 * corners);
          if (pixels === 0) expect(areaOf(graph, label)).toBe(0);
        }
        const all = [0, 1, 2, OUTSIDE].reduce((sum, label) => sum + areaOf(graph, label), 0);
        expect(Math.abs(all)).toBeLessThan(1e-6);
      }),
      { numRuns: 150 },
    );
  });

  test('a picture of one label has the border round it alone, and none when that label goes on outside', () => {
    const labels = new Uint8Array(12 * 8);
    const alone = buildGraph(new Shares(12, 8, labels), labels, OUTSIDE, true);
    expect(alone.chains.map(({ closed }) => closed)).toEqual([true]);
    // its four corners are cut off
    expect(areaOf(alone, 0)).toBeGreaterThan(12 * 8 - 1);
    expect(areaOf(alone, 0)).toBeLessThanOrEqual(12 * 8);
    expect(buildGraph(new Shares(12, 8, labels), labels, 0, true).chains).toEqual([]);
  });
});
