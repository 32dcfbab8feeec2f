/** Laws of sheets, over drawings by lot: every copy is on its sheet, nothing leaves it, cut lines and art stay apart. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, translation, area, bounds, boxesMeet, joinBoxes, mapOutline, EMPTY_BOX, type Box } from '@lorvek/core/geometry';
import { makePlates, pagesOfPasses, type PrintPage } from '@lorvek/core/print';
import {
  addEdgeCut,
  addFilm,
  addItems,
  emptyDrawing,
  setFilmOfItems,
  setLayUp,
  USUAL_MARKS,
  type BoxItem,
  type Drawing,
  type Known,
  type KnownOf,
  type PrintLayer,
  type StockFilm,
} from '../index.ts';
import { film, run } from '../drawing.support.ts';
import { knownEdgeCut } from '../queries/edge-cuts.ts';
import { plainOutline } from '../queries/plain-outline.ts';
import { cutFile, cuttingOf, cuttingWith } from './cut-file.ts';
import { sheetsOf, type SheetPlan } from './plan-sheet.ts';
import { linesOfCut, sheetCut } from './sheet-cut.ts';

const print: PrintLayer = {
  type: 'print',
  id: 'print-p',
  stockId: 'print-p',
  name: 'White',
  series: 's',
  hex: '#ffffff',
  medium: 'white',
  visible: true,
  locked: false,
};
const stock: StockFilm[] = ['film-a', 'print-p'].map((id) => ({
  id,
  series: 's',
  name: id,
  hex: '#ffffff',
  transfer: false,
  medium: id === 'print-p' ? 'white' : null,
  pricePerMetre: 1,
  press: null,
  smallestPartMm: 0.1,
  thinnestMm: 0.1,
  rolls: [{ id: `roll-${id}`, filmId: id, widthMm: 1370, lengthLeftMm: 50_000, isOffcut: false }],
}));
const setup = {
  id: 'x',
  name: 'x',
  sends: 'values' as const,
  tool: 1,
  speedMmPerS: 400,
  forceGrams: 90,
  passes: 1,
  bladeOffsetMm: 0.25,
  overcutMm: 0,
  corners: 'machine' as const,
};

function knownIn(drawing: Drawing): KnownOf {
  const knownOf: KnownOf = (leaf): Known => {
    if (leaf.kind === 'edge-cut') return knownEdgeCut(drawing, leaf, knownOf);
    const outline = plainOutline(leaf as Parameters<typeof plainOutline>[0]);
    return { derived: { outline, lines: [], missing: [] }, pieces: [{ layer: leaf.layer, outline }] };
  };
  return knownOf;
}

interface Lot {
  boxes: { x: number; y: number; w: number; h: number; printed: boolean }[];
  copies: number;
  turn: 0 | 90 | 180 | 270;
  mirror: boolean;
  marginMm: number;
  gapMm: number;
  distanceMm: number;
}
const lots = fc.record<Lot>({
  boxes: fc.array(
    fc.record({
      x: fc.integer({ min: 0, max: 300 }),
      y: fc.integer({ min: 0, max: 200 }),
      w: fc.integer({ min: 5, max: 60 }),
      h: fc.integer({ min: 5, max: 60 }),
      printed: fc.boolean(),
    }),
    { minLength: 1, maxLength: 6 },
  ),
  copies: fc.integer({ min: 1, max: 9 }),
  turn: fc.constantFrom(0, 90, 180, 270),
  mirror: fc.boolean(),
  marginMm: fc.integer({ min: 0, max: 30 }),
  gapMm: fc.integer({ min: 0, max: 20 }),
  distanceMm: fc.integer({ min: 0, max: 6 }),
});

function draw({ boxes, copies, turn, mirror, marginMm, gapMm, distanceMm }: Lot): Drawing {
  let d = run(run(emptyDrawing(), addFilm, { film: film('film-a') }), addFilm, { film: print });
  const items = boxes.map(({ x, y, w, h }, i): BoxItem => ({
    type: 'item',
    kind: 'box',
    id: `item-${i}`,
    name: `Box ${i}`,
    layer: 'film-a',
    matrix: [1, 0, 0, 1, x, y],
    widthMm: w,
    heightMm: h,
    cornerMm: 0,
  }));
  d = run(d, addItems, { items, roots: items.map(({ id }) => id) });
  boxes.forEach(({ printed }, i) => {
    if (!printed) return;
    d = run(d, setFilmOfItems, { ids: [`item-${i}`], film: 'print-p' });
    d = run(d, addEdgeCut, {
      id: `item-cut${i}`,
      of: [`item-${i}`],
      fields: { distanceMm, line: { kind: i % 2 === 0 ? 'kiss' : 'through' } },
    });
  });
  const fill = { kind: 'as-drawn' as const, copies, gapMm, alongMm: 0, acrossMm: 0 };
  for (const layer of ['film-a', 'print-p']) d = run(d, setLayUp, { film: layer, fields: { turnDeg: turn, mirror, marginMm, fill } });
  return d;
}

const sheets = (drawing: Drawing): SheetPlan[] => sheetsOf(drawing, stock, knownIn(drawing), 'job-x');
const sourcesOf = ({ parts }: SheetPlan) => parts.flatMap(({ sources }) => sources);
const within = (inner: Box, outer: Box, by = 0.01): boolean =>
  inner.minX >= outer.minX - by && inner.minY >= outer.minY - by && inner.maxX <= outer.maxX + by && inner.maxY <= outer.maxY + by;

describe('sheets', () => {
  test('every copy of every source lies on exactly one sheet, its area kept; nothing leaves the margins', () => {
    fc.assert(
      fc.property(lots, (lot) => {
        const drawing = draw(lot);
        for (const sheet of sheets(drawing)) {
          const seen = new Set(sheet.placements.map(({ part, copy }) => `${part} ${copy}`));
          expect(seen.size).toBe(lot.copies);
          const clear: Box = {
            minX: lot.marginMm,
            minY: lot.marginMm,
            maxX: sheet.usedLengthMm - lot.marginMm,
            maxY: sheet.material.widthMm - lot.marginMm,
          };
          for (const { map } of sheet.placements)
            for (const { outline } of sourcesOf(sheet)) {
              const lies = mapOutline(map, outline);
              expect(Math.abs(area(lies))).toBeCloseTo(Math.abs(area(outline)), 6);
              if (sheet.frame.overWidthMm === 0) expect(within(bounds(lies), clear)).toBe(true);
            }
        }
        const laid = sheets(drawing).flatMap((sheet) => sourcesOf(sheet).map(({ id }) => id));
        expect([...laid].sort()).toEqual(
          Object.keys(drawing)
            .filter((id) => id.startsWith('item-'))
            .sort(),
        );
      }),
      { seed: 11, numRuns: 14 },
    );
  });

  test('marks, their clear zones and the code lie on the material and off the work', () => {
    fc.assert(
      fc.property(lots, fc.constantFrom('corners-in', 'corners-out', 'dots', 'crosses'), (lot, kind) => {
        const drawing = run(draw({ ...lot, boxes: lot.boxes.map((box) => ({ ...box, printed: true })) }), setLayUp, {
          film: 'print-p',
          fields: { marks: { ...USUAL_MARKS, kind: kind as 'dots' } },
        });
        const [sheet] = sheets(drawing);
        if (sheet!.frame.overWidthMm > 0) return;
        expect(sheet!.marks).toHaveLength(4);
        const work = sheet!.lines.reduce((box, { outline }) => joinBoxes(box, bounds(outline)), EMPTY_BOX);
        const material: Box = { minX: 0, minY: 0, maxX: sheet!.usedLengthMm, maxY: sheet!.material.widthMm };
        for (const { outline, clear } of sheet!.marks) {
          expect(boxesMeet(clear, work)).toBe(false);
          expect(within(bounds(outline), material)).toBe(true);
          expect(boxesMeet(bounds(sheet!.code!.outline), clear)).toBe(false);
        }
        expect(within(bounds(sheet!.code!.outline), material)).toBe(true);
        expect(boxesMeet(bounds(sheet!.code!.outline), work)).toBe(false);
      }),
      { seed: 12, numRuns: 16 },
    );
  });

  test('the print page holds no cut line as art, cut sections no art; a plan of the same drawing is the same to the byte', () => {
    fc.assert(
      fc.property(lots, (lot) => {
        const drawing = draw(lot);
        const twice = sheets(drawing);
        sheets(drawing).forEach((sheet, i) => {
          const printed = sourcesOf(sheet).filter(({ line }) => line === undefined).length;
          if (sheet.print) {
            expect(sheet.print.forms.flatMap(({ items }) => items)).toHaveLength(printed);
            expect(sheet.print.lines.map(({ kind }) => kind).sort()).toEqual(sheet.lines.map(({ kind }) => kind).sort());
          }
          const lines = sheet.lines.filter(({ kind }) => kind !== 'weed').reduce((sum, { outline }) => sum + outline.contours.length, 0);
          expect(lines).toBe(
            lot.copies *
              sourcesOf(sheet)
                .filter(({ line }) => line !== undefined)
                .reduce((sum, { outline }) => sum + outline.contours.length, 0),
          );
          const [one, two] = [sheet, twice[i]!].map((of) => cutFile(of.lines, cuttingWith(setup)).hpgl);
          expect(Buffer.compare(one!, two!)).toBe(0);
          expect(sheet.code?.text).toBe(twice[i]!.code?.text);
          // what is kept with the run gives the same cut
          const kept = cutFile(
            linesOfCut(JSON.parse(JSON.stringify(sheetCut(sheet, cuttingWith(setup)))) as ReturnType<typeof sheetCut>),
            cuttingWith(setup),
          ).hpgl;
          expect(Buffer.compare(one!, kept)).toBe(0);
        });
      }),
      { seed: 13, numRuns: 10 },
    );
  });

  test('each kind with its own setup: values or the number of a stored one, never both; the order as it is told', () => {
    const stored = { ...setup, id: 'deep', sends: 'stored' as const, tool: 4, forceGrams: 333 };
    const own = { ...setup, id: 'fine', tool: 2, speedMmPerS: 50, forceGrams: 40, passes: 2 };
    const line = (kind: 'kiss' | 'through', x: number) => ({ kind, outline: mapOutline(translation(x, 10), boxShape(20, 20)) });
    const choice = { kinds: { through: 'deep', kiss: 'fine', score: 'gone' }, order: ['through' as const, 'kiss' as const] };
    const cutting = cuttingOf([setup, own, stored], setup, choice);
    expect(Object.keys(cutting.kinds)).toEqual(['through', 'kiss']);
    const told = new TextDecoder().decode(cutFile([line('kiss', 10), line('through', 60)], cutting).hpgl);
    expect(told.match(/SP\d;(VS\d+;FS\d+;)?/g)).toEqual(['SP4;', 'SP2;VS5;FS40;', 'SP0;']);
    expect(told).not.toContain('333');
  });

  test('another distance of a cut line is another sheet by name; marks that do not fit stop it', () => {
    const lot: Lot = {
      boxes: [{ x: 10, y: 10, w: 40, h: 30, printed: true }],
      copies: 1,
      turn: 0,
      mirror: false,
      marginMm: 10,
      gapMm: 5,
      distanceMm: 2,
    };
    const [one] = sheets(draw(lot));
    const [other] = sheets(draw({ ...lot, distanceMm: 3 }));
    expect(one!.code!.text).not.toBe(other!.code!.text);
    const [inward] = sheets(draw({ ...lot, distanceMm: -20 }));
    expect(inward!.findings.map(({ code, level }) => [code, level])).toContainEqual(['edge-cut-empty', 'stop']);
    const narrow = stock.map((entry) => ({ ...entry, rolls: entry.rolls.map((roll) => ({ ...roll, widthMm: 60 })) }));
    const drawing = draw(lot);
    const [tight] = sheetsOf(drawing, narrow, knownIn(drawing), 'job-x');
    expect(tight!.findings.some(({ level }) => level === 'stop')).toBe(true);
  });
});

describe('an ink that stands for white', () => {
  const white = {
    where: 'in-front' as const,
    coverage: 'named-spot' as const,
    spots: ['Underlay'],
    bend: 1,
    strengthPct: 100,
    spreadMm: 0,
  };
  /** A red box with a smaller one on it, in an ink of its own name. */
  const drawn = (fields: Partial<PrintLayer>): Drawing => {
    const drawing = run(emptyDrawing(), addFilm, { film: { ...print, ...fields } });
    const box = (id: string, size: number, paint: BoxItem['paint']): BoxItem => ({
      type: 'item',
      kind: 'box',
      id,
      name: id,
      layer: 'print-p',
      matrix: [1, 0, 0, 1, 10, 10],
      widthMm: size,
      heightMm: size,
      cornerMm: 0,
      ...(paint ? { paint } : {}),
    });
    const items = [
      box('item-red', 60, { fill: { hex: '#c00000' } }),
      box('item-white', 30, { fill: { hex: '#ffffff', spot: 'Underlay' } }),
    ];
    return run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
  };
  const platesOf = async (page: PrintPage) => {
    const plates = await makePlates(page, { dpi: 25.4 });
    return new Map(plates.map(({ name, cover }) => [name, cover * page.widthMm * page.heightMm]));
  };
  const pagesOf = (fields: Partial<PrintLayer>) => pagesOfPasses(sheets(drawn(fields))[0]!.print!);

  test('is laid down as white alone: it has no plate besides, and the colour under it stays', async () => {
    const plates = await platesOf(pagesOf({ white })[0]!.page);
    expect([...plates.keys()]).toEqual(['Cyan', 'Magenta', 'Yellow', 'Black', 'White']);
    expect(plates.get('White')).toBeCloseTo(900, -1);
    expect(plates.get('Magenta')).toBeCloseTo(3600, -1);
    // another ink is a plate of its own, as ever
    const others = await platesOf(pagesOf({ white: { ...white, spots: ['Other'] } })[0]!.page);
    expect(others.get('Underlay')).toBeCloseTo(900, -1);
    expect(others.get('White')).toBe(0);
  });

  test('in passes it is of the passes of white, whichever their art is', async () => {
    const passes = [
      { kind: 'colour' as const, items: null, mirror: false },
      { kind: 'white' as const, items: ['item-white'], mirror: false },
    ];
    const [colour, second] = await Promise.all(pagesOf({ white, passes }).map(({ page }) => platesOf(page)));
    expect([...colour!.keys()]).toEqual(['Cyan', 'Magenta', 'Yellow', 'Black']);
    expect(colour!.get('Magenta')).toBeCloseTo(3600, -1);
    expect(second!.get('White')).toBeCloseTo(900, -1);
    const other = passes.map((pass) => (pass.kind === 'white' ? { ...pass, items: ['item-red'] } : pass));
    const [, none] = await Promise.all(pagesOf({ white, passes: other }).map(({ page }) => platesOf(page)));
    expect(none!.get('White')).toBe(0);
  });
});
