import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  boxShape,
  bounds,
  flatten,
  joinOutlines,
  keepOverlap,
  lineDistance,
  mapOutline,
  offset,
  ovalShape,
  parsePath,
  translation,
  weld,
  type Matrix,
  type Outline,
} from '../geometry/index.ts';
import { lyingTogether, nest, type NestProblem, type NestResult } from './index.ts';
import { triedStep, triedTurns } from './nest-problem.ts';

const problem = (fields: Partial<NestProblem>): NestProblem => ({
  parts: [],
  widthMm: 300,
  gapMm: 3,
  turnStepDeg: 0,
  intoHoles: false,
  ...fields,
});
const corner = parsePath('M0 0L100 0L100 20L20 20L20 100L0 100Z');
const frame = (side: number, wall: number): Outline => ({
  contours: [
    ...boxShape(side, side).contours,
    ...mapOutline(translation(wall, wall), boxShape(side - 2 * wall, side - 2 * wall)).contours.map(({ closed, spans }) => ({
      closed,
      spans: spans.map(([a, b, c, d]) => [c, d, a, b] as number[]).reverse(),
    })),
  ],
});

/** The parts where they lie. */
function laid({ parts }: NestProblem, { placed }: NestResult): Outline[] {
  const byId = new Map(parts.map((part) => [part.id, part.outline]));
  return placed.map(({ id, map }) => mapOutline(map, byId.get(id) as Outline));
}

/** The least distance between the lines of two outlines. */
function clearWay(a: Outline, b: Outline): number {
  let least = Infinity;
  for (const [from, to] of [
    [a, b],
    [b, a],
  ] as const) {
    const lines = flatten(to, 0.01);
    for (const { xy } of flatten(from, 0.01))
      for (let i = 0; i < xy.length; i += 2) least = Math.min(least, lineDistance(lines, xy[i] as number, xy[i + 1] as number));
  }
  return least;
}

describe('nesting', () => {
  test('boxes on shelves are there first, lie apart and inside, and nothing longer is handed back', async () => {
    const parts = Array.from({ length: 30 }, (_, i) => ({ id: `p${i}`, outline: boxShape(20 + ((i * 37) % 90), 15 + ((i * 53) % 120)) }));
    const asked = problem({ parts, fixed: [boxShape(40, 100)], turnStepDeg: 90, gapMm: 4 });
    const told: NestResult[] = [];
    const last = await nest(asked, { budgetMs: 0, onBetter: (better) => told.push(better) });
    const [first] = told;
    expect(first!.placed).toHaveLength(30);
    expect(first!.tries).toBe(0);
    expect(last.usedLengthMm).toBeLessThanOrEqual(first!.usedLengthMm);
    const boxes = [...laid(asked, first!).map(bounds), bounds(boxShape(40, 100))];
    for (const [i, a] of boxes.entries()) {
      expect(Math.min(a.minX, a.minY, asked.widthMm - a.maxY)).toBeGreaterThanOrEqual(-1e-6);
      for (const b of boxes.slice(i + 1)) {
        const apart = Math.max(b.minX - a.maxX, a.minX - b.maxX, b.minY - a.maxY, a.minY - b.maxY);
        expect(apart).toBeGreaterThan(4 - 1e-6);
      }
    }
  });

  test('what lies there already stays clear; what is longer than the sheet is told apart from it', async () => {
    const fixed = [mapOutline(translation(20, 30), boxShape(120, 150)), mapOutline(translation(400, 0), ovalShape(60, 60))];
    const asked = problem({ parts: [{ id: 'a', outline: corner, copies: 6 }], fixed, gapMm: 5, turnStepDeg: 90 });
    const result = await nest(asked, { budgetMs: 50 });
    expect(result.placed).toHaveLength(6);
    expect(result.usedLengthMm).toBeGreaterThanOrEqual(460);
    for (const part of laid(asked, result))
      for (const other of fixed) {
        expect(lyingTogether([part, other])).toHaveLength(2);
        expect(clearWay(part, other)).toBeGreaterThan(4.99);
      }
  });

  test('it goes on from a layout that was found before', async () => {
    const parts = Array.from({ length: 12 }, (_, i) => ({ id: `p${i}`, outline: boxShape(30 + ((i * 37) % 70), 20 + ((i * 53) % 90)) }));
    const long = await nest(problem({ parts }), { budgetMs: 1500, seed: 3 });
    const order = [...long.placed].sort((a, b) => a.map[4] - b.map[4] || a.map[5] - b.map[5]);
    const short = await nest(problem({ parts, before: order }), { budgetMs: 0 });
    const fresh = await nest(problem({ parts }), { budgetMs: 0 });
    expect(short.usedLengthMm).toBeLessThanOrEqual(fresh.usedLengthMm + 1e-6);
    // with its places, kept to a tenth of a micrometre, nothing longer comes of it, and the first that is told is itself
    const places = long.placed.map((one) => ({
      ...one,
      map: one.map.map((v, i) => (i > 3 ? Math.round(v * 1e4) / 1e4 : v)) as unknown as Matrix,
    }));
    const told: number[] = [];
    const again = await nest(problem({ parts, before: places }), { budgetMs: 0, onBetter: (one) => told.push(one.usedLengthMm) });
    expect(again.usedLengthMm).toBeCloseTo(long.usedLengthMm, 3);
    expect(told[0]).toBeCloseTo(long.usedLengthMm, 3);
    // a layout that no longer holds is none: a part has grown, the strip is narrower, something stays where one lay
    const grown = parts.map((part, i) => (i === 0 ? { ...part, outline: boxShape(160, 120) } : part));
    for (const other of [
      { parts: grown, before: places },
      { parts, before: places, widthMm: 150 },
      { parts, before: places, fixed: [mapOutline(long.placed[0]!.map, parts.find(({ id }) => id === long.placed[0]!.id)!.outline)] },
    ]) {
      const result = await nest(problem(other), { budgetMs: 0 });
      expect(result.leftOut).toEqual([]);
      expect(lyingTogether(laid(problem(other), result)).every((set) => set.length === 1)).toBe(true);
    }
  });

  test('whatever the parts: all lie inside, at least the gap apart, each as large as it was', async () => {
    const shape = fc.oneof(
      fc.tuple(fc.integer({ min: 5, max: 120 }), fc.integer({ min: 5, max: 120 })).map(([w, h]) => boxShape(w, h)),
      fc.integer({ min: 8, max: 90 }).map((d) => ovalShape(d, d)),
      fc.integer({ min: 2, max: 9 }).map((k) => mapOutline([k / 8, 0.1, -0.1, k / 8, 500, -70], corner)),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(shape, { minLength: 1, maxLength: 7 }),
        fc.constantFrom(0, 45, 90, 180),
        fc.integer({ min: 0, max: 12 }),
        fc.boolean(),
        async (outlines, turnStepDeg, gapMm, intoHoles) => {
          const asked = problem({ parts: outlines.map((outline, i) => ({ id: `${i}`, outline })), turnStepDeg, gapMm, intoHoles });
          const result = await nest(asked, { budgetMs: 20 });
          expect(result.placed.length + result.leftOut.length).toBe(outlines.length);
          const lying = laid(asked, result);
          const whole = lying.reduce((sum, outline) => sum + area(outline), 0);
          expect(Math.abs(result.partsAreaMm2 - whole)).toBeLessThan(0.005 * whole);
          lying.forEach((outline, i) => {
            const box = bounds(outline);
            expect(Math.min(box.minX, box.minY)).toBeGreaterThanOrEqual(-1e-6);
            expect(box.maxY).toBeLessThanOrEqual(300 + 1e-6);
            expect(box.maxX).toBeLessThanOrEqual(result.usedLengthMm + 1e-6);
            for (const other of lying.slice(0, i)) {
              expect(clearWay(outline, other)).toBeGreaterThanOrEqual(gapMm - 1e-6);
              expect(Math.abs(area(keepOverlap([outline, other])))).toBeLessThan(1e-3);
            }
          });
        },
      ),
      { numRuns: 12 },
    );
  });

  test('law: however long it is searched, parts of curves and of several pieces lie no nearer than the gap, to some micrometres', async () => {
    const [small, large] = [fc.double({ min: 2, max: 20, noNaN: true }), fc.double({ min: 20, max: 110, noNaN: true })];
    const moved = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
    const shape = fc.oneof(
      // a plate and a dot beside it
      fc.tuple(large, large, small, small).map(([w, h, d, y]) => weld([boxShape(w, h), moved(w + 8, y, ovalShape(d, d))])),
      // letters of a word
      fc
        .array(fc.tuple(large, small), { minLength: 2, maxLength: 4 })
        .map((all) => weld(all.map(([h, y], i) => moved(36 * i, y, ovalShape(30, h))))),
      // arms with a dot between them
      fc
        .tuple(large, large, small)
        .map(([w, h, d]) => weld([boxShape(w + 20, 6), boxShape(6, h + 20), moved(12, 12, boxShape(d / 3, d / 3))])),
      fc.tuple(large, large).map(([w, h]) => ovalShape(w, h)),
      fc.constant(frame(90, 12)),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.record({ outline: shape, copies: fc.integer({ min: 1, max: 3 }) }), { minLength: 2, maxLength: 4 }),
        fc.constantFrom(0, 10, 90),
        fc.constantFrom(0, 0.5, 4),
        fc.boolean(),
        async (parts, turnStepDeg, gapMm, intoHoles) => {
          const asked = problem({ parts: parts.map((part, i) => ({ ...part, id: `${i}` })), widthMm: 220, turnStepDeg, gapMm, intoHoles });
          let looks = 0;
          const lying = laid(asked, await nest(asked, { budgetMs: 1000, now: () => (looks += 1) }));
          const nearest = Math.max(-0.006, gapMm - 0.02);
          const grown = lying.map((outline) => offset(outline, nearest, { join: 'round' }));
          grown.forEach((outline, i) => {
            for (const other of lying.slice(i + 1)) expect(Math.abs(area(keepOverlap([outline, other])))).toBeLessThan(0.05);
          });
        },
      ),
      { seed: 7, numRuns: 40 },
    );
  });

  test('corners lie in one another: much shorter than their boxes side by side', async () => {
    const asked = problem({ parts: [{ id: 'corner', outline: corner, copies: 12 }], turnStepDeg: 90 });
    const boxes = await nest({ ...asked, parts: [{ id: 'box', outline: boxShape(100, 100), copies: 12 }] }, { budgetMs: 100 });
    const real = await nest(asked, { budgetMs: 1000 });
    expect(boxes.usedLengthMm).toBeGreaterThan(600);
    expect(real.leftOut).toEqual([]);
    expect(real.usedLengthMm).toBeLessThan(0.65 * boxes.usedLengthMm);
  });

  test('a part lies in the hole of another only when holes may be used', async () => {
    const parts = [
      { id: 'frame', outline: frame(200, 20) },
      { id: 'disc', outline: ovalShape(120, 120) },
    ];
    const inside = await nest(problem({ widthMm: 200, parts, intoHoles: true }), { budgetMs: 100 });
    const beside = await nest(problem({ widthMm: 200, parts }), { budgetMs: 100 });
    expect(inside.usedLengthMm).toBeCloseTo(200, 6);
    expect(beside.usedLengthMm).toBeGreaterThan(300);
  });

  test('a part wider than the strip is turned or left out; material that ends takes what fits', async () => {
    const long = { id: 'long', outline: boxShape(20, 400) };
    expect((await nest(problem({ parts: [long] }))).leftOut).toEqual([{ id: 'long', copy: 0 }]);
    expect((await nest(problem({ parts: [long], turnStepDeg: 90 }), { budgetMs: 100 })).usedLengthMm).toBeCloseTo(400, 6);
    const many = await nest(problem({ parts: [{ id: 'plate', outline: boxShape(90, 90), copies: 10 }], lengthMm: 200, gapMm: 5 }), {
      budgetMs: 100,
    });
    expect([many.placed.length, many.leftOut.length]).toEqual([6, 4]);
  });

  test('told of every better result, and the same seed gives the same', async () => {
    const parts = [3, 5, 8, 13, 21].map((k) => ({ id: `${k}`, outline: mapOutline([k / 10, 0, 0, k / 14, 0, 0], corner), copies: 2 }));
    const lengths: number[] = [];
    const last = await nest(problem({ parts, turnStepDeg: 90, gapMm: 2 }), {
      budgetMs: 800,
      onBetter: (r) => lengths.push(r.usedLengthMm),
    });
    expect(lengths).toEqual([...lengths].sort((a, b) => b - a));
    expect(last.usedLengthMm).toBeLessThanOrEqual(lengths.at(-1) as number);
    expect(last.usedLengthMm).toBeLessThanOrEqual(
      (await nest(problem({ parts, turnStepDeg: 90, gapMm: 2 }), { budgetMs: 0 })).usedLengthMm,
    );
    // a clock that goes on by one whenever it is asked ends both after as many tries
    const again = async (seed: number): Promise<NestResult> => {
      let time = 0;
      return nest(problem({ parts, turnStepDeg: 90, gapMm: 2 }), { budgetMs: 900, seed, now: () => time++ });
    };
    const [one, same] = [await again(7), await again(7)];
    expect(one.tries).toBeGreaterThan(3);
    expect(one.usedLengthMm).toBeLessThan((await nest(problem({ parts, turnStepDeg: 90, gapMm: 2 }), { budgetMs: 0 })).usedLengthMm);
    expect(same).toEqual(one);
    const aborted = { aborted: true };
    await expect(nest(problem({ parts }), { signal: aborted })).rejects.toThrow('stopped');
    // stopped while it searches: the best so far
    const stop = { aborted: false };
    const half = await nest(problem({ parts }), { signal: stop, budgetMs: 60_000, onBetter: () => (stop.aborted = true) });
    expect([half.tries, half.placed.length]).toEqual([0, 10]);
  });

  test('what lies twice in a part is counted once', async () => {
    const twice = joinOutlines([ovalShape(80, 60), ovalShape(80, 60), mapOutline(translation(20, 20), boxShape(10, 10))]);
    const { partsAreaMm2 } = await nest(problem({ parts: [{ id: 'twice', outline: twice }] }));
    expect(Math.abs(partsAreaMm2 / (Math.PI * 40 * 30) - 1)).toBeLessThan(0.005);
  });

  test('what is no problem is refused by name', async () => {
    const part = { id: 'a', outline: corner };
    await expect(nest(problem({ widthMm: 0 }))).rejects.toMatchObject({ code: 'input.width' });
    await expect(nest(problem({ gapMm: NaN }))).rejects.toMatchObject({ code: 'input.gap' });
    await expect(nest(problem({ turnStepDeg: 0.1 }))).rejects.toMatchObject({ code: 'input.turn' });
    await expect(nest(problem({ parts: [{ ...part, copies: 0.5 }] }))).rejects.toMatchObject({ code: 'input.copies' });
    await expect(nest(problem({ parts: [{ ...part, copies: 3000 }] }))).rejects.toMatchObject({ code: 'limit.parts' });
  });

  test('what lies on one another is found together, what only shares a box is not', () => {
    const inCorner = mapOutline(translation(50, 50), ovalShape(40, 40));
    const onCorner = mapOutline(translation(10, 10), ovalShape(30, 30));
    const far = mapOutline(translation(4000, 0), corner);
    const besideFar = mapOutline(translation(4100.2, 0), corner);
    expect(lyingTogether([corner, inCorner, onCorner, offset(inCorner, 5, { join: 'round' }), far, besideFar])).toEqual([
      [0, 2],
      [1, 3],
      [4],
      [5],
    ]);
  });
});

test('law: of many parts in many turns some are tried, spread evenly, and those in which parts lie; of few all', () => {
  const used = fc.uniqueArray(fc.nat(359), { maxLength: 30 });
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 2000 }), fc.constantFrom(1, 5, 10, 90), used, (kinds, step, of) => {
      const turns = Array.from({ length: 360 / step }, (_, i) => i * step);
      const lying = of.filter((deg) => deg % step === 0);
      const tried = triedTurns(turns, kinds, lying);
      expect(tried.filter((deg) => !turns.includes(deg))).toEqual([]);
      expect(tried).toEqual(expect.arrayContaining(lying));
      expect(tried).toEqual([...tried].sort((a, b) => a - b));
      expect((tried.length - lying.length) * kinds).toBeLessThanOrEqual(12_000 + 4 * kinds);
      // boxes are laid in them, and what is too wide for the strip may need one
      expect(tried).toEqual(expect.arrayContaining(turns.filter((deg) => deg % 90 === 0)));
      if (turns.length * kinds <= 12_000) expect(tried).toEqual(turns);
      // what is told of it is what is done
      expect(triedTurns(turns, kinds, [])[1] ?? 360).toBe(Math.min(360, triedStep(step, kinds)));
      // no way round is left out
      const gaps = tried.map((deg, i) => (tried[i + 1] ?? 360) - deg);
      expect(Math.max(...gaps)).toBeLessThanOrEqual(step * Math.ceil((turns.length * kinds) / 12_000));
    }),
  );
});
