/**
 * Stock as a list, out and in: one row a roll, a film without rolls one row. CSV after RFC 4180 with a header; what is read
 * may name its columns in any order, and leave out what it does not change.
 */
import type { List } from '@lorvek/core/series';
import { z } from 'zod';
import { newStockFilmSchema, type StockFilm } from '../api/shop.ts';

/** Columns by what they are called. */
export const STOCK_COLUMNS = [
  'series',
  'name',
  'colour',
  'kind',
  'price per metre',
  'smallest part mm',
  'thinnest mm',
  'reorder m',
  'width mm',
  'length m',
  'offcut',
] as const;
type Column = (typeof STOCK_COLUMNS)[number];

const KINDS = ['film', 'transfer film', 'print white', 'print clear', 'print paper', 'print transfer'] as const;

const kindOf = ({ transfer, medium }: Pick<StockFilm, 'transfer' | 'medium'>): (typeof KINDS)[number] =>
  medium ? `print ${medium}` : transfer ? 'transfer film' : 'film';

/** Text that a spreadsheet would take for a formula is marked as text. */
const cell = (value: string | number): string => {
  const text = typeof value === 'number' ? String(Math.round(value * 1000) / 1000) : /^[=+\-@\t]/.test(value) ? `'${value}` : value;
  return /[",\r\n;]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};

/** @returns CSV, the header first, lines ended by CR LF */
export function writeStockList(stock: readonly StockFilm[]): string {
  const rows = stock.flatMap((film) => {
    const own = [
      film.series,
      film.name,
      film.hex,
      kindOf(film),
      film.pricePerMetre,
      film.smallestPartMm,
      film.thinnestMm,
      film.reorderMm === null || film.reorderMm === undefined ? '' : film.reorderMm / 1000,
    ];
    const rolls = film.rolls.map(({ widthMm, lengthLeftMm, isOffcut }) => [widthMm, lengthLeftMm / 1000, isOffcut ? 'yes' : '']);
    return (rolls.length > 0 ? rolls : [['', '', '']]).map((roll) => [...own, ...roll]);
  });
  return [[...STOCK_COLUMNS], ...rows].map((row) => `${row.map(cell).join()}\r\n`).join('');
}

/** A row that was read: a film, and a roll of it when the row has one. */
export interface StockRow {
  /** In the file, the header being the first. */
  readonly row: number;
  readonly series: string;
  readonly name: string;
  readonly hex?: string;
  readonly transfer?: boolean;
  readonly medium?: StockFilm['medium'];
  readonly pricePerMetre?: number;
  readonly smallestPartMm?: number;
  readonly thinnestMm?: number;
  readonly reorderMm?: number;
  readonly roll?: { readonly widthMm: number; readonly lengthLeftMm: number; readonly isOffcut: boolean };
}

const number = z
  .string()
  .trim()
  .transform((text) => (text === '' ? undefined : Number(text.replace(',', '.'))))
  .pipe(z.number('a number').min(0, 'a number of 0 or more').optional());
const rowSchema = z.object({
  series: newStockFilmSchema.shape.series,
  name: newStockFilmSchema.shape.name,
  colour: z.union([z.literal('').transform(() => undefined), newStockFilmSchema.shape.hex]).optional(),
  kind: z.union([z.literal('').transform(() => undefined), z.enum(KINDS, `one of: ${KINDS.join(', ')}`)]).optional(),
  'price per metre': number.optional(),
  'smallest part mm': number.optional(),
  'thinnest mm': number.optional(),
  'reorder m': number.optional(),
  'width mm': number.optional(),
  'length m': number.optional(),
  offcut: z
    .string()
    .transform((text) => /^(yes|y|true|1|x)$/i.test(text.trim()))
    .optional(),
});

/** What a spreadsheet was told to take as text is that text. */
const plain = (text: string): string => text.trim().replace(/^'(?=[=+\-@\t])/, '');

/** What is given under another name; nothing of what is not. */
const given = <K extends string, V>(key: K, value: V | undefined): { [name in K]?: V } =>
  (value === undefined ? {} : { [key]: value }) as { [name in K]?: V };

/** A row that was read, as Stock has it. @returns words where it cannot be one */
function rowOf(row: number, read: z.output<typeof rowSchema>): StockRow | string {
  const { series, name, colour, kind, offcut = false, 'width mm': widthMm, 'length m': metres, 'reorder m': reorder } = read;
  if ((widthMm === undefined) !== (metres === undefined)) return 'A roll needs a width and a length.';
  if (widthMm !== undefined && (widthMm < 10 || widthMm > 10_000)) return 'width mm: from 10 to 10 000';
  return {
    row,
    series,
    name,
    ...given('hex', colour),
    ...(kind === undefined ? {} : { transfer: kind === 'transfer film', medium: mediumOf(kind) }),
    ...given('pricePerMetre', read['price per metre']),
    ...given('smallestPartMm', read['smallest part mm']),
    ...given('thinnestMm', read['thinnest mm']),
    ...given('reorderMm', reorder && 1000 * reorder),
    ...(widthMm === undefined || metres === undefined
      ? {}
      : { roll: { widthMm, lengthLeftMm: Math.round(1e6 * metres) / 1e3, isOffcut: offcut } }),
  };
}

/** @returns the rows that say something, and those that cannot be read with why */
export function readStockRows(list: Pick<List, 'header' | 'rows'>): { rows: StockRow[]; wrong: { row: number; text: string }[] } {
  const [first, ...rest] = list.header ? [list.header, ...list.rows] : list.rows;
  const columns = (first ?? []).map((name) => STOCK_COLUMNS.find((column) => column === name.trim().toLowerCase()));
  const missing = (['series', 'name'] as const).filter((column) => !columns.includes(column));
  if (missing.length > 0) return { rows: [], wrong: [{ row: 1, text: `There is no column “${missing.join('” and no column “')}”.` }] };
  const rows: StockRow[] = [];
  const wrong: { row: number; text: string }[] = [];
  rest.forEach((cells, i) => {
    const row = i + 2;
    const fields = Object.fromEntries(
      columns.flatMap((column, k): [Column, string][] => (column ? [[column, plain(cells[k] ?? '')]] : [])),
    );
    const read = rowSchema.safeParse(fields);
    if (!read.success) {
      const [issue] = read.error.issues;
      wrong.push({ row, text: `${String(issue?.path[0] ?? 'row')}: ${issue?.message ?? 'not readable'}` });
      return;
    }
    const told = rowOf(row, read.data);
    if (typeof told === 'string') wrong.push({ row, text: told });
    else rows.push(told);
  });
  return { rows, wrong };
}

const mediumOf = (kind: (typeof KINDS)[number]): StockFilm['medium'] =>
  kind.startsWith('print ') ? (kind.slice('print '.length) as NonNullable<StockFilm['medium']>) : null;
