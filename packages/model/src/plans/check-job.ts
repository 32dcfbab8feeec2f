/**
 * The one check of a job, for page and server alike: the drawing itself, and each layer that goes out on its material.
 * What one of them stops, the other stops.
 *
 * Law: page and server, given the same drawing and stock, find the same.
 */
import { twiceCovered } from '@lorvek/core/build';
import type { Finding } from '@lorvek/core/check';
import { mapOutline } from '@lorvek/core/geometry';
import { checkDrawing } from './check-drawing.ts';
import type { Drawing } from '../records/document.ts';
import { isUnknown, type KnownOf } from '../queries/known-pieces.ts';
import { isAid, isCutLine } from '../queries/plain-outline.ts';
import { leavesOf } from '../queries/queries.ts';
import { seriesFilled, sheetsOf, type SheetPlan } from './plan-sheet.ts';
import type { StockFilm } from '../api/shop.ts';

/** All sheets with their findings, and the findings of the drawing itself. */
export interface CheckedJob {
  /** Of the drawing itself; places on the drawing. */
  readonly whole: readonly Finding[];
  /** In strip order; each with its findings, places on the sheet. */
  readonly sheets: readonly SheetPlan[];
}

/**
 * Ground that a film covers more than once, mm², by film: what the sum of its parts' areas counts too much.
 * @returns films whose parts lie apart are not in it
 */
export function twiceOn(drawing: Drawing, knownOf: KnownOf): Record<string, number> {
  const parts = leavesOf(drawing).flatMap((leaf) => {
    const known = isAid(leaf) || isCutLine(leaf) ? undefined : knownOf(leaf);
    if (!known || isUnknown(known)) return [];
    return known.pieces.flatMap(({ layer, outline }) =>
      layer === null ? [] : [{ key: layer, outline: mapOutline(leaf.matrix, outline) }],
    );
  });
  return Object.fromEntries(twiceCovered(parts));
}

/** Which layers, under which name, and who is told how far it is. */
export interface CheckOptions {
  /** Only these; absent: all that are in the job's scope. */
  readonly layers?: readonly string[] | undefined;
  /** Is written beside panels. */
  readonly jobName?: string;
  /** Told how much is done, 0 to 1. */
  readonly onShare?: (share: number) => void;
}

/** Of a series: the share of the work that its rows are. */
const ROWS_SHARE = 0.4;

/**
 * The one check, for the page and the server: what is shown is what goes out.
 * @param jobId whose sheets they are; the code that is printed on them names it
 * @returns findings of the whole and of each sheet, and the sheets themselves
 * @complexity the work of all layers that are asked for
 */
export function checkJob(
  drawing: Drawing,
  stock: readonly StockFilm[],
  knownOf: KnownOf,
  jobId: string,
  { layers, jobName = '', onShare }: CheckOptions = {},
): CheckedJob {
  const series = seriesFilled(drawing, knownOf, onShare && ((share) => onShare(ROWS_SHARE * share)));
  const onSheet = onShare && ((share: number) => onShare(series ? ROWS_SHARE + (1 - ROWS_SHARE) * share : share));
  const ofRows = series ? [...series.findings, ...series.rows.flatMap(({ findings }) => findings)] : [];
  return {
    whole: [...checkDrawing(drawing, knownOf), ...ofRows],
    sheets: sheetsOf(drawing, stock, knownOf, jobId, { layers, series, jobName, onShare: onSheet }),
  };
}

export { stopsOf } from './stops.ts';
