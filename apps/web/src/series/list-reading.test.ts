/** A customer's list as it is shown before it is taken: names of its columns, what is wrong, what it would change. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { MOST_ROWS } from '@lorvek/model';
import { workHere } from '../worker/worker.support.ts';
import type * as ListReading from './list-reading.ts';

workHere();
let reading: typeof ListReading;
beforeAll(async () => {
  reading = await import('./list-reading.ts');
});
const source = (text: string, fileName = 'boats.csv'): ListReading.Source => ({ bytes: new TextEncoder().encode(text), fileName });

describe('a list', () => {
  test('is read with what was found of it; what is overruled counts', async () => {
    const text = 'Boat;Berth\nGull;7\nTern;8\n';
    const found = await reading.readSource(source(text), {});
    expect(found).toMatchObject({
      problem: undefined,
      list: {
        separator: ';',
        header: ['Boat', 'Berth'],
        rows: [
          ['Gull', '7'],
          ['Tern', '8'],
        ],
      },
    });
    const overruled = await reading.readSource(source(text), { header: false, separator: ',' });
    expect(overruled.list?.header).toBeNull();
    expect(overruled.list?.rows).toEqual([['Boat;Berth'], ['Gull;7'], ['Tern;8']]);
    expect(overruled.as).toEqual({ header: false, separator: ',' });
  });

  test('with nothing in it, with too many rows, or that is none: each has its sentence, and what was asked is kept', async () => {
    expect((await reading.readSource(source('Boat;Berth\n'), { header: true })).problem).toBe('There is nothing below the header.');
    const long = await reading.readSource(source('Gull\n'.repeat(MOST_ROWS + 1)), { header: false });
    expect(long.problem).toMatch(new RegExp(`${MOST_ROWS + 1} rows; a series takes ${MOST_ROWS}`));
    const png = await reading.readSource(
      { bytes: Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10), fileName: 'list.csv' },
      { header: true },
    );
    expect(png).toMatchObject({ list: undefined, as: { header: true } });
    expect(png.problem).toMatch(/a picture, not a list/);
  });

  test('of a newer one is told what is new, changed and gone; of a first one nothing', async () => {
    const before = reading.rowsOfList((await reading.readSource(source('Boat;Berth\nGull;7\nTern;8\n'), {})).list!, 'a.csv');
    const after = reading.rowsOfList((await reading.readSource(source('Boat;Berth\nTern;9\nSkua;1\n'), {})).list!, 'b.csv');
    expect(reading.changeOf(null, after)).toBeUndefined();
    expect(reading.changeOf(before, before)).toMatchObject({ changed: [], added: [], gone: [] });
    expect(reading.changeOf(before, after)).toMatchObject({ changed: [0], added: [1], gone: [0] });
  });
});

describe('names of columns', () => {
  const header = fc.option(
    fc.array(fc.constantFrom('Boat', 'boat', ' Boat ', '', '{Boat}', 'Boat 2', 'Column 2', 'a  b'), { maxLength: 6 }),
    { nil: null },
  );
  const rows = fc.array(fc.array(fc.constantFrom('', 'x'), { maxLength: 8 }), { minLength: 1, maxLength: 4 });

  test('are as many as the widest row, none empty, none twice in any case, none with braces', () => {
    fc.assert(
      fc.property(header, rows, (names, cells) => {
        const columns = reading.columnNames({ header: names, rows: cells, warnings: [] });
        expect(columns).toHaveLength(cells.reduce((most, row) => Math.max(most, row.length), names?.length ?? 1));
        expect(new Set(columns.map((name) => name.toLowerCase())).size).toBe(columns.length);
        for (const name of columns) expect([name !== '', /[{}]|\s\s/.test(name), name.trim() === name]).toEqual([true, false, true]);
      }),
    );
  });

  test('the first of a name keeps it', () => {
    expect(reading.columnNames({ header: ['Boat', 'boat', ''], rows: [['a', 'b', 'c', 'd']], warnings: [] })).toEqual([
      'Boat',
      'boat 2',
      'Column 3',
      'Column 4',
    ]);
  });

  test('a warning is shown without its code', () => {
    expect(reading.plainWarning('hidden: 2 rows are left out')).toBe('2 rows are left out');
    expect(reading.plainWarning('Nothing to take off: here')).toBe('Nothing to take off: here');
  });
});
