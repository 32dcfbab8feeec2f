/**
 * Covers: which cells of a grid a shape, grown by a radius, may touch; never too few cells. A cell counts when its
 * middle lies inside (non-zero) or within the radius and half a cell's diagonal of the outline, so two covers that
 * share no cell belong to shapes that do not meet. Too many by at most a diagonal and the chord tolerance.
 * Units mm; columns along x, rows along y.
 */
import type { Box } from '../types/index.ts';
import type { Polyline } from '../geometry/flatten.ts';
import { at } from '../geometry/span.ts';

/** Cells that an outline touches, within a window of the grid. */
export interface Cover {
  /** Column and row of the window's lower left cell on the grid. */
  readonly column: number;
  readonly row: number;
  readonly columns: number;
  readonly rows: number;
  /** 1 where a cell is touched, column after column. */
  readonly cells: Uint8Array;
}

const HALF_DIAGONAL = Math.SQRT1_2;

/** Marks the cells near a straight line. */
function markLine(cover: Cover, cell: number, reach: number, x0: number, y0: number, x1: number, y1: number): void {
  const { column, row, columns, rows, cells } = cover;
  const [dx, dy] = [x1 - x0, y1 - y0];
  const length2 = dx * dx + dy * dy;
  const first = Math.max(0, Math.floor((Math.min(x0, x1) - reach) / cell) - column);
  const last = Math.min(columns - 1, Math.floor((Math.max(x0, x1) + reach) / cell) - column);
  for (let c = first; c <= last; c++) {
    const x = (c + column + 0.5) * cell;
    // the stretch of the line that is near this column
    const t0 = dx === 0 ? 0 : (x - reach - x0) / dx;
    const t1 = dx === 0 ? 1 : (x + reach - x0) / dx;
    const from = Math.min(1, Math.max(0, Math.min(t0, t1)));
    const to = Math.min(1, Math.max(0, Math.max(t0, t1)));
    const [ya, yb] = [y0 + from * dy, y0 + to * dy];
    const low = Math.max(0, Math.floor((Math.min(ya, yb) - reach) / cell) - row);
    const high = Math.min(rows - 1, Math.floor((Math.max(ya, yb) + reach) / cell) - row);
    for (let r = low; r <= high; r++) {
      const y = (r + row + 0.5) * cell;
      const t = length2 === 0 ? 0 : Math.min(1, Math.max(0, ((x - x0) * dx + (y - y0) * dy) / length2));
      const [ex, ey] = [x - x0 - t * dx, y - y0 - t * dy];
      if (ex * ex + ey * ey <= reach * reach) cells[c * rows + r] = 1;
    }
  }
}

/** Calls back with each stretch inside (non-zero) of the lines x = (c + column + 0.5) cell, for c from 0. */
function eachInside(
  lines: readonly Polyline[],
  { column, columns, cell }: { column: number; columns: number; cell: number },
  visit: (c: number, from: number, to: number) => void,
): void {
  const crossings: { y: number; turn: number }[][] = Array.from({ length: columns }, () => []);
  for (const { closed, xy } of lines) {
    if (!closed) continue;
    const n = xy.length / 2;
    for (let i = 0; i < n; i++) {
      const j = (i + 1) % n;
      const [x0, y0, x1, y1] = [at(xy, 2 * i), at(xy, 2 * i + 1), at(xy, 2 * j), at(xy, 2 * j + 1)];
      if (x0 === x1) continue;
      const [a, b] = x0 < x1 ? [x0, x1] : [x1, x0];
      const last = Math.min(columns - 1, Math.ceil(b / cell - 0.5) - 1 - column);
      for (let c = Math.max(0, Math.ceil(a / cell - 0.5) - column); c <= last; c++) {
        const x = (c + column + 0.5) * cell;
        crossings[c]?.push({ y: y0 + ((x - x0) / (x1 - x0)) * (y1 - y0), turn: x0 < x1 ? 1 : -1 });
      }
    }
  }
  crossings.forEach((found, c) => {
    found.sort((a, b) => a.y - b.y);
    let winding = 0;
    found.forEach(({ y, turn }, k) => {
      winding += turn;
      const next = found[k + 1];
      if (winding !== 0 && next) visit(c, y, next.y);
    });
  });
}

/** Marks the cells whose middle is inside. */
function markInside({ column, row, columns, rows, cells }: Cover, cell: number, lines: readonly Polyline[]): void {
  eachInside(lines, { column, columns, cell }, (c, from, to) => {
    const low = Math.max(0, Math.ceil(from / cell - 0.5) - row);
    const high = Math.min(rows - 1, Math.floor(to / cell - 0.5) - row);
    if (high >= low) cells.fill(1, c * rows + low, c * rows + high + 1);
  });
}

const AREA_LINES = 1000;

/**
 * Area that is covered, what lies twice counted once: by the middle of a thousand strips, to some thousandth.
 * @param lines closed ones by the non-zero rule
 * @complexity corners, times the strips that each side crosses
 */
export function coveredArea(lines: readonly Polyline[], { minX, maxX }: Box): number {
  const cell = (maxX - minX) / AREA_LINES;
  if (!(cell > 0)) return 0;
  let sum = 0;
  eachInside(lines, { column: Math.round(minX / cell), columns: AREA_LINES + 1, cell }, (_, from, to) => (sum += (to - from) * cell));
  return sum;
}

/**
 * @param box of the lines, mm
 * @param cell side of a cell, mm
 * @param radius by how much the shape is grown, mm, chord tolerance of the lines included
 */
export function rasterOf(lines: readonly Polyline[], box: Box, cell: number, radius: number): Cover {
  const [column, row] = [Math.floor((box.minX - radius) / cell), Math.floor((box.minY - radius) / cell)];
  const columns = Math.max(1, Math.ceil((box.maxX + radius) / cell - 1e-9) - column);
  const rows = Math.max(1, Math.ceil((box.maxY + radius) / cell - 1e-9) - row);
  const cover: Cover = { column, row, columns, rows, cells: new Uint8Array(columns * rows) };
  markInside(cover, cell, lines);
  const reach = radius + HALF_DIAGONAL * cell;
  for (const { closed, xy } of lines) {
    const n = xy.length / 2;
    for (let i = 0; i < (closed ? n : Math.max(1, n - 1)); i++) {
      const j = (i + 1) % n;
      markLine(cover, cell, reach, at(xy, 2 * i), at(xy, 2 * i + 1), at(xy, 2 * j), at(xy, 2 * j + 1));
    }
  }
  return cover;
}

/**
 * The touched rows of each column as runs [first, last, first, last, …], rows of the grid.
 * @returns a list a column; empty where nothing is touched
 */
export function runsOf({ row, columns, rows, cells }: Cover): Int32Array[] {
  return Array.from({ length: columns }, (_, c) => {
    const runs: number[] = [];
    for (let r = 0; r < rows; r++) {
      if (cells[c * rows + r] !== 1) continue;
      const first = r;
      while (r + 1 < rows && cells[c * rows + r + 1] === 1) r++;
      runs.push(first + row, r + row);
    }
    return Int32Array.from(runs);
  });
}

/** Steps along the edges of cells: along x, along y, back, down. */
const STEPS = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
] as const;

/** Which of the four steps leave each corner of the cells with touched cells on their left and none on their right, as bits. */
function edgesOf({ columns, rows, cells }: Cover): Uint8Array {
  const steps = new Uint8Array((columns + 1) * (rows + 1));
  const isTouched = (c: number, r: number): boolean => c >= 0 && r >= 0 && c < columns && r < rows && cells[c * rows + r] === 1;
  for (let c = 0; c <= columns; c++)
    for (let r = 0; r <= rows; r++) {
      const [ahead, left, back, below] = [isTouched(c, r), isTouched(c - 1, r), isTouched(c - 1, r - 1), isTouched(c, r - 1)];
      steps[c * (rows + 1) + r] = +(ahead && !below) | (+(left && !ahead) << 1) | (+(back && !left) << 2) | (+(below && !back) << 3);
    }
  return steps;
}

/** The step to go on with of those that are open, as bits: to the left first, so as to stay at the same cell. */
function nextStep(open: number, came: number): number {
  for (const turn of [1, 0, 3]) {
    const step = (came + turn) % 4;
    if (came >= 0 && (open >> step) & 1) return step;
  }
  return Math.log2(open & -open);
}

/**
 * Rings round the touched cells, the cells on their left: what the cover is of lies within them. Cells that meet at a
 * corner only have a ring each. Cost: the cells of the window.
 * @param cell side of a cell, mm
 * @returns closed lines of corners, mm; none round no cell
 */
export function ringsRound(cover: Cover, cell: number): Polyline[] {
  const { column, row, rows } = cover;
  const edges = edgesOf(cover);
  const rings: Polyline[] = [];
  for (let first = 0; first < edges.length; first++)
    while (at(edges, first) !== 0) {
      const xy: number[] = [];
      let [c, r, came] = [Math.floor(first / (rows + 1)), first % (rows + 1), -1];
      do {
        const here = c * (rows + 1) + r;
        const step = nextStep(at(edges, here), came);
        edges[here] = at(edges, here) & ~(1 << step);
        if (step !== came) xy.push((c + column) * cell, (r + row) * cell);
        const [dx, dy] = STEPS[step] as (typeof STEPS)[number];
        [c, r, came] = [c + dx, r + dy, step];
      } while (c * (rows + 1) + r !== first);
      rings.push({ closed: true, xy: Float64Array.from(xy) });
    }
  return rings;
}
