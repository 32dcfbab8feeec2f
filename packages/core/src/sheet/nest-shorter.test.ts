/** Layouts made shorter: each that is told is a layout, and shorter than the one before; what is stuck is gone on from elsewhere. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, bounds, flatten, mapOutline, ovalShape, polygonShape, rotation, translation, type Outline } from '../geometry/index.ts';
import { randomFrom } from '../search/random.ts';
import { Separation, type Lie, type Movable } from './nest-separate.ts';
import { makeShorter, SolidTurns, usedIfFree, type LyingPart } from './nest-shorter.ts';
import { solidsOf, type Solid } from './nest-solid.ts';

const SHAPES: readonly Outline[] = [boxShape(60, 20), ovalShape(30, 30), polygonShape(3, 25), boxShape(15, 45)];
const TURNS = [0, 90, 180, 270];
const solidOf = (outline: Outline, gapMm = 2): Solid =>
  solidsOf(outline, flatten(outline, 0.05), { gapMm, holes: false, chordMm: 0 }).quick;
const solids = SHAPES.map((shape) => solidOf(shape));
/** By a hair smaller: what touches is rounded when its place is told as a map. */
const bare = SHAPES.map((shape) => solidOf(shape, 1.99));

/** In a row, not turned. */
function inRow(picks: readonly number[]): LyingPart[] {
  let x = 0;
  return picks.map((solid) => {
    const box = bounds(SHAPES[solid]!);
    const map = translation(x - box.minX, -box.minY);
    x += box.maxX - box.minX + 4;
    return { solid, turnDeg: 0, map };
  });
}

/** So many looks at the clock, and what was told meanwhile. */
function shortened(picks: readonly number[], seed: number, looks: number, fixed: readonly Solid[] = []) {
  let count = 0;
  const told: { lying: readonly LyingPart[]; usedMm: number }[] = [];
  const problem = {
    solids,
    turns: TURNS,
    lying: inRow(picks),
    fixed,
    acrossMm: 90,
    leastMm: 1,
    random: randomFrom(seed),
    isOver: () => ++count > looks,
    gone: () => count / looks,
  };
  const before = usedIfFree(problem)!;
  makeShorter(problem, (lying, usedMm) => told.push({ lying, usedMm }));
  return { problem, before, told };
}

const job = fc.record({
  picks: fc.array(fc.nat(SHAPES.length - 1), { minLength: 3, maxLength: 10 }),
  seed: fc.integer({ min: 1, max: 1e6 }),
});

describe('layouts made shorter', () => {
  test('law: each told layout is free of collisions, on the strip, as long as it says, and shorter than those before', () => {
    fc.assert(
      fc.property(job, ({ picks, seed }) => {
        const { problem, before, told } = shortened(picks, seed, 3000);
        let last = before;
        for (const { lying, usedMm } of told) {
          expect(usedMm).toBeLessThan(last);
          expect(lying.map(({ solid }) => solid)).toEqual(picks);
          expect(usedIfFree({ ...problem, solids: bare, lying })).toBeCloseTo(usedMm, 6);
          for (const { solid, turnDeg, map } of lying) {
            const turned = bounds(mapOutline(map, SHAPES[solid]!));
            const alone = bounds(mapOutline(rotation(turnDeg), SHAPES[solid]!));
            expect(turned.maxX - turned.minX).toBeCloseTo(alone.maxX - alone.minX, 6);
            expect(Math.min(turned.minX, turned.minY)).toBeGreaterThan(-1e-6);
            expect(turned.maxY).toBeLessThan(90 + 1e-6);
          }
          last = usedMm;
        }
        // a row of them wastes most of the strip
        expect(last).toBeLessThan(before);
      }),
      { numRuns: 12 },
    );
  });

  test('the same seed and the same number of steps give the same layout; more steps never a longer one', () => {
    const picks = [0, 1, 2, 3, 0, 2, 1, 3];
    const end = (looks: number): number => shortened(picks, 7, looks).told.at(-1)!.usedMm;
    expect(shortened(picks, 7, 2000).told).toEqual(shortened(picks, 7, 2000).told);
    expect(end(20_000)).toBeLessThanOrEqual(end(200));
  });

  test('what is fixed stays free', () => {
    const post = solidOf(mapOutline(translation(90, 30), boxShape(30, 30)));
    const { problem, told } = shortened([0, 1, 2], 5, 1500, [post]);
    for (const { lying } of told) expect(usedIfFree({ ...problem, solids: bare, lying })).toBeDefined();
  });

  test('nothing shorter than the least is looked for, and one part alone ends at once', () => {
    const { told, problem } = shortened([0], 3, 1e6);
    const best = told.at(-1)?.usedMm ?? usedIfFree(problem)!;
    // upright it takes its own width and what it stands off for the gap
    expect(best).toBeLessThan(25);
  });
});

test('law: where two parts change places the strip is opened: before it all stays, beyond it all moves by as much, nothing is lost', () => {
  const kinds = SHAPES.map((shape) => new SolidTurns(solidOf(shape), [0]));
  fc.assert(
    fc.property(job, fc.double({ min: 1, max: 20, noNaN: true }), ({ picks, seed }, openMm) => {
      const parts: Movable[] = picks.map((k) => ({ turns: kinds[k]!, isFixed: false }));
      let x = 0;
      const start = picks.map((k): Lie => {
        const lie = { turn: 0, x, y: 0 };
        x += kinds[k]!.at(0).lengthMm + 1;
        return lie;
      });
      const search = new Separation(parts, start, { acrossMm: 90, random: randomFrom(seed), isOver: () => false });
      search.shorten(search.usedMm() + openMm);
      search.disturb(openMm);
      const moved = search.layout().map((lie, i) => lie.x - start[i]!.x);
      const others = moved.filter((by) => Math.abs(by) > 1e-9 && Math.abs(by - openMm) > 1e-9);
      if (new Set(picks).size > 1) {
        // none of the two need move by its own: they may be of one length
        expect(others.length).toBeLessThanOrEqual(2);
        const alike = moved.map((by, i) => ({ by, at: start[i]!.x })).filter(({ by }) => !others.includes(by));
        const opened = alike.filter(({ by }) => by > 1e-9).map(({ at }) => at);
        const before = alike.filter(({ by }) => by < 1e-9).map(({ at }) => at);
        expect(Math.max(-1, ...before)).toBeLessThanOrEqual(Math.min(Infinity, ...opened));
      }
    }),
  );
});
