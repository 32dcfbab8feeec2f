/**
 * Straight runs among points: the longest run that is straight within the noise, told by the sagitta of a parabola
 * through it, then the longest on both sides of it. Units pixels.
 */
import { cubicError, off, sagitta, type LineFit, type P } from './line-fit.ts';

/** A run of points: straight, along a line, or not. */
export interface Piece {
  readonly line: LineFit | undefined;
  readonly points: readonly P[];
}

const LEAST_STRAIGHT = 14;

/** What a straight run keeps to: its farthest point, its root mean square, its sagitta. */
export interface Straightness {
  readonly off: number;
  readonly rms: number;
  readonly bow: number;
}

/** Sums along points, so that a line through any run of them is there at once. */
class Sums {
  private readonly sums: Float64Array;
  private readonly points: readonly P[];
  private readonly ox: number;
  private readonly oy: number;

  constructor(points: readonly P[]) {
    this.points = points;
    const sums = new Float64Array(5 * (points.length + 1));
    // about the first point, for the sake of digits
    [this.ox, this.oy] = points[0] ?? [0, 0];
    points.forEach(([px, py], i) => {
      const [x, y] = [px - this.ox, py - this.oy];
      sums[5 * i + 5] = (sums[5 * i] as number) + x;
      sums[5 * i + 6] = (sums[5 * i + 1] as number) + y;
      sums[5 * i + 7] = (sums[5 * i + 2] as number) + x * x;
      sums[5 * i + 8] = (sums[5 * i + 3] as number) + x * y;
      sums[5 * i + 9] = (sums[5 * i + 4] as number) + y * y;
    });
    this.sums = sums;
  }

  /** Total least squares through the points from one index to another, both included. */
  line(i: number, j: number): LineFit {
    const n = j - i + 1;
    const sum = (k: number): number => (this.sums[5 * (j + 1) + k] as number) - (this.sums[5 * i + k] as number);
    const [mx, my] = [sum(0) / n, sum(1) / n];
    const [sxx, sxy, syy] = [sum(2) - n * mx * mx, sum(3) - n * mx * my, sum(4) - n * my * my];
    const angle = 0.5 * Math.atan2(2 * sxy, sxx - syy);
    let [dx, dy] = [Math.cos(angle), Math.sin(angle)];
    const [a, b] = [this.points[i] as P, this.points[j] as P];
    if ((b[0] - a[0]) * dx + (b[1] - a[1]) * dy < 0) [dx, dy] = [-dx, -dy];
    const across = Math.max(0, (sxx + syy) / 2 - Math.hypot((sxx - syy) / 2, sxy));
    return { x: mx + this.ox, y: my + this.oy, dx, dy, rms: Math.sqrt(across / n) };
  }
}

function straightBetween(points: readonly P[], sums: Sums, i: number, j: number, within: Straightness): LineFit | undefined {
  const line = sums.line(i, j);
  if (line.rms > within.rms) return undefined;
  for (let k = i; k <= j; k++) if (off(line, points[k] as P) > within.off) return undefined;
  return sagitta(points, line, i, j) < within.bow ? line : undefined;
}

/** Points from one number to another that lie on a line. */
interface StraightRun {
  readonly i: number;
  readonly j: number;
  readonly line: LineFit;
}

/** Is there a straight line between two points, by number? */
type Between = (i: number, j: number) => LineFit | undefined;

/** A straight run on as far as it stays straight, in steps that double while it does and then halve. */
function grown({ i, j, line }: StraightRun, n: number, between: Between): StraightRun {
  let run = { i, j, line };
  for (let grow = 16, fails = false; grow >= 1; grow = fails ? Math.floor(grow / 2) : grow * 2) {
    const longer = run.j + grow < n ? between(i, run.j + grow) : undefined;
    if (longer) run = { i, j: run.j + grow, line: longer };
    else fails = true;
  }
  return run;
}

/** The longest straight run; its beginning is looked for in steps, and then between them. */
function longestRun(points: readonly P[], within: Straightness): StraightRun | undefined {
  const n = points.length;
  const sums = new Sums(points);
  const between: Between = (i, j) => straightBetween(points, sums, i, j, within);
  const step = Math.max(1, Math.floor(n / 60));
  let best: StraightRun | undefined;
  for (let i = 0; i + 5 < n; i += step) {
    const j = i + (best ? best.j - best.i + 1 : 8);
    if (j >= n) break;
    const line = between(i, j);
    const run = line && grown({ i, j, line }, n, between);
    if (run && spanOf(points, run.i, run.j) >= LEAST_STRAIGHT) best = run;
  }
  for (let k = 1; best && k < step && best.i > 0; k++) {
    const line = between(best.i - 1, best.j);
    if (!line) break;
    best = { i: best.i - 1, j: best.j, line };
  }
  return best;
}

const spanOf = (points: readonly P[], i: number, j: number): number =>
  Math.hypot((points[j] as P)[0] - (points[i] as P)[0], (points[j] as P)[1] - (points[i] as P)[1]);

/**
 * Cuts points into straight runs and what lies between them: the longest run first, then on both sides of it.
 * @returns pieces in the order of the points, each begun by the last point of the one before
 * @complexity n log n for straight lines; the square of n at worst, for lines that are never straight
 */
export function cutIntoPieces(points: readonly P[], within: Straightness): Piece[] {
  const n = points.length;
  if (n < 6 || spanOf(points, 0, n - 1) + n < LEAST_STRAIGHT) return [{ line: undefined, points }];
  const best = longestRun(points, within);
  if (!best) return [{ line: undefined, points }];
  const { i, j, line } = best;
  return [
    ...(i > 0 ? cutIntoPieces(points.slice(0, i + 1), within) : []),
    { line, points: points.slice(i, j + 1) },
    ...(j < n - 1 ? cutIntoPieces(points.slice(j), within) : []),
  ];
}

/** How far a run and what goes on beside it may stray from one smooth curve to be part of it: pixels, times its own noise. */
const SMOOTH_PX = 0.045;
const SMOOTH_NOISE = 0.8;
/** Of points on each side of a run that are asked, the fewest that tell anything, shares of the run. */
const LEAST_BESIDE = 0.3;

/**
 * Every gentle bend has chords that are straight within the noise. A run is such a chord when what goes on beside it
 * runs on in the same curve, told by one cubic through all of it; a straight edge ends where its neighbours turn away.
 * @returns pieces without chords, these joined to the bends beside them
 */
export function withoutChords(pieces: readonly Piece[], smoothPx = SMOOTH_PX): Piece[] {
  if (pieces.every(({ line }) => !line)) return [...pieces];
  const points = pieces.flatMap((piece, k) => (k === 0 ? piece.points : piece.points.slice(1)));
  const out: Piece[] = [];
  let start = 0;
  for (const piece of pieces) {
    const end = start + piece.points.length - 1;
    const isStraight = piece.line && !isChord(points, start, end, piece.line, smoothPx);
    const last = out.at(-1);
    if (isStraight) out.push(piece);
    else if (last && !last.line) out[out.length - 1] = { line: undefined, points: [...last.points, ...piece.points.slice(1)] };
    else out.push({ line: undefined, points: piece.points });
    start = end;
  }
  return out;
}

function isChord(points: readonly P[], start: number, end: number, line: LineFit, smoothPx: number): boolean {
  const count = end - start;
  const [from, to] = [Math.max(0, start - count), Math.min(points.length - 1, end + count)];
  const [before, after] = [start - from, to - end];
  if (Math.max(before, after) < LEAST_BESIDE * count || before + after < 6) return false;
  const step = Math.max(1, Math.floor((to - from) / MOST_ASKED));
  const along: number[] = [];
  const across: number[] = [];
  for (let k = from; k <= to; k += step) {
    const [x, y] = points[k] as P;
    along.push(((x - line.x) * line.dx + (y - line.y) * line.dy) / count);
    across.push((y - line.y) * line.dx - (x - line.x) * line.dy);
  }
  return cubicError(along, across) <= Math.max(smoothPx, SMOOTH_NOISE * line.rms);
}

const MOST_ASKED = 120;

/** Lines that meet at less than this are one, sine. */
const SHALLOWEST = 0.035;
/** How far along its lines' points a shallow corner may lie from them, pixels. */
const SHALLOW_REACH = 2.5;

/** Two lines at a shallow angle meet in a corner when the points between keep to them as well as to a curve. */
export function withShallowCorners(pieces: readonly Piece[], within: Straightness): Piece[] {
  const out: Piece[] = [];
  for (let k = 0; k < pieces.length; k++) {
    const [piece, next] = [pieces[k] as Piece, pieces[k + 1]];
    const isDirect = next?.line !== undefined;
    const after = isDirect ? next : pieces[k + 2];
    const corner = piece.line && after?.line && shallowCorner(piece, isDirect ? [] : (next?.points ?? []), after, within);
    if (!corner) {
      out.push(piece);
      continue;
    }
    out.push({ line: piece.line, points: [...piece.points, corner] });
    if (!isDirect) k++;
  }
  return out;
}

/** Where two lines meet, when all points between them lie by the one or the other; undefined else. */
function shallowCorner(before: Piece, middle: readonly P[], after: Piece, within: Straightness): P | undefined {
  const [a, b] = [before.line as LineFit, after.line as LineFit];
  const det = a.dx * b.dy - a.dy * b.dx;
  if (Math.abs(det) < SHALLOWEST) return undefined;
  const t = ((b.x - a.x) * b.dy - (b.y - a.y) * b.dx) / det;
  const place: P = [a.x + t * a.dx, a.y + t * a.dy];
  const gap = [before.points.at(-1) as P, ...middle, after.points[0] as P];
  const near = Math.min(...gap.map(([x, y]) => Math.hypot(x - place[0], y - place[1])));
  if (near > SHALLOW_REACH) return undefined;
  const isBefore = (p: P): boolean => (p[0] - place[0]) * a.dx + (p[1] - place[1]) * a.dy < 0;
  return gap.every((p) => off(isBefore(p) ? a : b, p) <= within.off) ? place : undefined;
}
