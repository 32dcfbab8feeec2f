import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  boxShape,
  flatten,
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
import { makeShorter, type LyingPart } from './nest-shorter.ts';
import { doCollide } from './nest-collision.ts';
import { OverlappingLayout } from './nest-overlapping.ts';
import { solidsOf, turnedSolid, type Solid, type TurnedSolid } from './nest-solid.ts';

const CHORD_MM = 0.02;
const solid = (outline: Outline, gapMm = 0, holes = true): Solid =>
  solidsOf(outline, flatten(outline, CHORD_MM), { gapMm, holes, chordMm: 0 }).quick;
const ringOf = ({ rings }: Solid): Outline =>
  parsePath(
    rings
      .map(
        (xy) => `M${Array.from({ length: xy.length / 2 }, (_, i) => `${xy[2 * i]!.toFixed(6)} ${xy[2 * i + 1]!.toFixed(6)}`).join('L')}Z`,
      )
      .join(''),
  );

/** How much two collide; the second lies at dx, dy of the first. */
function collision(a: TurnedSolid, b: TurnedSolid, dx: number, dy: number): number {
  const two = new OverlappingLayout(2);
  two.put(0, a, 1000, 1000);
  two.put(1, b, 1000 + dx, 1000 + dy);
  two.measure(0);
  return two.collisions[1]!;
}

/** A star of so many points about the middle of a square of 60 mm, some of them blunt. */
const anyStar = fc
  .array(fc.integer({ min: 8, max: 30 }), { minLength: 3, maxLength: 14 })
  .map((radii) =>
    parsePath(
      `M${radii.map((r, i) => `${(30 + r * Math.cos((2 * Math.PI * i) / radii.length)).toFixed(3)} ${(30 + r * Math.sin((2 * Math.PI * i) / radii.length)).toFixed(3)}`).join('L')}Z`,
    ),
  );
const frame = knockOut(boxShape(80, 80), [mapOutline(translation(20, 20), boxShape(40, 40))]);

describe('solids', () => {
  test('two collide when and only when their outlines share ground, in any turn', () => {
    fc.assert(
      fc.property(
        anyStar,
        anyStar,
        fc.constantFrom(0, 30, 90, 211),
        fc.integer({ min: -70, max: 70 }),
        fc.integer({ min: -70, max: 70 }),
        (one, other, deg, dx, dy) => {
          const [a, b] = [turnedSolid(solid(one), 0), turnedSolid(solid(other), deg)];
          const lies = mapOutline(translation(dx, dy), mapOutline(b.map, other));
          const shared = Math.abs(area(keepOverlap([mapOutline(a.map, one), lies])));
          const found = collision(a, b, dx, dy);
          // what only just touches may be either
          if (shared > 0.05) expect(found).toBeGreaterThan(0);
          if (shared === 0) expect(found).toBe(0);
          expect(collision(b, a, -dx, -dy) / (found || 1)).toBeCloseTo(found > 0 ? 1 : 0, 4);
        },
      ),
      { seed: 23, numRuns: 300 },
    );
  });

  test('what lies in a hole collides with nothing, and does where holes count as ground', () => {
    const small = turnedSolid(solid(boxShape(30, 30)), 0);
    expect(collision(turnedSolid(solid(frame), 0), small, 25, 25)).toBe(0);
    expect(collision(turnedSolid(solid(frame, 0, false), 0), small, 25, 25)).toBeGreaterThan(0);
    expect(collision(turnedSolid(solid(frame), 0), small, 5, 25)).toBeGreaterThan(0);
    // the gap is kept in the hole too: 5 mm all round, 12 asked for
    expect(collision(turnedSolid(solid(frame, 12), 0), turnedSolid(solid(boxShape(30, 30), 12), 0), 25, 25)).toBeGreaterThan(0);
  });

  test('law: a piece of one that lies wholly in the other collides, also where no circle of either reaches', () => {
    // the dot begins in the box of its part at 0, 0
    const withDot = turnedSolid(solid(weld([mapOutline(translation(100, 0), boxShape(30, 30)), boxShape(2, 2)])), 0);
    const plate = turnedSolid(solid(boxShape(70, 50)), 0);
    const bent = turnedSolid(solid(parsePath('M0 0L90 0L90 50L80 50L80 6L10 6L10 50L0 50Z')), 0);
    for (let x = 0; x <= 67.5; x += 0.5)
      for (let y = 0; y <= 47.5; y += 0.5) {
        expect(doCollide(plate, withDot, x + 0.1, y + 0.1)).toBe(true);
        expect(doCollide(withDot, plate, -x - 0.1, -y - 0.1)).toBe(true);
        expect(collision(plate, withDot, x + 0.1, y + 0.1)).toBeGreaterThan(0);
      }
    // what lies between its arms does not
    expect(doCollide(bent, withDot, 40, 30)).toBe(false);
    expect(collision(bent, withDot, 40, 30)).toBe(0);
  });

  test('corners are saved outward: a solid holds its part and its gap, and is hardly larger', () => {
    const blob = offset(parsePath('M0 0L90 10L70 30L95 80L40 60L5 75L20 40Z'), 6, { join: 'round' });
    for (const [shape, gapMm] of [
      [blob, 0],
      [blob, 4],
      [ovalShape(120, 70), 2],
      [boxShape(50, 20), 2],
    ] as const) {
      const own = ringOf(solid(shape, gapMm));
      const asked = gapMm > 0 ? offset(shape, gapMm / 2 - 0.01, { join: 'round' }) : shape;
      expect(Math.abs(area(knockOut(asked, [own])))).toBeLessThan(0.35);
      expect(Math.abs(area(own))).toBeLessThan(1.02 * Math.abs(area(offset(shape, gapMm / 2 + 0.05, { join: 'mitre' }))));
    }
    // straight sides stay where they are, to a thousandth of a mm
    expect(Math.abs(area(ringOf(solid(boxShape(50, 20), 2))))).toBeCloseTo(51.998 * 21.998, 1);
  });

  test('it falls as they go apart', () => {
    const [a, b] = [turnedSolid(solid(boxShape(40, 40)), 0), turnedSolid(solid(ovalShape(40, 40)), 0)];
    const deep = [5, 15, 25, 35].map((dx) => collision(a, b, dx, 0));
    expect(deep).toEqual([...deep].sort((x, y) => y - x));
    expect(deep.at(-1)).toBeGreaterThan(0);
  });
});

describe('making shorter', () => {
  test('parts that lie far apart come together, never into one another nor into what is fixed, and stay on the strip', () => {
    fc.assert(
      fc.property(fc.array(anyStar, { minLength: 3, maxLength: 6 }), fc.integer({ min: 1, max: 1000 }), (shapes, seed) => {
        let state = seed;
        const random = (): number => (state = (Math.imul(state, 48271) >>> 0) % 2147483647) / 2147483647;
        const gapMm = 2;
        const solids = shapes.map((shape) => solid(shape, gapMm));
        const turns = [0, 90, 180, 270];
        const lying = solids.map((_, i): LyingPart => {
          const { map, turnDeg } = turnedSolid(solids[i]!, 0);
          return { solid: i, turnDeg, map: [map[0], map[1], map[2], map[3], map[4] + 80 + 70 * i, map[5]] };
        });
        const stays = mapOutline(translation(0, 40), boxShape(40, 60));
        let asked = 0;
        let last: { lying: readonly LyingPart[]; usedMm: number } | undefined;
        makeShorter(
          {
            solids,
            turns,
            lying,
            fixed: [solid(stays, gapMm)],
            acrossMm: 110,
            leastMm: 10,
            random,
            isOver: () => asked++ > 400,
            gone: () => asked / 400,
          },
          (found, usedMm) => {
            expect(usedMm).toBeLessThan(last?.usedMm ?? Infinity);
            last = { lying: found, usedMm };
          },
        );
        expect(last).toBeDefined();
        const put = [stays, ...last!.lying.map(({ solid: i, map }) => mapOutline(map, shapes[i]!))];
        for (const [i, outline] of put.entries()) {
          for (const other of put.slice(i + 1))
            expect(Math.abs(area(keepOverlap([offset(outline, gapMm - 0.02, { join: 'round' }), other])))).toBeLessThan(1e-3);
          expect(Math.abs(area(knockOut(outline, [boxShape(last!.usedMm + 1e-3, 110 + 1e-3)])))).toBeLessThan(1e-1);
        }
        expect(Math.abs(area(weld(put)))).toBeCloseTo(
          put.reduce((sum, one) => sum + Math.abs(area(one)), 0),
          1,
        );
      }),
      { seed: 5, numRuns: 12 },
    );
  });

  test('a comb of 100 000 corners at two heights is a solid of few sides, within a little of its size', () => {
    const teeth = 50_000;
    const xy = new Float64Array(4 * teeth);
    for (let i = 0; i < teeth; i++) {
      const x = (i * 300) / teeth;
      xy.set([x, i % 2 ? 0 : 5], 2 * i);
      xy.set([x, i % 2 ? 80 : 85], 4 * teeth - 2 * (i + 1));
    }
    const { quick } = solidsOf(boxShape(300, 85), [{ closed: true, xy }], { gapMm: 2, holes: true, chordMm: 0 });
    const outer = boxShape(300 - 300 / teeth, 85);
    // the gap's half all round, and at most two cells of a five-hundredth beyond
    expect(Math.abs(area(knockOut(outer, [ringOf(quick)])))).toBeLessThan(1);
    expect(
      Math.abs(area(knockOut(ringOf(quick), [offset(outer, 1 + 2 * Math.SQRT2 * (300 / 512) + 0.3, { join: 'round' })]))),
    ).toBeLessThan(1);
    expect(quick.rings.reduce((sum, ring) => sum + ring.length / 2, 0)).toBeLessThan(200);
  });
});
