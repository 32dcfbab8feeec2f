/**
 * Text with separators to rows of cells (after RFC 4180, and what is found beside it): CR, LF and CRLF end a row, in one
 * file too; quotes open at the start of a cell and only when they are closed before a separator or the end of a row,
 * otherwise they are letters. The separator is the steadiest: the one that gives the same number of cells in most rows.
 * Cells are never interpreted.
 */
import { LimitError } from '../errors/index.ts';

export const SEPARATORS = [',', ';', '\t', '|'] as const;
export type Separator = (typeof SEPARATORS)[number];

export const MOST_ROWS = 200_000;
export const MOST_COLUMNS = 16_384;
/** The longest cell that is read. */
export const LONGEST_CELL = 4_000_000;
/** Cells of all rows together. */
export const MOST_CELLS = 10_000_000;
const SAMPLE_ROWS = 3000;
const SAMPLE_LETTERS = 2_000_000;

interface Shape {
  /** None: every row is one cell. */
  readonly separator: Separator | undefined;
  /** Quoted cells may hold ends of rows. */
  readonly longQuotes: boolean;
  readonly mostRows: number;
}

const ends = (text: string, at: number): boolean => at >= text.length || text[at] === '\n' || text[at] === '\r';

/** Where the quoted cell that opens at `open` is closed; -1 when those quotes are letters. */
function closing(text: string, open: number, shape: Shape): number {
  let at = open + 1;
  for (;;) {
    const quote = text.indexOf('"', at);
    if (quote < 0) return -1;
    if (text[quote + 1] === '"') {
      at = quote + 2;
      continue;
    }
    const closes = ends(text, quote + 1) || text[quote + 1] === shape.separator;
    if (!closes || (!shape.longQuotes && /[\r\n]/.test(text.slice(open, quote)))) return -1;
    return quote;
  }
}

/** End of a cell without quotes. */
function plainEnd(text: string, from: number, separator: Separator | undefined): number {
  let at = from;
  while (at < text.length) {
    const c = text[at];
    if (c === '\n' || c === '\r' || c === separator) break;
    at++;
  }
  return at;
}

/** @throws LimitError `limit.too-large`, `limit.too-wide`, `limit.too-long` */
function splitRows(text: string, shape: Shape): string[][] {
  const rows: string[][] = [];
  let row: string[] = [];
  let [at, cells] = [0, 0];
  while (at <= text.length && rows.length < shape.mostRows) {
    const close = text[at] === '"' ? closing(text, at, shape) : -1;
    const end = close < 0 ? plainEnd(text, at, shape.separator) : close + 1;
    const cell = close < 0 ? text.slice(at, end) : text.slice(at + 1, close).replaceAll('""', '"');
    if (cell.length > LONGEST_CELL) throw new LimitError('too-long', `A cell of the list has ${cell.length} letters.`);
    row.push(cell);
    if (++cells > MOST_CELLS) throw new LimitError('too-large', `The list has more than ${MOST_CELLS} cells.`);
    if (row.length > MOST_COLUMNS) throw new LimitError('too-wide', `The list has more than ${MOST_COLUMNS} columns.`);
    if (end < text.length && text[end] === shape.separator) {
      at = end + 1;
      continue;
    }
    rows.push(row);
    row = [];
    at = end + (text[end] === '\r' && text[end + 1] === '\n' ? 2 : 1);
  }
  return rows;
}

/**
 * Nothing to be seen: white space, zero-width and joining characters only.
 * @returns true for an empty cell
 */
export const isBlank = (cell: string): boolean => /^[\s\u00ad\u200b-\u200f\u2060\ufeff]*$/.test(cell);
const isBlankRow = (row: readonly string[]): boolean => row.every(isBlank);

interface Candidate {
  readonly separator: Separator;
  /** Share of the rows that have the commonest number of cells. */
  readonly steady: number;
  /** Share of the separators that stand between digits, as decimal signs do. */
  readonly decimal: number;
}

function look(sample: string, separator: Separator): Candidate | undefined {
  const rows = splitRows(sample, { separator, longQuotes: true, mostRows: SAMPLE_ROWS }).filter((row) => !isBlankRow(row));
  const wide = rows.filter((row) => row.length > 1);
  if (wide.length * 2 <= rows.length) return undefined;
  const counts = new Map<number, number>();
  for (const row of wide) counts.set(row.length, (counts.get(row.length) ?? 0) + 1);
  const joins = wide.flatMap((row) => row.slice(1).map((cell, i) => /\d$/.test(row[i] ?? '') && /^\d/.test(cell)));
  return {
    separator,
    steady: Math.max(...counts.values()) / rows.length,
    decimal: joins.filter(Boolean).length / Math.max(1, joins.length),
  };
}

/** How much steadier commas between digits must be than another separator that splits no decimals. */
const CLEARLY = 0.25;

/** @returns the separator that a text has; undefined for one cell a row */
export function findSeparator(text: string): Separator | undefined {
  let sample = text;
  if (text.length > SAMPLE_LETTERS) sample = text.slice(0, SAMPLE_LETTERS);
  const found = SEPARATORS.flatMap((separator) => look(sample, separator) ?? []);
  const worth = (c: Candidate): number => c.steady - (c.separator === ',' && c.decimal > 0.6 ? CLEARLY : 0);
  return found.reduce<Candidate | undefined>((a, b) => (a && worth(a) >= worth(b) ? a : b), undefined)?.separator;
}

/**
 * @param lines the file is meant as lines of text, so quotes that are open at the end of a line are letters
 * @returns the rows with something in them
 * @throws LimitError `limit.too-large`, `limit.too-wide`, `limit.too-long`
 */
export function readSeparated(text: string, separator: Separator | undefined, lines: boolean): string[][] {
  const rows = splitRows(text, { separator, longQuotes: separator !== undefined || !lines, mostRows: MOST_ROWS * 2 }).filter(
    (row) => !isBlankRow(row),
  );
  if (rows.length > MOST_ROWS) throw new LimitError('too-large', `The list has more than ${MOST_ROWS} rows.`);
  return rows;
}
