/**
 * The strip that parts are nested on, as a grid: covers of the parts in their turns, what is taken, the first free place,
 * and one go at laying parts in a given order. The method is told in `nest.ts`.
 */
import type { Box, Matrix, Outline } from '../types/index.ts';
import { flatten, type Polyline } from '../geometry/flatten.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { at } from '../geometry/span.ts';
import { compose, rotation, translation, mappedBounds } from '../geometry/transform.ts';
import { rasterOf, runsOf } from './raster.ts';

/** Cells are not made finer than this, mm. */
const SMALLEST_CELL_MM = 0.1;
const NONE = 0x7fff_ffff;

/** A part as it is laid, once for all its copies. */
export interface Shape {
  readonly outline: Outline;
  readonly lines: readonly Polyline[];
  readonly areaMm2: number;
}

/** One part in one turn on the grid, its lower left cell at 0, 0. */
export interface Orientation {
  readonly turnDeg: number;
  /** From the part's own place to this one, its box at the origin. */
  readonly map: Matrix;
  readonly columns: number;
  readonly rows: number;
  readonly lengthMm: number;
  readonly bare: readonly Int32Array[];
  /** Column at which the grown cover begins, 0 or below. */
  readonly grownFrom: number;
  readonly grown: readonly Int32Array[];
}

/**
 * Every contour the same way round, so that holes are filled.
 * @returns lines that run counter-clockwise already are the same objects
 */
export function withoutHoles(lines: readonly Polyline[]): Polyline[] {
  return lines.map((line) => {
    const { xy } = line;
    let twice = 0;
    for (let i = 0, n = xy.length, j = n - 2; i < n; j = i, i += 2) twice += at(xy, j) * at(xy, i + 1) - at(xy, i) * at(xy, j + 1);
    if (twice >= 0) return line;
    const back = new Float64Array(xy.length);
    for (let i = 0, n = xy.length; i < n; i += 2) {
      back[i] = at(xy, n - 2 - i);
      back[i + 1] = at(xy, n - 1 - i);
    }
    return { closed: line.closed, xy: back };
  });
}

/** Box of the corners of lines; an empty one of none. */
export const boxOfLines = (lines: readonly Polyline[]): Box => {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { xy } of lines)
    for (let i = 0; i < xy.length; i += 2) {
      minX = Math.min(minX, at(xy, i));
      maxX = Math.max(maxX, at(xy, i));
      minY = Math.min(minY, at(xy, i + 1));
      maxY = Math.max(maxY, at(xy, i + 1));
    }
  return { minX, minY, maxX, maxY };
};

const turned = (lines: readonly Polyline[], [a, b, c, d, e, f]: Matrix): Polyline[] =>
  lines.map(({ closed, xy }) => {
    const out = new Float64Array(xy.length);
    for (let i = 0; i < xy.length; i += 2) {
      out[i] = a * at(xy, i) + c * at(xy, i + 1) + e;
      out[i + 1] = b * at(xy, i) + d * at(xy, i + 1) + f;
    }
    return { closed, xy: out };
  });

/** Runs cut off at the strip's edges. */
function inRows(runs: Int32Array, rows: number): Int32Array {
  const kept: number[] = [];
  for (let k = 0; k < runs.length; k += 2) {
    const [low, high] = [Math.max(0, at(runs, k)), Math.min(rows - 1, at(runs, k + 1))];
    if (high >= low) kept.push(low, high);
  }
  return Int32Array.from(kept);
}

/** The strip's grid: rows across it, and the layings that were drawn on it. */
export class Grid {
  readonly cell: number;
  readonly rows: number;
  readonly columns: number;
  private fixed: ReturnType<Grid['obstacles']> | undefined;
  private readonly layings = new Map<string, Orientation | undefined>();

  /** @param tolerance by which the things' lines may be off their outlines, mm */
  constructor(
    readonly things: readonly Shape[],
    private readonly strip: {
      readonly widthMm: number;
      readonly lengthMm?: number;
      readonly gapMm: number;
      readonly fixed?: readonly Outline[];
    },
    rows: number,
    private readonly tolerance: number,
  ) {
    this.rows = Math.max(1, Math.min(rows, Math.floor(strip.widthMm / SMALLEST_CELL_MM)));
    this.cell = strip.widthMm / this.rows;
    this.columns = strip.lengthMm === undefined ? Infinity : Math.floor(strip.lengthMm / this.cell + 1e-9);
  }

  /** What lies on the strip already, as it is put. */
  obstacles(): readonly { readonly bare: readonly Int32Array[]; readonly column: number; readonly endMm: number }[] {
    this.fixed ??= (this.strip.fixed ?? []).flatMap((outline) => {
      const lines = flatten(outline, this.tolerance);
      const box = bounds(outline);
      if (isEmptyBox(box)) return [];
      const cover = rasterOf(lines, box, this.cell, this.tolerance);
      const runs = runsOf(cover).map((column) => inRows(column, this.rows));
      const before = Math.min(runs.length, Math.max(0, -cover.column));
      return [{ bare: runs.slice(before), column: Math.max(0, cover.column), endMm: box.maxX }];
    });
    return this.fixed;
  }

  /** @returns undefined when the thing is too wide or too long in this turn */
  laying(thing: number, turnDeg: number): Orientation | undefined {
    const key = `${thing} ${turnDeg}`;
    if (!this.layings.has(key)) this.layings.set(key, this.draw(this.things[thing] as Shape, turnDeg));
    return this.layings.get(key);
  }

  private draw({ lines, outline }: Shape, turnDeg: number): Orientation | undefined {
    const { cell, tolerance, strip } = this;
    const around = rotation(turnDeg);
    const exact = mappedBounds(around, outline);
    const map = compose(translation(-exact.minX, -exact.minY), around);
    const [lengthMm, heightMm] = [exact.maxX - exact.minX, exact.maxY - exact.minY];
    if (heightMm > strip.widthMm + 1e-6) return undefined;
    const columns = Math.max(1, Math.ceil(lengthMm / cell - 1e-9));
    const rows = Math.min(this.rows, Math.max(1, Math.ceil(heightMm / cell - 1e-9)));
    if (columns > this.columns) return undefined;
    const moved = turned(lines, map);
    const box = boxOfLines(moved);
    const bare = rasterOf(moved, box, cell, tolerance);
    const grown = rasterOf(moved, box, cell, strip.gapMm + tolerance);
    // what the cover marks beyond the box is its rounding up: the thing itself is not there
    const inside = runsOf(bare).slice(-bare.column, columns - bare.column);
    return {
      turnDeg,
      map,
      columns,
      rows,
      lengthMm,
      bare: inside.map((runs) => runs.map((row) => Math.min(rows - 1, Math.max(0, row)))),
      grownFrom: grown.column,
      grown: runsOf(grown),
    };
  }
}

/** What lies on the strip: of each column the next taken row at or above each row, and where its run ends. */
class Strip {
  private readonly taken: Uint8Array[] = [];
  private readonly next: Int32Array[] = [];
  private readonly runEnd: Int32Array[] = [];

  constructor(private readonly rows: number) {}

  /** First free place at or behind a column whose end lies before `limit`; undefined when there is none. */
  firstFree(laying: Orientation, from: number, limit: number): { column: number; row: number } | undefined {
    const most = this.rows - laying.rows;
    // what collided last is likely to collide at the next place as well
    let last = 0;
    for (let column = from; column + laying.columns <= limit; column++) {
      for (let row = 0; row <= most;) {
        let jump = this.collision(laying, last, column, row);
        for (let c = 0; jump < 0 && c < laying.grown.length; c++) {
          jump = this.collision(laying, c, column, row);
          if (jump >= 0) last = c;
        }
        if (jump < 0) return { column, row };
        row = jump;
      }
    }
    return undefined;
  }

  /** The next row worth trying, when a column of the laying's grown cover meets something; -1 when not. */
  private collision({ grown, grownFrom }: Orientation, c: number, column: number, row: number): number {
    const index = column + grownFrom + c;
    const next = this.next[index];
    const runEnd = this.runEnd[index];
    if (!next || !runEnd) return -1;
    const runs = grown[c] as Int32Array;
    for (let k = 0; k < runs.length; k += 2) {
      const low = at(runs, k);
      const high = at(runs, k + 1) + row;
      if (high < 0 || low + row >= this.rows) continue;
      const taken = at(next, Math.max(0, low + row));
      if (taken <= high) return at(runEnd, taken) + 1 - low;
    }
    return -1;
  }

  put({ bare }: Pick<Orientation, 'bare'>, column: number, row: number): void {
    while (this.taken.length < column + bare.length) {
      this.taken.push(new Uint8Array(this.rows));
      this.next.push(new Int32Array(this.rows).fill(NONE));
      this.runEnd.push(new Int32Array(this.rows));
    }
    bare.forEach((runs, c) => {
      const taken = this.taken[column + c] as Uint8Array;
      for (let k = 0; k < runs.length; k += 2) taken.fill(1, row + at(runs, k), row + at(runs, k + 1) + 1);
      const [next, runEnd] = [this.next[column + c] as Int32Array, this.runEnd[column + c] as Int32Array];
      let [seen, end] = [NONE, 0];
      for (let r = this.rows - 1; r >= 0; r--) {
        if (taken[r] === 1) {
          if (seen !== r + 1) end = r;
          seen = r;
          runEnd[r] = end;
        }
        next[r] = seen;
      }
    });
  }
}

/** A copy of a thing, to be laid. */
export interface Entry {
  readonly thing: number;
  readonly copy: number;
}

/** A copy on the grid, at the lower left cell of its cover. */
export interface Placed {
  readonly entry: Entry;
  readonly laying: Orientation;
  readonly column: number;
  readonly row: number;
}

/** What came of laying all copies in one order. */
export interface Attempt {
  readonly placed: readonly Placed[];
  readonly leftOut: readonly Entry[];
  readonly usedLengthMm: number;
  /** Ties of the length: area by its way from the strip's beginning, mm³. */
  readonly weight: number;
}

/**
 * Lays entries one after another to the first free place, each in the turn that ends first.
 * @param isLost asked after each entry whether it is worth going on
 * @returns undefined when it was not
 */
export function lay(
  grid: Grid,
  order: readonly Entry[],
  turnsOf: (entry: Entry) => readonly number[],
  isLost: (usedLengthMm: number, leftOut: number) => boolean = () => false,
): Attempt | undefined {
  const strip = new Strip(grid.rows);
  const placed: Placed[] = [];
  const leftOut: Entry[] = [];
  // room only shrinks, so the same laying never finds a place before its last one
  const from = new Map<Orientation, number>();
  let [usedLengthMm, weight] = [0, 0];
  for (const fixed of grid.obstacles()) {
    strip.put(fixed, fixed.column, 0);
    usedLengthMm = Math.max(usedLengthMm, fixed.endMm);
  }
  for (const entry of order) {
    if (isLost(usedLengthMm, leftOut.length)) return undefined;
    let best: Placed | undefined;
    for (const turnDeg of turnsOf(entry)) {
      const laying = grid.laying(entry.thing, turnDeg);
      if (!laying) continue;
      const limit = Math.min(grid.columns, best ? best.column + best.laying.columns - 1 : Infinity);
      const place = strip.firstFree(laying, from.get(laying) ?? 0, limit);
      if (!place) continue;
      from.set(laying, place.column);
      best = { entry, laying, ...place };
    }
    if (!best) {
      leftOut.push(entry);
      continue;
    }
    strip.put(best.laying, best.column, best.row);
    placed.push(best);
    usedLengthMm = Math.max(usedLengthMm, best.column * grid.cell + best.laying.lengthMm);
    weight += (grid.things[entry.thing] as Shape).areaMm2 * (best.column + best.laying.columns / 2) * grid.cell;
  }
  return { placed, leftOut, usedLengthMm, weight };
}
