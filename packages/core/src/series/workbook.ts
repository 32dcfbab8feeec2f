/**
 * The first visible sheet of a workbook (Office Open XML, ECMA-376 part 1, chapter 18) as rows of shown text. XML by
 * saxes, piece by piece as it is unpacked; document types and their entities are refused. Optional by the standard, and
 * so done without: addresses of rows and cells, styles, shared strings, any one prefix. Merged cells have their value
 * in the first. Hidden rows and columns are left out and said. Not read: ZIP64, passwords, the older binary workbooks.
 */
import { SaxesParser } from 'saxes';
import { AppError, InputError, LimitError } from '../errors/index.ts';
import { Utf8Reader } from './encodings.ts';
import { isBlank, LONGEST_CELL, MOST_CELLS, MOST_COLUMNS, MOST_ROWS } from './separated.ts';
import { builtInFormat, shownNumber, shownText } from './shown-value.ts';
import { damaged, MOST_UNPACKED, unpackPart, zipParts, type ZipPart } from './zip-parts.ts';

const MOST_LETTERS = 60_000_000;
const MOST_STRINGS = 2_000_000;

type Attributes = Readonly<Record<string, string>>;
interface Handlers {
  readonly open?: (name: string, attributes: Attributes) => void;
  readonly text?: (text: string) => void;
  readonly close?: (name: string) => void;
}

/** Prefixes have no meaning here. */
const local = (name: string): string => name.slice(name.indexOf(':') + 1);
const isOn = (value: string | undefined): boolean => value === '1' || value === 'true';

class Parts {
  private readonly byName: Map<string, ZipPart>;
  private readonly budget = { left: MOST_UNPACKED };

  constructor(private readonly bytes: Uint8Array) {
    this.byName = new Map(zipParts(bytes).map((part) => [part.name.toLowerCase(), part]));
  }

  has(name: string): boolean {
    return this.byName.has(name.toLowerCase());
  }

  /** @throws InputError `input.damaged` when the part is missing or no XML */
  read(name: string, handlers: Handlers): void {
    const part = this.byName.get(name.toLowerCase());
    if (!part) throw damaged('a part of it is missing');
    const parser = new SaxesParser();
    parser.on('error', () => {
      throw damaged('a part of it cannot be read');
    });
    parser.on('doctype', () => {
      throw damaged('it holds what no workbook holds');
    });
    parser.on('opentag', (tag) => handlers.open?.(local(tag.name), tag.attributes as Attributes));
    parser.on('text', (text) => handlers.text?.(text));
    parser.on('cdata', (text) => handlers.text?.(text));
    parser.on('closetag', (tag) => handlers.close?.(local(tag.name)));
    const utf8 = new Utf8Reader();
    try {
      unpackPart(this.bytes, part, this.budget, (piece) => parser.write(utf8.read(piece)));
      parser.close();
    } catch (error) {
      throw error instanceof AppError ? error : damaged('a part of it cannot be read');
    }
  }
}

/** Where a relation leads, seen from the folder of its part. */
function resolve(folder: string, target: string): string {
  const names = target.startsWith('/') ? [] : folder.split('/').filter(Boolean);
  for (const name of target.split('/').filter(Boolean)) {
    if (name === '..') names.pop();
    else if (name !== '.') names.push(name);
  }
  return names.join('/');
}

interface Relation {
  readonly id: string;
  readonly kind: string;
  readonly target: string;
}

function relationsOf(parts: Parts, part: string): Relation[] {
  const cut = part.lastIndexOf('/') + 1;
  const [folder, name] = [part.slice(0, cut), part.slice(cut)];
  const list: Relation[] = [];
  if (!parts.has(`${folder}_rels/${name}.rels`)) return list;
  parts.read(`${folder}_rels/${name}.rels`, {
    open: (tag, a) => {
      if (tag !== 'Relationship' || a['TargetMode'] === 'External') return;
      list.push({ id: a['Id'] ?? '', kind: local((a['Type'] ?? '').split('/').at(-1) ?? ''), target: resolve(folder, a['Target'] ?? '') });
    },
  });
  return list;
}

interface SheetEntry {
  readonly name: string;
  readonly relation: string;
  readonly isHidden: boolean;
}

function readWorkbook(parts: Parts, part: string): { sheets: SheetEntry[]; from1904: boolean } {
  const sheets: SheetEntry[] = [];
  let from1904 = false;
  parts.read(part, {
    open: (tag, a) => {
      if (tag === 'workbookPr') from1904 = isOn(a['date1904']);
      if (tag !== 'sheet') return;
      const relation = Object.entries(a).find(([key]) => /:id$/.test(key))?.[1] ?? '';
      sheets.push({ name: a['name'] ?? '', relation, isHidden: (a['state'] ?? 'visible') !== 'visible' });
    },
  });
  return { sheets, from1904 };
}

/** Characters that XML cannot hold are written by their number. */
const unescape = (text: string): string =>
  text.includes('_x') ? text.replace(/_x([0-9A-Fa-f]{4})_/g, (_, code: string) => String.fromCharCode(Number.parseInt(code, 16))) : text;

/** Gathers what stands in `t` elements, runs joined, reading aids left out. */
class TextGatherer {
  private text = '';
  private aids = 0;
  private inside = false;

  open(name: string): void {
    if (name === 'rPh') this.aids++;
    this.inside = name === 't' && this.aids === 0;
  }
  add(text: string): void {
    if (this.inside) this.text += text;
  }
  close(name: string): void {
    if (name === 'rPh') this.aids--;
    this.inside = false;
  }
  take(): string {
    const text = unescape(this.text);
    this.text = '';
    return text;
  }
}

function readStrings(parts: Parts, part: string): string[] {
  const strings: string[] = [];
  const gather = new TextGatherer();
  let letters = 0;
  parts.read(part, {
    open: (name) => gather.open(name),
    text: (text) => gather.add(text),
    close: (name) => {
      gather.close(name);
      if (name !== 'si') return;
      const text = gather.take();
      letters += text.length;
      strings.push(text);
      if (letters > MOST_LETTERS || strings.length > MOST_STRINGS) throw tooLarge();
    },
  });
  return strings;
}

const tooLarge = (): LimitError =>
  new LimitError('too-large', 'The workbook holds more text than a list can. Save the list alone, as CSV or in a new workbook.');

/** Formats of the cell styles, in their order. */
function readFormats(parts: Parts, part: string): string[] {
  const own = new Map<number, string>();
  const formats: string[] = [];
  let inCells = false;
  parts.read(part, {
    open: (name, a) => {
      if (name === 'numFmt') own.set(Number(a['numFmtId']), a['formatCode'] ?? 'General');
      if (name === 'cellXfs') inCells = true;
      if (name === 'xf' && inCells) formats.push(own.get(Number(a['numFmtId'])) ?? builtInFormat(Number(a['numFmtId'])));
    },
    close: (name) => {
      if (name === 'cellXfs') inCells = false;
    },
  });
  return formats;
}

/** Column of an address such as `AB12`, from 0; undefined when it has none. */
function columnOf(address: string | undefined): number | undefined {
  const letters = /^\$?([A-Za-z]{1,3})/.exec(address ?? '')?.[1];
  return letters === undefined ? undefined : [...letters.toUpperCase()].reduce((n, c) => n * 26 + c.charCodeAt(0) - 64, 0) - 1;
}

interface Book {
  readonly strings: readonly string[];
  readonly formats: readonly string[];
  readonly from1904: boolean;
}

interface SheetRow {
  readonly cells: Map<number, string>;
  readonly isHidden: boolean;
}

/** Reads the rows of a sheet; only cells with something in them are kept. */
class SheetReader {
  readonly rows: SheetRow[] = [];
  private readonly hiddenColumns: [number, number][] = [];
  private column = -1;
  private cell: { kind: string; pattern: string } | undefined;
  private value = '';
  private inValue = false;
  private readonly gather = new TextGatherer();
  private letters = 0;

  constructor(private readonly book: Book) {}

  isHiddenColumn(column: number): boolean {
    return this.hiddenColumns.some(([from, to]) => column >= from && column <= to);
  }

  readonly open = (name: string, a: Attributes): void => {
    this.gather.open(name);
    if (name === 'col' && (isOn(a['hidden']) || Number(a['width']) === 0) && this.hiddenColumns.length < MOST_COLUMNS)
      this.hiddenColumns.push([Number(a['min']) - 1, Number(a['max']) - 1]);
    if (name === 'row') {
      if (this.rows.at(-1)?.cells.size === 0) this.rows.pop();
      if (this.rows.length > MOST_ROWS) throw new LimitError('too-large', `The list has more than ${MOST_ROWS} rows.`);
      this.rows.push({ cells: new Map(), isHidden: isOn(a['hidden']) || a['ht'] === '0' });
      this.column = -1;
    }
    if (name === 'c') {
      this.column = columnOf(a['r']) ?? this.column + 1;
      this.cell = { kind: a['t'] ?? 'n', pattern: this.book.formats[Number(a['s'] ?? 0)] ?? 'General' };
      this.value = '';
    }
    this.inValue = name === 'v';
  };

  readonly text = (text: string): void => {
    this.gather.add(text);
    if (this.inValue) this.value += text;
  };

  readonly close = (name: string): void => {
    this.gather.close(name);
    this.inValue = false;
    if (name !== 'c' || !this.cell) return;
    const shown = this.shown(this.cell.kind, this.cell.pattern);
    const row = this.rows.at(-1);
    this.cell = undefined;
    if (!row || isBlank(shown)) return;
    if (shown.length > LONGEST_CELL) throw new LimitError('too-long', `A cell of the list has ${shown.length} letters.`);
    this.letters += shown.length;
    if (this.letters > MOST_LETTERS) throw tooLarge();
    if (this.column >= MOST_COLUMNS) throw damaged('a cell lies outside of the sheet');
    row.cells.set(this.column, shown);
  };

  private shown(kind: string, pattern: string): string {
    const inline = this.gather.take();
    if (kind === 'inlineStr') return shownText(inline, pattern);
    if (this.value === '') return '';
    if (kind === 's') {
      const text = this.book.strings[Number(this.value)];
      if (text === undefined) throw damaged('it names a text that is not there');
      return shownText(text, pattern);
    }
    if (kind === 'str') return shownText(unescape(this.value), pattern);
    if (kind === 'b') return isOn(this.value.trim()) ? 'TRUE' : 'FALSE';
    if (kind === 'e' || kind === 'd') return this.value;
    return shownNumber(this.value, pattern, this.book.from1904);
  }
}

/** Columns that are shown, as rows of equal order; hidden ones are told. */
function rowsOf(reader: SheetReader): { rows: string[][]; warnings: string[] } {
  const filled = reader.rows.filter((row) => row.cells.size > 0);
  const shown = filled.filter((row) => !row.isHidden);
  const widthOf = (row: SheetRow): number => [...row.cells.keys()].reduce((most, k) => Math.max(most, k + 1), 0);
  const width = shown.reduce((most, row) => Math.max(most, widthOf(row)), 0);
  if (shown.reduce((sum, row) => sum + widthOf(row), 0) > MOST_CELLS) throw tooLarge();
  const columns = Array.from({ length: width }, (_, k) => k);
  const visible = columns.filter((k) => !reader.isHiddenColumn(k));
  const hiddenColumns = columns.filter((k) => reader.isHiddenColumn(k) && filled.some((row) => row.cells.has(k))).length;
  const rows = shown.map((row) => {
    const end = widthOf(row);
    const until = visible.findIndex((k) => k >= end);
    return visible.slice(0, until < 0 ? visible.length : until).map((k) => row.cells.get(k) ?? '');
  });
  const hiddenRows = filled.length - shown.length;
  const warnings =
    hiddenRows + hiddenColumns > 0 ? [`hidden: ${hiddenRows} rows and ${hiddenColumns} columns are hidden and left out`] : [];
  return { rows: rows.filter((row) => !row.every(isBlank)), warnings };
}

/** The part that is the workbook. @throws InputError for a file that is none, or lacks it */
function workbookPart(parts: Parts): string {
  const part = relationsOf(parts, '').find((r) => r.kind === 'officeDocument')?.target ?? 'xl/workbook.xml';
  if (parts.has(part) && /workbook/i.test(part)) return part;
  if (parts.has('[Content_Types].xml') && !parts.has('word/document.xml') && !parts.has('ppt/presentation.xml'))
    throw damaged('a part of it is missing');
  throw new InputError('wrong-kind', 'This is no workbook that can be read here. Save the list as CSV or XLSX.');
}

/** The sheet that is asked for, or the first that is shown; a hidden one only when there is no other. */
function chosenSheet<T extends { readonly name: string; readonly isHidden: boolean }>(
  sheets: readonly T[],
  wanted: string | undefined,
): { sheet: T; warnings: string[] } {
  const visible = sheets.filter((one) => !one.isHidden);
  if (wanted !== undefined) {
    const sheet = sheets.find((one) => one.name === wanted);
    if (!sheet) throw new InputError('sheet', `The workbook has no sheet ${wanted}.`);
    return { sheet, warnings: [] };
  }
  const sheet = visible[0] ?? sheets[0];
  if (!sheet) throw damaged('it has no sheet');
  return {
    sheet,
    warnings: [
      ...(sheet.isHidden ? ['hidden: the only sheet is hidden'] : []),
      ...(visible.length > 1 ? [`sheets: taken from ${sheet.name}, the first of ${visible.length}`] : []),
    ],
  };
}

/**
 * @param wanted name of the sheet; else the first that is shown
 * @throws InputError `input.wrong-kind`, `input.damaged`, `input.sheet`; LimitError `limit.too-large`, `limit.too-long`
 */
export function readWorkbookRows(bytes: Uint8Array, wanted?: string): { rows: string[][]; sheets: string[]; warnings: string[] } {
  const parts = new Parts(bytes);
  const part = workbookPart(parts);
  const { sheets, from1904 } = readWorkbook(parts, part);
  const relations = relationsOf(parts, part);
  const { sheet, warnings: ofSheet } = chosenSheet(sheets, wanted);
  const place = relations.find((r) => r.id === sheet.relation);
  if (!place) throw damaged('its sheet is missing');
  const of = (kind: string): string | undefined => relations.find((r) => r.kind === kind && parts.has(r.target))?.target;
  const [strings, styles] = [of('sharedStrings'), of('styles')];
  const reader = new SheetReader({
    strings: strings === undefined ? [] : readStrings(parts, strings),
    formats: styles === undefined ? [] : readFormats(parts, styles),
    from1904,
  });
  parts.read(place.target, reader);
  const { rows, warnings } = rowsOf(reader);
  const shown = sheets.filter(({ isHidden }) => !isHidden).map(({ name }) => name);
  return { rows, sheets: shown, warnings: [...warnings, ...ofSheet] };
}
