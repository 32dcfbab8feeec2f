import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  area,
  bounds,
  boxShape,
  invert,
  IDENTITY,
  knockOut,
  mapOutline,
  ovalShape,
  translation,
  weld,
  type Outline,
} from '@lorvek/core/geometry';
import { makePlates } from '@lorvek/core/print';
import { film, printLayer, run, shapeOf, stockOf } from '../drawing.support.ts';
import {
  addEdgeCut,
  addFilm,
  addItems,
  emptyDrawing,
  setLayUp,
  stopsOf,
  USUAL_PANELS,
  type Drawing,
  type Fill,
  type Item,
  type LayUp,
  type PanelsFill,
} from '../index.ts';
import { knownIn } from '../queries/know.ts';
import { checkJob } from './check-job.ts';
import { PANEL_BOX } from './lay-places.ts';
import { nearestFree } from './panel-parts.ts';
import type { SheetPlan } from './plan-sheet.ts';

const stock = ['film-a', 'print-p'].map((id) => stockOf(id));
const PRINT = printLayer('print-p');
const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);

function draw(layer: 'film-a' | 'print-p', items: Item[], fill: Partial<PanelsFill> = {}, fields: Partial<LayUp> = {}): Drawing {
  let drawing = emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 3000, heightMm: 1000 });
  drawing = run(drawing, addFilm, { film: layer === 'film-a' ? film('film-a') : PRINT });
  drawing = run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  const all: Fill = { ...USUAL_PANELS, ...fill };
  return run(drawing, setLayUp, { film: layer, fields: { fill: all, marginMm: 10, weedBoxMm: null, ...fields } });
}
const kept = new Map();
const check = (drawing: Drawing) =>
  checkJob(
    drawing,
    stock,
    knownIn(drawing, () => undefined, kept),
    'job-x',
    { jobName: 'Shelter' },
  );
/** What is cut of a panel, back on the drawing. */
const backOn = (sheet: SheetPlan): Outline => {
  const back = invert(sheet.placements[0]!.map) ?? IDENTITY;
  return mapOutline(back, { contours: sheet.lines.filter(({ kind }) => kind === 'film').flatMap(({ outline }) => outline.contours) });
};
const BAR = at(50, 100, boxShape(2400, 400));

describe('panels', () => {
  test('each lies on a sheet of its own, in order, every other one turned', () => {
    const { sheets } = check(draw('film-a', [shapeOf('item-bar', 'film-a', BAR)], { way: 'count', columns: 4, overlapMm: 20 }));
    expect(sheets).toHaveLength(4);
    expect(sheets.map(({ placements }) => placements.map(({ part }) => part))).toEqual([
      ['panel-1'],
      ['panel-2'],
      ['panel-3'],
      ['panel-4'],
    ]);
    const boxes = sheets[0]!.filled.panels!.panels.map(({ box }) => box);
    for (const box of boxes) expect(box.maxX - box.minX).toBeCloseTo((2400 + 3 * 20) / 4, 6);
    for (const [i, box] of boxes.slice(1).entries()) expect(boxes[i]!.maxX - box.minX).toBeCloseTo(20, 6);
    const turned = sheets.map(({ placements }) => Math.sign(placements[0]!.map[0]));
    expect(turned[0]).toBe(-turned[1]!);
    expect(turned[0]).toBe(turned[2]);
  });

  const shapes = fc.array(
    fc.record({
      x: fc.integer({ min: 0, max: 1800 }),
      y: fc.integer({ min: 0, max: 500 }),
      w: fc.integer({ min: 60, max: 900 }),
      h: fc.integer({ min: 60, max: 400 }),
      round: fc.boolean(),
    }),
    { minLength: 1, maxLength: 5 },
  );
  const ways = fc.constantFrom<Partial<PanelsFill>>(
    { way: 'shapes' },
    { way: 'count', columns: 3, rows: 2 },
    { way: 'width', widthMm: 560 },
    { way: 'width', widthMm: 500, heightMm: 300, order: 'from-right' },
  );
  test('put together they are the whole, closed at the seams, whatever they are divided by', () => {
    let divided = 0;
    fc.assert(
      fc.property(shapes, ways, fc.constantFrom(0, 12), (list, way, overlapMm) => {
        const whole = weld(list.map(({ x, y, w, h, round }) => at(x, y, round ? ovalShape(w, h) : boxShape(w, h))));
        const { sheets, whole: findings } = check(
          draw('film-a', [shapeOf('item-1', 'film-a', whole)], { ...way, overlapMm, overlapUpMm: overlapMm, leastMm: 40, label: false }),
        );
        const stops = [...findings, ...sheets.flatMap((sheet) => sheet.findings)].filter(({ code }) => code === 'panels');
        if (stops.length > 0) return;
        divided++;
        const back = sheets.map(backOn);
        expect(back.every(({ contours }) => contours.every(({ closed }) => closed))).toBe(true);
        expect(Math.abs(area(weld(back)) / area(whole) - 1)).toBeLessThan(1e-6);
        // without overlaps nothing is there twice
        if (overlapMm === 0) expect(Math.abs(back.reduce((sum, one) => sum + area(one), 0) / area(whole) - 1)).toBeLessThan(1e-5);
      }),
      { numRuns: 12 },
    );
    // most can be divided, so that this says something
    expect(divided).toBeGreaterThan(5);
  });

  test('no piece leaves its panel, and each panel lies within the margins of its sheet', () => {
    const { sheets } = check(
      draw('film-a', [shapeOf('item-1', 'film-a', at(0, 0, ovalShape(1900, 700)))], { way: 'shapes', overlapMm: 15 }),
    );
    for (const sheet of sheets) {
      const { box } = sheet.filled.panels!.panels[sheet.number]!;
      const own = bounds(backOn(sheet));
      expect(own.minX).toBeGreaterThan(box.minX - 0.01);
      expect(own.maxX).toBeLessThan(box.maxX + 0.01);
      expect(sheet.frame.overWidthMm).toBe(0);
      expect(sheet.frame.box.minX).toBeGreaterThan(9.99);
      expect(sheet.frame.box.minY).toBeGreaterThan(9.99);
    }
  });

  test('plates of the panels are the plates of the whole, each within its panel', async () => {
    const items = [
      shapeOf('item-1', 'print-p', at(10, 20, boxShape(900, 150))),
      shapeOf('item-2', 'print-p', at(300, 40, ovalShape(400, 110)), '#f2a900'),
    ];
    const drawing = draw(
      'print-p',
      items,
      { way: 'count', columns: 2, overlapMm: 20, turnEveryOther: false, label: false },
      { marks: null },
    );
    const { sheets } = check(drawing);
    const as = run(drawing, setLayUp, {
      film: 'print-p',
      fields: { fill: { kind: 'as-drawn', copies: 1, gapMm: 0, alongMm: 0, acrossMm: 0 } },
    });
    const [whole] = check(as).sheets;
    const dpi = 25.4;
    const all = await makePlates(whole!.print!, { dpi });
    for (const sheet of sheets) {
      const [own, { map }] = [await makePlates(sheet.print!, { dpi }), sheet.placements[0]!];
      const { box } = sheet.filled.panels!.panels[sheet.number]!;
      const there = whole!.placements[0]!.map;
      let [looked, other] = [0, 0];
      for (const [k, plate] of own.entries())
        for (let x = Math.ceil(box.minX) + 3; x < box.maxX - 3; x += 23)
          for (let y = Math.ceil(box.minY) + 3; y < box.maxY - 3; y += 11) {
            const pick = ({ data, width, height }: typeof plate, [a, , , d, e, f]: readonly number[]): number =>
              data[(height - 1 - Math.floor(d! * y + f!)) * width + Math.floor(a! * x + e!)]!;
            looked++;
            // pixels are as fine as the page's length allows: at edges they lie a hair apart
            if (Math.abs(pick(plate, map) - pick(all[k]!, there)) > 2) other++;
          }
      expect(looked).toBeGreaterThan(300);
      expect(other / looked).toBeLessThan(0.01);
      // beyond the panel nothing is printed
      expect(own[0]!.data.filter((v) => v > 0).length).toBeLessThanOrEqual((box.maxX - box.minX + 1) * (box.maxY - box.minY + 1));
    }
  });

  test('an edge cut round a print is divided with it and closed', () => {
    let drawing = draw('print-p', [shapeOf('item-1', 'print-p', BAR)], { way: 'count', columns: 4 });
    drawing = run(drawing, addEdgeCut, { id: 'item-cut', of: ['item-1'], fields: { shape: 'box', distanceMm: 4 } });
    const { sheets } = check(drawing);
    expect(sheets).toHaveLength(4);
    for (const sheet of sheets) {
      const kiss = sheet.lines.filter(({ kind }) => kind === 'kiss').flatMap(({ outline }) => outline.contours);
      expect(kiss).toHaveLength(1);
      expect(kiss[0]!.closed).toBe(true);
      expect(sheet.marks).toHaveLength(4);
      expect(sheet.code).toBeDefined();
    }
    expect(new Set(sheets.map(({ code }) => code!.text)).size).toBe(4);
  });

  test('a number is written beside each: printed in black, or cut from film, and never within the panel', () => {
    const cut = check(draw('film-a', [shapeOf('item-1', 'film-a', BAR)], { way: 'count', columns: 4 })).sheets;
    for (const sheet of cut) {
      const strokes = sheet.lines.filter(({ kind }) => kind === 'weed').flatMap(({ outline }) => outline.contours);
      expect(strokes.length).toBeGreaterThan(3);
      const back = mapOutline(invert(sheet.placements[0]!.map)!, { contours: strokes });
      expect(bounds(back).maxY).toBeLessThan(bounds(BAR).minY);
    }
    const [printed] = check(draw('print-p', [shapeOf('item-1', 'print-p', BAR)], { way: 'count', columns: 4 }, { marks: null })).sheets;
    expect(area(printed!.print!.marks)).toBeGreaterThan(5);
  });

  test('a seam through an item that is to stay whole is told, with the nearest place that is free', () => {
    const items = [shapeOf('item-1', 'film-a', BAR), shapeOf('item-keep', 'film-a', at(1200, 200, boxShape(100, 50)))];
    const { whole, sheets } = check(
      draw('film-a', items, { way: 'seams', seams: { x: [640, 1230, 1830], y: [] }, overlapMm: 10, whole: ['item-keep'] }),
    );
    const found = [...whole, ...sheets.flatMap((sheet) => sheet.findings)].filter(({ code }) => code === 'seam-crosses');
    expect(found).toHaveLength(1);
    expect(found[0]!.text).toContain('1195.0 mm');
    expect(found[0]!.parts).toEqual(['item-keep']);
    expect(found[0]!.seam).toEqual({ axis: 'x', from: 1230, to: 1195 });
  });

  test('the nearest free place touches nothing', () => {
    const spans = fc.array(fc.tuple(fc.integer({ min: 0, max: 900 }), fc.integer({ min: 1, max: 200 })), { maxLength: 8 });
    fc.assert(
      fc.property(spans, fc.integer({ min: 1, max: 999 }), fc.integer({ min: 0, max: 30 }), (list, place, half) => {
        const own = list.map(([from, length]) => [from, from + length] as const);
        const free = nearestFree(place, half, own, 0, 1000);
        if (free === undefined) return;
        for (const [a, b] of own) expect(free + half <= a + 1e-6 || free - half >= b - 1e-6).toBe(true);
      }),
    );
  });

  test.each<[string, Partial<PanelsFill>]>([
    ['an overlap wider than a panel', { way: 'count', columns: 20, overlapMm: 900 }],
    ['panels wider than the material', { way: 'width', widthMm: 900, heightMm: 900 }],
    ['one panel of what is larger than the roll', { way: 'seams', seams: { x: [], y: [] } }],
  ])('%s: stops with its reason, and nothing is left out without a word', (_, fill) => {
    const tall = [shapeOf('item-1', 'film-a', at(0, 0, boxShape(2500, 2000)))];
    const checked = check(draw('film-a', tall, fill));
    expect(stopsOf(checked).map(({ code }) => code)).toContain('panels');
  });

  test('panels show their own part alone: what lies in the overlap is on both', () => {
    const { sheets } = check(draw('film-a', [shapeOf('item-1', 'film-a', BAR)], { way: 'count', columns: 4, overlapMm: 30, label: false }));
    const [first, second] = sheets.map(backOn);
    const shared = area(first!) + area(second!) - area(weld([first!, second!]));
    expect(shared).toBeCloseTo(30 * 400, 1);
    expect(area(knockOut(first!, [second!]))).toBeCloseTo(area(first!) - 30 * 400, 1);
    expect(sheets[0]!.parts[0]!.sources.some(({ id }) => id === PANEL_BOX)).toBe(true);
  });
});
