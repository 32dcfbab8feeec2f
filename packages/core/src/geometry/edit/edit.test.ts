import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  boxShape,
  breakAt,
  closeContour,
  deleteNodes,
  deviation,
  fitPoints,
  flatten,
  insertNode,
  joinEnds,
  lineDistance,
  moveHandle,
  moveNodes,
  nodeCount,
  nodeKind,
  nestContours,
  nodePlace,
  ovalShape,
  parsePath,
  bounds,
  redrawSpan,
  reverseContour,
  setNodeKind,
  setSpanKind,
  strokeToShape,
  thinOut,
  weld,
  type Contour,
  type Outline,
} from '../index.ts';

const first = (outline: Outline): Contour => outline.contours[0] as Contour;
const oval = ovalShape(60, 40);

test('thinning out sees through roughness that is smaller than the tolerance', () => {
  const rough = Array.from({ length: 1400 }, (_, i) => {
    const a = (i * Math.PI) / 700;
    return `${i === 0 ? 'M' : 'L'}${30 * Math.cos(a) + 0.01 * Math.sin(3 * i)} ${20 * Math.sin(a)}`;
  });
  const outline = parsePath(`${rough.join('')}Z`);
  const thin = thinOut(outline, 0.05);
  expect(thin.nodesAfter).toBeLessThan(9);
  expect(deviation(outline, thin.outline)).toBeLessThan(0.05);
});

describe('nodes', () => {
  test('a new node leaves the line as it is; taking it away again gives the line back', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 3 }), fc.double({ min: 0.1, max: 0.9, noNaN: true }), (span, t) => {
        const more = insertNode(oval, 0, span, t);
        expect(nodeCount(more)).toBe(5);
        expect(deviation(more, oval)).toBeLessThan(0.002);
        expect(area(more)).toBeCloseTo(area(oval), 9);
        const less = deleteNodes(more, [{ contour: 0, node: span + 1 }]);
        expect(nodeCount(less)).toBe(4);
        expect(deviation(less, oval)).toBeLessThan(0.02);
      }),
      { numRuns: 20 },
    );
  });

  test('moving nodes keeps the contour closed and moves nothing else', () => {
    const moved = moveNodes(oval, [{ contour: 0, node: 0 }], 5, 3);
    const spans = first(moved).spans;
    spans.forEach((span, i) => expect(span.slice(-2)).toEqual(spans[(i + 1) % 4]?.slice(0, 2)));
    expect(spans[1]).toBe(first(oval).spans[1]);
    expect(nodePlace(first(moved), 0)).toEqual({ x: 65, y: 23 });
  });

  test('kinds: the corner of a box becomes smooth and even, its handle drags the other along', () => {
    const node = { contour: 0, node: 1 };
    expect(nodeKind(first(boxShape(40, 30)), 1)).toBe('corner');
    const even = setNodeKind(boxShape(40, 30), [node], 'even');
    expect(nodeKind(first(even), 1)).toBe('even');
    const dragged = moveHandle(even, node, 'after', { x: 55, y: 20 }, 'even');
    expect(nodeKind(first(dragged), 1)).toBe('even');
    expect(nodeKind(first(moveHandle(even, node, 'after', { x: 55, y: 20 }, 'corner')), 1)).toBe('corner');
  });

  test('lines to curves and back, breaking and joining', () => {
    const nodes = [0, 1].map((node) => ({ contour: 0, node }));
    const bent = setSpanKind(boxShape(40, 30), nodes, 'curve');
    expect(first(bent).spans.map((span) => span.length)).toEqual([8, 4, 4, 4]);
    expect(area(bent)).toBeCloseTo(1200, 6);
    expect(setSpanKind(bent, nodes, 'line')).toEqual(boxShape(40, 30));
    const open = breakAt(oval, { contour: 0, node: 2 });
    expect(first(open).closed).toBe(false);
    const two = breakAt(open, { contour: 0, node: 2 });
    expect(two.contours).toHaveLength(2);
    const joined = joinEnds(two, { contour: 0, node: 2 }, { contour: 1, node: 0 });
    expect(area({ contours: [closeContour(first(joined))] })).toBeCloseTo(area(oval), 6);
  });

  test('redrawn, a run that goes to and fro becomes one curve near it, without long loops', () => {
    const zigzag = parsePath('M320 555L460 570L600 548L740 555L740 172L320 172Z');
    const { outline, deviation: far } = redrawSpan(
      zigzag,
      [0, 1, 2, 3].map((node) => ({ contour: 0, node })),
    );
    expect(far).toBeLessThan(5);
    const { minX, maxX, maxY } = bounds(outline);
    expect([minX, maxX]).toEqual([320, 740]);
    expect(maxY).toBeLessThan(575);
  });

  test('redraw span replaces the shorter run between two nodes with one curve and says how far it strays', () => {
    const bumpy = parsePath('M 0 0 L 40 0 L 40 30 L 30 30 C 28 30 27 32 25 32 C 23 32 22 30 20 30 L 0 30 Z');
    const { outline, deviation: far } = redrawSpan(bumpy, [
      { contour: 0, node: 3 },
      { contour: 0, node: 5 },
    ]);
    expect(nodeCount(outline)).toBe(nodeCount(bumpy) - 1);
    expect(far).toBeGreaterThan(0.01);
    expect(deviation(outline, bumpy)).toBeCloseTo(far, 1);
  });
});

describe('points to curves', () => {
  test('points of an oval and of a box with noise become few spans near them', () => {
    const circle = flatten(ovalShape(80, 80), 0.01)[0]?.xy ?? new Float64Array();
    const fitted = fitPoints(circle, { tolMm: 0.1, cornerDeg: 40, closed: true });
    expect(fitted.spans.length).toBeLessThanOrEqual(8);
    expect(deviation({ contours: [fitted] }, ovalShape(80, 80))).toBeLessThan(0.25);
    const box: number[] = [];
    for (const [x0, y0, x1, y1] of [
      [0, 0, 50, 0],
      [50, 0, 50, 30],
      [50, 30, 0, 30],
      [0, 30, 0, 0],
    ] as const)
      for (let k = 0; k < 50; k++)
        box.push(x0 + ((x1 - x0) * k) / 50 + 0.02 * Math.sin(k * 7), y0 + ((y1 - y0) * k) / 50 + 0.02 * Math.cos(k * 5));
    const square = fitPoints(box, { tolMm: 0.2, cornerDeg: 40, closed: true });
    expect(square.spans.length).toBeLessThanOrEqual(6);
    expect(deviation({ contours: [square] }, boxShape(50, 30))).toBeLessThan(0.5);
  });

  test('never strays farther than the tolerance from the points, whatever was drawn', () => {
    const walk = fc.array(fc.tuple(fc.double({ min: 0.2, max: 4, noNaN: true }), fc.double({ min: -0.8, max: 0.8, noNaN: true })), {
      minLength: 3,
      maxLength: 60,
    });
    fc.assert(
      fc.property(walk, (steps) => {
        const xy = [0, 0];
        let angle = 0;
        for (const [step, turn] of steps) {
          angle += turn;
          xy.push((xy.at(-2) as number) + step * Math.cos(angle), (xy.at(-1) as number) + step * Math.sin(angle));
        }
        const contour = fitPoints(xy, { tolMm: 0.3, cornerDeg: 50, closed: false });
        const lines = flatten({ contours: [contour] }, 0.01);
        for (let i = 0; i < xy.length; i += 2) expect(lineDistance(lines, xy[i] as number, xy[i + 1] as number)).toBeLessThan(0.32);
        expect(contour.spans[0]?.slice(0, 2)).toEqual([0, 0]);
      }),
      { numRuns: 40 },
    );
  });
});

describe('thin out', () => {
  const dense = (outline: Outline): Outline => ({
    contours: flatten(outline, 0.004).map(({ xy, closed }) => ({
      closed,
      spans: Array.from({ length: xy.length / 2 }, (_, i) => {
        const j = ((i + 1) * 2) % xy.length;
        return [xy[2 * i], xy[2 * i + 1], xy[j], xy[j + 1]] as number[];
      }),
    })),
  });

  test.each([
    ['oval', ovalShape(80, 50)],
    ['rounded box', boxShape(60, 40, 9)],
    ['stroke', strokeToShape(parsePath('M 0 0 C 30 60 60 -60 90 0 L 120 30'), { width: 6, cap: 'round', join: 'round' })],
    ['weld', weld([ovalShape(40, 40), boxShape(50, 12, 2)])],
  ] as const)('hundreds of short lines of a %s become few spans, within the tolerance', (_, shape) => {
    const many = dense(shape);
    const thin = thinOut(many, 0.05);
    expect(thin.nodesBefore).toBe(nodeCount(many));
    expect(thin.nodesAfter).toBeLessThan(thin.nodesBefore / 5);
    expect(thin.nodesAfter).toBeLessThanOrEqual(nodeCount(shape) + 2);
    expect(deviation(thin.outline, many)).toBeLessThanOrEqual(0.0501);
    expect(thin.deviation).toBeLessThanOrEqual(0.05);
  });

  test('corners stay where they are', () => {
    const star = parsePath('M 0 0 L 20 8 L 40 0 L 32 20 L 40 40 L 20 32 L 0 40 L 8 20 Z');
    expect(thinOut(star, 0.5).outline).toEqual(star);
  });
});

describe('contours in one another', () => {
  // Law: each second one on the way in is a hole, however they come and turn; nothing is lost
  test('become shapes with holes', () => {
    const squares = fc.array(fc.integer({ min: 1, max: 6 }), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(
        squares,
        fc.array(fc.boolean(), { minLength: 40, maxLength: 40 }),
        fc.infiniteStream(fc.nat(1000)),
        (depths, turned, order) => {
          // towers of squares beside one another, each with so many in one another
          const all = depths.flatMap((depth, tower) =>
            Array.from({ length: depth }, (_, k): Contour => {
              const [low, high] = [100 * tower + 5 * k, 100 * tower + 90 - 5 * k];
              return parsePath(`M${low} ${low}L${high} ${low}L${high} ${high}L${low} ${high}Z`).contours[0] as Contour;
            }),
          );
          const mixed = all
            .map((contour, i) => ({ contour: turned[i] ? reverseContour(contour) : contour, at: order.next().value ?? 0 }))
            .sort((a, b) => a.at - b.at)
            .map(({ contour }) => contour);
          const shapes = nestContours(mixed);
          expect(shapes).toHaveLength(depths.reduce((sum, depth) => sum + Math.ceil(depth / 2), 0));
          expect(shapes.reduce((sum, { contours }) => sum + contours.length, 0)).toBe(all.length);
          for (const { contours } of shapes) {
            expect(contours.length).toBeLessThanOrEqual(2);
            contours.forEach((contour, k) => expect(Math.sign(area({ contours: [contour] }))).toBe(k === 0 ? 1 : -1));
          }
          // what is covered is what an even number lies around
          expect(shapes.reduce((sum, shape) => sum + area(shape), 0)).toBeCloseTo(
            depths.reduce(
              (sum, depth) =>
                sum + Array.from({ length: depth }, (_, k) => (k % 2 ? -1 : 1) * (90 - 10 * k) ** 2).reduce((a, b) => a + b, 0),
              0,
            ),
            6,
          );
        },
      ),
      { numRuns: 60 },
    );
    expect(nestContours([])).toEqual([]);
  });
});
