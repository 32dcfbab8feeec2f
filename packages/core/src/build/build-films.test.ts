import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { crossingPairs } from '../check/index.ts';
import {
  area,
  bounds,
  boxShape,
  deviation,
  mapOutline,
  ovalShape,
  translation,
  weld,
  windingNumber,
  flatten,
  type Outline,
} from '../geometry/index.ts';
import { buildFilms, costOf, placeMarksFor, quoteOf, smallOnFill, USUAL_WEEDING, type BuildLayer, type BuildPart } from './index.ts';

const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
const part = (outline: Outline, more: Partial<BuildPart> = {}): BuildPart => ({ id: 'p', name: 'Part', outline, ...more });
const film = (id: string, parts: readonly BuildPart[], more: Partial<BuildLayer> = {}): BuildLayer => ({
  film: id,
  name: id,
  build: 'overlay',
  trapMm: 0,
  leftOut: false,
  parts,
  ...more,
});

const coversAt = (outline: Outline): ((x: number, y: number) => boolean) => {
  const lines = flatten(outline, 0.002);
  return (x, y) => windingNumber(lines, x, y) !== 0;
};
/** The film on top at a place, by its number; -1: the surface. */
const topAt = (films: readonly Outline[]): ((x: number, y: number) => number) => {
  const covers = films.map(coversAt);
  return (x, y) => covers.findLastIndex((one) => one(x, y));
};
const drawnOf = (layers: readonly BuildLayer[]): Outline[] =>
  layers.map(({ parts }) => ({ contours: parts.flatMap(({ outline }) => outline.contours) }));

const anyPart = fc
  .record({
    x: fc.double({ min: 0, max: 100, noNaN: true }),
    y: fc.double({ min: 0, max: 100, noNaN: true }),
    w: fc.double({ min: 8, max: 50, noNaN: true }),
    h: fc.double({ min: 8, max: 50, noNaN: true }),
    oval: fc.boolean(),
  })
  .map(({ x, y, w, h, oval }) => part(at(x, y, oval ? ovalShape(w, h) : boxShape(w, h))));
const anyLayers = (trap: fc.Arbitrary<number>): fc.Arbitrary<BuildLayer[]> =>
  fc
    .array(fc.record({ parts: fc.array(anyPart, { minLength: 1, maxLength: 4 }), inlay: fc.boolean(), trapMm: trap }), {
      minLength: 2,
      maxLength: 5,
    })
    .map((list) => list.map(({ parts, inlay, trapMm }, i) => film(`film-${i}`, parts, { build: inlay ? 'inlay' : 'overlay', trapMm })));
/** Places that are no nearer to an edge than rounding. */
const places = Array.from({ length: 300 }, (_, k) => [((k * 0.618034) % 1) * 150, ((k * 0.754878) % 1) * 150] as const);
const isNearEdge = (films: readonly Outline[], x: number, y: number): boolean => {
  const top = topAt(films);
  const here = top(x, y);
  return [-0.01, 0.01].some((d) => top(x + d, y) !== here || top(x, y + d) !== here);
};

describe('built films', () => {
  test('law: laid on one another they show the drawing, at every place, with any trap', () => {
    fc.assert(
      fc.property(anyLayers(fc.constantFrom(0, 0.3, 1.5)), (layers) => {
        const built = buildFilms(layers, { sliverMm: 0 });
        const [was, is] = [drawnOf(layers), built.map(({ outline }) => outline)];
        const [before, after] = [topAt(was), topAt(is)];
        for (const [x, y] of places) if (!isNearEdge(was, x, y)) expect(after(x, y)).toBe(before(x, y));
      }),
      { numRuns: 20 },
    );
  });

  test('law: let in without a trap nothing is covered twice, and the films’ areas are what is seen', () => {
    fc.assert(
      fc.property(anyLayers(fc.constant(0)), (mixed) => {
        const layers = mixed.map((layer) => ({ ...layer, build: 'inlay' as const }));
        const built = buildFilms(layers, { sliverMm: 0 }).map(({ outline }) => outline);
        const covers = built.map(coversAt);
        for (const [x, y] of places)
          if (!isNearEdge(drawnOf(layers), x, y)) expect(covers.filter((one) => one(x, y)).length).toBeLessThanOrEqual(1);
        const sum = built.reduce((total, outline) => total + Math.abs(area(outline)), 0);
        expect(sum).toBeCloseTo(Math.abs(area(weld(drawnOf(layers).map((outline) => weld([outline]))))), 0);
        for (const outline of built) expect(crossingPairs(outline)).toEqual([]);
      }),
      { numRuns: 16 },
    );
  });

  test('law: built films built again do not change', () => {
    fc.assert(
      fc.property(anyLayers(fc.constantFrom(0, 0.5)), (layers) => {
        const once = buildFilms(layers, { sliverMm: 0 });
        const again = buildFilms(
          layers.map((layer, i) => ({ ...layer, parts: [part(once[i]!.outline)] })),
          { sliverMm: 0 },
        );
        again.forEach(({ outline }, i) => expect(Math.abs(area(outline))).toBeCloseTo(Math.abs(area(once[i]!.outline)), 0));
      }),
      { numRuns: 14 },
    );
  });

  test('a lower film reaches under what is let in by the trap, no farther; none on glass that is seen from both sides', () => {
    const layers = [
      film('red', [part(boxShape(100, 100))]),
      film('white', [part(at(30, 30, boxShape(40, 40)))], { build: 'inlay', trapMm: 0.5 }),
    ];
    const [red, white] = buildFilms(layers);
    expect(area(red!.outline)).toBeCloseTo(100 * 100 - 39 * 39, 3);
    expect(white!.outline.contours[0]).toBe(layers[1]!.parts[0]!.outline.contours[0]);
    expect(area(buildFilms(layers, { seenFromBothSides: true })[0]!.outline)).toBeCloseTo(100 * 100 - 40 * 40, 3);
  });

  test('what only meets the edge of what is let in is carried under it; what stands apart is not', () => {
    const beside = film('red', [part(boxShape(50, 40)), part(at(100, 0, boxShape(20, 40)))]);
    const white = film('white', [part(at(50, 0, boxShape(40, 40)))], { build: 'inlay', trapMm: 1 });
    const [red] = buildFilms([beside, white]);
    expect(bounds(red!.from[0]!.outline).maxX).toBeCloseTo(51, 2);
    expect(red!.from[1]!.outline).toBe(beside.parts[1]!.outline);
  });

  test('two that are let in side by side leave no strip of the film below under their common edge', () => {
    const [red] = buildFilms([
      film('red', [part(boxShape(100, 60))]),
      film('white', [part(at(10, 10, boxShape(40, 40)))], { build: 'inlay', trapMm: 1 }),
      film('navy', [part(at(50, 10, boxShape(40, 40)))], { build: 'inlay', trapMm: 1 }),
    ]);
    expect(red!.outline.contours).toHaveLength(2);
    expect(area(red!.outline)).toBeCloseTo(6000 - 78 * 38, 2);
  });

  test('a film that is left out is not cut, and shows the surface through those below', () => {
    const [navy, white] = buildFilms([
      film('navy', [part(boxShape(100, 50))]),
      film('white', [part(at(20, 10, boxShape(30, 30)))], { leftOut: true, trapMm: 1 }),
    ]);
    expect(white!.outline.contours).toEqual([]);
    expect(area(navy!.outline)).toBeCloseTo(5000 - 900, 6);
  });

  test('a trap wider than the part lays it over and says so; strips between what is let in are dropped and told', () => {
    const wide = buildFilms([
      film('red', [part(boxShape(100, 50))]),
      film('white', [part(at(20, 10, boxShape(2, 30)), { name: 'Bar' })], { build: 'inlay', trapMm: 1.5 }),
    ]);
    expect(area(wide[0]!.outline)).toBeCloseTo(5000, 6);
    expect(wide[1]!.findings.map(({ code, text }) => [code, text])).toEqual([['trap-wide', expect.stringMatching(/“Bar” is narrower/)]]);
    const strip = buildFilms([
      film('red', [part(boxShape(100, 50))]),
      film('white', [part(at(0, 0, boxShape(50, 50))), part(at(50.2, 0, boxShape(49.8, 50)))], { build: 'inlay' }),
    ]);
    expect(strip[0]!.outline.contours).toEqual([]);
    expect(strip[0]!.findings.map(({ code }) => code)).toEqual(['build-sliver']);
  });

  test('pieces of one item that meet as the item says are left as they are; another item’s are cut', () => {
    const shade = part(at(2, -2, boxShape(20, 20)), { meets: 'item-a' });
    const face = part(boxShape(20, 20), { meets: 'item-a' });
    const other = part(at(2, -2, boxShape(20, 20)));
    const [low] = buildFilms([film('navy', [shade, other]), film('red', [face], { build: 'inlay', trapMm: 0.3 })]);
    expect(low!.from[0]!.outline).toBe(shade.outline);
    expect(Math.abs(area(low!.from[1]!.outline))).toBeLessThan(Math.abs(area(other.outline)));
  });

  test('open lines, no film, one film, empty parts: as they are', () => {
    expect(buildFilms([])).toEqual([]);
    const line: Outline = { contours: [{ closed: false, spans: [[0, 0, 50, 50]] }] };
    const [low, top] = buildFilms([
      film('a', [part(line), part({ contours: [] })]),
      film('b', [part(boxShape(30, 30))], { build: 'inlay' }),
    ]);
    expect(low!.outline.contours).toEqual(line.contours);
    expect(low!.from[0]!.outline).toBe(line);
    expect(top!.from).toHaveLength(1);
  });

  test('small parts on a fill are named; large ones, ones over an edge, and ones let in already are not', () => {
    const layers = [
      film('red', [part(boxShape(100, 100))]),
      film('white', [
        part(at(20, 20, ovalShape(3, 3))),
        part(at(40, 20, ovalShape(30, 30))),
        part(at(98, 20, ovalShape(4, 4))),
        part(at(60, 80, ovalShape(3, 3)), { inlaid: true }),
      ]),
    ];
    expect(smallOnFill(layers, () => 2)).toEqual(new Map([['white', [0]]]));
    const [red] = buildFilms(layers);
    expect(10_000 - area(red!.outline)).toBeCloseTo(Math.PI * 2.25, 2);
  });

  test('nodes: no more than a tenth above those of what is seen', () => {
    const dots = Array.from({ length: 60 }, (_, i) => part(at((i % 10) * 9 + 3, Math.floor(i / 10) * 9 + 3, ovalShape(5, 5))));
    const [red] = buildFilms([film('red', [part(boxShape(100, 60))]), film('white', dots, { build: 'inlay', trapMm: 0.4 })]);
    expect(red!.outline.contours.reduce((sum, { spans }) => sum + spans.length, 0)).toBeLessThanOrEqual(1.1 * (4 + 60 * 4));
    const hole = red!.outline.contours.find((contour) => Math.abs(bounds({ contours: [contour] }).maxX - 7.6) < 0.05)!;
    expect(deviation({ contours: [hole] }, at(3.4, 3.4, ovalShape(4.2, 4.2)))).toBeLessThan(0.01);
  });
});

describe('place marks', () => {
  const work = { minX: 0, minY: 0, maxX: 200, maxY: 100 };
  test('stand round the work at their distance, one at each corner or side, alike for every film', () => {
    for (const shape of ['cross', 'dot', 'square', 'arrow'] as const)
      for (const place of ['corners', 'sides'] as const) {
        const marks = placeMarksFor(work, { shape, at: place, sizeMm: 8, distanceMm: 5 });
        expect(marks.contours).toHaveLength(4);
        for (const contour of marks.contours) {
          const { minX, minY, maxX, maxY } = bounds({ contours: [contour] });
          expect(Math.max(-maxX, minX - 200, -maxY, minY - 100)).toBeGreaterThan(5 - 1e-6);
        }
      }
    expect(
      placeMarksFor(
        { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity },
        { shape: 'dot', at: 'corners', sizeMm: 5, distanceMm: 5 },
      ).contours,
    ).toEqual([]);
    expect(() => placeMarksFor(work, { shape: 'dot', at: 'corners', sizeMm: 0, distanceMm: 5 })).toThrow(/larger than 0/);
    expect(() => placeMarksFor(work, { shape: 'dot', at: 'corners', sizeMm: 5, distanceMm: -1 })).toThrow(/0 to 1000 mm/);
  });
});

describe('cost', () => {
  test('is what was used, wasted, weeded and pressed; fine parts count more; the quote adds time and margin', () => {
    const outline = { contours: [...boxShape(100, 100).contours, ...at(150, 0, boxShape(5, 5)).contours] };
    const cost = costOf({
      outline,
      areaMm2: 10_025,
      cutMm: 5000,
      usedLengthMm: 500,
      materialWidthMm: 600,
      pricePerMetre: 8,
      pressSeconds: 30,
      rule: { ...USUAL_WEEDING, minutesPerMetre: 1, secondsPerPart: 6, fineTimes: 3 },
    });
    expect(cost).toMatchObject({ areaMm2: 10_025, parts: 2, fineParts: 1, price: 4, pressMinutes: 0.5 });
    expect(cost.wasteMm2).toBeCloseTo(300_000 - 10_025, 6);
    expect(cost.weedingMinutes).toBeCloseTo(5 + (4 * 6) / 60, 9);
    const quote = quoteOf([cost, cost], { hourlyRate: 60, marginPct: 10 });
    expect(quote.total).toBeCloseTo((8 + 2 * 5.9) * 1.1, 9);
    expect(
      costOf({
        outline: { contours: [] },
        areaMm2: 0,
        cutMm: 0,
        usedLengthMm: 0,
        materialWidthMm: 600,
        pricePerMetre: 8,
        pressSeconds: 0,
        rule: USUAL_WEEDING,
      }),
    ).toMatchObject({ price: 0, wasteShare: 0, weedingMinutes: 0 });
  });
});
