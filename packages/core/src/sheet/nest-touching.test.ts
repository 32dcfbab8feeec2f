/** What was cut out of one sheet is put together again; whatever it is, nothing lies on anything else. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, flatten, keepOverlap, mapOutline, parsePath, rotation, type Outline, type Point } from '../geometry/index.ts';
import { Contacts } from './nest-contact.ts';
import { SolidTurns } from './nest-shorter.ts';
import { doCollide } from './nest-collision.ts';
import { solidsOf, turnedSolid } from './nest-solid.ts';
import { layTouching, type Touching, type TouchingKind, type TouchingProblem } from './nest-touching.ts';

const [LONG, ACROSS] = [300, 200];
const SHEET: readonly Point[] = [
  { x: 0, y: 0 },
  { x: LONG, y: 0 },
  { x: LONG, y: ACROSS },
  { x: 0, y: ACROSS },
];
const rounded = (n: number): number => Math.round(n * 1000) / 1000;

/** The two sides of a convex piece along a line through two of its sides, each so far along. */
function cut(piece: readonly Point[], from: number, to: number, at: number): [Point[], Point[]] {
  const n = piece.length;
  const [i, j] = [from % n, (from + 1 + (to % (n - 1))) % n].sort((a, b) => a - b) as [number, number];
  const on = (k: number): Point => {
    const [a, b] = [piece[k]!, piece[(k + 1) % n]!];
    return { x: rounded(a.x + at * (b.x - a.x)), y: rounded(a.y + at * (b.y - a.y)) };
  };
  const [p, q] = [on(i), on(j)];
  return [
    [p, ...piece.slice(i + 1, j + 1), q],
    [q, ...piece.slice(j + 1), ...piece.slice(0, i + 1), p],
  ];
}

const outlineOf = (piece: readonly Point[]): Outline => parsePath(`M${piece.map(({ x, y }) => `${x} ${y}`).join('L')}Z`);

/** A sheet cut into pieces, each cut through the largest one that is left. */
const anyPieces = fc
  .array(fc.record({ from: fc.nat(50), to: fc.nat(50), at: fc.double({ min: 0.3, max: 0.7, noNaN: true }) }), {
    minLength: 1,
    maxLength: 8,
  })
  .map((cuts) => {
    const pieces: Point[][] = [[...SHEET]];
    for (const { from, to, at } of cuts) {
      pieces.sort((a, b) => Math.abs(area(outlineOf(b))) - Math.abs(area(outlineOf(a))));
      pieces.push(...cut(pieces.shift()!, from, to, at));
    }
    return pieces.map(outlineOf);
  });

const exactOf = (outline: Outline, gapMm = 0) => solidsOf(outline, flatten(outline, 0.02), { gapMm, holes: false, chordMm: 0 }).exact!;
const kindOf = (outline: Outline, turns: readonly number[], gapMm = 0): TouchingKind => {
  const { whole, bare } = exactOf(outline, gapMm);
  return { turns: new SolidTurns(whole, turns), bare: new SolidTurns(bare, turns), copies: 1 };
};

/** So many looks at the clock are all there is. */
function laid(kinds: readonly TouchingKind[], fields: Partial<TouchingProblem> = {}): Touching | undefined {
  let [state, asked] = [7, 0];
  return layTouching({
    kinds,
    acrossMm: ACROSS,
    limitMm: 2 * LONG,
    leastMm: LONG,
    random: () => (state = (Math.imul(state, 48271) >>> 0) % 2147483647) / 2147483647,
    gone: () => asked++ / 40_000,
    isStopped: () => false,
    ...fields,
  });
}

/** Where the outlines lie. */
const put = ({ lying }: Touching, kinds: readonly TouchingKind[], outlines: readonly Outline[]): Outline[] =>
  lying.map(({ kind, turn, x, y }) => {
    const [a, b, c, d, e, f] = kinds[kind]!.turns.at(turn).map;
    return mapOutline([a, b, c, d, e + x, f + y], outlines[kind]!);
  });

describe('contacts', () => {
  test('two halves of a piece are led back to where they were cut apart, before any other place', () => {
    fc.assert(
      fc.property(
        fc.nat(3),
        fc.nat(2),
        fc.double({ min: 0.2, max: 0.8, noNaN: true }),
        fc.constantFrom(0, 30, 90, 217),
        (from, to, at, deg) => {
          const halves = cut(SHEET, from, to, at).map(outlineOf);
          const [one, other] = halves.map((half) => turnedSolid(exactOf(half).whole, deg));
          const found = new Contacts(0.05, 12).of(one!, other!);
          // turned together about one point they keep their places
          const wanted = { dx: other!.map[4] - one!.map[4], dy: other!.map[5] - one!.map[5] };
          expect(found.some(({ dx, dy }) => Math.hypot(dx + wanted.dx, dy + wanted.dy) < 0.02)).toBe(true);
          expect([...found].sort((a, b) => b.lengthMm - a.lengthMm)).toEqual(found);
        },
      ),
    );
  });

  test('what lies in contact does not collide where that is the only contact', () => {
    const square = turnedSolid(exactOf(outlineOf(SHEET)).whole, 0);
    const bare = turnedSolid(exactOf(outlineOf(SHEET)).bare, 0);
    const places = new Contacts(0.05, 12).of(square, square);
    // on each of its four sides
    expect(places.map(({ dx, dy }) => `${Math.round(dx)} ${Math.round(dy)}`).sort()).toEqual(['-300 0', '0 -200', '0 200', '300 0']);
    for (const { dx, dy } of places) expect(doCollide(bare, bare, dx, dy)).toBe(false);
  });

  test('round shapes have none', () => {
    const round = (count: number): Outline =>
      outlineOf(
        Array.from({ length: count }, (_, i) => ({
          x: rounded(50 * Math.cos((2 * Math.PI * i) / count)),
          y: rounded(50 * Math.sin((2 * Math.PI * i) / count)),
        })),
      );
    const [one, other] = [201, 303].map((count) => turnedSolid(exactOf(round(count)).whole, 0));
    expect(new Contacts(0.2, 12).of(one!, other!)).toEqual([]);
  });
});

describe('parts along one another', () => {
  test('pieces of one sheet fill it again, in any turn', () => {
    fc.assert(
      fc.property(anyPieces, fc.constantFrom([0], [0, 180], [0, 90, 180, 270]), fc.nat(3), (pieces, turns, away) => {
        // each was put away in another turn
        const stored = pieces.map((piece, i) => mapOutline(rotation(turns[(i + away) % turns.length]!), piece));
        const kinds = stored.map((piece) => kindOf(piece, turns));
        const found = laid(kinds);
        expect(found?.usedMm ?? Infinity).toBeLessThan(LONG + 0.1);
        const all = put(found!, kinds, stored);
        expect(all).toHaveLength(pieces.length);
        for (const [i, one] of all.entries())
          for (const other of all.slice(i + 1)) expect(Math.abs(area(keepOverlap([one, other])))).toBeLessThan(0.01 * (LONG + ACROSS));
      }),
      { seed: 11, numRuns: 40 },
    );
  });

  test('whatever the parts, nothing lies on anything else, everything is on the strip, and it is shorter than what was known', () => {
    const anyPart = fc.array(fc.integer({ min: 10, max: 45 }), { minLength: 3, maxLength: 9 }).map((radii) =>
      outlineOf(
        radii.map((r, i) => ({
          x: rounded(r * Math.cos((2 * Math.PI * i) / radii.length)),
          y: rounded(r * Math.sin((2 * Math.PI * i) / radii.length)),
        })),
      ),
    );
    fc.assert(
      fc.property(fc.array(anyPart, { minLength: 2, maxLength: 9 }), fc.constantFrom(0, 3), (parts, gapMm) => {
        const kinds = parts.map((part) => kindOf(part, [0, 90], gapMm));
        const found = laid(kinds, { limitMm: 400, leastMm: 1 });
        if (!found) return;
        expect(found.lying.map(({ kind }) => kind).sort((a, b) => a - b)).toEqual(parts.map((_, i) => i));
        found.lying.forEach(({ kind, turn, x, y }, i) => {
          const own = kinds[kind]!.bare.at(turn);
          expect(Math.min(x, y)).toBeGreaterThanOrEqual(0);
          expect(x + own.lengthMm).toBeLessThanOrEqual(found.usedMm + 1e-9);
          expect(y + own.acrossMm).toBeLessThanOrEqual(ACROSS + 1e-6);
          for (const other of found.lying.slice(i + 1))
            expect(doCollide(own, kinds[other.kind]!.bare.at(other.turn), other.x - x, other.y - y)).toBe(false);
        });
        expect(found.usedMm).toBeLessThanOrEqual(400);
      }),
      { seed: 3, numRuns: 40 },
    );
  });

  test('a stop is answered at the next look, in the midst of many kinds and turns; corners without number are left alone', () => {
    const turns = Array.from({ length: 24 }, (_, i) => 15 * i);
    const kinds = Array.from({ length: 30 }, () => kindOf(outlineOf(SHEET), turns));
    for (const after of [0, 3, 40, 900]) {
      let looks = 0;
      expect(laid(kinds, { limitMm: 40 * LONG, leastMm: 1, gone: () => 0, isStopped: () => looks++ >= after })).toBeUndefined();
      // one look for each kind that is left at most
      expect(looks - after).toBeLessThanOrEqual(kinds.length + 3);
    }
    const wavy = Array.from({ length: 5000 }, (_, i) => ({ x: 90 * Math.cos(i / 795.8), y: (80 + (i % 2)) * Math.sin(i / 795.8) }));
    expect(solidsOf(outlineOf(wavy), flatten(outlineOf(wavy), 0.02), { gapMm: 0, holes: false, chordMm: 0 }).exact).toBeUndefined();
  });

  test('a stop and a time that is over leave nothing half laid', () => {
    const kinds = [0, 1, 2, 3].map(() => kindOf(outlineOf(SHEET), [0]));
    expect(laid(kinds, { isStopped: () => true })).toBeUndefined();
    expect(laid(kinds, { gone: () => 4 })).toBeUndefined();
    // what does not fit in the length that is known is not laid at all
    expect(laid(kinds, { limitMm: 2 * LONG, leastMm: 1 })).toBeUndefined();
    expect(laid(kinds, { limitMm: 4 * LONG + 1, leastMm: 1 })?.usedMm).toBeCloseTo(4 * LONG, 6);
  });
});
