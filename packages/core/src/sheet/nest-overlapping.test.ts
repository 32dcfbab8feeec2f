/** Collisions as the kernel counts them, against what is known of them otherwise. */
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
import { randomFrom } from '../search/random.ts';
import { doCollide } from './nest-collision.ts';
import { OverlappingLayout } from './nest-overlapping.ts';
import { solidsOf, turnedSolid, type TurnedSolid } from './nest-solid.ts';

const turned = (outline: Outline, deg: number): TurnedSolid =>
  turnedSolid(solidsOf(outline, flatten(outline, 0.02), { gapMm: 0, holes: true, chordMm: 0 }).quick, deg);

/** Outlines of many corners: a wavy ring, a comb, a frame with a hole, a needle, a plate with dots, a dot, a disc. */
const comb = Array.from({ length: 12 }, (_, i) => `L${10 * i} 0L${10 * i + 5} 0L${10 * i + 5} 40L${10 * i + 10} 40`).join('');
const wavy = Array.from({ length: 90 }, (_, i) => {
  const [a, r] = [(2 * Math.PI * i) / 90, 32 + 5 * Math.sin((8 * Math.PI * i) / 90)];
  return `${(r * Math.cos(a)).toFixed(4)} ${(r * Math.sin(a)).toFixed(4)}`;
});
const OUTLINES: readonly Outline[] = [
  parsePath(`M${wavy.join('L')}Z`),
  parsePath(`M0 -12${comb}L120 -12Z`),
  knockOut(boxShape(90, 70), [mapOutline(translation(15, 15), boxShape(60, 40))]),
  parsePath('M0 0L140 1L140 2L0 2Z'),
  weld([mapOutline(translation(120, 0), boxShape(60, 40)), mapOutline(translation(90, 10), boxShape(3, 3)), boxShape(2, 2)]),
  boxShape(1, 1),
  ovalShape(40, 40),
];
const TURNS = [0, 37, 90, 180, 271];
const SOLIDS = OUTLINES.map((outline) => TURNS.map((deg) => turned(outline, deg)));

const anySolid = fc.record({ k: fc.nat(OUTLINES.length - 1), turn: fc.nat(TURNS.length - 1) }).map(({ k, turn }) => SOLIDS[k]![turn]!);
const anyPlace = fc.record({ x: fc.double({ min: 0, max: 260, noNaN: true }), y: fc.double({ min: 0, max: 160, noNaN: true }) });
const anyParts = fc.array(fc.record({ solid: anySolid, place: anyPlace }), { minLength: 2, maxLength: 14 });

/** As far as single precision may be off, mm. */
const HAIR_MM = 0.001;
const HAIRS = [-1, 0, 1].flatMap((x) => [-1, 0, 1].map((y) => [x * HAIR_MM, y * HAIR_MM] as const));

function laid(parts: readonly { solid: TurnedSolid; place: { x: number; y: number } }[], fromMm = 0): OverlappingLayout {
  const layout = new OverlappingLayout(parts.length);
  parts.forEach(({ solid, place }, i) => layout.put(i, solid, fromMm + place.x, place.y));
  return layout;
}

describe('collisions', () => {
  test('law: two collide when and only when they share ground, to a thousandth of a mm, wherever on a strip of 20 m they lie', () => {
    let [apart, together] = [0, 0];
    fc.assert(
      fc.property(anyParts, fc.constantFrom(0, 997.3, 19_000.21), (parts, fromMm) => {
        const layout = laid(parts, fromMm);
        parts.forEach(({ solid, place }, i) => {
          layout.measure(i);
          parts.forEach((other, j) => {
            if (i === j) return;
            const found = layout.collisions[i * parts.length + j]!;
            const [dx, dy] = [other.place.x - place.x, other.place.y - place.y];
            const verdicts = HAIRS.map(([x, y]) => doCollide(solid, other.solid, dx + x, dy + y));
            expect(verdicts).toContain(found > 0);
            expect(layout.collisions[j * parts.length + i]).toBe(found);
            if (found > 0) together++;
            else apart++;
          });
        });
      }),
      { seed: 11, numRuns: 300 },
    );
    expect(Math.min(apart, together)).toBeGreaterThan(2000);
  });

  test('law: those that lie along the same edge collide as far as they share ground, their sides in one line, and do not where they only touch', () => {
    const round = mapOutline(translation(4, 4), offset(boxShape(72, 42), 4, { join: 'round' }));
    // a neck at the end, and a box: sides that are straight, and corners that begin on them
    const bottle = weld([round, mapOutline(translation(60, 18), boxShape(60, 14))]);
    for (const outline of [round, bottle, boxShape(90, 50), OUTLINES[2]!])
      for (const deg of [0, 90]) {
        const solid = turned(outline, deg);
        const layout = laid([0, 1].map((x) => ({ solid, place: { x, y: 0 } })));
        const home = mapOutline(solid.map, outline);
        for (let by = 0.5; by < 140; by += 0.5)
          for (const [x, y] of [
            [by, 0],
            [0, by],
            [-by, 0],
            [0, -by],
          ] as const) {
            const shared = Math.abs(area(keepOverlap([home, mapOutline(translation(x, y), home)])));
            layout.put(1, solid, x, y);
            layout.measure(0);
            const isTogether = shared > 0.1;
            expect([x, y, doCollide(solid, solid, x, y)]).toEqual([x, y, isTogether]);
            expect([x, y, layout.collisions[1]! > 0]).toEqual([x, y, isTogether]);
          }
      }
  });

  test('law: on whole numbers, where corners come to lie on corners and on sides, two collide when they share ground, and when they do not only where they touch', () => {
    // chamfers of one step a step; a corner inside; a notch: each once as it is and once the other way up
    const shapes = [
      [0, 2, 2, 0, 6, 0, 8, 2, 8, 9, 6, 11, 5, 11, 5, 16, 3, 16, 3, 11, 2, 11, 0, 9],
      [0, 0, 9, 0, 9, 3, 4, 3, 4, 9, 0, 9],
      [0, 0, 10, 0, 10, 8, 7, 8, 5, 6, 3, 8, 0, 8],
      [4, 0, 8, 4, 4, 8, 0, 4],
    ].map((xy) => ({
      outline: parsePath(`M${xy.map((v, i) => (i % 2 > 0 ? `${v}L` : v)).join(' ')}`.replace(/L$/, 'Z')),
      // circles would tell most of it
      solid: { rings: [Float64Array.from(xy)], circles: Float64Array.of(4, 2, 0.1), areaMm2: 50, sizeMm: 10 },
    }));
    const turns = shapes.flatMap(({ outline, solid }) =>
      [0, 180].map((deg) => {
        const one = turnedSolid({ outline, ...solid }, deg);
        return { one, home: mapOutline(one.map, outline) };
      }),
    );
    for (const a of turns)
      for (const b of turns) {
        const layout = laid([a, b].map(({ one }) => ({ solid: one, place: { x: 0, y: 0 } })));
        for (let dx = -10; dx <= 10; dx++)
          for (let dy = -16; dy <= 16; dy++) {
            const other = mapOutline(translation(dx, dy), b.home);
            const isTogether = Math.abs(area(keepOverlap([a.home, other]))) > 1e-6;
            // what touches may be either
            if (!isTogether && Math.abs(area(keepOverlap([offset(a.home, 0.01, { join: 'mitre' }), other]))) > 0) continue;
            layout.put(1, b.one, dx, dy);
            layout.measure(0);
            expect([dx, dy, layout.collisions[1]! > 0]).toEqual([dx, dy, isTogether]);
            expect([dx, dy, doCollide(a.one, b.one, dx, dy)]).toEqual([dx, dy, isTogether]);
          }
      }
  });

  test('law: a place costs what it collides there with each other part, times the weights; a limit is told as soon as it is reached', () => {
    fc.assert(
      fc.property(anyParts, anySolid, anyPlace, fc.integer({ min: 1, max: 1e6 }), fc.boolean(), (parts, solid, to, seed, looked) => {
        const random = randomFrom(seed);
        const layout = laid(parts);
        const n = parts.length;
        for (let j = 1; j < n; j++) layout.weights[j] = layout.weights[j * n] = 1 + 20 * random();
        const address = layout.addressOf(solid);
        if (looked) layout.lookAround(0, address, to.x + 8 * (random() - 0.5), to.y + 8 * (random() - 0.5));
        const cost = layout.costAt(0, address, to.x, to.y, Infinity);
        const limit = 2 * cost * random();
        const told = layout.costAt(0, address, to.x, to.y, limit);
        if (cost < limit) expect(told / (cost || 1)).toBeCloseTo(cost > 0 ? 1 : 0, 5);
        else expect(told).toBeGreaterThanOrEqual(limit);
        // when it lies there that is what is measured
        layout.put(0, solid, to.x, to.y);
        layout.measure(0);
        const measured = parts.reduce((sum, _, j) => sum + (j > 0 ? layout.collisions[j]! * layout.weights[j]! : 0), 0);
        expect(Math.abs(cost - measured)).toBeLessThanOrEqual(1e-4 * measured);
      }),
      { numRuns: 300 },
    );
  });

  test('what fits exactly, in a row, in a hole or between edges, collides with nothing, wherever on a strip it lies', () => {
    const solid = (outline: Outline, gapMm: number): TurnedSolid =>
      turnedSolid(solidsOf(outline, flatten(outline, 0.02), { gapMm, holes: true, chordMm: 0 }).quick, 0);
    for (const gapMm of [0, 2, 7.3])
      for (const fromMm of [0, 333.333, 9871.9]) {
        const hole = 60 + 2 * gapMm;
        const frame = solid(knockOut(boxShape(100, 100), [mapOutline(translation(10, 12), boxShape(hole, hole))]), gapMm);
        const fill = solid(boxShape(60, 60), gapMm);
        const layout = laid(
          [
            { solid: frame, place: { x: 0, y: 0 } },
            { solid: fill, place: { x: 10 + gapMm, y: 12 + gapMm } },
            { solid: fill, place: { x: 100 + gapMm, y: 0 } },
            { solid: fill, place: { x: 100 + gapMm, y: 60 + gapMm } },
            { solid: fill, place: { x: 160 + 2 * gapMm, y: 13.7 } },
          ],
          fromMm,
        );
        for (let i = 0; i < 5; i++) layout.measure(i);
        expect(layout.collisions.reduce((sum, one) => sum + one, 0)).toBe(0);
      }
  });

  test('a place beyond what was looked up is counted as well as one within', () => {
    const box = turned(boxShape(20, 20), 0);
    const layout = laid([0, 100, 200].map((x) => ({ solid: box, place: { x, y: 0 } })));
    layout.lookAround(0, layout.addressOf(box), 0, 0);
    expect(layout.costAt(0, layout.addressOf(box), 5, 0, Infinity)).toBe(0);
    expect(layout.costAt(0, layout.addressOf(box), 190, 0, Infinity)).toBeGreaterThan(0);
  });

  test('it falls evenly while two go apart, and with them their cost, down to nothing', () => {
    const [a, b] = [turned(OUTLINES[0]!, 0), turned(ovalShape(50, 50), 0)];
    const layout = laid([
      { solid: a, place: { x: 0, y: 0 } },
      { solid: b, place: { x: 0, y: 0 } },
    ]);
    const costs = Array.from({ length: 60 }, (_, i) => layout.costAt(0, layout.addressOf(a), 2 * i, 0, Infinity));
    expect(costs).toEqual([...costs].sort((x, y) => y - x));
    expect(costs[0]).toBeGreaterThan(10);
    expect(costs.at(-1)).toBe(0);
    for (const [i, cost] of costs.slice(1).entries()) expect(costs[i]! - cost).toBeLessThan(costs[0]! / 8);
  });

  test('what is written when the memory has grown meanwhile is kept: thousands of turns, and the weights and places before', () => {
    const outline = OUTLINES[1]!;
    const { quick } = solidsOf(outline, flatten(outline, 0.02), { gapMm: 0, holes: true, chordMm: 0 });
    const layout = laid([0, 30].map((x) => ({ solid: SOLIDS[1]![0]!, place: { x, y: 0 } })));
    layout.measure(0);
    const before = layout.collisions[1]!;
    layout.weights[1] = layout.weights[2] = 7;
    const addresses = Array.from({ length: 3000 }, (_, i) => layout.addressOf(turnedSolid(quick, i * 0.12)));
    expect(new Set(addresses).size).toBe(3000);
    expect(layout.weights[1]).toBe(7);
    layout.measure(0);
    expect(layout.collisions[1]).toBe(before);
    expect(before).toBeGreaterThan(0);
    // the last one is there too: in the place of the first it collides with the second
    expect(layout.costAt(0, addresses.at(-1)!, 0, 0, Infinity)).toBeGreaterThan(0);
  });
});
