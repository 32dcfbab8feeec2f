import { beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { bounds, mapOutline } from '@lorvek/core/geometry';
import { joinFonts, loadFont } from '@lorvek/core/lettering';
import { film, printLayer, run, stockOf, words } from '../drawing.support.ts';
import {
  addEdgeCut,
  addFilm,
  addItems,
  compareLists,
  correctCell,
  emptyDrawing,
  layAllRows,
  newField,
  newSeries,
  removeItems,
  rowsOf,
  seriesOf,
  setField,
  setLayUp,
  setRowCopies,
  setRowsOn,
  setSeries,
  stopsOf,
  takeList,
  USUAL_PANELS,
  withList,
  writtenOf,
  type BoxItem,
  type Drawing,
  type Field,
  type ReadRows,
  type Series,
} from '../index.ts';
import type { Derived } from '../queries/derive.ts';
import { knownIn } from '../queries/know.ts';
import { checkJob, type CheckedJob } from './check-job.ts';
import { boxOfPlaced, sheetLengthFor } from './lay-places.ts';
import { rowOfPart } from './series-parts.ts';

const anton = joinFonts([loadFont(readFileSync('assets/fonts/anton-latin-400-normal.woff'))]);
const kept = new Map<string, Derived>();

const stock = ['film-a', 'film-b', 'print-p'].map((id) => stockOf(id, { widthMm: 600, lengthLeftMm: 50_000 }));

const list = (columns: string[], ...rows: string[][]): ReadRows => ({ fileName: 'boats.csv', columns, rows });
const plate: BoxItem = {
  type: 'item',
  kind: 'box',
  id: 'item-plate',
  name: 'Plate',
  layer: 'film-a',
  matrix: [1, 0, 0, 1, 100, 100],
  widthMm: 200,
  heightMm: 60,
  cornerMm: 5,
};

/** A plate of one film and words of another on it, in the middle. */
function draw(field: Partial<Field> = {}, layer = 'film-b'): Drawing {
  let drawing = emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 1000, heightMm: 500 });
  for (const id of ['film-a', 'film-b']) drawing = run(drawing, addFilm, { film: { ...film(id), name: id } });
  const text = { ...words('item-name', layer, [1, 0, 0, 1, 200, 120], 20), align: 'centre' as const, text: 'Marigold' };
  drawing = run(drawing, addItems, { items: [plate, text], roots: ['item-plate', 'item-name'] });
  drawing = run(drawing, takeList, { list: list(['Boat', 'Berth'], ['Tern', '4'], ['Sandpiper of the Bay', '5'], ['Knot', '6']) });
  return run(drawing, setField, { item: 'item-name', field: { ...newField('item-name', '{Boat}'), ...field } });
}
const check = (drawing: Drawing): CheckedJob =>
  checkJob(
    drawing,
    stock,
    knownIn(drawing, (id) => (id === 'anton' ? anton : undefined), kept),
    'job-x',
  );
const codes = ({ whole }: CheckedJob): string[] => whole.map(({ code }) => code);
const widthOn = (checked: CheckedJob, row: number): number => {
  const part = checked.sheets
    .flatMap(({ parts }) => parts)
    .find(({ id, sources }) => id === `row-${row}` && sources[0]?.id === 'item-name');
  const box = bounds(part!.sources[0]!.outline);
  return box.maxX - box.minX;
};
const rowsLaid = (checked: CheckedJob, layer: string): (number | undefined)[] =>
  checked.sheets.filter((sheet) => sheet.layer.id === layer).flatMap(({ placements }) => placements.map(({ part }) => rowOfPart(part)));

beforeEach(() => kept.clear());

describe('rows', () => {
  const series = (fields: Partial<Series>): Series => ({ ...newSeries(), ...fields });
  const counter = { start: 8, step: 1, padding: 2, prefix: 'B', suffix: '', letters: false, reverse: false, skip: [] };

  test('a counter counts the rows that are on, and leaves out what it is told to', () => {
    const own = series({ count: 5, off: [1], counter: { ...counter, skip: ['9'] } });
    expect(rowsOf(own).map((row) => row.counter)).toEqual(['B08', '', 'B10', 'B11', 'B12']);
  });

  test('patterns mix columns and the counter; names are found whatever their case', () => {
    const own = series({ list: list(['Boat'], ['Tern']), counter });
    expect(writtenOf('Berth {n} · {boat} {x}', own, rowsOf(own)[0]!)).toEqual({ text: 'Berth B08 · Tern {x}', unknown: ['x'], empty: [] });
  });

  test('a correction shows in its row and stays when the list is read again in another order', () => {
    let drawing = run(draw(), correctCell, { row: 2, column: 0, text: 'Red Knot' });
    drawing = run(drawing, setRowsOn, { rows: [0], on: false });
    drawing = run(drawing, setRowCopies, { row: 1, copies: 3 });
    drawing = run(drawing, takeList, {
      list: list(['Berth', 'Boat'], ['6', 'Knot'], ['5', 'Sandpiper of the Bay'], ['7', 'Dunlin'], ['4', 'Tern']),
    });
    const rows = rowsOf(seriesOf(drawing)!);
    expect(rows.map(({ cells }) => cells[1])).toEqual(['Red Knot', 'Sandpiper of the Bay', 'Dunlin', 'Tern']);
    expect(rows.map(({ isOn }) => isOn)).toEqual([true, true, true, false]);
    expect(rows.map(({ copies }) => copies)).toEqual([1, 3, 1, 1]);
  });

  test('the list’s own value takes a correction back', () => {
    let drawing = run(draw(), correctCell, { row: 0, column: 0, text: 'Arctic Tern' });
    drawing = run(drawing, correctCell, { row: 0, column: 0, text: 'Tern' });
    expect(seriesOf(drawing)!.corrections).toEqual({});
  });

  const cell = fc.constantFrom('Tern', 'Knot', 'Dunlin', 'Ruff', '');
  const rowsByLot = fc.array(fc.tuple(cell, fc.constantFrom('1', '2', '3')), { minLength: 1, maxLength: 12 });
  test('every row of a newer list is new or one of the old, and every old one is found or gone', () => {
    fc.assert(
      fc.property(rowsByLot, rowsByLot, (before, after) => {
        const change = compareLists(list(['a', 'b'], ...before), list(['a', 'b'], ...after));
        const found = change.from.flatMap((old) => (old === undefined ? [] : [old]));
        expect(new Set(found).size).toBe(found.length);
        expect([...found, ...change.gone].sort((a, b) => a - b)).toEqual(before.map((_, i) => i));
        // what is alike in every cell is never said to have changed
        for (const i of change.changed) expect(before[change.from[i]!]).not.toEqual(after[i]);
      }),
    );
  });

  test('the same list again changes nothing', () => {
    fc.assert(
      fc.property(rowsByLot, fc.array(fc.nat(11), { maxLength: 4 }), (rows, off) => {
        const own = series({
          list: list(['a', 'b'], ...rows),
          off: [...new Set(off.filter((i) => i < rows.length))].sort((a, b) => a - b),
          copies: { 0: 2 },
        });
        expect(withList(own, list(['a', 'b'], ...rows))).toEqual(own);
      }),
    );
  });
});

describe('sheets of a series', () => {
  test('every row lies once on every film, in the order of the list', () => {
    const checked = check(draw());
    expect(rowsLaid(checked, 'film-a')).toEqual([0, 1, 2]);
    expect(rowsLaid(checked, 'film-b')).toEqual([0, 1, 2]);
    expect(stopsOf(checked)).toEqual([]);
  });

  test('as many sheets as the length needs, and the length for so many on each', () => {
    let drawing = draw({ pattern: '{n}' });
    drawing = run(drawing, setSeries, { fields: { list: null, count: 11, counter: null } });
    const grid = check(drawing).sheets.find(({ layer }) => layer.id === 'film-a')!.filled.series!;
    expect(grid.perRow).toBe(7);
    drawing = run(drawing, setLayUp, { film: 'film-a', fields: { sheetLengthMm: sheetLengthFor(grid, 7) } });
    const sheets = check(drawing).sheets.filter(({ layer }) => layer.id === 'film-a');
    expect(sheets.map(({ placements }) => placements.length)).toEqual([7, 4]);
    // a hair shorter, and not one goes on it
    drawing = run(drawing, setLayUp, { film: 'film-a', fields: { sheetLengthMm: sheetLengthFor(grid, 7) - 0.3 } });
    expect(check(drawing).sheets.flatMap(({ findings }) => findings.map(({ code }) => code))).toContain('no-place');
  });

  test.each(['smaller', 'narrower'] as const)('a long name is made %s until it goes into its place', (long) => {
    const room = 60;
    const plain = check(draw({ long: 'as-is', widthMm: room }));
    expect(codes(plain)).toContain('row-too-long');
    expect(widthOn(plain, 2)).toBeGreaterThan(room + 20);
    const fitted = check(draw({ long, leastPct: 20, widthMm: room }));
    expect(codes(fitted)).not.toContain('row-too-long');
    expect(widthOn(fitted, 2)).toBeLessThanOrEqual(room + 0.02);
    expect(widthOn(fitted, 2)).toBeGreaterThan(room - 0.1);
    // a short one stays as it is
    expect(widthOn(fitted, 1)).toBeCloseTo(widthOn(plain, 1), 6);
    expect(codes(check(draw({ long, leastPct: 90, widthMm: room })))).toContain('row-too-long');
  });

  test('a long name in two lines keeps its middle', () => {
    const middle = (checked: CheckedJob): { x: number; y: number } => {
      const part = checked.sheets.find(({ layer }) => layer.id === 'film-b')!.parts[1]!;
      const { minX, maxX, minY, maxY } = bounds(part.sources[0]!.outline);
      return { x: (minX + maxX) / 2, y: (minY + maxY) / 2 };
    };
    const one = middle(check(draw({ long: 'as-is' })));
    const two = middle(check(draw({ long: 'two-lines' })));
    expect(two.x).toBeCloseTo(one.x, 1);
    expect(Math.abs(two.y - one.y)).toBeLessThan(4);
  });

  test('empty cells, doubled rows and letters that a font lacks are named by their row', () => {
    let drawing = draw();
    drawing = run(drawing, takeList, { list: list(['Boat'], ['Tern'], [''], ['Łódź'], ['Tern']) });
    const checked = check(drawing);
    expect(checked.whole.map(({ code, text }) => [code, /[Rr]ow (\d+)/.exec(text)?.[1]])).toEqual(
      expect.arrayContaining([
        ['row-empty', '2'],
        ['row-letters', '3'],
        ['row-doubled', '4'],
      ]),
    );
    expect(stopsOf(checked).map(({ code }) => code)).toEqual(['row-letters']);
  });

  test('a column that is gone stops; a field whose lettering was deleted is told and stops nothing', () => {
    const gone = run(draw(), takeList, { list: list(['Ship'], ['Tern']) });
    expect(stopsOf(check(gone)).map(({ code }) => code)).toEqual(['column-gone']);
    const deleted = run(draw(), removeItems, { ids: ['item-name'] });
    expect(codes(check(deleted))).toContain('field-gone');
    expect(stopsOf(check(deleted))).toEqual([]);
    expect(rowsLaid(check(deleted), 'film-a')).toEqual([0, 1, 2]);
  });

  test('nothing is left out without a word: no row on, a counter that stands still, too many pieces', () => {
    const none = run(draw(), setRowsOn, { rows: [0, 1, 2], on: false });
    const still = run(draw({ pattern: '{n}' }), setSeries, {
      fields: { counter: { start: 1, step: 0, padding: 0, prefix: '', suffix: '', letters: false, reverse: false, skip: ['1'] } },
    });
    const many = run(draw(), setRowCopies, { row: 0, copies: 2000 });
    for (const drawing of [none, still, many]) expect(stopsOf(check(drawing)).map(({ code }) => code)).toEqual(['series']);
  });

  test('single rows are made again alone, then all', () => {
    const only = run(draw(), setSeries, { fields: { only: [1] } });
    expect(rowsLaid(check(only), 'film-a')).toEqual([1]);
    expect(rowsLaid(check(run(only, layAllRows, {})), 'film-a')).toEqual([0, 1, 2]);
  });

  test('a series is not divided into panels without a word', () => {
    const drawing = run(draw(), setLayUp, { film: 'film-b', fields: { fill: USUAL_PANELS } });
    expect(stopsOf(check(drawing)).map(({ code, text }) => [code, text.includes('series')])).toContainEqual(['panels', true]);
  });

  test('a row costs what differs in it alone: what is the same is worked out once', () => {
    check(draw({ long: 'as-is' }));
    const letterings = [...kept.keys()].filter((key) => key.startsWith('["l"'));
    // the sample and three rows; the plate, and nothing else
    expect(letterings).toHaveLength(4);
    expect(kept.size).toBe(5);
  });

  test('how far it is is told from row to row and sheet to sheet, never backward', () => {
    const shares: number[] = [];
    const drawing = run(draw(), setLayUp, { film: 'film-b', fields: { sheetLengthMm: 260 } });
    checkJob(
      drawing,
      stock,
      knownIn(drawing, (id) => (id === 'anton' ? anton : undefined), kept),
      'job-x',
      { onShare: (share) => shares.push(share) },
    );
    expect(shares.length).toBeGreaterThan(8);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares[0]).toBe(0);
    expect(shares.at(-1)).toBeLessThan(1);
  });

  test('an edge cut goes round the words of each row at its distance', () => {
    let drawing = draw({ long: 'as-is' });
    drawing = run(drawing, addFilm, { film: printLayer('print-p') });
    drawing = { ...drawing, 'item-name': { ...(drawing['item-name'] as BoxItem), layer: 'print-p' } };
    drawing = run(drawing, addEdgeCut, { id: 'item-cut', of: ['item-name'], fields: { shape: 'box', distanceMm: 3 } });
    const sheet = check(drawing).sheets.find(({ layer }) => layer.id === 'print-p')!;
    expect(sheet.placements).toHaveLength(3);
    for (const { part, map } of sheet.placements) {
      const own = sheet.parts.find(({ id }) => id === part)!;
      const art = bounds(mapOutline(map, own.sources.find(({ id }) => id === 'item-name')!.outline));
      expect(boxOfPlaced(own, map).minX).toBeCloseTo(art.minX - 3, 2);
      expect(boxOfPlaced(own, map).maxX).toBeCloseTo(art.maxX + 3, 2);
    }
  });

  test('cut lines are looked at row by row: a name that runs into what stands beside it is named by its rows, on their sheet', () => {
    let drawing = draw({ long: 'as-is' });
    drawing = run(drawing, addFilm, { film: printLayer('print-p') });
    const beside: BoxItem = { ...plate, id: 'item-beside', name: 'Anchor', layer: 'print-p', widthMm: 30, heightMm: 20, cornerMm: 0 };
    drawing = run(drawing, addItems, { items: [{ ...beside, matrix: [1, 0, 0, 1, 250, 118] }], roots: ['item-beside'] });
    drawing = { ...drawing, 'item-name': { ...(drawing['item-name'] as BoxItem), layer: 'print-p' } };
    drawing = run(drawing, addEdgeCut, { id: 'item-cut', of: ['item-name'], fields: { shape: 'box', distanceMm: 3 } });
    drawing = run(drawing, takeList, {
      list: list(['Boat', 'Berth'], ['Tern', '4'], ['Sandpiper', '5'], ['Knot', '6'], ['Sanderling', '7']),
    });
    const into = (of: Drawing) =>
      check(of).sheets.flatMap(({ number, findings }) =>
        findings
          .filter(({ code }) => code === 'edge-into-art')
          .map(({ text, row, box }) => ({ number, text, row, isOn: box !== undefined })),
      );
    const [first, ...more] = into(drawing);
    expect(more).toEqual([]);
    expect(first).toMatchObject({ row: 1, isOn: true });
    expect(first!.text).toMatch(/^Rows 2 and 4: “.*” runs through “Anchor”/);
    // the sample is not cut: what is wrong with it alone is no remark
    const short = run(drawing, takeList, { list: list(['Boat', 'Berth'], ['Tern', '4']) });
    expect(into(short)).toEqual([]);
  });

  test('pieces keep clear of one another, however long their names are', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('Tern', 'Sandpiper of the Bay', 'Knot', 'Oystercatcher'), { minLength: 2, maxLength: 9 }),
        (names) => {
          const drawing = run(run(draw({ long: 'as-is' }), takeList, { list: list(['Boat'], ...names.map((name) => [name])) }), setLayUp, {
            film: 'film-b',
            fields: { sheetLengthMm: 400, weedBoxMm: null, fill: { kind: 'as-drawn', copies: 1, gapMm: 4, alongMm: 0, acrossMm: 0 } },
          });
          const sheets = check(drawing).sheets.filter(({ layer }) => layer.id === 'film-b');
          expect(sheets.flatMap(({ placements }) => placements.map(({ part }) => rowOfPart(part)))).toEqual(names.map((_, i) => i));
          for (const sheet of sheets) {
            const boxes = sheet.placements.map(({ part, map }) =>
              boxOfPlaced(
                sheet.parts.find(({ id }) => id === part)!,
                map,
              ),
            );
            for (const [i, a] of boxes.entries())
              for (const b of boxes.slice(i + 1))
                expect(Math.max(b.minX - a.maxX, a.minX - b.maxX, b.minY - a.maxY, a.minY - b.maxY)).toBeGreaterThan(4 - 0.03);
          }
        },
      ),
      { numRuns: 12 },
    );
  });
});
