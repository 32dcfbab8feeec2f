import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { checkFilm } from '../check/index.ts';
import {
  area,
  boxShape,
  bounds,
  deviation,
  keepOverlap,
  knockOut,
  mapOutline,
  offset,
  ovalShape,
  parsePath,
  translation,
  weld,
  type Outline,
} from '../geometry/index.ts';
import { joinFonts, loadFont, setLettering } from '../lettering/index.ts';
import { evaluateTreatments, sweepAlong, sweepToward, trimSlivers, type ShadeTreatment, type Treatment } from './index.ts';

const lobster = joinFonts([loadFont(readFileSync('assets/fonts/lobster-latin-400-normal.woff'))]);
const word = (text: string): Outline => setLettering({ text, font: lobster, capHeightMm: 60 }).outline;

/** The sweep as many copies on the way, welded: from below, with known error. */
function copies(shape: Outline, maps: (t: number) => Parameters<typeof mapOutline>[0], n: number): Outline {
  return weld(Array.from({ length: n + 1 }, (_, i) => mapOutline(maps(i / n), shape)));
}

const shapes: [string, Outline][] = [
  ['box', boxShape(40, 30, 8)],
  ['ring', knockOut(ovalShape(60, 50), [mapOutline([1, 0, 0, 1, 15, 12], ovalShape(25, 25))])],
  ['hook', parsePath('M 0 0 L 50 0 L 50 40 L 40 40 L 40 10 L 10 10 L 10 40 L 0 40 Z')],
  ['letter', word('R')],
];

describe('sweep', () => {
  test.each(shapes)('along a way covers what twelve copies cover and hardly more: %s', (_, shape) => {
    const swept = sweepAlong(shape, 23, -14);
    const inner = copies(shape, (t) => [1, 0, 0, 1, 23 * t, -14 * t], 12);
    expect(area(knockOut(inner, [swept]))).toBeLessThan(0.02);
    // between two copies at most a crescent of half a step is left out along the boundary
    expect(area(swept) - area(inner)).toBeGreaterThan(-0.01);
    expect(area(swept) - area(inner)).toBeLessThan(0.03 * area(swept));
    expect(checkFilm([{ id: 'a', name: 'a', outline: swept }]).filter((f) => f.code === 'crossing')).toEqual([]);
  });

  test.each(shapes.slice(0, 3))('toward a point, outside and inside of the box: %s', (_, shape) => {
    for (const p of [
      { x: 120, y: -160 },
      { x: 24, y: 21 },
    ]) {
      const share = 0.6;
      const swept = sweepToward(shape, p, share);
      const inner = copies(shape, (t) => [1 - share * t, 0, 0, 1 - share * t, share * t * p.x, share * t * p.y], 60);
      expect(area(knockOut(inner, [swept]))).toBeLessThan(0.05);
      expect(area(swept) - area(inner)).toBeLessThan(0.02 * area(swept));
    }
  });

  test('has few nodes: a box swept aslant is a hexagon', () => {
    const { contours } = sweepAlong(boxShape(40, 30), 10, -10);
    expect(contours.map((contour) => contour.spans.length)).toEqual([6]);
  });
});

const shadeOf = (fields: Partial<ShadeTreatment>): ShadeTreatment => ({
  kind: 'shade',
  shade: 'block',
  angleDeg: -40,
  depthMm: 9,
  pointXMm: 0,
  pointYMm: -150,
  reachPct: 30,
  meeting: 'full',
  meetingMm: 1,
  ...fields,
});

describe('treatments', () => {
  const item = word('Mari');
  const pieceOf = (t: Treatment, limit = 0.2): Outline =>
    evaluateTreatments(item, [t], limit).pieces.find((p) => p.index === 0)?.outline ?? { contours: [] };

  test.each(['drop', 'block', 'converging', 'cast'] as const)(
    'a tucked %s reaches under where it meets the letter, and nowhere else',
    (kind) => {
      const box = boxShape(60, 40);
      const { pieces } = evaluateTreatments(box, [shadeOf({ shade: kind, meeting: 'tucked', meetingMm: 2 })], 0);
      const seen = evaluateTreatments(box, [shadeOf({ shade: kind, meeting: 'flush', meetingMm: 2 })], 0).pieces[0]!.outline;
      const piece = pieces[0]!.outline;
      const under = keepOverlap([piece, box]);
      // what lies under the letter lies within the tuck of what is seen
      expect(Math.abs(area(knockOut(under, [offset(seen, 2.01, { join: 'round' })])))).toBeLessThan(0.05);
      // and what is seen is all there
      expect(Math.abs(area(knockOut(seen, [piece])))).toBeLessThan(0.05);
      // the side from which the shade falls away has no frame
      const far = mapOutline(translation(0.2, 36), boxShape(3, 3));
      if (kind !== 'cast') expect(Math.abs(area(keepOverlap([piece, far])))).toBeLessThan(0.05);
    },
  );

  test('how a shade meets the letters: full lies under them, flush beside, tucked a little under, gapped keeps off', () => {
    const [full, flush, tucked, gapped] = (['full', 'flush', 'tucked', 'gapped'] as const).map((meeting) =>
      pieceOf(shadeOf({ meeting }), 0),
    ) as [Outline, Outline, Outline, Outline];
    expect(area(knockOut(item, [full]))).toBeLessThan(0.05);
    expect(area(keepOverlap([flush, item]))).toBeLessThan(0.05);
    expect(area(flush) + area(item)).toBeCloseTo(area(full), 1);
    expect(area(tucked)).toBeGreaterThan(area(flush));
    expect(area(gapped)).toBeLessThan(area(flush));
    expect(area(keepOverlap([tucked, item]))).toBeGreaterThan(10);
  });

  test('a ring keeps its distance; as a band it leaves the item out; inward past the thickness it says why', () => {
    const backing = pieceOf({ kind: 'ring', distanceMm: 4, corner: 'round', fill: 'backing' });
    const band = pieceOf({ kind: 'ring', distanceMm: 4, corner: 'round', fill: 'band' });
    expect(bounds(backing).maxX - bounds(item).maxX).toBeCloseTo(4, 1);
    expect(area(backing) - area(band)).toBeCloseTo(area(item), 0);
    const gone = evaluateTreatments(item, [{ kind: 'ring', distanceMm: -30, corner: 'round', fill: 'backing' }], 0.2);
    expect(gone.pieces.map((piece) => piece.index)).toEqual([-1]);
    expect(gone.notes).toHaveLength(1);
  });

  test('two tones are the item, divided', () => {
    for (const edge of ['straight', 'wave'] as const) {
      const { pieces } = evaluateTreatments(
        item,
        [{ kind: 'two-tone', edge, angleDeg: 8, shiftMm: 3, amplitudeMm: 6, waveMm: 40, phasePct: 10 }],
        0,
      );
      expect(pieces.map((piece) => piece.index)).toEqual([0, -1]);
      const [a, b] = pieces.map((piece) => piece.outline) as [Outline, Outline];
      expect(area(a) + area(b)).toBeCloseTo(area(item), 1);
      expect(area(keepOverlap([a, b]))).toBeLessThan(0.05);
      expect(Math.min(area(a), area(b))).toBeGreaterThan(0.1 * area(item));
    }
  });

  test('what the edge of a two-tone leaves too thin to weed goes from either side; strokes as thin as that before stay', () => {
    // a box with a thin stroke beside it, its edge cut 0.15 mm below the top
    const shape = parsePath('M0 0 L100 0 L100 40 L0 40 Z M110 0 L110.2 0 L110.2 40 L110 40 Z');
    const tone: Treatment = { kind: 'two-tone', edge: 'straight', angleDeg: 0, shiftMm: -19.85, amplitudeMm: 0, waveMm: 1, phasePct: 0 };
    for (const shiftMm of [-19.85, 19.85]) {
      const { pieces } = evaluateTreatments(shape, [{ ...tone, shiftMm }], 0.3);
      for (const { outline } of pieces)
        for (const contour of outline.contours) {
          const { minX, minY, maxX, maxY } = bounds({ contours: [contour] });
          if (maxX < 105) expect(Math.min(maxX - minX, maxY - minY)).toBeGreaterThan(0.3);
        }
      expect(pieces.some(({ index, outline }) => index === -1 && bounds(outline).maxX > 110)).toBe(true);
    }
  });

  test('every piece of any stack of treatments can be cut: closed, no crossings', () => {
    const ring = fc.record({
      kind: fc.constant('ring' as const),
      distanceMm: fc.double({ min: -3, max: 12, noNaN: true }),
      corner: fc.constantFrom('round' as const, 'mitre' as const, 'bevel' as const),
      fill: fc.constantFrom('backing' as const, 'band' as const),
    });
    const shade = fc
      .record({
        shade: fc.constantFrom('drop' as const, 'block' as const, 'converging' as const, 'cast' as const),
        angleDeg: fc.integer({ min: -170, max: 170 }),
        depthMm: fc.double({ min: 0, max: 25, noNaN: true }),
        meeting: fc.constantFrom('full' as const, 'tucked' as const, 'flush' as const, 'gapped' as const),
      })
      .map(shadeOf);
    const small = word('B');
    fc.assert(
      fc.property(fc.array(fc.oneof(ring, shade), { minLength: 1, maxLength: 3 }), (stack) => {
        for (const { outline } of evaluateTreatments(small, stack, 0.2).pieces) {
          expect(outline.contours.every((contour) => contour.closed)).toBe(true);
          const findings = checkFilm([{ id: 'a', name: 'a', outline }]);
          expect(findings.filter((f) => f.code === 'crossing' || f.code === 'open-outline')).toEqual([]);
        }
      }),
      { numRuns: 10 },
    );
  });
});

describe('slivers', () => {
  test('a thin tail goes, corners and thick parts stay as they are', () => {
    const shape = parsePath('M 0 0 L 40 0 L 40 0.1 L 20 0.1 L 20 20 L 0 20 Z');
    const kept = trimSlivers(shape, 0.5);
    expect(bounds(kept).maxX).toBeLessThan(21);
    expect(deviation(kept, boxShape(20, 20))).toBeLessThan(1.1);
    expect(trimSlivers(boxShape(20, 20), 0.5)).toEqual(boxShape(20, 20));
  });
});
