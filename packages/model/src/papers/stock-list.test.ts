import { describe, expect, test } from '@jest/globals';
import { readList } from '@lorvek/core/series';
import fc from 'fast-check';
import type { StockFilm } from '../api/shop.ts';
import { readStockRows, writeStockList } from './stock-list.ts';

const word = fc
  .array(fc.constantFrom(...'aZé日ß7', ' ', ',', ';', '"', '=', "'", '-', '+', '@'), { minLength: 1, maxLength: 12 })
  .map((letters) => letters.join('').trim())
  .filter((text) => text !== '' && !text.startsWith("'"));
const anyFilm: fc.Arbitrary<StockFilm> = fc
  .record({
    series: word,
    name: word,
    hex: fc.constantFrom('#0f5e66', '#ffffff'),
    kind: fc.constantFrom(
      { transfer: false, medium: null },
      { transfer: true, medium: null },
      { transfer: false, medium: 'clear' as const },
    ),
    price: fc.integer({ min: 0, max: 9999 }),
    reorder: fc.option(fc.integer({ min: 0, max: 90 })),
    rolls: fc.array(
      fc.record({ width: fc.integer({ min: 10, max: 1600 }), length: fc.integer({ min: 0, max: 50_000 }), off: fc.boolean() }),
      { maxLength: 3 },
    ),
  })
  .map(({ series, name, hex, kind, price, reorder, rolls }): StockFilm => ({
    id: 'f',
    series,
    name,
    hex,
    ...kind,
    pricePerMetre: price / 100,
    press: null,
    smallestPartMm: 2,
    thinnestMm: 0.8,
    reorderMm: reorder === null ? null : 1000 * reorder,
    rolls: rolls.map(({ width, length, off }, i) => ({ id: `r${i}`, filmId: 'f', widthMm: width, lengthLeftMm: length, isOffcut: off })),
  }));

describe('stock as a list', () => {
  test('what is written is read back, whatever the names are', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(anyFilm, { minLength: 1, maxLength: 6 }), async (stock) => {
        const csv = writeStockList(stock);
        const { rows, wrong } = readStockRows(
          await readList(new TextEncoder().encode(csv), 'stock.csv', { header: true, separator: ',', encoding: 'utf-8' }),
        );
        expect(wrong).toEqual([]);
        const wanted = stock.flatMap((film) => (film.rolls.length > 0 ? film.rolls : [undefined]).map((roll) => ({ film, roll })));
        expect(rows).toHaveLength(wanted.length);
        rows.forEach((row, i) => {
          const { film, roll } = wanted[i]!;
          expect(row).toMatchObject({
            series: film.series,
            name: film.name,
            hex: film.hex,
            transfer: film.transfer,
            medium: film.medium,
            pricePerMetre: film.pricePerMetre,
          });
          expect(row.reorderMm).toBe(film.reorderMm ?? undefined);
          expect(row.roll).toEqual(roll && { widthMm: roll.widthMm, lengthLeftMm: roll.lengthLeftMm, isOffcut: roll.isOffcut });
        });
      }),
      { numRuns: 80, seed: 12 },
    );
  });

  test('a spreadsheet finds no formula in it', () => {
    const film = { ...fc.sample(anyFilm, 1)[0]!, series: '=1+1', name: '@SUM(A1)', rolls: [] };
    for (const line of writeStockList([film]).trim().split('\r\n').slice(1)) expect(line).not.toMatch(/(^|,)"?[=@+]/);
  });

  test('rows that cannot be read are named with why; columns may be missing and in any order', async () => {
    const read = async (text: string) => readStockRows(await readList(new TextEncoder().encode(text), 's.csv', { header: true }));
    expect((await read('colour,price\n#fff,3\n')).wrong[0]).toEqual({ row: 1, text: 'There is no column “series” and no column “name”.' });
    const { rows, wrong } = await read(
      'Name;Series;Width mm;Length m;Price per metre\nTeal;Break;610;12,5;8,90\n;Break;610;1;1\nRed;Break;610;;1\nBlue;Break;5;5;1\nGrey;Break;;;many\n',
    );
    expect(rows).toEqual([
      { row: 2, series: 'Break', name: 'Teal', pricePerMetre: 8.9, roll: { widthMm: 610, lengthLeftMm: 12_500, isOffcut: false } },
    ]);
    expect(wrong.map(({ row }) => row)).toEqual([3, 4, 5, 6]);
    expect(wrong[3]?.text).toMatch(/^price per metre: a number/);
  });
});
