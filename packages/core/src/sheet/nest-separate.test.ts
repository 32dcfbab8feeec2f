/** Parts that collide are moved until none do; what is stuck is stirred. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, boxShape, flatten, keepOverlap, mapOutline, ovalShape, polygonShape, translation, type Outline } from '../geometry/index.ts';
import { randomFrom } from '../search/random.ts';
import { Separation, type Lie, type Movable } from './nest-separate.ts';
import { SolidTurns } from './nest-shorter.ts';
import { solidsOf } from './nest-solid.ts';

const TURNS = [0, 90, 180, 270];
const kindOf = (outline: Outline): SolidTurns =>
  new SolidTurns(solidsOf(outline, flatten(outline, 0.05), { gapMm: 0, holes: false, chordMm: 0 }).quick, TURNS);
const movable = (turns: SolidTurns): Movable => ({ turns, isFixed: false });

/** Where the outlines lie. */
const placed = (outlines: readonly Outline[], parts: readonly Movable[], lies: readonly Lie[]): Outline[] =>
  lies.map(({ turn, x, y }, i) => mapOutline(translation(x, y), mapOutline(parts[i]!.turns.at(turn).map, outlines[i]!)));

const shapes: Outline[] = [boxShape(60, 20), ovalShape(30, 30), polygonShape(3, 20), boxShape(15, 15)];

describe('parts that lie on one another', () => {
  test('law: on a strip with room they come apart, stay on it, and what is fixed stays where it is', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(shapes.length - 1), { minLength: 2, maxLength: 9 }), fc.integer({ min: 1, max: 1e6 }), (picks, seed) => {
        const random = randomFrom(seed);
        const kinds = shapes.map(kindOf);
        const outlines = picks.map((k) => shapes[k]!);
        const parts: Movable[] = picks.map((k, i) => ({ turns: kinds[k]!, isFixed: i === 0 }));
        const start = picks.map((): Lie => ({ turn: 0, x: 10 + 20 * random(), y: 20 * random() }));
        const search = new Separation(parts, start, { acrossMm: 90, random, isOver: () => false });
        expect(search.shorten(220)).toBe(true);
        expect(search.separate()).toBe(true);
        const lies = search.layout();
        expect(lies[0]).toEqual(start[0]);
        const lying = placed(outlines, parts, lies);
        lying.forEach((one, i) => {
          for (const other of lying.slice(i + 1)) expect(Math.abs(area(keepOverlap([one, other])))).toBeLessThan(0.1);
          const { turns } = parts[i]!;
          const { turn, x, y } = lies[i]!;
          expect(Math.min(x, y)).toBeGreaterThanOrEqual(-1e-9);
          expect(x + turns.at(turn).lengthMm).toBeLessThanOrEqual(220 + 1e-9);
          expect(y + turns.at(turn).acrossMm).toBeLessThanOrEqual(90 + 1e-6);
        });
      }),
      { numRuns: 15 },
    );
  });

  test('law: a cut takes out a piece anywhere: what lies before it stays, what lies beyond moves up by the cut, what is fixed stays', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 12 }), fc.double({ min: 0, max: 0.999, noNaN: true }), fc.nat(11), (count, at, fixed) => {
        const kind = kindOf(boxShape(20, 20));
        const parts = Array.from({ length: count }, (_, i): Movable => ({ turns: kind, isFixed: i === fixed }));
        const start = parts.map((_, i): Lie => ({ turn: 0, x: 22 * i, y: 0 }));
        const search = new Separation(parts, start, { acrossMm: 20, random: () => at, isOver: () => false });
        const used = search.usedMm();
        expect(search.shorten(used - 2) || fixed === count - 1).toBe(true);
        search.layout().forEach(({ x }, i) => {
          // the part in which the cut lies moves with what is beyond when the cut is before its middle
          const isBeyond = 22 * i + 10 >= at * used;
          if (i === fixed) expect(x).toBe(22 * i);
          else expect(x).toBeCloseTo(isBeyond || i === count - 1 ? Math.max(0, 22 * i - 2) : 22 * i, 9);
        });
      }),
    );
  });

  test('a strip on which a part cannot lie in any turn is told at once', () => {
    const parts = [movable(kindOf(boxShape(60, 20)))];
    const search = new Separation(parts, [{ turn: 0, x: 0, y: 0 }], { acrossMm: 50, random: () => 0.5, isOver: () => false });
    // across it is too wide to be turned
    expect(search.shorten(59)).toBe(false);
    expect(search.shorten(61)).toBe(true);
  });

  test('without room they are left as they collide least, not apart', () => {
    const parts = [0, 1, 2].map(() => movable(kindOf(boxShape(30, 30))));
    const start = [0, 1, 2].map((i): Lie => ({ turn: 0, x: 5 * i, y: 0 }));
    const search = new Separation(parts, start, { acrossMm: 30, random: randomFrom(3), isOver: () => false });
    expect(search.shorten(80)).toBe(true);
    expect(search.separate()).toBe(false);
    const [a, b, c] = search
      .layout()
      .map(({ x }) => x)
      .sort((one, other) => one - other);
    expect([a, c].map((x) => Math.round(x!))).toEqual([0, 50]);
    expect(b).toBeGreaterThan(5);
    expect(b).toBeLessThan(45);
  });
});

describe('what is stuck', () => {
  const middles = (search: Separation, parts: readonly Movable[]): string[] =>
    search.layout().map(({ turn, x, y }, i) => {
      const { lengthMm, acrossMm } = parts[i]!.turns.at(turn);
      return `${(x + lengthMm / 2).toFixed(3)} ${(y + acrossMm / 2).toFixed(3)}`;
    });

  test('changes places with a part of another shape, also where the largest quarter is of one shape', () => {
    const [large, small] = [kindOf(boxShape(40, 40)), kindOf(ovalShape(30, 30))];
    const parts = [...Array.from({ length: 6 }, () => movable(large)), ...Array.from({ length: 3 }, () => movable(small))];
    const start = parts.map((_, i): Lie => ({ turn: 0, x: 50 * i + 5, y: 5 }));
    for (const seed of [1, 2, 3, 4, 5]) {
      const search = new Separation(parts, start, { acrossMm: 60, random: randomFrom(seed), isOver: () => false });
      search.shorten(500);
      const before = middles(search, parts);
      search.disturb();
      const after = middles(search, parts);
      const changed = before.flatMap((place, i) => (place === after[i] ? [] : [i]));
      expect(changed).toHaveLength(2);
      expect(changed.map((i) => i < 6)).toEqual([true, false]);
      expect(changed.map((i) => after[i])).toEqual(changed.map((i) => before[i]).reverse());
    }
  });

  test('where all parts are alike, one of them goes elsewhere on the strip; what is fixed does not', () => {
    const large = kindOf(boxShape(40, 30));
    const parts: Movable[] = Array.from({ length: 5 }, (_, i) => ({ turns: large, isFixed: i < 2 }));
    const start = parts.map((_, i): Lie => ({ turn: 0, x: 50 * i, y: 5 }));
    for (const seed of [1, 2, 3, 4, 5]) {
      const search = new Separation(parts, start, { acrossMm: 60, random: randomFrom(seed), isOver: () => false });
      search.shorten(300);
      search.disturb();
      const after = search.layout();
      const moved = after.flatMap((lie, i) => (lie.x === start[i]!.x && lie.y === start[i]!.y ? [] : [i]));
      expect(moved).toHaveLength(1);
      const [i] = moved as [number];
      expect(i).toBeGreaterThanOrEqual(2);
      const { turn, x, y } = after[i]!;
      expect(Math.min(x, y)).toBeGreaterThanOrEqual(0);
      expect(x + large.at(turn).lengthMm).toBeLessThanOrEqual(300);
      expect(y + large.at(turn).acrossMm).toBeLessThanOrEqual(60);
    }
  });

  test('stays where nothing may be moved', () => {
    const parts: Movable[] = [{ turns: kindOf(boxShape(40, 40)), isFixed: true }];
    const start: Lie[] = [{ turn: 0, x: 7, y: 5 }];
    const search = new Separation(parts, start, { acrossMm: 60, random: randomFrom(1), isOver: () => false });
    search.shorten(300);
    search.disturb();
    expect(search.layout()).toEqual(start);
  });
});
