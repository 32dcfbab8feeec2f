/**
 * The one check of a job, for page and server alike: the drawing itself, and each film that goes out on its roll. What
 * one of them stops, the other stops.
 *
 * Law: page and server, given the same drawing and stock, find the same.
 */
import type { Finding } from '@lorvek/core/check';
import { checkDrawing } from './check-drawing.ts';
import type { Drawing } from './document.ts';
import type { KnownOf } from './known-pieces.ts';
import { filmsInScope, prepareSheet, type PreparedSheet } from './prepare.ts';
import type { StockFilm } from './api/shop.ts';

export interface CheckedJob {
  /** Of the drawing itself; places on the drawing. */
  readonly whole: readonly Finding[];
  /** In strip order; each with its findings, places on the sheet. */
  readonly sheets: readonly PreparedSheet[];
}

/** @param films only these; absent: all that are in the job's scope */
export function checkJob(drawing: Drawing, stock: readonly StockFilm[], knownOf: KnownOf, films?: readonly string[]): CheckedJob {
  const chosen = filmsInScope(drawing).filter((film) => films?.includes(film.id) ?? true);
  return {
    whole: checkDrawing(drawing, knownOf),
    sheets: chosen.map((film) => prepareSheet(drawing, film.id, stock, knownOf)),
  };
}

export { stopsOf } from './stops.ts';
