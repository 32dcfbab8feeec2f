/** Rows of a series: what stands in each, its counter, whether and how often it is made; and comparing a list with a newer one. */
import { InputError } from '@lorvek/core';
import { counterText } from '@lorvek/core/series';
import type { Drawing } from '../records/document.ts';
import { SERIES_ID, USUAL_COUNTER, type Counter, type ReadRows, type Series } from '../records/series.ts';

/** A row as it is made: cells corrected, counted, on or off. */
export interface SeriesRow {
  /** From 0. */
  readonly index: number;
  readonly cells: readonly string[];
  /** Its text of the counter; empty for rows that are left out. */
  readonly counter: string;
  readonly copies: number;
  /** Is it made at all? */
  readonly isOn: boolean;
}

/** The series of a job, if it is one. */
export function seriesOf(drawing: Drawing): Series | undefined {
  const record = drawing[SERIES_ID];
  return record?.type === 'series' ? record : undefined;
}

/** The series that sheets are laid up for: it has fields, and is not switched off. */
export function laidSeries(drawing: Drawing): Series | undefined {
  const series = seriesOf(drawing);
  return series?.laid === true && series.fields.length > 0 ? series : undefined;
}

const counterOf = (counter: Counter | null): Counter => counter ?? USUAL_COUNTER;

/** Counts every row that is on, in order. */
class Counting {
  private count = 0;
  private from = 0;
  constructor(private readonly counter: Counter) {}

  /** @throws InputError `input.counter` for a counter that cannot count on */
  next(): string {
    const { skip, ...rest } = this.counter;
    if (skip.length === 0) return counterText(this.count++, rest);
    // asked for the n-th that is left over would count from the start each time
    const skipped = new Set(skip.map((one) => one.trim().toLowerCase()));
    for (let tries = 0; tries <= skip.length; tries++) {
      const at = this.from++;
      const bare = counterText(at, { ...rest, prefix: '', suffix: '' });
      const short = counterText(at, { ...rest, prefix: '', suffix: '', padding: 0 });
      if (!skipped.has(bare.toLowerCase()) && !skipped.has(short.toLowerCase())) return rest.prefix + bare + rest.suffix;
      if (rest.step === 0) break;
    }
    throw new InputError('counter', 'The counter stands still at a value that is left out.');
  }
}

const known = new WeakMap<Series, readonly SeriesRow[]>();

/**
 * All rows, also those that are off. @throws InputError `input.counter`
 * @complexity rows, once a series: kept by it
 */
export function rowsOf(series: Series): readonly SeriesRow[] {
  const kept = known.get(series);
  if (kept) return kept;
  const counting = new Counting(counterOf(series.counter));
  const off = new Set(series.off);
  const cells = series.list?.rows ?? Array.from({ length: series.count }, () => []);
  const rows = cells.map((own, index): SeriesRow => {
    const corrected = series.corrections[String(index)];
    const copies = series.copies[String(index)] ?? 1;
    const isOn = !off.has(index) && copies > 0;
    return {
      index,
      cells: corrected
        ? Array.from({ length: Math.max(own.length, series.list?.columns.length ?? 0) }, (_, k) => corrected[String(k)] ?? own[k] ?? '')
        : own,
      counter: isOn ? counting.next() : '',
      copies,
      isOn,
    };
  });
  known.set(series, rows);
  return rows;
}

/** The rows that are laid up now. @throws InputError `input.counter` */
export function rowsToLay(series: Series): SeriesRow[] {
  const only = series.only && new Set(series.only);
  return rowsOf(series).filter(({ isOn, index }) => isOn && (only?.has(index) ?? true));
}

/** Is the text of a counter longer than its padding was meant for? */
export function overPadding(series: Series): SeriesRow | undefined {
  const { padding, letters, prefix, suffix } = counterOf(series.counter);
  if (padding === 0 || letters) return undefined;
  return rowsOf(series).find(
    ({ isOn, counter }) => isOn && counter.slice(prefix.length, counter.length - suffix.length).replace(/^-/, '').length > padding,
  );
}

/** What the counter is called in a pattern. */
export const COUNTER_NAME = 'n';
const PLACE = /\{([^{}]*)\}/g;
const plain = (text: string): string => text.trim().toLowerCase();

/**
 * The number of a column by its name; -1 when there is none.
 * @param called compared without regard to capitals and blanks around it
 */
export const columnOf = ({ list }: Pick<Series, 'list'>, called: string): number =>
  (list?.columns ?? []).findIndex((column) => plain(column) === plain(called));

/** What a row puts into a field, and what it lacks for that. */
export interface Written {
  readonly text: string;
  /** Columns that the pattern names and the list has not. */
  readonly unknown: readonly string[];
  /** Columns that are empty in this row. */
  readonly empty: readonly string[];
}

/** What a field says in a row. What names no column stays as it stands. */
export function writtenOf(pattern: string, series: Series, row: SeriesRow): Written {
  const unknown: string[] = [];
  const empty: string[] = [];
  const text = pattern.replace(PLACE, (all, called: string) => {
    const column = columnOf(series, called);
    if (column >= 0) {
      const value = row.cells[column] ?? '';
      if (value.trim() === '') empty.push(called.trim());
      return value;
    }
    if (plain(called) === COUNTER_NAME) return row.counter;
    unknown.push(called.trim());
    return all;
  });
  return { text, unknown, empty };
}

/** Columns that patterns name and the list has not, with the field's item. */
export const goneColumns = (series: Series): { item: string; column: string }[] =>
  series.fields.flatMap(({ item, pattern }) =>
    [...pattern.matchAll(PLACE)].flatMap(([, called = '']) =>
      columnOf(series, called) < 0 && plain(called) !== COUNTER_NAME ? [{ item, column: called.trim() }] : [],
    ),
  );

/** Rows of a newer list against those of the list before. */
export interface ListChange {
  /** By new row: the old row it was; undefined: it is new. */
  readonly from: readonly (number | undefined)[];
  readonly added: readonly number[];
  /** New rows whose text is another. */
  readonly changed: readonly number[];
  /** Old rows that are not there any more. */
  readonly gone: readonly number[];
  readonly columnsGone: readonly string[];
}

const joined = (row: readonly string[]): string => row.join('\u0000');

/** The column whose cells tell rows apart best in both lists, with its number in each. */
function keyColumn(before: ReadRows, after: ReadRows): [number, number] | undefined {
  let best: { of: [number, number]; distinct: number } | undefined;
  for (const [k, name] of before.columns.entries()) {
    const there = after.columns.findIndex((column) => plain(column) === plain(name));
    if (there < 0) continue;
    const distinct = new Set(before.rows.map((row) => row[k] ?? '')).size;
    if (!best || distinct > best.distinct) best = { of: [k, there], distinct };
  }
  return best?.of;
}

/** Takes the first of the rows that wait under a key. */
const taken = (waiting: Map<string, number[]>, key: string): number | undefined => waiting.get(key)?.shift();

function byKey(rows: readonly (readonly string[])[], keyOf: (row: readonly string[]) => string, isFree: (i: number) => boolean) {
  const out = new Map<string, number[]>();
  for (const [i, row] of rows.entries()) {
    if (!isFree(i)) continue;
    const list = out.get(keyOf(row));
    if (list) list.push(i);
    else out.set(keyOf(row), [i]);
  }
  return out;
}

/**
 * Rows are the same when all their cells are; of what is left, those that agree in the column that tells rows apart best
 * were changed; the rest is new or gone. The order of doubled rows is kept.
 */
export function compareLists(before: ReadRows, after: ReadRows): ListChange {
  const from: (number | undefined)[] = after.rows.map(() => undefined);
  const used = new Set<number>();
  const match = (i: number, old: number | undefined): void => {
    if (old === undefined) return;
    from[i] = old;
    used.add(old);
  };
  const whole = byKey(before.rows, joined, () => true);
  for (const [i, row] of after.rows.entries()) match(i, taken(whole, joined(row)));
  const changed: number[] = [];
  const key = keyColumn(before, after);
  if (key) {
    const left = byKey(
      before.rows,
      (row) => row[key[0]] ?? '',
      (i) => !used.has(i),
    );
    for (const [i, row] of after.rows.entries()) {
      const cell = row[key[1]] ?? '';
      if (from[i] !== undefined || cell.trim() === '') continue;
      match(i, taken(left, cell));
      if (from[i] !== undefined) changed.push(i);
    }
  }
  return {
    from,
    changed,
    added: from.flatMap((old, i) => (old === undefined ? [i] : [])),
    gone: before.rows.flatMap((_, i) => (used.has(i) ? [] : [i])),
    columnsGone: before.columns.filter((name) => !after.columns.some((column) => plain(column) === plain(name))),
  };
}

/** The series with a newer list: what was corrected, left out and counted goes with its rows. */
export function withList(series: Series, list: ReadRows): Series {
  if (!series.list) return { ...series, list, corrections: {}, off: [], copies: {} };
  const { from } = compareLists(series.list, list);
  const columns = list.columns.map((name) => columnOf(series, name));
  const off = new Set(series.off);
  const corrections: Series['corrections'] = {};
  const copies: Series['copies'] = {};
  for (const [i, old] of from.entries()) {
    if (old === undefined) continue;
    const own = series.corrections[String(old)];
    if (own) {
      const kept = Object.fromEntries(
        columns.flatMap((before, k) => (before >= 0 && own[String(before)] !== undefined ? [[String(k), own[String(before)] ?? '']] : [])),
      );
      if (Object.keys(kept).length > 0) corrections[String(i)] = kept;
    }
    const many = series.copies[String(old)];
    if (many !== undefined) copies[String(i)] = many;
  }
  const { only: _only, ...rest } = series;
  return {
    ...rest,
    list,
    corrections,
    copies,
    off: from.flatMap((old, i) => (old !== undefined && off.has(old) ? [i] : [])),
  };
}
