/**
 * The customer's list: a text file with or without separators, or a workbook; what it is says its content, not its name.
 * Cells are text as they stand: nothing is computed, trimmed or normalised. Rows with nothing to be seen are dropped.
 * The first row is the header when a column has no digit in it and digits in nearly all rows below, or names no picture
 * file while most rows below do; not when as many columns look the same in the first row as below. Everything found can be
 * overruled.
 */
import { InputError, LimitError } from '../errors/index.ts';
import { decodeText, type Encoding } from './encodings.ts';
import { findSeparator, isBlank, readSeparated, SEPARATORS, type Separator } from './separated.ts';
import { readWorkbookRows } from './workbook.ts';

/** What the user overrules; what is absent is recognised. */
export interface ListOptions {
  readonly encoding?: Encoding;
  /** '' for one cell a row. */
  readonly separator?: Separator | '';
  readonly header?: boolean;
  /** Name of the workbook's sheet. */
  readonly sheet?: string;
}

/** A list as it is shown and used: texts as they stand in the file, formulas never run. */
export interface List {
  readonly header: string[] | null;
  readonly rows: string[][];
  readonly encoding?: Encoding;
  /** '' when every row is one cell. */
  readonly separator?: string;
  /** Sheets of a workbook that are shown. */
  readonly sheets?: string[];
  /** What the user should look at; each begins with a code: `encoding-guessed`, `hidden`, `ragged`, `sheets`. */
  readonly warnings: string[];
}

const MOST_BYTES = 50_000_000;
/** How files begin that are something else. */
const OTHERS: readonly { code: 'picture' | 'wrong-kind'; start: string; what: string }[] = [
  { code: 'picture', start: '\x89PNG', what: 'a picture' },
  { code: 'picture', start: '\xff\xd8\xff', what: 'a picture' },
  { code: 'picture', start: 'GIF8', what: 'a picture' },
  { code: 'picture', start: 'II*\0', what: 'a picture' },
  { code: 'picture', start: 'MM\0*', what: 'a picture' },
  { code: 'picture', start: 'RIFF', what: 'a picture or a sound' },
  { code: 'wrong-kind', start: '%PDF', what: 'a PDF' },
  { code: 'wrong-kind', start: '\xd0\xcf\x11\xe0', what: 'a workbook of the older kind, or one locked with a password' },
  { code: 'wrong-kind', start: 'Rar!', what: 'an archive' },
  { code: 'wrong-kind', start: '\x1f\x8b', what: 'an archive' },
];

function refuseOthers(bytes: Uint8Array): void {
  const start = String.fromCharCode(...bytes.subarray(0, 8));
  const other = OTHERS.find((kind) => start.startsWith(kind.start));
  if (other) throw new InputError(other.code, `This is ${other.what}, not a list. Save the list as CSV or XLSX.`);
}

const hasDigit = (cell: string): boolean => /\p{Nd}/u.test(cell);
/** A cell with its runs of digits and of letters made one each. */
const shapeOf = (cell: string): string =>
  cell
    .trim()
    .replace(/\p{Nd}+/gu, '9')
    .replace(/\p{L}+/gu, 'a');
/** The name of a picture file: what columns of series fields hold. */
const namesFile = (cell: string): boolean => /\.(png|jpe?g|gif|bmp|webp|tiff?|svg|pdf)\s*$/i.test(cell);
const NEARLY_ALL = 0.8;
const HEADER_SAMPLE = 2000;

function beginsWithHeader(rows: readonly string[][]): boolean {
  const [first = [], ...below] = rows.slice(0, HEADER_SAMPLE);
  let [speaksFor, against] = [0, 0];
  first.forEach((cell, k) => {
    const others = below.map((row) => row[k] ?? '').filter((other) => !isBlank(other));
    if (isBlank(cell) || others.length === 0) return;
    const share = (test: (other: string) => boolean): number => others.filter(test).length / others.length;
    if (!namesFile(cell) && share(namesFile) > 0.5) speaksFor++;
    else if (!hasDigit(cell)) speaksFor += share(hasDigit) >= NEARLY_ALL ? 1 : 0;
    else if (share((other) => shapeOf(other) === shapeOf(cell)) > 0.5) against++;
  });
  return speaksFor > 0 && speaksFor >= against;
}

function withHeader(rows: string[][], header: boolean | undefined): Pick<List, 'header' | 'rows'> {
  const [first] = rows;
  if (!first || !(header ?? beginsWithHeader(rows))) return { header: null, rows };
  return { header: first, rows: rows.slice(1) };
}

const MOST_NAMED = 5;

/** Rows with more cells than the header, or than most when there is none. */
function raggedWarning({ header, rows }: Pick<List, 'header' | 'rows'>): string[] {
  const width = header?.length ?? rows[0]?.length ?? 0;
  const long = rows.flatMap((row, i) =>
    row.length > width && row.slice(width).some((cell) => !isBlank(cell)) ? [i + (header ? 2 : 1)] : [],
  );
  if (long.length === 0) return [];
  const named = long.slice(0, MOST_NAMED).join(', ');
  return [`ragged: ${long.length} rows have more cells than the first (rows ${named}${long.length > MOST_NAMED ? ' …' : ''})`];
}

function readText(bytes: Uint8Array, fileName: string, opts: ListOptions): List {
  const { text, encoding, guessed } = decodeText(bytes, opts.encoding);
  const separator = opts.separator === undefined ? findSeparator(text) : SEPARATORS.find((one) => one === opts.separator);
  const rows = readSeparated(text, separator, !/\.csv$/i.test(fileName));
  if (rows.length === 0) throw new InputError('empty', 'The list is empty.');
  const table = withHeader(rows, opts.header);
  const warnings = guessed ? [`encoding-guessed: read as ${encoding}; look at the letters with accents`] : [];
  return { ...table, encoding, separator: separator ?? '', warnings: [...warnings, ...raggedWarning(table)] };
}

function readSheet(bytes: Uint8Array, opts: ListOptions): List {
  const { rows, sheets, warnings } = readWorkbookRows(bytes, opts.sheet);
  if (rows.length === 0) throw new InputError('empty', 'The sheet is empty.');
  const table = withHeader(rows, opts.header);
  return { ...table, sheets, warnings: [...warnings, ...raggedWarning(table)] };
}

/**
 * @param fileName tells nothing but whether quotes may span the lines of a file with one cell a row
 * @throws InputError `input.empty`, `input.picture`, `input.wrong-kind`, `input.binary`, `input.damaged`, `input.sheet`;
 *   LimitError `limit.too-large`, `limit.too-wide`, `limit.too-long`
 */
export async function readList(bytes: Uint8Array, fileName: string, opts: ListOptions = {}): Promise<List> {
  if (bytes.length === 0) throw new InputError('empty', 'The file is empty.');
  if (bytes.length > MOST_BYTES) throw new LimitError('too-large', `The list is larger than ${MOST_BYTES / 1e6} MB.`);
  refuseOthers(bytes);
  const isZip = bytes[0] === 0x50 && bytes[1] === 0x4b && (bytes[2] as number) < 9;
  return Promise.resolve(isZip ? readSheet(bytes, opts) : readText(bytes, fileName, opts));
}
