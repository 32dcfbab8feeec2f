/**
 * A piece for each row of a series: the drawing with the row's words and pictures in it, worked out like any other.
 *
 * Words that are longer than their place are fitted: the letters made smaller or narrower, as far as the field allows, or
 * broken in two lines at the space that makes both most alike. Widths are those of the ink as it is cut, found by working
 * the words out; narrowing does not touch the space between letters, so it is looked for by secants. The origin of the
 * lettering stays, so place and alignment are kept.
 */
import { bounds, isEmptyBox, type Outline } from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import type { Drawing } from '../records/document.ts';
import type { Item, LetteringItem, PictureItem } from '../records/items.ts';
import { MOST_PIECES_OF_SERIES, type Field, type NamedPicture, type Series } from '../records/series.ts';
import { isUnknown, type Known, type KnownOf } from '../queries/known-pieces.ts';
import { itemOf } from '../queries/queries.ts';
import { goneColumns, overPadding, rowsToLay, writtenOf, type SeriesRow } from '../queries/series-rows.ts';
import type { LayPart } from './lay-places.ts';

/** Wider than its place by less is as wide, mm. */
const OVER_MM = 0.02;
const TRIES = 6;
/** Without a width of their own, words that are left as they are may be so much wider than the sample. */
const SPARE_SHARE = 1.1;

/** The drawing as one row has it. */
export interface RowDrawing {
  readonly row: SeriesRow;
  readonly name: string;
  readonly drawing: Drawing;
  readonly knownOf: KnownOf;
  readonly findings: readonly Finding[];
}

/** Parts of rows are called by their number, further copies by theirs besides. */
export const rowPartId = (index: number, copy: number): string => `row-${index + 1}${copy === 0 ? '' : `.${copy + 1}`}`;

/** The row that a part stands for, from 0; undefined for parts of no series. */
export function rowOfPart(part: string): number | undefined {
  const found = /^row-(\d+)(?:\.\d+)?$/.exec(part);
  return found ? Number(found[1]) - 1 : undefined;
}

/** Width of the ink of an item's face in its own space, mm; 0 for nothing, undefined when it is not known. */
function inkWidth(known: Known): number | undefined {
  if (isUnknown(known)) return undefined;
  const { outline } = known.derived;
  let width = widths.get(outline);
  if (width === undefined) {
    const box = bounds(outline);
    widths.set(outline, (width = isEmptyBox(box) ? 0 : box.maxX - box.minX));
  }
  return width;
}

/** Widths that were asked for: the words of a row are measured several times. */
const widths = new WeakMap<Outline, number>();

const scaled = (item: LetteringItem, k: number): LetteringItem => ({
  ...item,
  capHeightMm: Math.max(0.5, item.capHeightMm * k),
  letterSpaceMm: item.letterSpaceMm * k,
});
const narrowed = (item: LetteringItem, k: number): LetteringItem => ({ ...item, widthPct: Math.max(10, item.widthPct * k) });

/** The greatest share, down to the least, at which the words go into their place. */
function shareThatFits(widthAt: (k: number) => number | undefined, roomMm: number, least: number): number {
  let [low, high] = [least, 1];
  const widest = widthAt(1);
  if (widest === undefined || widest <= roomMm + OVER_MM) return 1;
  // widths of words go with their letters, nearly always
  const likely = (roomMm / widest) * (1 - 1e-9);
  const then = likely > least ? widthAt(likely) : undefined;
  if (then !== undefined && then <= roomMm && roomMm - then <= OVER_MM / 2) return likely;
  const narrowest = widthAt(least);
  if (narrowest === undefined || narrowest > roomMm) return least;
  let [atLow, atHigh] = [narrowest, widest];
  for (let i = 0; i < TRIES && roomMm - atLow > OVER_MM / 2; i++) {
    const k = Math.min(high, Math.max(low, low + ((roomMm - atLow) * (high - low)) / (atHigh - atLow)));
    const width = widthAt(k);
    if (width === undefined) break;
    if (width <= roomMm) [low, atLow] = [k, width];
    else [high, atHigh] = [k, width];
  }
  return low;
}

/** The text in two lines, as alike in length as its spaces allow; itself when there is no space, or it is in lines already. */
export function inTwo(text: string): string {
  if (/[\r\n\u2028\u2029]/.test(text)) return text;
  const places = Array.from(text.matchAll(/ /g), ({ index }) => index);
  const best = places.sort((a, b) => Math.abs(a - text.length / 2) - Math.abs(b - text.length / 2))[0];
  return best === undefined ? text : `${text.slice(0, best).trimEnd()}\n${text.slice(best + 1).trimStart()}`;
}

/** Broken where it stands: the middle of both lines where the one was. */
function brokenInTwo(item: LetteringItem): LetteringItem {
  const text = inTwo(item.text);
  if (text === item.text) return item;
  const up = (item.lineSpace * item.capHeightMm) / 2;
  const [a, b, c, d, e, f] = item.matrix;
  return { ...item, text, matrix: [a, b, c, d, e + c * up, f + d * up] };
}

function fitted(item: LetteringItem, { long, leastPct }: Field, roomMm: number, knownOf: (item: LetteringItem) => Known): LetteringItem {
  const width = (of: LetteringItem): number | undefined => inkWidth(knownOf(of));
  const plain = width(item);
  if (plain === undefined || plain <= roomMm + OVER_MM || long === 'as-is') return item;
  if (long === 'two-lines') return brokenInTwo(item);
  const change = long === 'smaller' ? scaled : narrowed;
  const k = shareThatFits((share) => width(change(item, share)), roomMm, leastPct / 100);
  return k === 1 ? item : change(item, k);
}

interface Filling {
  readonly drawing: Drawing;
  readonly knownOf: KnownOf;
  readonly on: (drawing: Drawing) => KnownOf;
  readonly series: Series;
}

const said = (row: SeriesRow): string => `Row ${row.index + 1}`;

/** Words with a row's text in them, fitted to their place. */
function filledLettering(item: LetteringItem, field: Field, row: SeriesRow, { drawing, knownOf, on, series }: Filling) {
  const { text, empty } = writtenOf(field.pattern, series, row);
  const findings: Finding[] = empty.map((column) => ({
    code: 'row-empty',
    level: 'warning',
    text: `${said(row)} has nothing in “${column}”, which “${item.name}” shows.`,
    parts: [item.id],
  }));
  const roomMm = field.widthMm === null ? inkWidth(knownOf(item)) : field.widthMm / Math.hypot(item.matrix[0], item.matrix[1]);
  // tweaks belong to the letters that stand on the drawing
  const { tweaks, ...rest } = item;
  const plain: LetteringItem = text === item.text && tweaks ? { ...rest, tweaks, text } : { ...rest, text };
  // what lettering is depends on nothing else of the drawing
  const known = (of: LetteringItem): Known => on(drawing)(of);
  if (text.trim() === '') return { item: plain, findings };
  const own = roomMm === undefined ? plain : fitted(plain, field, roomMm, known);
  const last = known(own);
  if (isUnknown(last)) return { item: own, findings };
  const wide = inkWidth(last);
  // words that are left as they are have no place of an exact width unless one is given
  const spare = field.long === 'as-is' && field.widthMm === null ? SPARE_SHARE : 1;
  if (roomMm !== undefined && wide !== undefined && wide > spare * roomMm + OVER_MM)
    findings.push({
      code: 'row-too-long',
      level: 'warning',
      text: `${said(row)}: “${text.replace(/\n/g, ' ')}” is ${(wide - roomMm).toFixed(1)} mm longer than its place, ${field.long === 'as-is' ? 'and nothing is done about it' : 'even so'}.`,
      parts: [item.id],
    });
  if (last.derived.missing.length > 0)
    findings.push({
      code: 'row-letters',
      level: 'stop',
      text: `${said(row)}: the font of “${item.name}” has no ${last.derived.missing.map((c) => `“${c}”`).join(', ')}.`,
      parts: [item.id],
    });
  return { item: own, findings };
}

const bare = (name: string): string =>
  name
    .replace(/^.*[\\/]/, '')
    .trim()
    .toLowerCase();
const withoutEnding = (name: string): string => bare(name).replace(/\.[a-z0-9]{2,5}$/, '');

/** The picture of a file name, with or without its ending. */
export const pictureNamed = (series: Series, fileName: string): NamedPicture | undefined =>
  series.pictures?.find((one) => bare(one.fileName) === bare(fileName)) ??
  series.pictures?.find((one) => withoutEnding(one.fileName) === withoutEnding(fileName));

/** Another picture in the place of one: within its box, in its middle, ratio kept. */
function filledPicture(item: PictureItem, field: Field, row: SeriesRow, { series }: Filling) {
  const { text } = writtenOf(field.pattern, series, row);
  const named = pictureNamed(series, text);
  if (!named)
    return {
      item,
      findings: [
        {
          code: 'row-picture',
          level: 'stop',
          text:
            text.trim() === ''
              ? `${said(row)} names no picture for “${item.name}”.`
              : `${said(row)}: there is no picture “${text}”. Add it to the series.`,
          parts: [item.id],
        } satisfies Finding,
      ],
    };
  const [width, height] = [item.widthPx * item.mmPerPx, item.heightPx * item.mmPerPx];
  const mmPerPx = Math.min(width / named.widthPx, height / named.heightPx);
  const [dx, dy] = [(width - named.widthPx * mmPerPx) / 2, (height - named.heightPx * mmPerPx) / 2];
  const [a, b, c, d, e, f] = item.matrix;
  const { clip: _clip, silhouette: _silhouette, trace: _trace, ...rest } = item;
  const next: PictureItem = {
    ...rest,
    asset: named.asset,
    widthPx: named.widthPx,
    heightPx: named.heightPx,
    mmPerPx,
    matrix: [a, b, c, d, e + a * dx + c * dy, f + b * dx + d * dy],
    ...(named.silhouette === undefined ? {} : { silhouette: named.silhouette }),
  };
  return { item: next, findings: [] };
}

function filledItem(item: Item, field: Field, row: SeriesRow, filling: Filling): { item: Item; findings: readonly Finding[] } {
  if (item.kind === 'lettering') return filledLettering(item, field, row, filling);
  if (item.kind === 'picture') return filledPicture(item, field, row, filling);
  return { item, findings: [] };
}

/** What a row is called in lists: its number and its first words. */
function nameOf(series: Series, row: SeriesRow): string {
  const words = series.fields
    .map(({ pattern }) => writtenOf(pattern, series, row).text.replace(/\s+/g, ' ').trim())
    .find((text) => text !== '');
  return words ? `${row.index + 1} · ${words}` : String(row.index + 1);
}

const itemsOf = ({ fields }: Series): string[] => fields.map(({ item }) => item);

/** Rows that say the same in every field. */
function findDoubled(series: Series, rows: readonly SeriesRow[]): Finding[] {
  if (!series.list) return [];
  const first = new Map<string, number>();
  return rows.flatMap((row): Finding[] => {
    const key = series.fields.map(({ pattern }) => writtenOf(pattern, series, row).text).join('\u0000');
    const other = first.get(key);
    if (other === undefined) {
      first.set(key, row.index);
      return [];
    }
    return [
      {
        code: 'row-doubled',
        level: 'warning',
        text: `${said(row)} says the same as row ${other + 1}.`,
        row: row.index,
        parts: itemsOf(series),
      },
    ];
  });
}

function findOfSeries(drawing: Drawing, series: Series, rows: readonly SeriesRow[]): Finding[] {
  const findings: Finding[] = [];
  for (const { item } of series.fields)
    if (!itemOf(drawing, item))
      findings.push({
        code: 'field-gone',
        level: 'warning',
        text: 'The lettering or picture of a field was deleted. Take the field out of the series, or undo.',
        parts: [],
      });
  for (const { item, column } of goneColumns(series))
    findings.push({
      code: 'column-gone',
      level: 'stop',
      text: `“${itemOf(drawing, item)?.name ?? item}” asks for the column “${column}”, which is not in the list.`,
      parts: [item],
    });
  const over = overPadding(series);
  if (over)
    findings.push({
      code: 'counter-over',
      level: 'warning',
      text: `The counter runs over its padding: from row ${over.index + 1} on it is longer, “${over.counter}”.`,
      parts: [],
    });
  if (rows.length === 0)
    findings.push({
      code: 'series',
      level: 'stop',
      text: 'No row of the series is switched on: there is nothing to make.',
      parts: itemsOf(series),
    });
  return findings;
}

/** The rows that are laid, with what was found of each. */
export interface FilledSeries {
  readonly rows: readonly RowDrawing[];
  /** Of the series as a whole. */
  readonly findings: readonly Finding[];
}

/**
 * The drawings of all rows that are laid up.
 * @returns no rows and a finding that stops when the counter cannot count or more pieces are asked for than are laid up
 */
export function fillSeries(drawing: Drawing, series: Series, knownOf: KnownOf, onShare?: (share: number) => void): FilledSeries {
  const stopped = (text: string): FilledSeries => ({
    rows: [],
    findings: [{ code: 'series', level: 'stop', text, parts: itemsOf(series) }],
  });
  const { on } = knownOf;
  if (!on) return stopped('The rows of the series could not be worked out here.');
  let rows: SeriesRow[];
  try {
    rows = rowsToLay(series);
  } catch (error) {
    return stopped(error instanceof Error ? error.message : String(error));
  }
  const pieces = rows.reduce((sum, { copies }) => sum + copies, 0);
  if (pieces > MOST_PIECES_OF_SERIES)
    return stopped(
      `That would be ${pieces} pieces; a series lays up ${MOST_PIECES_OF_SERIES} at a time. Switch rows off or ask for fewer copies, and do the others after.`,
    );
  const filling: Filling = { drawing, knownOf, on, series };
  return {
    rows: rows.map((row, i) => {
      onShare?.(i / rows.length);
      return rowDrawing(row, filling);
    }),
    findings: [...findOfSeries(drawing, series, rows), ...findDoubled(series, rows)],
  };
}

function rowDrawing(row: SeriesRow, filling: Filling): RowDrawing {
  const { drawing, series, on } = filling;
  const changed: Record<string, Item> = {};
  const findings: Finding[] = [];
  for (const field of series.fields) {
    const item = itemOf(drawing, field.item);
    if (!item) continue;
    const filled = filledItem(item, field, row, filling);
    changed[item.id] = filled.item;
    findings.push(...filled.findings.map((finding) => ({ ...finding, row: row.index })));
  }
  const own = { ...drawing, ...changed };
  return { row, name: nameOf(series, row), drawing: own, knownOf: on(own), findings };
}

/** A row's piece, as often as it is made. */
export const partsOfRow = ({ row, name }: RowDrawing, part: LayPart): LayPart[] =>
  Array.from({ length: row.copies }, (_, copy) => ({ ...part, id: rowPartId(row.index, copy), name }));
