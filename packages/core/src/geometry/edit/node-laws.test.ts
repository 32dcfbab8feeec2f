/** Laws of node work, of lines that are joined, and of outlines that lie in one another. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { randomFrom, shuffled } from '../../search/random.ts';
import {
  area,
  boxShape,
  breakAt,
  deleteNodes,
  deviation,
  insertNode,
  isInside,
  joinEnds,
  joinLooseEnds,
  mapOutline,
  moveNodes,
  nestContours,
  nodeCount,
  nodeKind,
  nodePlace,
  ovalShape,
  reverseContour,
  setNodeKind,
  setSpanKind,
  translation,
  weld,
  type Contour,
  type NodeAddress,
  type Outline,
} from '../index.ts';
import { nodesOf } from './nodes.ts';

const place = fc.integer({ min: -50, max: 50 });
/** A contour through places that are apart, each span a line or a curve. */
const anyContour = fc
  .record({
    closed: fc.boolean(),
    points: fc.uniqueArray(fc.tuple(place, place), {
      minLength: 3,
      maxLength: 7,
      selector: ([x, y]) => `${Math.round(x / 4)} ${Math.round(y / 4)}`,
    }),
    bends: fc.array(fc.tuple(fc.boolean(), place, place), { minLength: 7, maxLength: 7 }),
  })
  .map(({ closed, points, bends }): Contour => {
    const pairs = points.map((p, i) => [p, points[(i + 1) % points.length]!] as const);
    return {
      closed,
      spans: (closed ? pairs : pairs.slice(0, -1)).map(([[x0, y0], [x1, y1]], i) => {
        const [isCurve, bx, by] = bends[i]!;
        return isCurve ? [x0, y0, x0 + bx / 3, y0 + by / 3, x1 - by / 3, y1 + bx / 3, x1, y1] : [x0, y0, x1, y1];
      }),
    };
  });
const anyOutline = fc.array(anyContour, { minLength: 1, maxLength: 3 }).map((contours): Outline => ({ contours }));
const allNodes = ({ contours }: Outline): NodeAddress[] =>
  contours.flatMap((contour, c) => Array.from({ length: nodesOf(contour) }, (_, node) => ({ contour: c, node })));
const numbersOf = ({ contours }: Outline): number[] => contours.flatMap(({ spans }) => spans.flatMap((span) => [...span]));
const closeTo = (numbers: readonly number[]) => numbers.map((n): unknown => expect.closeTo(n, 9));

describe('nodes', () => {
  test('moved there and back the line is as it was; all moved together are the whole moved', () => {
    fc.assert(
      fc.property(anyOutline, fc.array(fc.nat(), { maxLength: 6 }), place, place, (outline, picks, dx, dy) => {
        const nodes = allNodes(outline);
        const chosen = picks.map((k) => nodes[k % nodes.length]!);
        const back = moveNodes(moveNodes(outline, chosen, dx, dy), chosen, -dx, -dy);
        expect(numbersOf(back)).toEqual(closeTo(numbersOf(outline)));
        expect(numbersOf(moveNodes(outline, nodes, dx, dy))).toEqual(closeTo(numbersOf(mapOutline(translation(dx, dy), outline))));
        // what is not chosen stays where it is
        const moved = moveNodes(outline, chosen, dx, dy);
        for (const { contour, node } of nodes) {
          const isChosen = chosen.some((one) => one.contour === contour && one.node === node);
          const [was, is] = [nodePlace(outline.contours[contour]!, node), nodePlace(moved.contours[contour]!, node)];
          expect([is.x - was.x, is.y - was.y]).toEqual(closeTo(isChosen ? [dx, dy] : [0, 0]));
        }
      }),
    );
  });

  test('a new node, a line made a curve, a line opened and joined again: the line is the same', () => {
    fc.assert(
      fc.property(anyOutline, fc.nat(), fc.double({ min: 0.05, max: 0.95, noNaN: true }), (outline, k, t) => {
        const contour = k % outline.contours.length;
        const own = outline.contours[contour]!;
        const span = k % own.spans.length;
        const more = insertNode(outline, contour, span, t);
        expect(nodeCount(more)).toBe(nodeCount(outline) + 1);
        expect(deviation(more, outline)).toBeLessThan(0.01);
        expect(deviation(setSpanKind(outline, allNodes(outline), 'curve'), outline)).toBeLessThan(0.01);
        const node = k % nodesOf(own);
        const open = breakAt(outline, { contour, node });
        expect(deviation(open, outline)).toBeLessThan(0.01);
        if (own.closed) {
          const again = joinEnds(open, { contour, node: 0 }, { contour, node: own.spans.length });
          expect(again.contours[contour]!.closed).toBe(true);
          expect(deviation(again, outline)).toBeLessThan(0.01);
        } else if (node > 0 && node < own.spans.length) {
          expect(open.contours).toHaveLength(outline.contours.length + 1);
          const again = joinEnds(open, { contour, node }, { contour: contour + 1, node: 0 });
          expect(numbersOf(again)).toEqual(closeTo(numbersOf(outline)));
        } else expect(open).toBe(outline);
      }),
      { numRuns: 30 },
    );
  });

  test('made smooth or even, a node is that; its place stays', () => {
    fc.assert(
      fc.property(anyOutline, fc.nat(), fc.constantFrom('smooth', 'even'), (outline, k, kind) => {
        const curved = setSpanKind(outline, allNodes(outline), 'curve');
        const inner = allNodes(curved).filter(({ contour, node }) => {
          const own = curved.contours[contour]!;
          return own.closed || (node > 0 && node < own.spans.length);
        });
        fc.pre(inner.length > 0);
        const at = inner[k % inner.length]!;
        const made = setNodeKind(curved, [at], kind);
        const found = nodeKind(made.contours[at.contour]!, at.node);
        expect(kind === 'even' ? found === 'even' : found !== 'corner').toBe(true);
        expect(nodePlace(made.contours[at.contour]!, at.node)).toEqual(nodePlace(curved.contours[at.contour]!, at.node));
      }),
    );
  });

  test('taken away they leave one node fewer each; with fewer than two left the contour goes', () => {
    fc.assert(
      fc.property(anyOutline, fc.array(fc.nat(), { maxLength: 5 }), (outline, picks) => {
        const nodes = allNodes(outline);
        const chosen = picks.map((k) => nodes[k % nodes.length]!);
        const left = outline.contours.map(
          (contour, c) => nodesOf(contour) - new Set(chosen.filter((one) => one.contour === c).map(({ node }) => node)).size,
        );
        const less = deleteNodes(outline, chosen);
        expect(less.contours.map(nodesOf)).toEqual(left.filter((count) => count >= 2));
        for (const n of numbersOf(less)) expect(Number.isFinite(n)).toBe(true);
        expect(deleteNodes(outline, nodes).contours).toEqual([]);
      }),
    );
  });
});

describe('loose ends', () => {
  test('a ring that came in pieces, in any order and direction, with gaps, is one closed line again', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 12 }), fc.integer({ min: 20, max: 60 }), fc.nat(1e6), (count, radius, seed) => {
        const random = randomFrom(seed);
        const gap = 0.3;
        const corner = (k: number): [number, number] => [
          radius * Math.cos((2 * Math.PI * k) / count),
          radius * Math.sin((2 * Math.PI * k) / count),
        ];
        const near = ([x, y]: [number, number]): [number, number] => [x + 0.1 * (random() - 0.5), y + 0.1 * (random() - 0.5)];
        const pieces = Array.from({ length: count }, (_, k): Contour => {
          const piece: Contour = { closed: false, spans: [[...near(corner(k)), ...near(corner(k + 1))]] };
          return random() < 0.5 ? reverseContour(piece) : piece;
        });
        const { outline, joints } = joinLooseEnds({ contours: shuffled(pieces, random) }, gap);
        expect(outline.contours.map(({ closed }) => closed)).toEqual([true]);
        expect(joints).toBe(count);
        const truth = (count / 2) * radius * radius * Math.sin((2 * Math.PI) / count);
        expect(Math.abs(Math.abs(area(outline)) / truth - 1)).toBeLessThan(0.02);
      }),
    );
  });

  test('ends that are farther apart stay open, and closed lines are left alone', () => {
    const box = boxShape(10, 10).contours[0]!;
    const [one, two]: Contour[] = [
      { closed: false, spans: [[0, 0, 10, 0]] },
      { closed: false, spans: [[11, 0, 20, 0]] },
    ];
    expect(joinLooseEnds({ contours: [box, one!, two!] }, 0.5)).toEqual({ outline: { contours: [box, one, two] }, joints: 0 });
  });
});

test('a line of very many spans joins like a short one', () => {
  const spans = Array.from({ length: 200_000 }, (_, i) => [i, i % 2, i + 1, (i + 1) % 2]);
  const long: Contour = { closed: false, spans };
  expect(joinLooseEnds({ contours: [long] }, 0.1)).toEqual({ outline: { contours: [long] }, joints: 0 });
});

describe('outlines in one another', () => {
  const anyRings = fc.array(
    fc.record({
      x: fc.integer({ min: 0, max: 60 }),
      y: fc.integer({ min: 0, max: 60 }),
      size: fc.integer({ min: 4, max: 50 }),
      oval: fc.boolean(),
      back: fc.boolean(),
    }),
    { minLength: 1, maxLength: 8 },
  );

  test('shapes with their holes hold just what lies in an odd number of rings', () => {
    fc.assert(
      fc.property(anyRings, (rings) => {
        // rings that cross are none of this: only those are kept that lie apart or in one another
        const kept: { contour: Contour; x: number; y: number; r: number }[] = [];
        for (const { x, y, size, oval, back } of rings) {
          const r = size / 2;
          const isClear = kept.every((one) => {
            const apart = Math.max(Math.abs(x - one.x), Math.abs(y - one.y));
            const way = Math.hypot(x - one.x, y - one.y);
            return apart > r + one.r + 0.5 || way + 1.5 * r < one.r / 1.5 || way + 1.5 * one.r < r / 1.5;
          });
          if (!isClear) continue;
          const shape = mapOutline(translation(x - r, y - r), oval ? ovalShape(size, size) : boxShape(size, size)).contours[0]!;
          kept.push({ contour: back ? reverseContour(shape) : shape, x, y, r });
        }
        const nested = nestContours(kept.map(({ contour }) => contour));
        expect(nested.flatMap(({ contours }) => contours)).toHaveLength(kept.length);
        for (let x = -30.3; x < 90; x += 7.1)
          for (let y = -30.7; y < 90; y += 7.3) {
            const holding = kept.filter(({ contour }) => isInside({ contours: [contour] }, x, y)).length;
            expect(nested.filter((outline) => isInside(outline, x, y)).length).toBe(holding % 2);
          }
      }),
      { numRuns: 60 },
    );
  });

  test('cells side by side weld to what they cover, whichever they are', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.tuple(fc.integer({ min: 0, max: 4 }), fc.integer({ min: 0, max: 4 })), {
          minLength: 1,
          maxLength: 18,
          selector: String,
        }),
        (cells) => {
          const all = weld(cells.map(([x, y]) => mapOutline(translation(10 * x, 10 * y), boxShape(10, 10))));
          expect(area(all)).toBeCloseTo(100 * cells.length, 3);
          for (let x = 0; x < 5; x++)
            for (let y = 0; y < 5; y++) expect(isInside(all, 10 * x + 5, 10 * y + 5)).toBe(cells.some(([cx, cy]) => cx === x && cy === y));
        },
      ),
      { numRuns: 60 },
    );
  });
});
