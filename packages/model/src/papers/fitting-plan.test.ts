/** The fitting plan: every panel is on it, to one scale, with its number and its true size. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { bounds, boxShape, joinBoxes, mapOutline, translation, EMPTY_BOX, type Box } from '@lorvek/core/geometry';
import type { ArtworkItem, PdfPageContent } from '@lorvek/core/format';
import { film, run, shapeOf, stockOf } from '../drawing.support.ts';
import { addFilm, addItems, emptyDrawing, setLayUp, setUnit, USUAL_PANELS, type Drawing, type PanelsFill } from '../index.ts';
import { isUnknown } from '../queries/known-pieces.ts';
import { knownIn } from '../queries/know.ts';
import { sheetsOf } from '../plans/plan-sheet.ts';
import { fittingPages } from './fitting-plan.ts';

const stock = [stockOf('film-a', { widthMm: 1260 }), stockOf('film-b', { widthMm: 1260 })];
const BAR = { x: 50, y: 100, width: 2400, height: 400 };

function draw(fill: Partial<PanelsFill> | null, layers: readonly ('film-a' | 'film-b')[] = ['film-a']): Drawing {
  let drawing = emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 3000, heightMm: 1000 });
  for (const layer of layers) {
    drawing = run(drawing, addFilm, { film: { ...film(layer), name: 'Harbour blue', series: 'Matt' } });
    const bar = mapOutline(translation(BAR.x, BAR.y), boxShape(BAR.width, BAR.height));
    drawing = run(drawing, addItems, { items: [shapeOf(`item-${layer}`, layer, bar)], roots: [`item-${layer}`] });
    if (fill)
      drawing = run(drawing, setLayUp, { film: layer, fields: { fill: { ...USUAL_PANELS, ...fill }, marginMm: 10, weedBoxMm: null } });
  }
  return drawing;
}

function pagesOf(drawing: Drawing, measure: (text: string) => number = () => 10): PdfPageContent[] {
  const knownOf = knownIn(drawing, () => undefined, new Map());
  return fittingPages({
    drawing,
    piecesOf: (item) => {
      const known = knownOf(item);
      return isUnknown(known) ? [] : known.pieces;
    },
    job: { name: 'Ferry shelter', customer: '', dueOn: null, revision: 1 },
    pictures: [],
    measure: measure as never,
    today: '2026-03-02',
    sheets: sheetsOf(drawing, stock, knownOf, 'job-x'),
  });
}
const textsOf = ({ texts = [] }: PdfPageContent): string[] => texts.map(({ text }) => text);
const boxOf = (items: readonly ArtworkItem[]): Box => items.reduce((box, { outline }) => joinBoxes(box, bounds(outline)), EMPTY_BOX);

describe('the fitting plan', () => {
  test('has a page for each layer in panels, and none for a job without', () => {
    expect(pagesOf(draw(null))).toEqual([]);
    expect(pagesOf(draw({ way: 'count', columns: 3 }))).toHaveLength(1);
    expect(pagesOf(draw({ way: 'count', columns: 3 }, ['film-a', 'film-b']))).toHaveLength(2);
  });

  test('every panel has its number and its true size, the numbers in the order of putting up', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 6 }),
        fc.constantFrom(0, 10, 25),
        fc.constantFrom('from-left', 'from-right'),
        (columns, overlapMm, order) => {
          const drawing = draw({ way: 'count', columns, overlapMm, bleedMm: 0, order: order as PanelsFill['order'] });
          const [page] = pagesOf(drawing);
          const lines = textsOf(page!);
          const width = (BAR.width + (columns - 1) * overlapMm) / columns;
          const numbers = page!.texts!.filter(({ bold, align }) => bold && align === 'centre');
          expect(numbers.map(({ text }) => Number(text)).sort((a, b) => a - b)).toEqual(Array.from({ length: columns }, (_, i) => i + 1));
          const byPlace = numbers.slice().sort((a, b) => a.x - b.x);
          const first = order === 'from-left' ? byPlace[0] : byPlace.at(-1);
          expect(first!.text).toBe('1');
          expect(lines).toContain(`Put up from the ${order === 'from-left' ? 'left' : 'right'}.`);
          expect(lines.some((text) => (overlapMm > 0 ? /^Each laps/ : /^Panels meet edge to edge/).test(text))).toBe(true);
          const said = `${Math.round(width * 10) / 10} mm × 400 mm`;
          expect(lines.filter((text) => text.startsWith(said) || text.includes(`   ${said}   from`))).toHaveLength(2 * columns);
        },
      ),
      { numRuns: 20 },
    );
  });

  test('the whole is drawn within the page, to the scale that is said', () => {
    const [page] = pagesOf(draw({ way: 'count', columns: 4, overlapMm: 0, bleedMm: 0 }));
    const ratio = textsOf(page!)
      .map((text) => /The whole 2400 mm × 400 mm, shown 1 : ([\d.]+), seen from the front/.exec(text)?.[1])
      .find((found) => found !== undefined);
    expect(Number(ratio)).toBeGreaterThan(10);
    const filled = page!.items.filter(({ fill }) => fill !== undefined);
    const all = boxOf(page!.items);
    expect(all.minX).toBeGreaterThanOrEqual(0);
    expect(all.maxX).toBeLessThanOrEqual(page!.widthMm);
    expect(all.minY).toBeGreaterThanOrEqual(0);
    expect(all.maxY).toBeLessThanOrEqual(page!.heightMm);
    const bar = filled.map(({ outline }) => bounds(outline)).find((box) => box.maxX - box.minX > 100);
    expect((bar!.maxX - bar!.minX) * Number(ratio)).toBeCloseTo(BAR.width, -1);
    expect((bar!.maxY - bar!.minY) * Number(ratio)).toBeCloseTo(BAR.height, -1);
  });

  test('two rows tell which is put up first, and by how much the upper one laps', () => {
    const [page] = pagesOf(draw({ way: 'count', columns: 2, rows: 2, overlapMm: 10, overlapUpMm: 15, bleedMm: 5 }));
    const lines = textsOf(page!);
    expect(lines).toContain('Put up from the left, the lower row first.');
    expect(lines).toContain('The upper row laps 15 mm over the lower.');
    expect(lines).toContain('5 mm more at the outer edges, to be trimmed.');
    expect(lines.filter((text) => /^\d {3}/.test(text))).toHaveLength(4);
  });

  test('more panels than there is room for in words: how many more is said', () => {
    const [page] = pagesOf(draw({ way: 'count', columns: 40, overlapMm: 0, bleedMm: 0, leastMm: 20 }));
    const numbers = page!.texts!.filter(({ bold, align }) => bold && align === 'centre');
    expect(numbers).toHaveLength(40);
    const more = textsOf(page!).find((text) => /more, see the sheets/.test(text));
    const listed = textsOf(page!).filter((text) => /^\d+ {3}\d/.test(text)).length;
    expect(listed + Number(/^and (\d+) more/.exec(more ?? '')?.[1])).toBe(40);
  });

  test('lengths are told in the unit of the job', () => {
    const drawing = run(draw({ way: 'count', columns: 2, overlapMm: 0, bleedMm: 0 }), setUnit, { unit: 'cm' });
    expect(textsOf(pagesOf(drawing)[0]!).some((text) => /^The whole 240 cm × 40 cm/.test(text))).toBe(true);
  });
});
