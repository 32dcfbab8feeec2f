/**
 * Corners of a chain. At each point a straight line is fitted to the points a little way on and another to those a
 * little way back. Where they meet at an angle close by the points, and no bow runs through all of them as well, a
 * corner stands at their meeting, which undoes the rounding of antialiasing. Units pixels.
 */
import { bowError, fitLine, meeting, type LineFit, type P } from './line-fit.ts';

/** How closely curves follow points, and what counts as a corner. */
export interface FitSettings {
  /** Greatest distance of the points from a curve. */
  readonly tol: number;
  /** Turns sharper than this are corners, degrees. */
  readonly cornerDeg: number;
  /** Over how many pixels directions are told. */
  readonly window: number;
  /** How far beside corners and junctions points are rounded off by antialiasing or blur, pixels. */
  readonly rounded: number;
  /** How far beside junctions points tell nothing; as beside corners when absent. */
  readonly joint?: number;
  /** Pixels of the steps that edges were made of, 0 where they were smooth. */
  readonly steps: number;
  /** How far a bend may stray from one smooth curve for its chords to be told from straight edges, pixels. */
  readonly smoothPx?: number | undefined;
  /** How often points are drawn towards their neighbours before anything is fitted, against noise. */
  readonly calm: number;
  /** Noise is left after that. */
  readonly isRough?: boolean;
  /** How much more than usual the edge between two labels wavers, for want of contrast; 1 when absent. */
  readonly wavers?: (left: number, right: number) => number;
}

/** Points with the way along them. */
export class Path {
  readonly points: readonly P[];
  /** The points where they were found. */
  readonly found: readonly P[];
  readonly way: readonly number[];
  readonly closed: boolean;
  readonly length: number;

  /** @param found where the points were found, before they were calmed */
  constructor(xy: readonly number[], closed: boolean, found: readonly number[] = xy) {
    const points: P[] = [];
    const foundAt: P[] = [];
    for (let i = 0; i < xy.length; i += 2) {
      const p: P = [xy[i] as number, xy[i + 1] as number];
      const last = points.at(-1);
      if (!last || Math.hypot(p[0] - last[0], p[1] - last[1]) > 1e-4) {
        points.push(p);
        foundAt.push([found[i] as number, found[i + 1] as number]);
      }
    }
    this.points = points;
    this.found = foundAt;
    this.closed = closed;
    const way = [0];
    for (let i = 1; i < points.length; i++)
      way.push(
        (way[i - 1] as number) + Math.hypot((points[i] as P)[0] - (points[i - 1] as P)[0], (points[i] as P)[1] - (points[i - 1] as P)[1]),
      );
    const [a, b] = [points[0], points.at(-1)];
    this.way = way;
    this.length = (way.at(-1) ?? 0) + (closed && a && b ? Math.hypot(a[0] - b[0], a[1] - b[1]) : 0);
  }

  at(i: number): P {
    const n = this.points.length;
    return this.points[((i % n) + n) % n] as P;
  }

  foundAt(i: number): P {
    const n = this.found.length;
    return this.found[((i % n) + n) % n] as P;
  }

  /** Way to a point counted on beyond the ends of a closed path. */
  wayTo(i: number): number {
    const n = this.points.length;
    const turns = Math.floor(i / n);
    return (this.way[i - turns * n] as number) + turns * this.length;
  }

  /** Points that lie between two ways off a point, on (1) or back (-1), nearest to the far end last. */
  side(i: number, sign: 1 | -1, near: number, far: number, [low, high]: Range): P[] {
    const out: P[] = [];
    const start = this.wayTo(i);
    for (let k = i; k >= low && k <= high && Math.abs(k - i) < this.points.length; k += sign) {
      const d = Math.abs(this.wayTo(k) - start);
      if (d > far && out.length >= 3) break;
      if (d > far * 1.6) break;
      if (d >= near) out.push(this.at(k));
    }
    return out;
  }
}

/** The first and last point that may be asked, by number; those of a closed path count on beyond its ends. */
type Range = readonly [low: number, high: number];

/** A place that parts a path: a corner, or an end of what is looked at. */
export interface Mark {
  readonly index: number;
  readonly apex: P;
  /** The chain's own place there, its point where not given. */
  readonly raw?: P;
  /** An end amid an edge: points up to it tell. */
  readonly isPlain?: boolean;
  /** Stays where it is. */
  readonly isFixed?: boolean;
  /** A junction. */
  readonly isJoint?: boolean;
}

/** A corner of a path, and the lines that meet in it. */
export interface Corner extends Mark {
  readonly turn: number;
  /** The lines that meet in it, both along the path. */
  readonly back: LineFit;
  readonly on: LineFit;
}

const DEGREE = Math.PI / 180;
/** How far from the points a corner's meeting may lie, pixels. */
const APEX_OFF = 0.95;

/** Points of an edge lie within this of the lines that meet in a corner, pixels (root mean square). */
const LINE_OFF = 0.45;

/** The corner at a point of a path, if there is one. */
function cornerAt(path: Path, i: number, { window, cornerDeg }: FitSettings, range: Range): Corner | undefined {
  const back = fitLine(path.side(i, -1, 0.6, window, range).reverse());
  const on = fitLine(path.side(i, 1, 0.6, window, range));
  if (!back || !on) return undefined;
  const turn = Math.abs(Math.atan2(back.dx * on.dy - back.dy * on.dx, back.dx * on.dx + back.dy * on.dy)) / DEGREE;
  if (turn < cornerDeg) return undefined;
  const apex = meeting(back, on) ?? path.at(i);
  const [x, y] = path.at(i);
  const reach = Math.hypot(apex[0] - x, apex[1] - y);
  const off = Math.max(back.rms, on.rms);
  if (reach > APEX_OFF * (turn > 110 ? 2 : 1) || off > LINE_OFF) return undefined;
  // a bow that runs through all of the points as well as two lines do is a bow
  const all = [...path.side(i, -1, 0.01, window, range).reverse(), path.at(i), ...path.side(i, 1, 0.01, window, range)];
  if (turn < 100 && bowError(all) < 1.15 * off + 0.02) return undefined;
  return { index: i, apex, turn: turn - 12 * reach, back, on };
}

/**
 * Corners of a path, in its order.
 * @returns of those that stand together the sharpest only
 */
export function findCorners(path: Path, settings: FitSettings): Corner[] {
  const n = path.points.length;
  const found: Corner[] = [];
  const range: Range = path.closed ? [-n, 2 * n] : [0, n - 1];
  const isAtEnd = (i: number): boolean => !path.closed && Math.min(path.way[i] as number, path.length - (path.way[i] as number)) < 1.5;
  for (let i = 0; i < n; i++) {
    const corner = isAtEnd(i) ? undefined : cornerAt(path, i, settings, range);
    if (corner) found.push(corner);
  }
  return sharpestOf(found, path, settings.window);
}

/** The sharpest of those that stand together, in the order of the path. */
function sharpestOf(found: readonly Corner[], path: Path, window: number): Corner[] {
  const kept: Corner[] = [];
  const gap = Math.max(2, window * 0.6);
  for (const corner of [...found].sort((a, b) => b.turn - a.turn)) {
    const far = kept.every((other) => {
      const d = Math.abs((path.way[corner.index] as number) - (path.way[other.index] as number));
      return Math.min(d, path.closed ? path.length - d : Infinity) > gap;
    });
    if (far) kept.push(corner);
  }
  return kept.sort((a, b) => a.index - b.index);
}
