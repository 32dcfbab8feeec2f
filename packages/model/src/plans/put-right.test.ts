/** Pieces on the material put right: afterwards nothing is wrong that could be put right, and what was right stays. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, isEmptyBox, joinBoxes, mapOutline, rotation, compose, translation, EMPTY_BOX, type Box } from '@lorvek/core/geometry';
import { defaultLayUp } from '../index.ts';
import { boxOfPlaced, clearOf, outlineOfPart, turnOf, type Ground, type LayPart, type Placement } from './lay-places.ts';
import { pairsThatMeet, sharedBy } from './lying-on.ts';
import { broughtOn, offGround, placesFor, takenApart, turnedBack, type RightedSheet } from './put-right.ts';

const ground = (fields: Partial<Ground> = {}): Ground => ({
  material: { widthMm: 500, lengthMm: 2000 },
  record: { ...defaultLayUp('film-a'), marginMm: 10 },
  mirror: false,
  bandMm: 0,
  leadMm: 0,
  weedBoxMm: undefined,
  weedsCopies: false,
  frame: [],
  ...fields,
});
const partOf = (id: string, w: number, h: number): LayPart => ({
  id,
  name: id,
  sources: [{ id, name: id, outline: boxShape(w, h), line: { kind: 'film' } }],
  art: [],
});
const at = (part: string, x: number, y: number, fields: Partial<Placement> = {}): Placement => ({
  part,
  copy: 0,
  sheet: 0,
  map: translation(x, y),
  locked: false,
  moved: false,
  ...fields,
});
const sheetOf = (parts: readonly LayPart[], placements: readonly Placement[], on = ground()): RightedSheet => ({
  number: 0,
  parts,
  placements,
  ground: on,
});
/** The sheet with places changed. */
const changedBy = (sheet: RightedSheet, changed: readonly Placement[]): RightedSheet => ({
  ...sheet,
  placements: [
    ...sheet.placements.map((one) => changed.find(({ part, copy }) => part === one.part && copy === one.copy) ?? one),
    ...changed.filter(({ part, copy }) => !sheet.placements.some((one) => one.part === part && one.copy === copy)),
  ],
});
const boxesOf = ({ parts, placements }: RightedSheet): Box[] =>
  placements.map(({ part, map }) =>
    boxOfPlaced(
      parts.find(({ id }) => id === part)!,
      map,
    ),
  );
const isOn = ({ minX, minY, maxX, maxY }: Box, on: Ground): boolean => {
  const { x, y, widthMm, lengthMm } = clearOf(on);
  return minX >= x - 0.01 && minY >= y - 0.01 && maxX <= x + lengthMm + 0.01 && maxY <= y + widthMm + 0.01;
};
const overlaps = (sheet: RightedSheet): number => {
  const lie = sheet.placements.map(({ part, map }) => mapOutline(map, outlineOfPart(sheet.parts.find(({ id }) => id === part)!)));
  return pairsThatMeet(lie).filter(([i, j]) => sharedBy(lie[i]!, lie[j]!)).length;
};

const size = fc.integer({ min: 10, max: 120 });
const pieces = fc.array(
  fc.record({ w: size, h: size, x: fc.integer({ min: -300, max: 2200 }), y: fc.integer({ min: -300, max: 700 }), locked: fc.boolean() }),
  { minLength: 1, maxLength: 7 },
);
const laid = (list: readonly { w: number; h: number; x: number; y: number; locked: boolean }[], withLocks = true): RightedSheet =>
  sheetOf(
    list.map(({ w, h }, i) => partOf(`p${i}`, w, h)),
    list.map(({ x, y, locked }, i) => at(`p${i}`, x, y, { locked: withLocks && locked })),
  );

describe('what lies off the material', () => {
  test('law: comes onto it, locked pieces aside; what is right changes nothing', () => {
    fc.assert(
      fc.property(pieces, (list) => {
        const sheet = laid(list);
        const after = changedBy(sheet, broughtOn(sheet, true));
        boxesOf(after).forEach((box, i) => {
          if (!after.placements[i]!.locked) expect(isOn(box, sheet.ground)).toBe(true);
          else expect(after.placements[i]).toBe(sheet.placements[i]);
        });
        expect(broughtOn(after, true).length === 0 || sheet.placements.some(({ locked }) => locked)).toBe(true);
      }),
    );
  });

  test('law: those that are off it come alone where there is room for them; else all come as they lie, by the same way', () => {
    const near = fc.array(
      fc.record({ w: size, h: size, x: fc.integer({ min: 0, max: 900 }), y: fc.integer({ min: 0, max: 300 }), locked: fc.constant(false) }),
      { minLength: 1, maxLength: 6 },
    );
    fc.assert(
      fc.property(near, fc.integer({ min: -900, max: 1500 }), fc.integer({ min: -400, max: 400 }), (list, dx, dy) => {
        const sheet = laid(list.map((one) => ({ ...one, x: one.x + dx, y: one.y + dy })));
        const changed = broughtOn(sheet, false);
        const after = changedBy(sheet, changed);
        expect(boxesOf(after).every((box) => isOn(box, sheet.ground))).toBe(true);
        const off = boxesOf(sheet).filter((box) => !isOn(box, sheet.ground)).length;
        expect(offGround(sheet)).toHaveLength(off);
        expect(overlaps(after)).toBeLessThanOrEqual(overlaps(sheet));
        if (changed.length <= off) return;
        const ways = new Set(
          after.placements.map(({ map }, i) => [4, 5].map((k) => (map[k]! - sheet.placements[i]!.map[k]!).toFixed(6)).join(' ')),
        );
        expect(ways.size).toBe(1);
      }),
    );
  });

  test('what is larger than the material, or longer together and not to be changed over, stays', () => {
    const wide = sheetOf([partOf('p', 600, 600)], [at('p', -5, -5)]);
    expect(broughtOn(wide, true)).toEqual([]);
    const many = sheetOf([partOf('a', 400, 100), partOf('b', 1900, 100)], [at('a', 10, 10), at('b', 500, 10)]);
    expect(broughtOn(many, false)).toEqual([]);
    expect(broughtOn(many, true).map(({ part }) => part)).toEqual(['b']);
    expect(broughtOn(sheetOf([], []), true)).toEqual([]);
  });
});

describe('what lies on one another', () => {
  test('law: is taken apart, what is locked and what touched nothing stays', () => {
    fc.assert(
      fc.property(pieces, fc.integer({ min: 0, max: 20 }), (list, gapMm) => {
        const sheet = laid(list);
        const changed = takenApart(sheet, gapMm);
        const after = changedBy(sheet, changed);
        expect(changed.every(({ locked }) => !locked)).toBe(true);
        // only locked ones may still lie on one another
        const left = after.placements.filter(({ locked }) => locked).length;
        if (left < 2) expect(overlaps(after)).toBe(0);
        if (overlaps(sheet) === 0) expect(changed).toEqual([]);
        const end = Math.max(...boxesOf(sheet).map(({ maxX }) => maxX));
        const own = new Set(changed.map(({ part }) => part));
        boxesOf(after).forEach((box, i) => {
          if (own.has(after.placements[i]!.part)) expect(box.minX).toBeGreaterThanOrEqual(end + gapMm - 1e-6);
        });
      }),
    );
  });
});

describe('what is turned against the grain', () => {
  test('law: is turned back about its middle, and no other piece', () => {
    const turned = fc.array(fc.record({ w: size, h: size, deg: fc.constantFrom(0, 30, 90, 180, 270), locked: fc.boolean() }), {
      minLength: 1,
      maxLength: 6,
    });
    fc.assert(
      fc.property(turned, (list) => {
        const sheet = sheetOf(
          list.map(({ w, h }, i) => partOf(`p${i}`, w, h)),
          list.map(({ deg, locked }, i) => ({ ...at(`p${i}`, 0, 0, { locked }), map: compose(translation(300 * i, 100), rotation(deg)) })),
        );
        const isAllowed = (deg: number): boolean => [0, 180, 360].some((one) => Math.abs(deg - one) < 0.01);
        const after = changedBy(sheet, turnedBack(sheet, isAllowed));
        after.placements.forEach((one, i) => {
          const before = sheet.placements[i]!;
          if (before.locked || isAllowed(turnOf(before.map))) expect(one).toBe(before);
          else expect(isAllowed(turnOf(one.map))).toBe(true);
        });
        const [middles, now] = [boxesOf(sheet), boxesOf(after)];
        now.forEach(({ minX, maxX, minY, maxY }, i) => {
          expect(minX + maxX).toBeCloseTo(middles[i]!.minX + middles[i]!.maxX, 4);
          expect(minY + maxY).toBeCloseTo(middles[i]!.minY + middles[i]!.maxY, 4);
        });
      }),
    );
  });
});

describe('what has no place', () => {
  test('law: lies behind the work, copy by copy, mirrored as the sheet is, as far as the material goes', () => {
    const missing = fc.array(fc.integer({ min: 0, max: 5 }), { minLength: 2, maxLength: 2 });
    fc.assert(
      fc.property(missing, fc.boolean(), fc.integer({ min: 0, max: 15 }), ([a = 0, b = 0], mirror, gapMm) => {
        const parts = [partOf('a', 90, 40), partOf('b', 300, 120)];
        const sheet = sheetOf(parts, [at('a', 10, 10), at('b', 200, 60)], ground({ mirror }));
        const places = placesFor(
          [sheet],
          [
            { part: 'a', copies: a },
            { part: 'b', copies: b },
          ],
          gapMm,
        );
        expect(places.filter(({ part }) => part === 'a').length).toBe(a);
        const room = 2000 - 10 - 500 - gapMm - a * (90 + gapMm);
        expect(places.filter(({ part }) => part === 'b').length).toBe(Math.min(b, Math.max(0, Math.floor((room + gapMm) / (300 + gapMm)))));
        const after = changedBy(sheet, places);
        expect(new Set(after.placements.map(({ part, copy }) => `${copy} ${part}`)).size).toBe(2 + places.length);
        expect(overlaps(after)).toBe(0);
        const all = boxesOf(after).slice(2);
        expect(all.every((box) => isOn(box, sheet.ground))).toBe(true);
        const whole = all.reduce(joinBoxes, EMPTY_BOX);
        if (!isEmptyBox(whole)) expect(whole.minX).toBeCloseTo(500 + gapMm, 4);
        for (const { map } of places) expect(Math.sign(map[0])).toBe(mirror ? -1 : 1);
      }),
    );
  });

  test('what is wider than the material, and parts that are gone, have none', () => {
    const sheet = sheetOf([partOf('wide', 50, 700)], []);
    expect(
      placesFor(
        [sheet],
        [
          { part: 'wide', copies: 2 },
          { part: 'gone', copies: 1 },
        ],
        5,
      ),
    ).toEqual([]);
    expect(placesFor([], [{ part: 'wide', copies: 1 }], 5)).toEqual([]);
  });
});
