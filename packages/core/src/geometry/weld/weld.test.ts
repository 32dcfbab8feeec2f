import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  pathLength,
  area,
  boxShape,
  deviation,
  dropOverlap,
  formatPath,
  keepOverlap,
  knockOut,
  mapOutline,
  nodeCount,
  ovalShape,
  parsePath,
  rotation,
  split,
  translation,
  weld,
  compose,
  type Outline,
} from '../index.ts';
import { checkFilm } from '../../check/index.ts';

/** Where curves touch, the boundary may lie this far off on average; a result is wrong at ten times that. */
const BAND_MM = 0.001;

/** A box or an oval somewhere, turned somehow. */
const shape = fc
  .record({
    oval: fc.boolean(),
    w: fc.double({ min: 5, max: 60, noNaN: true }),
    h: fc.double({ min: 5, max: 60, noNaN: true }),
    x: fc.double({ min: -30, max: 30, noNaN: true }),
    y: fc.double({ min: -30, max: 30, noNaN: true }),
    turn: fc.double({ min: 0, max: 360, noNaN: true }),
  })
  .map(({ oval, w, h, x, y, turn }) => mapOutline(compose(translation(x, y), rotation(turn)), oval ? ovalShape(w, h) : boxShape(w, h)));

const crossings = (outline: Outline): number => checkFilm([{ id: 'a', name: 'a', outline }]).filter((f) => f.code === 'crossing').length;

describe('laws of the weld family', () => {
  test('areas of weld and overlap add up to those of the parts', () => {
    fc.assert(
      fc.property(shape, shape, (a, b) => {
        const sum = area(weld([a, b])) + area(keepOverlap([a, b]));
        const band = BAND_MM * (pathLength(a) + pathLength(b));
        expect(Math.abs(sum - area(a) - area(b))).toBeLessThan(band);
        expect(Math.abs(area(knockOut(a, [b])) + area(keepOverlap([a, b])) - area(a))).toBeLessThan(band);
        expect(Math.abs(area(dropOverlap([a, b])) - (area(weld([a, b])) - area(keepOverlap([a, b]))))).toBeLessThan(band);
      }),
      { numRuns: 100, seed: 11 },
    );
  });

  test('no line of a weld crosses another', () => {
    fc.assert(
      fc.property(fc.array(shape, { minLength: 2, maxLength: 6 }), (shapes) => expect(crossings(weld(shapes))).toBe(0)),
      { numRuns: 50, seed: 12 },
    );
  });

  test('order and orientation of the parts do not matter', () => {
    fc.assert(
      fc.property(shape, shape, shape, (a, b, c) => {
        const there = weld([a, b, c]);
        const mirrored = (o: Outline): Outline => ({
          contours: o.contours.map((k) => ({
            closed: true,
            spans: [...k.spans]
              .reverse()
              .map((s) => (s.length === 4 ? [s[2], s[3], s[0], s[1]] : [s[6], s[7], s[4], s[5], s[2], s[3], s[0], s[1]]) as number[]),
          })),
        });
        expect(Math.abs(area(weld([c, mirrored(b), a])) - area(there))).toBeLessThan(0.02);
      }),
      { numRuns: 40, seed: 13 },
    );
  });

  test('the pieces of a split cover the weld and do not overlap', () => {
    fc.assert(
      fc.property(fc.array(shape, { minLength: 2, maxLength: 4 }), (shapes) => {
        const pieces = split(shapes);
        const sum = pieces.reduce((total, piece) => total + area(piece), 0);
        expect(Math.abs(sum - area(weld(shapes)))).toBeLessThan(BAND_MM * shapes.reduce((total, one) => total + pathLength(one), 0));
      }),
      { numRuns: 25, seed: 14 },
    );
  });
});

describe('what the weld keeps', () => {
  test('untouched spans come back as they were, bit for bit', () => {
    const oval = ovalShape(100, 60);
    const box = mapOutline(translation(80, 10), boxShape(60, 40));
    const before = new Set(oval.contours[0]?.spans.map(String));
    const kept = weld([oval, box]).contours[0]?.spans.filter((span) => before.has(String(span))) ?? [];
    expect(kept.length).toBe(2);
  });

  test('a hole stays a hole and separate parts stay separate', () => {
    const ring = knockOut(boxShape(50, 50), [mapOutline(translation(10, 10), boxShape(30, 30))]);
    expect(ring.contours.length).toBe(2);
    expect(area(ring)).toBeCloseTo(1600, 6);
    expect(area(weld([ring, mapOutline(translation(20, 20), boxShape(10, 10))]))).toBeCloseTo(1700, 6);
  });

  test('the same shape twice, and a copy of it in more pieces, are one shape', () => {
    const oval = ovalShape(80, 40);
    expect(nodeCount(weld([oval, oval]))).toBe(4);
    const halves = parsePath(formatPath(oval));
    expect(deviation(weld([oval, halves]), oval)).toBeLessThan(0.005);
  });

  test('a figure of eight is covered once in each lobe', () => {
    const bow = parsePath('M0 0L40 30L40 0L0 30Z');
    expect(area(weld([bow]))).toBeCloseTo(600, 3);
  });
});
