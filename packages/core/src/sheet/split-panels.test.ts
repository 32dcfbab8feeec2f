import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  bounds,
  boxShape,
  flatten,
  joinBoxes,
  keepOverlap,
  mapOutline,
  ovalShape,
  parsePath,
  translation,
  weld,
  type Outline,
} from '../geometry/index.ts';
import { splitPanels, type Panel, type PanelProblem } from './index.ts';
import { crossedLengths, panelsNeeded } from './seams.ts';

const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
const problem = (outlines: Outline[], fields: Partial<PanelProblem> = {}): PanelProblem => ({
  widthMm: 1000,
  maxLengthMm: 1400,
  marginMm: 10,
  overlapMm: 12,
  leastPanelMm: 80,
  turnPanels: false,
  artwork: outlines.map((outline, i) => ({ id: `a${i}`, outline })),
  ...fields,
});
const size = ({ box }: Panel): [number, number] => [box.maxX - box.minX, box.maxY - box.minY];
const seamsOf = (panels: readonly Panel[], axis: 'X' | 'Y', overlapMm: number): number[] => {
  const starts = [...new Set(panels.map((p) => p.box[`min${axis}`]))].sort((a, b) => a - b);
  return starts.slice(1).map((v) => v + overlapMm / 2);
};
const crossedBy = (outlines: Outline[], seams: number[], axis: 0 | 1): number =>
  crossedLengths(
    Float64Array.from(seams),
    outlines.map((outline) => flatten(outline, 0.02)),
    axis,
  ).reduce((a, b) => a + b, 0);

const shape = fc
  .record({
    x: fc.integer({ min: -500, max: 3500 }),
    y: fc.integer({ min: -300, max: 2200 }),
    w: fc.integer({ min: 20, max: 900 }),
    h: fc.integer({ min: 20, max: 700 }),
    oval: fc.boolean(),
  })
  .map(({ x, y, w, h, oval }) => at(x, y, oval ? ovalShape(w, h) : boxShape(w, h, 15)));

describe('panels', () => {
  test('fit the material, overlap as wanted, are as few as can be, and together are the whole', () => {
    fc.assert(
      fc.property(fc.array(shape, { minLength: 1, maxLength: 7 }), fc.boolean(), (outlines, turnPanels) => {
        const panels = splitPanels(problem(outlines, { turnPanels }));
        const box = outlines.map(bounds).reduce(joinBoxes);
        for (const panel of panels) {
          const [w, h] = size(panel);
          const [along, across] = panel.turned ? [h, w] : [w, h];
          expect(along).toBeLessThanOrEqual(1380.001);
          expect(across).toBeLessThanOrEqual(980.001);
          expect(panel.turned && !turnPanels).toBe(false);
        }
        const count = (x: number, y: number): number => panelsNeeded(box.maxX - box.minX, x, 12) * panelsNeeded(box.maxY - box.minY, y, 12);
        expect(panels.length).toBeLessThanOrEqual(Math.min(count(1380, 980), turnPanels ? count(980, 1380) : Infinity));
        for (const [id, outline] of outlines.entries()) {
          const pieces = panels.flatMap((panel) => panel.pieces.filter((piece) => piece.id === `a${id}`).map((piece) => piece.outline));
          expect(Math.abs(area(weld(pieces)) / area(outline) - 1)).toBeLessThan(1e-5);
        }
      }),
      { numRuns: 40 },
    );
  });

  test('every piece is the artwork within its panel', () => {
    const outlines = [at(0, 0, ovalShape(2600, 900)), at(300, 200, boxShape(2000, 300))];
    for (const { box, pieces } of splitPanels(problem(outlines))) {
      const frame = at(box.minX, box.minY, boxShape(box.maxX - box.minX, box.maxY - box.minY));
      for (const { id, outline } of pieces)
        expect(area(outline)).toBeCloseTo(area(keepOverlap([outlines[Number(id.slice(1))] as Outline, frame])), 1);
    }
  });

  test('are divided in the gaps between shapes when there are any within reach', () => {
    const words = [0, 900, 1730, 2600].map((x) => at(x, 0, boxShape(780, 400)));
    const panels = splitPanels(problem(words, { widthMm: 600, maxLengthMm: 1100 }));
    expect(panels).toHaveLength(4);
    expect(crossedBy(words, seamsOf(panels, 'X', 12), 0)).toBe(0);
  });

  test('law: where a gap is wider than the lap no panel cuts into what lies beside it, though its edge were nearer to the middle', () => {
    const wide = fc.record({
      left: fc.integer({ min: 300, max: 850 }),
      gap: fc.integer({ min: 14, max: 90 }),
      h: fc.integer({ min: 5, max: 400 }),
    });
    fc.assert(
      fc.property(wide, ({ left, gap, h }) => {
        const [one, other] = [boxShape(left, h), at(left + gap, 0, boxShape(1200 - left - gap, h))];
        const panels = splitPanels(problem([one, other], { widthMm: 600, maxLengthMm: 920 }));
        expect(panels).toHaveLength(2);
        const [first, second] = panels.map(({ box }) => box).sort((a, b) => a.minX - b.minX);
        expect(first!.maxX).toBeLessThanOrEqual(left + gap + 1e-6);
        expect(second!.minX).toBeGreaterThanOrEqual(left - 1e-6);
      }),
    );
  });

  test('never cross more than panels of even sizes would', () => {
    fc.assert(
      fc.property(fc.array(shape, { minLength: 2, maxLength: 7 }), (outlines) => {
        const box = outlines.map(bounds).reduce(joinBoxes);
        const panels = splitPanels(problem(outlines, { maxLengthMm: 900, widthMm: 5000 }));
        const count = panelsNeeded(box.maxX - box.minX, 880, 12);
        const even = Array.from({ length: count - 1 }, (_, i) => box.minX + ((box.maxX - box.minX) * (i + 1)) / count);
        if (panels.length < count) return; // a panel without artwork hides its seams
        expect(crossedBy(outlines, seamsOf(panels, 'X', 12), 0)).toBeLessThanOrEqual(crossedBy(outlines, even, 0) + 0.1);
      }),
      { numRuns: 40 },
    );
  });

  test('are alike where it is no matter', () => {
    const panels = splitPanels(problem([boxShape(4000, 900)]));
    for (const panel of panels) expect(size(panel)[0]).toBeCloseTo((4000 + 2 * 12) / 3, -2);
  });

  test('take the seams that the user sets, in any order; a seam too far or outside is refused', () => {
    const bar = [boxShape(3000, 500)];
    const panels = splitPanels(problem(bar, { seams: { x: [2100, 1200], y: [] } }));
    expect(panels.map((p) => [p.box.minX, p.box.maxX])).toEqual([
      [0, 1206],
      [1194, 2106],
      [2094, 3000],
    ]);
    const code = (x: number[]): unknown => {
      try {
        return splitPanels(problem(bar, { seams: { x, y: [] } })).length;
      } catch (error) {
        return (error as { code: string }).code;
      }
    };
    expect([code([1500]), code([-5, 1200, 2100]), code([1000, 2000, Number.NaN])]).toEqual(['input.seams', 'input.seams', 'input.seams']);
  });

  test.each<[string, Outline[], Partial<PanelProblem>, string]>([
    ['margins that leave nothing', [boxShape(9, 9)], { marginMm: 500 }, 'input.panels'],
    ['an overlap wider than the material', [boxShape(9, 9)], { overlapMm: 1200 }, 'input.panels'],
    ['a least panel wider than the material', [boxShape(9, 9)], { leastPanelMm: 990 }, 'input.panels'],
    ['more panels than anybody lays', [boxShape(1e6, 1e6)], {}, 'input.panels'],
    ['open lines', [parsePath('M0 0L5000 5000')], {}, 'input.outline'],
  ])('%s: refused by its code', (_, outlines, fields, code) => {
    expect(() => splitPanels(problem(outlines, fields))).toThrow(expect.objectContaining({ code }) as unknown as Error);
  });

  test('no artwork needs no panel; what fits is one', () => {
    expect(splitPanels(problem([]))).toEqual([]);
    expect(splitPanels(problem([boxShape(900, 900)]))).toHaveLength(1);
    expect(splitPanels(problem([boxShape(900, 1300)], { turnPanels: true }))).toMatchObject([{ turned: true }]);
  });
});
