/**
 * The one check of a job, for page and server alike: the drawing itself, and each layer that goes out on its material.
 * What one of them stops, the other stops.
 *
 * Law: page and server, given the same drawing and stock, find the same.
 */
import type { Finding } from '@lorvek/core/check';
import { checkDrawing } from './check-drawing.ts';
import type { Drawing } from '../records/document.ts';
import type { KnownOf } from '../queries/known-pieces.ts';
import { sheetsOf, type SheetPlan } from './plan-sheet.ts';
import type { StockFilm } from '../api/shop.ts';

export interface CheckedJob {
  /** Of the drawing itself; places on the drawing. */
  readonly whole: readonly Finding[];
  /** In strip order; each with its findings, places on the sheet. */
  readonly sheets: readonly SheetPlan[];
}

/** @param layers only these; absent: all that are in the job's scope */
export function checkJob(
  drawing: Drawing,
  stock: readonly StockFilm[],
  knownOf: KnownOf,
  jobId: string,
  layers?: readonly string[],
): CheckedJob {
  return { whole: checkDrawing(drawing, knownOf), sheets: sheetsOf(drawing, stock, knownOf, jobId, layers) };
}

export { stopsOf } from './stops.ts';
