/** A customer's list as it is read: what was found, what was overruled, and what it would change. */
import { compareLists, MOST_ROWS, type ListChange, type ReadRows } from '@lorvek/model';
import type { List, ListOptions } from '@lorvek/core/series';
import { sentenceOf } from '../api/client.ts';
import { askAside } from '../worker/compute.ts';

export interface Source {
  readonly bytes: Uint8Array;
  readonly fileName: string;
}

export interface Reading {
  readonly source: Source;
  /** What the user overrules. */
  readonly as: ListOptions;
  readonly list: List | undefined;
  readonly problem: string | undefined;
}

export async function readSource(source: Source, as: ListOptions): Promise<Reading> {
  try {
    const list = await askAside('list', { bytes: source.bytes, fileName: source.fileName, as });
    const problem =
      list.rows.length > MOST_ROWS
        ? `This list has ${list.rows.length} rows; a series takes ${MOST_ROWS} at most. Divide it.`
        : list.rows.length === 0
          ? 'There is nothing below the header.'
          : undefined;
    return { source, as, list, problem };
  } catch (error) {
    return { source, as, list: undefined, problem: sentenceOf(error) };
  }
}

/** Names of columns that can be told apart: those of the header, numbered where two are alike or one is empty. */
export function columnNames({ header, rows }: List): string[] {
  const width = Math.min(
    1000,
    rows.reduce((most, row) => Math.max(most, row.length), header?.length ?? 1),
  );
  const used = new Set<string>();
  return Array.from({ length: width }, (_, k) => {
    const own = (header?.[k] ?? '').replace(/[{}]/g, '').replace(/\s+/g, ' ').trim();
    const plain = own === '' ? `Column ${k + 1}` : own;
    let name = plain;
    for (let n = 2; used.has(name.toLowerCase()); n++) name = `${plain} ${n}`;
    used.add(name.toLowerCase());
    return name;
  });
}

export const rowsOfList = (list: List, fileName: string): ReadRows => ({
  fileName: fileName.slice(0, 300),
  columns: columnNames(list),
  rows: list.rows,
});

/** What a newer list would change; undefined for a first one. */
export const changeOf = (before: ReadRows | null | undefined, after: ReadRows): ListChange | undefined =>
  before ? compareLists(before, after) : undefined;

/** A warning without its code. */
export const plainWarning = (warning: string): string => warning.replace(/^[a-z-]+:\s*/, '');
