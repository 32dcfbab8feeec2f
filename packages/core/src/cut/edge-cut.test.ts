import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  bounds,
  boxShape,
  contourArea,
  flatten,
  mapOutline,
  nodeCount,
  ovalShape,
  parsePath,
  pathLength,
  rotation,
  compose,
  segmentDistance,
  translation,
  weld,
  type Outline,
} from '../geometry/index.ts';
import { joinFonts, loadFont, setLettering } from '../lettering/index.ts';
import { edgeCut, perforate } from './index.ts';

/** Distance from a point to the nearest of an outline's lines, chords within a micrometre. */
function distanceTo(outline: Outline): (x: number, y: number) => number {
  const lines = flatten(outline, 0.001);
  return (x, y) => {
    let best = Infinity;
    for (const { xy } of lines) {
      const n = xy.length / 2;
      for (let i = 0; i < n; i++) {
        const j = (i + 1) % n;
        best = Math.min(best, segmentDistance(x, y, xy[2 * i]!, xy[2 * i + 1]!, xy[2 * j]!, xy[2 * j + 1]!));
      }
    }
    return best;
  };
}

/** Arcs that go round the corners of an outline, one for each quarter of a turn. */
const arcsRound = ({ contours }: Outline): number =>
  contours.reduce((sum, { spans }) => {
    const way = (span: readonly number[], isEnd: boolean): number => {
      const points = Array.from({ length: span.length / 2 }, (_, i) => [span[2 * i]!, span[2 * i + 1]!] as const);
      const [at, ...others] = isEnd ? points.reverse() : points;
      const to = others.find(([x, y]) => Math.hypot(x - at![0], y - at![1]) > 1e-9)!;
      return isEnd ? Math.atan2(at![1] - to[1], at![0] - to[0]) : Math.atan2(to[1] - at![1], to[0] - at![0]);
    };
    const turns = spans.map((span, i) => way(spans[(i + 1) % spans.length]!, false) - way(span, true));
    const left = turns.map((turn) => Math.atan2(Math.sin(turn), Math.cos(turn))).filter((turn) => turn > 1e-3);
    return sum + left.reduce((arcs, turn) => arcs + Math.ceil(turn / (Math.PI / 2) - 1e-9), 0);
  }, 0);

const anyShape = fc
  .record({
    deg: fc.integer({ min: 0, max: 90 }),
    w: fc.integer({ min: 20, max: 80 }),
    h: fc.integer({ min: 20, max: 80 }),
    round: fc.boolean(),
  })
  .map(({ deg, w, h, round }) => mapOutline(compose(translation(300, 200), rotation(deg)), round ? ovalShape(w, h) : boxShape(w, h, 4)));

describe('edge cuts', () => {
  test('every point lies at the distance, out and in', () => {
    fc.assert(
      fc.property(
        anyShape,
        fc.integer({ min: -6, max: 12 }).filter((d) => d !== 0),
        (shape, distanceMm) => {
          const line = edgeCut([shape], { shape: 'follow', distanceMm });
          const away = distanceTo(shape);
          for (const { xy } of flatten(line, 0.01))
            for (let i = 0; i < xy.length; i += 2) expect(Math.abs(away(xy[i]!, xy[i + 1]!) - Math.abs(distanceMm))).toBeLessThan(0.012);
        },
      ),
      { seed: 17, numRuns: 25 },
    );
  });

  test('round gently curved art it has hardly ever a node more than the art, and keeps its distance', () => {
    const gentle = fc.array(fc.double({ min: 0.94, max: 1.06, noNaN: true }), { minLength: 16, maxLength: 30 }).map((reaches): Outline => {
      const points = reaches.map((reach, i): [number, number] => {
        const angle = (2 * Math.PI * i) / reaches.length;
        return [30 * reach * Math.cos(angle), 30 * reach * Math.sin(angle)];
      });
      const at = (i: number): [number, number] => points[(i + points.length) % points.length]!;
      const spans = points.map((_, i) => {
        const [[ax, ay], [bx, by], [cx, cy], [dx, dy]] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
        return [bx, by, bx + (cx - ax) / 6, by + (cy - ay) / 6, cx - (dx - bx) / 6, cy - (dy - by) / 6, cx, cy];
      });
      return { contours: [{ closed: true, spans }] };
    });
    let [more, all] = [0, 0];
    fc.assert(
      fc.property(gentle, fc.constantFrom(1, 2, 3), (art, distanceMm) => {
        const line = edgeCut([art], { shape: 'follow', distanceMm });
        const over = nodeCount(line) - nodeCount(art);
        all++;
        if (over > 0) more++;
        expect(over).toBeLessThanOrEqual(1);
        const away = distanceTo(art);
        for (const { xy } of flatten(line, 0.01))
          for (let i = 0; i < xy.length; i += 2) expect(Math.abs(away(xy[i]!, xy[i + 1]!) - distanceMm)).toBeLessThan(0.01);
      }),
      { seed: 3, numRuns: 40 },
    );
    expect(more).toBeLessThan(all / 8);
  });

  test('round letters it has no more nodes than they have, the arcs round their corners aside, and keeps its distance', () => {
    const more: string[] = [];
    for (const [name, letters] of [
      ['archivo-black', 'aGRjäS5&'],
      ['bebas-neue', 'CGS$5'],
      ['barlow-condensed', 'ELt4'],
    ] as const) {
      const font = joinFonts([loadFont(readFileSync(`assets/fonts/${name}-latin-${name.startsWith('barlow') ? 600 : 400}-normal.woff`))]);
      for (const text of letters) {
        const art = weld([setLettering({ font, text, capHeightMm: 80 }).outline]);
        const solid: Outline = { contours: art.contours.filter((contour) => contourArea(contour) > 0) };
        const line = edgeCut([art], { shape: 'follow', distanceMm: 2 });
        if (nodeCount(line) > nodeCount(solid) + arcsRound(solid)) more.push(`${text} of ${name}`);
        const away = distanceTo(solid);
        for (const { xy } of flatten(line, 0.01))
          for (let i = 0; i < xy.length; i += 2) expect(Math.abs(away(xy[i]!, xy[i + 1]!) - 2)).toBeLessThan(0.01);
      }
    }
    expect(more).toEqual([]);
  });

  test('what is looked through for near parts keeps its distance where there are none', () => {
    const art = mapOutline(rotation(20), ovalShape(70, 45));
    const away = distanceTo(art);
    for (const { xy } of flatten(edgeCut([art], { shape: 'follow', distanceMm: 3, joinWithinMm: 6 }), 0.001))
      for (let i = 0; i < xy.length; i += 2) expect(Math.abs(away(xy[i]!, xy[i + 1]!) - 3)).toBeLessThan(0.01);
  });

  test('holes are left out unless wanted, near parts become one piece, a distance beyond the shape leaves nothing', () => {
    const ring = weld([boxShape(60, 60)]);
    const holed: Outline = { contours: [...ring.contours, ...parsePath('M20 20L20 40L40 40L40 20Z').contours] };
    expect(edgeCut([holed], { shape: 'follow', distanceMm: 2 }).contours).toHaveLength(1);
    expect(edgeCut([holed], { shape: 'follow', distanceMm: 2, holes: true }).contours).toHaveLength(2);
    const pair = [boxShape(20, 20), mapOutline(translation(25, 0), boxShape(20, 20))];
    expect(edgeCut(pair, { shape: 'follow', distanceMm: 1 }).contours).toHaveLength(2);
    expect(edgeCut(pair, { shape: 'follow', distanceMm: 1, joinWithinMm: 6 }).contours).toHaveLength(1);
    expect(edgeCut([boxShape(20, 20)], { shape: 'follow', distanceMm: -11 }).contours).toHaveLength(0);
    expect(edgeCut([], { shape: 'box', distanceMm: 3 }).contours).toHaveLength(0);
  });

  test('art of more nodes than can be followed is refused in words; a box goes round it all the same', () => {
    const many = parsePath(`M${Array.from({ length: 40_000 }, (_, i) => `${(i * 0.01).toFixed(2)} ${i % 2}`).join('L')}L399 90L0 90Z`);
    expect(() => edgeCut([many], { shape: 'follow', distanceMm: 2 })).toThrow(expect.objectContaining({ code: 'limit.nodes' }));
    expect(bounds(edgeCut([many], { shape: 'box', distanceMm: 2 })).maxY).toBeCloseTo(92, 6);
  });

  test('boxes and ovals hold what they go round', () => {
    const work = mapOutline(translation(100, 50), boxShape(40, 20));
    const at = (shape: 'box' | 'rounded' | 'oval' | 'circle') => edgeCut([work], { shape, distanceMm: 3, cornerMm: 5 });
    expect(bounds(at('box'))).toEqual({ minX: 97, minY: 47, maxX: 143, maxY: 73 });
    expect(bounds(at('rounded'))).toEqual({ minX: 97, minY: 47, maxX: 143, maxY: 73 });
    for (const shape of ['oval', 'circle'] as const)
      expect(Math.abs(area(weld([at(shape), work])))).toBeCloseTo(Math.abs(area(at(shape))), 3);
    const { minX, minY, maxX, maxY } = bounds(at('circle'));
    expect(maxX - minX).toBeCloseTo(Math.hypot(40, 20) + 6, 6);
    expect(maxY - minY).toBeCloseTo(maxX - minX, 6);
  });

  test('smoothing rounds what is sharper than its circle and keeps the rest', () => {
    const star = parsePath('M0 0L10 30L20 0L20 -20L0 -20Z');
    const plain = edgeCut([star], { shape: 'follow', distanceMm: 0.5 });
    const smooth = edgeCut([star], { shape: 'follow', distanceMm: 0.5, smooth: 3 });
    expect(pathLength(smooth)).toBeLessThan(pathLength(plain));
    expect(bounds(smooth).minY).toBeCloseTo(bounds(plain).minY, 1);
  });
});

describe('perforation', () => {
  test('bridges are of their length, cuts are equal on a side, corners are cut through', () => {
    fc.assert(
      fc.property(fc.integer({ min: 10, max: 200 }), fc.integer({ min: 10, max: 200 }), fc.integer({ min: 2, max: 15 }), (w, h, cutMm) => {
        const bridgeMm = 0.8;
        const box = boxShape(w, h);
        const cuts = perforate(box, { cutMm, bridgeMm });
        const bridges = pathLength(box) - pathLength(cuts);
        expect(Math.abs(bridges / bridgeMm - Math.round(bridges / bridgeMm))).toBeLessThan(1e-6);
        for (const [x, y] of [
          [0, 0],
          [w, 0],
          [w, h],
          [0, h],
        ] as const)
          expect(distanceToEnds(cuts, x, y)).toBeLessThan(1e-9);
      }),
      { seed: 5, numRuns: 40 },
    );
    // a small piece is held by as many bridges as asked for, or as there is room
    const heldBy = (outline: Outline, leastBridges: number): number => {
      const cuts = perforate(outline, { cutMm: 20, bridgeMm: 0.8, leastBridges });
      return (pathLength(outline) - pathLength(cuts)) / 0.8;
    };
    expect(heldBy(boxShape(16, 16), 0)).toBeCloseTo(0, 6);
    expect(heldBy(boxShape(16, 16), 6)).toBeGreaterThan(5.99);
    expect(heldBy(ovalShape(12, 12), 5)).toBeGreaterThan(4.99);
    expect(heldBy(boxShape(3, 3), 400)).toBeLessThan(12);
    const circle = perforate(ovalShape(100, 100), { cutMm: 6, bridgeMm: 1 });
    expect(circle.contours.length).toBe(Math.round((Math.PI * 100 - 6) / 7) + 1);
  });
});

/** Distance from a point to the nearest end of any cut. */
function distanceToEnds({ contours }: Outline, x: number, y: number): number {
  return Math.min(
    ...contours.flatMap(({ spans }) => {
      const [first, last] = [spans[0]!, spans.at(-1)!];
      return [Math.hypot(first[0]! - x, first[1]! - y), Math.hypot(last.at(-2)! - x, last.at(-1)! - y)];
    }),
  );
}
