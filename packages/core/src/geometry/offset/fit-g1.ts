/**
 * One cubic through given ends and end directions, nearest to given points.
 * Method: the two handle lengths that give the area under the points and its first moment (R. Levien, Fitting Cubic
 * Bézier Curves, 2021), which is near the best already; then Gauss-Newton with orthogonal residuals, foot points
 * refined each round (after P. J. Schneider, An Algorithm for Automatically Fitting Digitized Curves, Graphics Gems,
 * 1990, with the lengths solved by least distance instead of by parameter).
 * Units mm. Cost: rounds × points; the loops read their lists themselves and take roots instead of `hypot`, for the search is
 * most of an offset. Not handled: loops, points that run backwards.
 */
import type { Span } from '../../types/index.ts';

/** A span for points, and how far they are off it. */
export interface Fit {
  readonly span: Span;
  /** Greatest distance of a point from the span, mm. */
  readonly error: number;
  /** Root mean square distance, mm. */
  readonly rms: number;
}

const ROUNDS = 9;

function withHandles(xy: ArrayLike<number>, t0: readonly [number, number], t1: readonly [number, number], a: number, b: number): Span {
  const n = xy.length;
  const [x0, y0, x3, y3] = [xy[0] as number, xy[1] as number, xy[n - 2] as number, xy[n - 1] as number];
  return [x0, y0, x0 + a * t0[0], y0 + a * t0[1], x3 - b * t1[0], y3 - b * t1[1], x3, y3];
}

type Direction = readonly [number, number];

/** The curve as polynomials in t, ((a t + b) t + c) t + d, x then y: a point costs a few multiplications. */
function polynomials(span: Span): Float64Array {
  const out = new Float64Array(8);
  for (let axis = 0; axis < 2; axis++) {
    const [p0, p1, p2, p3] = [span[axis] as number, span[2 + axis] as number, span[4 + axis] as number, span[6 + axis] as number];
    out[4 * axis] = p3 - 3 * p2 + 3 * p1 - p0;
    out[4 * axis + 1] = 3 * (p2 - 2 * p1 + p0);
    out[4 * axis + 2] = 3 * (p1 - p0);
    out[4 * axis + 3] = p0;
  }
  return out;
}

/** Parameter of the foot of (x, y), two Newton steps from a guess. */
function foot(c: Float64Array, guess: number, x: number, y: number): number {
  const ax = c[0] as number;
  const bx = c[1] as number;
  const cx = c[2] as number;
  const ex = c[3] as number;
  const ay = c[4] as number;
  const by = c[5] as number;
  const cy = c[6] as number;
  const ey = c[7] as number;
  let t = guess;
  for (let k = 0; k < 2; k++) {
    const dx = (3 * ax * t + 2 * bx) * t + cx;
    const dy = (3 * ay * t + 2 * by) * t + cy;
    const speed2 = dx * dx + dy * dy;
    if (speed2 === 0) break;
    t -= ((((ax * t + bx) * t + cx) * t + ex - x) * dx + (((ay * t + by) * t + cy) * t + ey - y) * dy) / speed2;
    t = t < 0 ? 0 : t > 1 ? 1 : t;
  }
  return t;
}

/** Unit directions at the start and at the end. */
type Ends = readonly [Direction, Direction];

/** Feet of all points, the greatest distance, the normal equations of the handle lengths into `sums` and the sum of squares behind them. */
function measure(xy: ArrayLike<number>, params: Float64Array, c: Float64Array, ends: Ends, sums: Float64Array): number {
  const [t0, t1] = ends;
  const ax = c[0] as number;
  const bx = c[1] as number;
  const cx = c[2] as number;
  const x0 = c[3] as number;
  const ay = c[4] as number;
  const by = c[5] as number;
  const cy = c[6] as number;
  const y0 = c[7] as number;
  let most = 0;
  let squares = 0;
  sums.fill(0);
  for (let i = 1; i < params.length - 1; i++) {
    const px = xy[2 * i] as number;
    const py = xy[2 * i + 1] as number;
    const t = (params[i] = foot(c, params[i] as number, px, py));
    const u = 1 - t;
    const ex = px - (((ax * t + bx) * t + cx) * t + x0);
    const ey = py - (((ay * t + by) * t + cy) * t + y0);
    const distance2 = ex * ex + ey * ey;
    squares += distance2;
    if (distance2 > most) most = distance2;
    const dx = (3 * ax * t + 2 * bx) * t + cx;
    const dy = (3 * ay * t + 2 * by) * t + cy;
    const speed = Math.sqrt(dx * dx + dy * dy) || 1;
    const nx = -dy / speed;
    const ny = dx / speed;
    const ja = 3 * u * u * t * (t0[0] * nx + t0[1] * ny);
    const jb = -3 * u * t * t * (t1[0] * nx + t1[1] * ny);
    const residual = ex * nx + ey * ny;
    sums[0] = (sums[0] as number) + ja * ja;
    sums[1] = (sums[1] as number) + ja * jb;
    sums[2] = (sums[2] as number) + jb * jb;
    sums[3] = (sums[3] as number) + ja * residual;
    sums[4] = (sums[4] as number) + jb * residual;
  }
  sums[5] = squares;
  return Math.sqrt(most);
}

/** Parameters of points by the way along them, 0 to 1. */
function alongOf(xy: ArrayLike<number>): { params: Float64Array; length: number } {
  const n = xy.length / 2;
  const params = new Float64Array(n);
  for (let i = 1; i < n; i++) {
    const dx = (xy[2 * i] as number) - (xy[2 * i - 2] as number);
    const dy = (xy[2 * i + 1] as number) - (xy[2 * i - 1] as number);
    params[i] = (params[i - 1] as number) + Math.sqrt(dx * dx + dy * dy);
  }
  const length = params[n - 1] as number;
  for (let i = 1; i < n; i++) params[i] = length > 0 ? (params[i] as number) / length : 0;
  return { params, length };
}

/** Area between points and their chord and its first moment along it, in chords, with the end angles against it. */
interface Shape {
  readonly area: number;
  readonly moment: number;
  readonly s0: number;
  readonly c0: number;
  readonly s1: number;
  readonly c1: number;
}

/** Points as chords between which the curve bends as its neighbours say (a cubic with the secants' directions). */
function shapeOf(xy: ArrayLike<number>, t0: Direction, t1: Direction, chord: number, ux: number, uy: number): Shape {
  const n = xy.length / 2;
  const along = (x: number, y: number): number => (x * ux + y * uy) / chord;
  const aside = (x: number, y: number): number => (y * ux - x * uy) / chord;
  const [x0, y0] = [xy[0] as number, xy[1] as number];
  let [px, py] = [0, 0];
  let [beforeX, beforeY] = [along(t0[0], t0[1]), aside(t0[0], t0[1])];
  let area = 0;
  let moment = 0;
  for (let i = 1; i < n; i++) {
    const qx = along((xy[2 * i] as number) - x0, (xy[2 * i + 1] as number) - y0);
    const qy = aside((xy[2 * i] as number) - x0, (xy[2 * i + 1] as number) - y0);
    const isLast = i === n - 1;
    const nextX = isLast
      ? along(t1[0], t1[1])
      : along((xy[2 * i + 2] as number) - (xy[2 * i - 2] as number), (xy[2 * i + 3] as number) - (xy[2 * i - 1] as number));
    const nextY = isLast
      ? aside(t1[0], t1[1])
      : aside((xy[2 * i + 2] as number) - (xy[2 * i - 2] as number), (xy[2 * i + 3] as number) - (xy[2 * i - 1] as number));
    const [dx, dy] = [qx - px, qy - py];
    // a flat arc over a chord: area = chord² × (angle before − angle after) / 12
    const turn =
      (dx * beforeY - dy * beforeX) / Math.sqrt(beforeX * beforeX + beforeY * beforeY) -
      (dx * nextY - dy * nextX) / Math.sqrt(nextX * nextX + nextY * nextY);
    const bulge = (turn * Math.sqrt(dx * dx + dy * dy)) / 12;
    area += (dx * (py + qy)) / 2 + bulge;
    moment += (dx * (px * (2 * py + qy) + qx * (py + 2 * qy))) / 6 + (bulge * (px + qx)) / 2;
    [px, py, beforeX, beforeY] = [qx, qy, nextX, nextY];
  }
  return {
    area,
    moment,
    s0: t0[1] * ux - t0[0] * uy,
    c0: t0[0] * ux + t0[1] * uy,
    s1: -(t1[1] * ux - t1[0] * uy),
    c1: t1[0] * ux + t1[1] * uy,
  };
}

/** Places where the first handle is tried, as shares of the chord. */
const HANDLE_TRIES = 24;
const LONGEST_HANDLE = 1.2;

/** Steps of the search between two tries, at most: it mostly stands after six. */
const ROOT_STEPS = 20;
const ROOT_NEAR = 1e-12;

/**
 * Where a function passes through zero between two places, by false position, the end that stays halved (the Illinois
 * way: M. Dowell & P. Jarratt, A Modified Regula Falsi Method, BIT 1971).
 */
function rootBetween(f: (at: number) => number, from: number, fFrom: number, to: number, fTo: number): number {
  let [low, fLow, high, fHigh] = [from, fFrom, to, fTo];
  for (let k = 0; k < ROOT_STEPS && fHigh !== 0 && Math.abs(high - low) > ROOT_NEAR; k++) {
    const next = high - (fHigh * (high - low)) / (fHigh - fLow);
    const value = f(next);
    if (value * fHigh < 0) {
      low = high;
      fLow = fHigh;
    } else fLow /= 2;
    high = next;
    fHigh = value;
  }
  return high;
}

/** Handle pairs, in chords, that give a shape's area and moment. */
function handlesOf({ area, moment, s0, c0, s1, c1 }: Shape): [number, number][] {
  const both = s0 * c1 + c0 * s1;
  const second = (a: number): number => (2 * s0 * a - (20 / 3) * area) / (a * both - 2 * s1);
  const misses = (a: number): number => {
    const b = second(a);
    const straight = 34 * a * s0 + 50 * b * s1 + 15 * a * a * s0 * c0 - 15 * b * b * s1 * c1;
    return (straight - a * b * (33 * s0 * c1 + 9 * c0 * s1) - 9 * a * a * b * both * c0 + 9 * a * b * b * both * c1) / 280 - moment;
  };
  const found: [number, number][] = [];
  let low = 0.01;
  let last = misses(low);
  for (let i = 1; i <= HANDLE_TRIES; i++) {
    const high = (i / HANDLE_TRIES) * LONGEST_HANDLE;
    const value = misses(high);
    if (value * last <= 0) {
      const a = rootBetween(misses, low, last, high, value);
      const b = second(a);
      if (b > 0.01 && b < LONGEST_HANDLE) found.push([a, b]);
    }
    low = high;
    last = value;
  }
  return found;
}

/** How far each handle moves, no farther than the radius of trust: both may do nearly the same. */
function stepOf(sums: Float64Array, radius: number): [number, number] {
  const damping = 1e-9 * ((sums[0] as number) + (sums[2] as number)) + 1e-300;
  const [aa, ab, bb, ra, rb] = [
    (sums[0] as number) + damping,
    sums[1] as number,
    (sums[2] as number) + damping,
    sums[3] as number,
    sums[4] as number,
  ];
  const det = aa * bb - ab * ab;
  if (!(det > 0)) return [0, 0];
  const [da, db] = [(ra * bb - ab * rb) / det, (aa * rb - ra * ab) / det];
  const share = Math.min(1, radius / Math.max(Math.abs(da), Math.abs(db)));
  return [share * da, share * db];
}

/** Where the sum of squares falls by less than this share the search stands. */
const STANDS = 0.01;
/** Right in area and moment but this many times too far off, it will not come near. */
const HOPELESS = 60;

/** Points that wind to and fro mislead area and moment; a fit farther off than this share of the length is looked for afresh. */
const FAR_OFF = 0.01;

/** One search for the handle lengths from a start. */
class Search {
  best: Fit = { span: [], error: Infinity, rms: Infinity };
  private readonly xy: ArrayLike<number>;
  private readonly directions: Ends;
  private readonly along: { params: Float64Array; length: number };
  private readonly enough: number;

  constructor(xy: ArrayLike<number>, directions: Ends, enough: number) {
    this.xy = xy;
    this.directions = directions;
    this.along = alongOf(xy);
    this.enough = enough;
  }

  get length(): number {
    return this.along.length;
  }

  /** @returns is it good enough? */
  from(startA: number, startB: number, rounds: number): boolean {
    const { xy, directions, enough } = this;
    const { length } = this.along;
    const params = this.along.params.slice();
    let sums = new Float64Array(6);
    let kept = new Float64Array(6);
    let a = startA;
    let b = startB;
    let nextA = startA;
    let nextB = startB;
    let radius = length / 4;
    let least = Infinity;
    for (let round = 0; round <= rounds; round++) {
      const span = withHandles(xy, directions[0], directions[1], nextA, nextB);
      const error = measure(xy, params, polynomials(span), directions, sums);
      if (error < this.best.error) this.best = { span, error, rms: Math.sqrt((sums[5] as number) / Math.max(1, params.length - 2)) };
      if (error <= enough) return true;
      const squares = sums[5] as number;
      const moved = Math.max(Math.abs(nextA - a), Math.abs(nextB - b));
      if (squares < least) {
        const stands = squares > (1 - STANDS) * least && moved < 0.99 * radius;
        a = nextA;
        b = nextB;
        least = squares;
        const free = kept;
        kept = sums;
        sums = free;
        radius *= 1.5;
        if (stands) break;
      } else radius = 0.25 * moved;
      const step = stepOf(kept, radius);
      nextA = Math.min(LONGEST_HANDLE * length, Math.max(0.01 * length, a + step[0]));
      nextB = Math.min(LONGEST_HANDLE * length, Math.max(0.01 * length, b + step[1]));
      if (Math.abs(nextA - a) + Math.abs(nextB - b) < 1e-9 * length) break;
    }
    return false;
  }
}

/**
 * @param xy points [x0,y0,…], the first and last are the span's ends
 * @param t0 unit direction at the start
 * @param t1 unit direction at the end
 * @param enough an error that is good enough to stop at, mm; 0 goes on to the best
 */
export function fitG1(xy: ArrayLike<number>, t0: Direction, t1: Direction, enough = 0): Fit {
  const search = new Search(xy, [t0, t1], enough);
  const n = xy.length;
  const [dx, dy] = [(xy[n - 2] as number) - (xy[0] as number), (xy[n - 1] as number) - (xy[1] as number)];
  const chord = Math.hypot(dx, dy);
  const starts = chord > 1e-9 ? handlesOf(shapeOf(xy, t0, t1, chord, dx / chord, dy / chord)) : [];
  for (const [a, b] of starts) if (search.from(a * chord, b * chord, 0)) return search.best;
  if (starts.length > 0 && enough > 0 && search.best.error > HOPELESS * enough) return search.best;
  for (const [a, b] of starts) if (search.from(a * chord, b * chord, ROUNDS)) return search.best;
  if (starts.length === 0 || search.best.error > FAR_OFF * search.length) search.from(search.length / 3, search.length / 3, ROUNDS);
  return search.best;
}
