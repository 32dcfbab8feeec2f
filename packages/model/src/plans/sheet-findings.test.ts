/** What is said of work on its material, piece by piece: said when it is so, and not when it is not. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, compose, rotation, translation, type Matrix } from '@lorvek/core/geometry';
import { defaultLayUp } from '../index.ts';
import { film, printLayer, stockOf } from '../drawing.support.ts';
import type { Filled } from './lay-fill.ts';
import type { LayPart } from './lay-places.ts';
import { checkLaid, findGrain, findMissing, findOverlaps, findRoll, findShort, onSheetAt, type Laid } from './sheet-findings.ts';

const KISS = { kind: 'kiss' } as never;
/** A square of 20 mm. */
const part = (id: string, size = 20): LayPart => ({
  id,
  name: id.toUpperCase(),
  sources: [{ id: `item-${id}`, name: id, line: KISS, outline: boxShape(size, size) }],
  art: [],
});
const MATERIAL = { widthMm: 200, lengthMm: 1000 };
const frameOf = (fields: object = {}) =>
  ({
    box: { minX: 10, minY: 10, maxX: 190, maxY: 100 },
    weedBoxes: [],
    overWidthMm: 0,
    overLengthMm: 0,
    usedLengthMm: 100,
    ...fields,
  }) as never;
const laid = (maps: readonly Matrix[], fields: Partial<Laid> = {}): Laid => ({
  layer: film('red'),
  parts: new Map([['a', part('a')]]),
  placements: maps.map((map) => ({ part: 'a', sheet: 0, map, moved: true })) as never,
  frame: frameOf(),
  material: MATERIAL,
  record: defaultLayUp('red'),
  ...fields,
});
const at = (x: number, y: number, deg = 0): Matrix => compose(translation(x, y), rotation(deg));
const codes = (list: readonly { code: string }[]): string[] => list.map(({ code }) => code);
const place = fc.tuple(fc.integer({ min: 0, max: 120 }), fc.integer({ min: 0, max: 60 }));

describe('a roll', () => {
  test('that is there is not spoken of; one that is not stops, and says of which film', () => {
    for (const how of ['named', 'only', 'reported'] as const) expect(findRoll(film('red'), { roll: null, how }, ['item-a'])).toEqual([]);
    for (const how of ['open', 'gone', 'none'] as const) {
      const [found] = findRoll(film('red'), { roll: null, how }, ['item-a']);
      expect([found?.code, found?.level, found?.parts]).toEqual(['no-roll', 'stop', ['item-a']]);
      expect(found?.text).toContain('s red');
    }
  });

  test('is short when its sheets together are longer than what is left of it, and only then', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 900 }), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 4000 }),
        (lengths, left) => {
          const [roll] = stockOf('red', { lengthLeftMm: left }).rolls;
          const found = findShort(
            lengths.map((usedLengthMm) => ({ usedLengthMm })),
            { roll: roll ?? null, how: 'named' },
            [],
          );
          const sum = lengths.reduce((a, b) => a + b, 0);
          expect(codes(found)).toEqual(lengths.length > 1 && sum > left ? ['roll-short'] : []);
        },
      ),
    );
    expect(findShort([{ usedLengthMm: 9e9 }, { usedLengthMm: 9e9 }], { roll: null, how: 'none' }, [])).toEqual([]);
  });
});

describe('pieces', () => {
  test('that lie on one another are named, those that only touch are not', () => {
    fc.assert(
      fc.property(place, place, ([ax, ay], [bx, by]) => {
        const found = findOverlaps(laid([at(ax, ay), at(bx, by)]));
        const shared = Math.max(0, 20 - Math.abs(ax - bx)) * Math.max(0, 20 - Math.abs(ay - by));
        expect(codes(found)).toEqual(shared > 0.2 ? ['lies-on-another'] : []);
        if (found[0]) {
          const { minX, maxX, minY, maxY } = found[0].box ?? { minX: 0, maxX: 0, minY: 0, maxY: 0 };
          expect((maxX - minX) * (maxY - minY)).toBeCloseTo(shared, 3);
        }
      }),
    );
  });

  test('that nobody moved are not looked at: the fill keeps them apart', () => {
    const still = laid([at(0, 0), at(1, 1)]);
    expect(findOverlaps({ ...still, placements: still.placements.map((one) => ({ ...one, moved: false })) })).toEqual([]);
  });

  test('along one another is not on one another, however long they are: some micrometres are no overlap, a tenth of a mm is one', () => {
    const long = new Map([['a', part('a', 400)]]);
    for (const [byMm, wanted] of [
      [0, []],
      [0.008, []],
      [0.1, ['lies-on-another']],
    ] as const)
      expect(codes(findOverlaps(laid([at(0, 0), at(400 - byMm, 0)], { parts: long })))).toEqual(wanted);
    // a corner that lies on another is seen at once
    expect(codes(findOverlaps(laid([at(0, 0), at(19.4, 19.4)])))).toEqual(['lies-on-another']);
  });

  test('more of them than can be looked at are said, and many that only touch hide none', () => {
    // a field of touching squares, the last one on four of them
    const field = Array.from({ length: 900 }, (_, i) => at(20 * (i % 30), 20 * Math.floor(i / 30)));
    expect(codes(findOverlaps(laid([...field, at(570, 570)])))).toEqual(Array(4).fill('lies-on-another'));
    const heap = findOverlaps(laid(Array.from({ length: 70 }, () => at(0, 0))));
    expect(heap.filter(({ code }) => code === 'lies-on-another')).toHaveLength(2000);
    expect(heap.at(-1)).toMatchObject({ code: 'not-worked-out', text: expect.stringMatching(/415 more/) });
  });

  test('turned against the grain are counted', () => {
    const turned = [0, 90, 180, 45, 360].map((deg) => at(50, 50, deg));
    const count = (grain: 'half' | 'none' | null): number =>
      Number(/^\d+/.exec(findGrain(laid(turned, { record: { ...defaultLayUp('red'), grain } }))[0]?.text ?? '0'));
    expect([count(null), count('half'), count('none')]).toEqual([0, 2, 3]);
  });

  test('without a place are counted and named, three of them; an old nest is told', () => {
    const filled = (copies: readonly number[], nest?: object): Filled =>
      ({ missing: copies.map((n, i) => ({ part: `p${i}`, copies: n })), ...(nest ? { nest } : {}) }) as never;
    const parts = [0, 1, 2, 3, 4].map((i) => part(`p${i}`));
    const [found] = findMissing(parts, filled([1, 2, 3, 4, 5]));
    expect([found?.code, found?.level]).toEqual(['no-place', 'stop']);
    expect(found?.text).toMatch(/^15 pieces .*“P0”, “P1”, “P2” …/);
    expect(found?.parts).toEqual(['item-p0', 'item-p1', 'item-p2', 'item-p3', 'item-p4']);
    expect(codes(findMissing(parts, filled([], { isOld: true })))).toEqual(['nest-old']);
    expect(findMissing(parts, filled([]))).toEqual([]);
    // a part that is gone meanwhile is named by what is known of it
    expect(findMissing([], filled([1]))[0]?.text).toContain('“p0”');
  });
});

describe('the material', () => {
  test('is left where a piece reaches beyond it, to either side', () => {
    const reach = fc.integer({ min: -30, max: 210 });
    fc.assert(
      fc.property(reach, reach, (x, y) => {
        const found = codes(checkLaid(laid([at(x, y)]), [stockOf('red')])).filter((code) => code !== 'in-margin');
        const isOff = x < 0 || y < 0 || x + 20 > MATERIAL.lengthMm || y + 20 > MATERIAL.widthMm;
        expect(found.length > 0).toBe(isOff);
      }),
    );
  });

  test('has a margin: work in it is warned of, by how much', () => {
    const inside = (fields: object) => codes(checkLaid(laid([at(50, 50)], { frame: frameOf(fields) }), []));
    const { marginMm } = defaultLayUp('red');
    expect(inside({})).toEqual([]);
    expect(inside({ overWidthMm: marginMm / 2 })).toEqual(['in-margin']);
    expect(inside({ box: { minX: marginMm / 2, minY: 10, maxX: 90, maxY: 90 } })).toEqual(['in-margin']);
  });

  test('has least parts for a film, not for a print', () => {
    const small = { parts: new Map([['a', part('a', 0.4)]]) };
    const stock = [{ ...stockOf('red'), smallestPartMm: 5 }, stockOf('print')];
    expect(codes(checkLaid(laid([at(50, 50)], small), stock)).length).toBeGreaterThan(0);
    expect(checkLaid(laid([at(50, 50)], { ...small, layer: printLayer('print') }), stock)).toEqual([]);
  });
});

test('a finding of the drawing lies where its piece lies on the sheet', () => {
  const finding = {
    code: 'bump',
    level: 'warning',
    text: '',
    parts: [],
    place: { x: 3, y: 4 },
    box: { minX: 0, minY: 0, maxX: 6, maxY: 8 },
  } as never;
  const there = onSheetAt(at(100, 50, 90), finding);
  expect(there.place?.x).toBeCloseTo(96, 9);
  expect(there.place?.y).toBeCloseTo(53, 9);
  expect([there.box?.minX, there.box?.maxY].map((v) => Math.round(v ?? 0))).toEqual([92, 56]);
  expect(onSheetAt(undefined, finding)).toBe(finding);
});
