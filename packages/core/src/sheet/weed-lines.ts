/**
 * Lines through the waste of a sheet, so that it comes off in strips: straight across, or following the gaps.
 *
 * What lies there is drawn on a grid, grown by the distance that lines keep; cells that count as free are at least that far
 * away. A line is the cheapest way across the material, from row to row and at most one cell aside each step, by dynamic
 * programming (S. Avidan, A. Shamir, Seam carving for content-aware image resizing, 2007). A straight one has a band of one
 * cell, one that follows the gaps half the spacing to either side: steps aside cost little, steps through a part much. Where
 * there is no way, the line is broken off. Bends are pulled straight as far as the cells between stay free.
 * x along the material, y across it, mm.
 */
import type { Box, Contour, Outline, Point } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { flatten } from '../geometry/flatten.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { rasterOf, type Cover } from './raster.ts';

/** What weed lines run between, how far apart, and how near they may come to parts. mm. */
export interface WeedLinesProblem {
  /** Parts as they lie. */
  readonly parts: readonly Outline[];
  /** Where lines run: the box of the work. */
  readonly box: Box;
  readonly kind: 'straight' | 'gaps';
  readonly spacingMm: number;
  /** Never nearer to a part than this, mm. */
  readonly clearMm: number;
}

const FINEST_MM = 0.5;
/** Cells of a sheet, at most about so many. */
const MOST_CELLS = 4e6;
const CHORD_MM = 0.05;
const ASIDE = 0.4;
const OFF_MIDDLE = 0.003;
const BLOCKED = 60;
const MOST_LINES = 2000;

/** What is taken of one band of columns, on the sheet's grid. */
class Band {
  readonly columns: number;
  private readonly taken: Uint8Array;

  constructor(
    readonly first: number,
    readonly last: number,
    readonly rows: number,
    covers: readonly Cover[],
  ) {
    this.columns = last - first + 1;
    this.taken = new Uint8Array(this.columns * rows);
    for (const cover of covers)
      for (let c = Math.max(first, cover.column); c <= Math.min(last, cover.column + cover.columns - 1); c++)
        for (let r = Math.max(0, cover.row); r < Math.min(rows, cover.row + cover.rows); r++)
          if (cover.cells[(c - cover.column) * cover.rows + r - cover.row] === 1) this.taken[(c - first) * rows + r] = 1;
  }

  /** @param column, row in the band */
  isFree(column: number, row: number): boolean {
    return this.taken[column * this.rows + row] === 0;
  }

  /** The cheapest way across: the column of each row. */
  way(middle: number): Int32Array {
    const { columns, rows } = this;
    const cost = new Float64Array(columns * rows);
    const from = new Int8Array(columns * rows);
    for (let r = 0; r < rows; r++)
      for (let c = 0; c < columns; c++) {
        let best = r === 0 ? 0 : Infinity;
        for (let d = -1; r > 0 && d <= 1; d++) {
          const before = c + d;
          if (before < 0 || before >= columns) continue;
          const sum = (cost[before * rows + r - 1] as number) + (d === 0 ? 0 : ASIDE);
          if (sum < best) {
            best = sum;
            from[c * rows + r] = d;
          }
        }
        cost[c * rows + r] = best + (this.isFree(c, r) ? 0 : BLOCKED) + OFF_MIDDLE * Math.abs(c - middle);
      }
    let c = middle;
    for (let k = 0; k < columns; k++) if ((cost[k * rows + rows - 1] as number) < (cost[c * rows + rows - 1] as number)) c = k;
    const way = new Int32Array(rows);
    for (let r = rows - 1; r >= 0; r--) {
      way[r] = c;
      c += from[c * rows + r] as number;
    }
    return way;
  }

  /** Are all cells between the middles of two free? */
  isClear(c0: number, r0: number, c1: number, r1: number): boolean {
    const steps = 2 * Math.max(Math.abs(c1 - c0), Math.abs(r1 - r0), 1);
    for (let k = 0; k <= steps; k++)
      if (!this.isFree(Math.round(c0 + ((c1 - c0) * k) / steps), Math.round(r0 + ((r1 - r0) * k) / steps))) return false;
    return true;
  }

  /** Free stretches of a way, each as the corners that are left when bends are pulled straight: [column, row] in the band. */
  stretches(way: Int32Array): (readonly [number, number])[][] {
    const out: (readonly [number, number])[][] = [];
    for (let r = 0; r < this.rows; r++) {
      if (!this.isFree(way[r] as number, r)) continue;
      const start = r;
      while (r + 1 < this.rows && this.isFree(way[r + 1] as number, r + 1)) r++;
      const corners: (readonly [number, number])[] = [[way[start] as number, start]];
      for (let at = start; at < r;) {
        let to = r;
        while (to > at + 1 && !this.isClear(way[at] as number, at, way[to] as number, to)) to = at + Math.max(1, Math.floor((to - at) / 2));
        corners.push([way[to] as number, to]);
        at = to;
      }
      out.push(corners);
    }
    return out;
  }
}

const lineOf = (points: readonly Point[]): Contour => ({
  closed: false,
  spans: points.slice(1).map(({ x, y }, i) => [(points[i] as Point).x, (points[i] as Point).y, x, y]),
});

/** @returns open lines; none when nothing lies there. @throws InputError for a spacing or a distance that is none */
export function weedLines({ parts, box, kind, spacingMm, clearMm }: WeedLinesProblem): Outline {
  if (!(spacingMm >= 1)) throw new InputError('spacing', `Weed lines need a spacing of 1 mm or more, not ${spacingMm}.`);
  if (!(clearMm >= 0)) throw new InputError('clear', 'The distance of weed lines from parts must not be below zero.');
  if (isEmptyBox(box)) return { contours: [] };
  const [length, width] = [box.maxX - box.minX, box.maxY - box.minY];
  const count = Math.min(MOST_LINES, Math.ceil(length / spacingMm - 1e-9) - 1);
  if (count < 1 || !(width > 0)) return { contours: [] };
  const cell = Math.max(FINEST_MM, Math.sqrt((length * width) / MOST_CELLS));
  const rows = Math.max(1, Math.floor(width / cell));
  const covers = parts
    .filter((part) => !isEmptyBox(bounds(part)))
    .map((part) => {
      const lines = flatten(part, CHORD_MM).map(({ closed, xy }) => ({
        closed,
        xy: xy.map((value, i) => value - (i % 2 === 0 ? box.minX : box.minY)),
      }));
      const own = bounds(part);
      const moved = { minX: own.minX - box.minX, minY: own.minY - box.minY, maxX: own.maxX - box.minX, maxY: own.maxY - box.minY };
      return rasterOf(lines, moved, cell, clearMm + CHORD_MM);
    });
  const reach = kind === 'straight' ? 0 : Math.floor((0.45 * spacingMm) / cell);
  const contours: Contour[] = [];
  for (let k = 1; k <= count; k++) {
    const middle = Math.floor((k * spacingMm) / cell);
    const band = new Band(Math.max(0, middle - reach), middle + reach, rows, covers);
    const pointOf = ([c, r]: readonly [number, number]): Point => ({
      x: box.minX + (band.first + c + 0.5) * cell,
      y: box.minY + (r + 0.5) * cell,
    });
    for (const corners of band.stretches(band.way(middle - band.first)))
      if (corners.length > 1) contours.push(lineOf(corners.map(pointOf)));
  }
  return { contours };
}
