import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { area, bounds, mapOutline } from '@lorvek/core/geometry';
import { joinFonts, loadFont } from '@lorvek/core/lettering';
import {
  addFilm,
  addItems,
  causeKey,
  copyItems,
  emptyDrawing,
  giveTreatments,
  itemOf,
  leavesInScope,
  newTreatment,
  PAGE_ID,
  removeFilm,
  setTreatments,
  transformItems,
  tweakLetter,
  validateDrawing,
  withText,
  writeText,
  applyPatch,
  type Command,
  type Drawing,
  type Item,
  type LetteringItem,
  type Page,
  type RingRecord,
  type TreatmentRecord,
} from '../index.ts';
import { film, printLayer } from '../drawing.support.ts';
import { deriveItem, piecesOf } from '../queries/derive.ts';

const font = joinFonts([loadFont(readFileSync('assets/fonts/anton-latin-400-normal.woff'))]);
const shelf = (): typeof font => font;
const words: LetteringItem = {
  type: 'item',
  kind: 'lettering',
  id: 'item-w',
  name: 'QUAY',
  layer: 'film-a',
  matrix: [1, 0, 0, 1, 10, 20],
  text: 'QUAY',
  fontId: 'anton',
  substitutes: [],
  capHeightMm: 50,
  widthPct: 100,
  slantDeg: 0,
  letterSpaceMm: 0,
  lineSpace: 1.6,
  align: 'centre',
};
const ring = (fields: Partial<RingRecord> = {}): RingRecord => ({
  ...(newTreatment('ring', 'treatment-r', 50, 'film-b') as RingRecord),
  ...fields,
});

function drawingWith(...items: LetteringItem[]): Drawing {
  const blank = emptyDrawing();
  return validateDrawing({
    ...blank,
    'film-a': film('film-a'),
    'film-b': film('film-b'),
    ...Object.fromEntries(items.map((item) => [item.id, item])),
    [PAGE_ID]: { ...(blank[PAGE_ID] as Page), layers: ['film-b', 'film-a'], root: items.map((item) => item.id) },
  });
}

function run<A>(drawing: Drawing, command: Command<A>, args: A): Drawing {
  const plan = command({ drawing, selection: [] }, args);
  if (!plan.enabled) throw new Error(plan.why);
  return applyPatch(drawing, plan.run().patch);
}
const lettering = (drawing: Drawing): LetteringItem => itemOf(drawing, 'item-w') as LetteringItem;

describe('treatments of an item', () => {
  test('give pieces by film; pieces of one film are one piece; the scope knows both films', () => {
    const item = { ...words, treatments: [ring(), newTreatment('shade', 'treatment-s', 50, 'film-b')] };
    const derived = deriveItem(item, shelf, 0.3);
    expect(piecesOf(item, derived).map((piece) => piece.layer)).toEqual(['film-b', 'film-a']);
    expect([...leavesInScope(drawingWith(item)).keys()].sort()).toEqual(['film-a', 'film-b']);
    expect(deriveItem(words, shelf, 0.3).pieces).toBeUndefined();
  });

  test('distances are true on the drawing, also when the item is stretched and turned', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.5, max: 3, noNaN: true }), fc.double({ min: 0.5, max: 3, noNaN: true }), (kx, ky) => {
        const path = 'M 0 0 L 40 0 L 40 30 L 0 30 Z';
        const item = {
          ...words,
          kind: 'shape' as const,
          path,
          matrix: [0, kx, -ky, 0, 5, 6] as LetteringItem['matrix'],
          treatments: [ring({ distanceMm: 4 })],
        };
        const [piece] = piecesOf(item, deriveItem(item, shelf, 0));
        const box = bounds(mapOutline(item.matrix, piece?.outline ?? { contours: [] }));
        expect(box.maxX - box.minX).toBeCloseTo(30 * ky + 8, 2);
        expect(box.maxY - box.minY).toBeCloseTo(40 * kx + 8, 2);
      }),
      { numRuns: 20, endOnFailure: true },
    );
  });

  test('a mirrored item has mirrored treatments', () => {
    const shade = newTreatment('shade', 'treatment-s', 50, 'film-b');
    const plain = { ...words, treatments: [shade] };
    const mirrored: LetteringItem = { ...plain, matrix: [-1, 0, 0, 1, 10, 20] };
    const [a, b] = [plain, mirrored].map((item) => piecesOf(item, deriveItem(item, shelf, 0.3))[0]?.outline ?? { contours: [] });
    expect(a).toEqual(b);
    expect(area(a ?? { contours: [] })).toBeGreaterThan(0);
  });

  test('grow with the item when it is sized on the drawing, and stay when the capitals are set by number', () => {
    const drawing = run(drawingWith({ ...words, treatments: [ring({ distanceMm: 4 })] }), transformItems, {
      ids: ['item-w'],
      map: [2, 0, 0, 2, 0, 0],
    });
    expect(lettering(drawing).capHeightMm).toBe(100);
    expect(lettering(drawing).treatments?.[0]).toMatchObject({ distanceMm: 8 });
  });

  test('are part of what names a result, unless they are switched off', () => {
    const on = { ...words, treatments: [ring()] };
    const off = { ...words, treatments: [ring({ on: false })] };
    expect(causeKey(on, 0.3)).not.toBe(causeKey(words, 0.3));
    expect(causeKey(off, 0.3)).toBe(causeKey(words, 0.3));
    expect(causeKey(on, 0.3)).not.toBe(causeKey(on, 0.4));
  });

  test('a film that only a treatment uses is not taken away; a film that is not there is left open when given', () => {
    const drawing = drawingWith({ ...words, treatments: [ring()] });
    expect(removeFilm({ drawing, selection: [] }, { id: 'film-b' }).enabled).toBe(false);
    let n = 0;
    const given = run(drawing, giveTreatments, {
      ids: ['item-w'],
      treatments: [ring({ layer: 'film-gone' })],
      newId: () => `treatment-n${++n}`,
    });
    expect(lettering(given).treatments).toMatchObject([{ id: 'treatment-n1', layer: null }]);
    expect(lettering(run(given, setTreatments, { id: 'item-w', treatments: [] })).treatments).toBeUndefined();
    // a print is a layer like a film
    const printed = run(run(drawing, addFilm, { film: printLayer('print-p') }), giveTreatments, {
      ids: ['item-w'],
      treatments: [ring({ layer: 'print-p' })],
      newId: () => `treatment-n${++n}`,
    });
    expect(lettering(printed).treatments).toMatchObject([{ layer: 'print-p' }]);
  });
});

describe('letters set by hand', () => {
  test('stay with their letters while words are written before, after and over them', () => {
    const item = { ...words, text: 'ABC', tweaks: { 1: { kernMm: 5 } } };
    expect(withText(item, 'xABC').tweaks).toEqual({ 2: { kernMm: 5 } });
    expect(withText(item, 'ABCx').tweaks).toEqual({ 1: { kernMm: 5 } });
    expect(withText(item, 'AC').tweaks).toBeUndefined();
  });

  test('what is as usual is not kept', () => {
    let drawing = run(drawingWith(words), tweakLetter, { id: 'item-w', index: 2, fields: { kernMm: 3, sizePct: 80 } });
    expect(lettering(drawing).tweaks).toEqual({ 2: { kernMm: 3, sizePct: 80 } });
    drawing = run(drawing, tweakLetter, { id: 'item-w', index: 2, fields: { kernMm: 0, sizePct: 100 } });
    expect(lettering(drawing).tweaks).toBeUndefined();
    expect(lettering(run(drawing, writeText, { id: 'item-w', text: 'NEW QUAY' })).name).toBe('NEW QUAY');
  });
});

test('copies carry their treatments, and a dimension line takes its free ends along', () => {
  const drawing = drawingWith({ ...words, treatments: [ring()] });
  const { items } = copyItems(drawing, ['item-w'], () => 'item-copy');
  expect((items[0] as LetteringItem).treatments).toEqual([ring()]);
  const dimension = {
    type: 'item' as const,
    kind: 'dimension' as const,
    id: 'item-d',
    name: 'd',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0] as LetteringItem['matrix'],
    from: { x: 0, y: 0 },
    to: { x: 10, y: 0, item: 'item-w', u: 1, v: 0 },
    measure: 'straight' as const,
    standOffMm: 5,
  };
  const added = run(drawing, addItems, { items: [dimension], roots: ['item-d'] });
  const moved = itemOf(run(added, transformItems, { ids: ['item-d'], map: [1, 0, 0, 1, 7, 8] }), 'item-d');
  expect(moved).toMatchObject({ from: { x: 7, y: 8 }, to: { x: 10, y: 0 } });
});

test('what refers to items that are copied with it refers to their copies; letters without their line keep their way', () => {
  const drawn = { ...newTreatment('bend', 'treatment-b', 20, null), line: 'path' as const, path: 'M0 0L90 0', lineItem: 'item-line' };
  const line: Item = {
    type: 'item',
    kind: 'shape',
    id: 'item-line',
    name: 'Line',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    path: 'M0 0L90 0',
  };
  const dimension: Item = {
    type: 'item',
    kind: 'dimension',
    id: 'item-d',
    name: 'd',
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    from: { x: 0, y: 0, item: 'item-w', u: 0, v: 0 },
    to: { x: 10, y: 0, item: 'item-line', u: 1, v: 0 },
    measure: 'straight',
    standOffMm: 5,
  };
  const letters = { ...words, treatments: [drawn as TreatmentRecord, ring()] };
  const drawing = run(drawingWith(letters), addItems, { items: [line, dimension], roots: [line.id, dimension.id] });
  const copies = (...ids: string[]): Item[] =>
    copyItems(
      drawing,
      ids,
      (
        (n) => () =>
          `item-n${n++}`
      )(0),
    ).items;
  const lineOf = (item: Item | undefined): unknown => (item as LetteringItem).treatments?.[0];
  // as it lies along the line now
  const { path } = lineOf(itemOf(drawing, 'item-w')) as { path: string };
  const [word, way, measured] = copies('item-w', 'item-line', 'item-d');
  expect(lineOf(word)).toMatchObject({ lineItem: way?.id, path });
  expect(measured).toMatchObject({ from: { item: word?.id }, to: { item: way?.id } });
  const [alone] = copies('item-w');
  expect(lineOf(alone)).toMatchObject({ path });
  expect(lineOf(alone)).not.toHaveProperty('lineItem');
  expect(copies('item-w', 'item-d')[1]).toMatchObject({ from: { item: 'item-n0' }, to: { item: 'item-line' } });
});
