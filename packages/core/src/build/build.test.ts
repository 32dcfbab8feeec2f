import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  boxShape,
  dropOverlap,
  knockOut,
  mapOutline,
  ovalShape,
  parsePath,
  translation,
  weld,
  type Outline,
} from '../geometry/index.ts';
import { seenAtOf } from './seen-at.support.ts';
import { comparedLooks, flattenParts, seenOfParts, splitKeys, stackKeys, twiceCovered, type SeenPart } from './index.ts';

const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
const box = (key: string, x: number, y: number, w: number, h = w): SeenPart => ({ key, outline: at(x, y, boxShape(w, h)) });
const oval = (key: string, x: number, y: number, w: number, h = w): SeenPart => ({ key, outline: at(x, y, ovalShape(w, h)) });

const anyPart = fc
  .record({
    key: fc.constantFrom('navy', 'red', 'white', 'gold'),
    round: fc.boolean(),
    x: fc.double({ min: 0, max: 90, noNaN: true }),
    y: fc.double({ min: 0, max: 90, noNaN: true }),
    w: fc.double({ min: 3, max: 60, noNaN: true }),
    h: fc.double({ min: 3, max: 60, noNaN: true }),
  })
  .map(({ key, round, x, y, w, h }) => (round ? oval(key, x, y, w, h) : box(key, x, y, w, h)));
const anyDrawing = fc.array(anyPart, { minLength: 1, maxLength: 14 });

/** The parts as films show them: by the order of their keys, then as they came. */
const byFilm = (parts: readonly SeenPart[], order: readonly string[]): SeenPart[] =>
  order.flatMap((key) => parts.filter((part) => part.key === key));

describe('the order of films', () => {
  test('forty dots on a plate lie on it, however many they are', () => {
    const dots = Array.from({ length: 40 }, (_, i) => oval('white', 10 + 12 * (i % 8), 10 + 12 * Math.floor(i / 8), 6));
    expect(stackKeys([box('red', 0, 0, 120, 80), ...dots])).toEqual({ order: ['red', 'white'], knots: [] });
    expect(stackKeys([...dots, box('red', 0, 0, 120, 80)])).toEqual({ order: ['white', 'red'], knots: [] });
  });

  test('a colour both under and over another is a knot; cut out of one another it looks as before', () => {
    const parts = [box('red', 0, 0, 100), oval('white', 10, 10, 60), box('red', 25, 25, 20), oval('navy', 200, 0, 10)];
    const { order, knots } = stackKeys(parts);
    expect(knots).toEqual([['red', 'white']]);
    expect(comparedLooks(parts, byFilm(parts, order))).toBeGreaterThan(0.02);
    const cut = seenOfParts(parts, new Set(knots.flat())).map((outline, i) => ({ key: parts[i]!.key, outline }));
    expect(comparedLooks(parts, byFilm(cut, order))).toBe(0);
    expect(cut[3]!.outline).toBe(parts[3]!.outline);
  });

  test('law: whole in layers, every drawing shows what it showed, in no more layers than it has to', () => {
    const target = [box('red', 0, 0, 100), oval('white', 10, 10, 60), box('red', 25, 25, 20), oval('navy', 200, 0, 10)];
    expect(splitKeys(target)).toEqual({ layers: ['red', 'white', 'red', 'navy'], of: [0, 1, 2, 3] });
    fc.assert(
      fc.property(anyDrawing, (parts) => {
        const { layers, of } = splitKeys(parts);
        expect(of.map((layer) => layers[layer])).toEqual(parts.map(({ key }) => key));
        const laid = layers.flatMap((_, layer) => parts.filter((_part, i) => of[i] === layer));
        expect(comparedLooks(parts, laid)).toBeLessThan(0.003);
        if (stackKeys(parts).knots.length > 0) expect(layers.length).toBeGreaterThan(new Set(layers).size);
      }),
      { seed: 11, numRuns: 60 },
    );
  });

  test('parts that only meet demand nothing, films that are given keep their order', () => {
    const meeting = [box('red', 0, 0, 10), box('white', 10, 0, 10)];
    expect(stackKeys(meeting).knots).toEqual([]);
    expect(stackKeys(meeting, [['white', 'red']]).order).toEqual(['white', 'red']);
    expect(stackKeys([box('red', 0, 0, 10), box('white', 5, 0, 10)], [['white', 'red']]).knots).toEqual([['white', 'red']]);
  });

  test('open lines hide nothing', () => {
    const line: SeenPart = { key: 'white', outline: parsePath('M0 5 L100 5') };
    expect(stackKeys([line, box('red', 0, 0, 100), line]).knots).toEqual([]);
    expect(seenOfParts([line, box('red', 0, 0, 100)])[0]).toBe(line.outline);
  });

  test('law: in the order found, with its knots cut out of one another, every drawing shows what it showed', () => {
    fc.assert(
      fc.property(anyDrawing, (parts) => {
        const { order, knots } = stackKeys(parts);
        const shown = parts.map((part) => part.key);
        expect([...order].sort()).toEqual([...new Set(shown)].sort());
        const cut = knots.reduce<SeenPart[]>(
          (sum, knot) => seenOfParts(sum, new Set(knot)).map((outline, i) => ({ key: sum[i]!.key, outline })),
          [...parts],
        );
        // ground that parts share by less than rounding of an edge may be seen otherwise
        expect(comparedLooks(parts, byFilm(cut, order))).toBeLessThan(0.002);
      }),
      { numRuns: 30 },
    );
  });
});

describe('flattening', () => {
  test('law: nothing is covered twice, everything is seen as before, touching parts of one key are one', () => {
    fc.assert(
      fc.property(anyDrawing, (parts) => {
        const flat = flattenParts(parts).map(({ of, outline }) => ({ key: parts[of[0]!]!.key, outline }));
        expect(comparedLooks(parts, flat)).toBeLessThan(0.002);
        const seen = seenAtOf(parts);
        for (let k = 0; k < 200; k++) {
          const [x, y] = [((k * 0.618034) % 1) * 150, ((k * 0.754878) % 1) * 150];
          const over = flat.filter((part) => seenAtOf([part])(x, y) !== undefined);
          expect(over.length).toBeLessThanOrEqual(1);
          if (over.length === 1) expect(over[0]!.key).toBe(seen(x, y));
        }
      }),
      { numRuns: 20 },
    );
  });

  test('law: many parts on one another, cut out a few at a time, are what they are cut out all at once', () => {
    const lot = fc.integer({ min: 0, max: 60 });
    const crowd = fc.array(fc.tuple(lot, lot, fc.integer({ min: 8, max: 40 }), fc.boolean(), fc.integer({ min: 0, max: 3 })), {
      minLength: 12,
      maxLength: 24,
    });
    fc.assert(
      fc.property(crowd, (drawn) => {
        const parts = drawn.map(([x, y, size, round, key]): SeenPart => {
          const shape = round ? oval('', x, y, size) : box('', x, y, size);
          return { key: `c${key}`, outline: shape.outline };
        });
        seenOfParts(parts).forEach((seen, i) => {
          const above = parts.slice(i + 1).filter(({ key }) => key !== parts[i]!.key);
          const whole =
            above.length > 0
              ? knockOut(
                  parts[i]!.outline,
                  above.map(({ outline }) => outline),
                )
              : parts[i]!.outline;
          expect(Math.abs(area(seen) - area(whole))).toBeLessThan(0.005);
          expect(Math.abs(area(dropOverlap([seen, whole])))).toBeLessThan(0.02);
        });
      }),
      { numRuns: 12 },
    );
  });

  test('a piece in two parts of one colour is one; what nothing covers is the same object', () => {
    const parts = [box('red', 0, 0, 10), box('white', 20, 0, 10), box('red', 10, 0, 8, 10)];
    const flat = flattenParts(parts);
    expect(flat.map(({ of }) => of)).toEqual([[0, 2], [1]]);
    expect(flat[0]!.outline.contours).toHaveLength(1);
    expect(area(flat[0]!.outline)).toBeCloseTo(180, 6);
    expect(flat[1]!.outline).toBe(parts[1]!.outline);
  });
});

test('parts that only together close a ring are one piece', () => {
  const hook = weld([box('', 0, 0, 30, 5).outline, box('', 0, 0, 5, 30).outline]);
  const other = weld([box('', 25, 0, 5, 30).outline, box('', 0, 25, 30, 5).outline]);
  const flat = flattenParts([
    { key: 'red', outline: hook },
    { key: 'red', outline: other },
  ]);
  expect(flat.map(({ of }) => of)).toEqual([[0, 1]]);
  expect(area(flat[0]!.outline)).toBeCloseTo(900 - 400, 6);
});

test('law: the areas of a film less what is covered twice are what it covers', () => {
  expect(twiceCovered([box('red', 0, 0, 10), box('red', 20, 0, 10), box('white', 0, 0, 10)]).size).toBe(0);
  expect(twiceCovered([box('red', 0, 0, 100), oval('red', 20, 20, 20)]).get('red')).toBeCloseTo(100 * Math.PI, 0);
  fc.assert(
    fc.property(anyDrawing, (parts) => {
      const twice = twiceCovered(parts);
      for (const key of new Set(parts.map((part) => part.key))) {
        const own = parts.filter((part) => part.key === key).map((part) => part.outline);
        const sum = own.reduce((total, outline) => total + Math.abs(area(outline)), 0);
        expect(sum - (twice.get(key) ?? 0)).toBeCloseTo(Math.abs(area(weld(own))), 1);
      }
    }),
    { numRuns: 30 },
  );
});

test('ten thousand colours, each on the one before, are stacked in their order; in a ring they are one knot', () => {
  const colours = Array.from({ length: 10_000 }, (_, i) => box(`c${i}`, i % 100, Math.floor(i / 100), 1.5, 0.9));
  const { order, knots } = stackKeys(colours);
  expect(knots).toEqual([]);
  expect(order).toHaveLength(10_000);
  const rank = new Map(order.map((key, i) => [key, i]));
  for (let i = 1; i < 10_000; i++) if (i % 100 !== 0) expect(rank.get(`c${i}`)).toBeGreaterThan(rank.get(`c${i - 1}`)!);
  const ring = Array.from({ length: 1000 }, (_, i): [string, string] => [`r${i}`, `r${(i + 1) % 1000}`]);
  expect(stackKeys([], ring).knots.map((knot) => knot.length)).toEqual([1000]);
});
