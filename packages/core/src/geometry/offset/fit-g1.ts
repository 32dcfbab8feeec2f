/**
 * One cubic through given ends and end directions, nearest to given points: Gauss-Newton on the two handle lengths
 * with orthogonal residuals, foot points refined each round (after P. J. Schneider, An Algorithm for Automatically
 * Fitting Digitized Curves, Graphics Gems, 1990, with the lengths solved by least distance instead of by parameter).
 * Units mm. Cost: rounds × points. Not handled: loops, points that run backwards.
 */
import type { Span } from '../../types/index.ts';
import { at } from '../span.ts';

export interface Fit {
  readonly span: Span;
  /** Greatest distance of a point from the span, mm. */
  readonly error: number;
}

const ROUNDS = 7;

function withHandles(xy: ArrayLike<number>, t0: readonly [number, number], t1: readonly [number, number], a: number, b: number): Span {
  const n = xy.length;
  const [x0, y0, x3, y3] = [at(xy, 0), at(xy, 1), at(xy, n - 2), at(xy, n - 1)];
  return [x0, y0, x0 + a * t0[0], y0 + a * t0[1], x3 - b * t1[0], y3 - b * t1[1], x3, y3];
}

type Direction = readonly [number, number];

/** The curve as polynomials in t, ((a t + b) t + c) t + d, x then y: a point costs a few multiplications. */
function polynomials(span: Span): Float64Array {
  const out = new Float64Array(8);
  for (let axis = 0; axis < 2; axis++) {
    const [p0, p1, p2, p3] = [at(span, axis), at(span, 2 + axis), at(span, 4 + axis), at(span, 6 + axis)];
    out.set([p3 - 3 * p2 + 3 * p1 - p0, 3 * (p2 - 2 * p1 + p0), 3 * (p1 - p0), p0], 4 * axis);
  }
  return out;
}

/** Parameter of the foot of (x, y), two Newton steps from a guess. */
function foot(c: Float64Array, guess: number, x: number, y: number): number {
  const ax = at(c, 0);
  const bx = at(c, 1);
  const cx = at(c, 2);
  const ex = at(c, 3);
  const ay = at(c, 4);
  const by = at(c, 5);
  const cy = at(c, 6);
  const ey = at(c, 7);
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

/** Feet of all points, the greatest distance, and the normal equations of the handle lengths into `sums`. */
function measure(xy: ArrayLike<number>, params: Float64Array, c: Float64Array, t0: Direction, t1: Direction, sums: Float64Array): number {
  const ax = at(c, 0);
  const bx = at(c, 1);
  const cx = at(c, 2);
  const x0 = at(c, 3);
  const ay = at(c, 4);
  const by = at(c, 5);
  const cy = at(c, 6);
  const y0 = at(c, 7);
  let most = 0;
  sums.fill(0);
  for (let i = 1; i < params.length - 1; i++) {
    const px = at(xy, 2 * i);
    const py = at(xy, 2 * i + 1);
    const t = (params[i] = foot(c, at(params, i), px, py));
    const u = 1 - t;
    const ex = px - (((ax * t + bx) * t + cx) * t + x0);
    const ey = py - (((ay * t + by) * t + cy) * t + y0);
    most = Math.max(most, ex * ex + ey * ey);
    const dx = (3 * ax * t + 2 * bx) * t + cx;
    const dy = (3 * ay * t + 2 * by) * t + cy;
    const speed = Math.sqrt(dx * dx + dy * dy) || 1;
    const nx = -dy / speed;
    const ny = dx / speed;
    const ja = 3 * u * u * t * (t0[0] * nx + t0[1] * ny);
    const jb = -3 * u * t * t * (t1[0] * nx + t1[1] * ny);
    const residual = ex * nx + ey * ny;
    sums[0] = at(sums, 0) + ja * ja;
    sums[1] = at(sums, 1) + ja * jb;
    sums[2] = at(sums, 2) + jb * jb;
    sums[3] = at(sums, 3) + ja * residual;
    sums[4] = at(sums, 4) + jb * residual;
  }
  return Math.sqrt(most);
}

/** Parameters of points by the way along them, 0 to 1. */
function alongOf(xy: ArrayLike<number>): { params: Float64Array; length: number } {
  const n = xy.length / 2;
  const params = new Float64Array(n);
  for (let i = 1; i < n; i++)
    params[i] = at(params, i - 1) + Math.hypot(at(xy, 2 * i) - at(xy, 2 * i - 2), at(xy, 2 * i + 1) - at(xy, 2 * i - 1));
  const length = at(params, n - 1);
  for (let i = 1; i < n; i++) params[i] = length > 0 ? at(params, i) / length : 0;
  return { params, length };
}

/**
 * @param xy points [x0,y0,…], the first and last are the span's ends
 * @param t0 unit direction at the start
 * @param t1 unit direction at the end
 * @param enough an error that is good enough to stop at, mm; 0 goes on to the best
 */
export function fitG1(xy: ArrayLike<number>, t0: Direction, t1: Direction, enough = 0): Fit {
  const { params, length } = alongOf(xy);
  const sums = new Float64Array(5);
  const limit = length / 2;
  const clamp = (v: number): number => Math.max(-limit, Math.min(limit, v));
  let [a, b] = [length / 3, length / 3];
  let best: Fit = { span: withHandles(xy, t0, t1, a, b), error: Infinity };
  for (let round = 0; round <= ROUNDS; round++) {
    const span = withHandles(xy, t0, t1, a, b);
    const error = measure(xy, params, polynomials(span), t0, t1, sums);
    if (error < best.error) best = { span, error };
    if (error <= enough) break;
    const damping = 1e-9 * (at(sums, 0) + at(sums, 2)) + 1e-300;
    const [aa, ab, bb, ra, rb] = [at(sums, 0) + damping, at(sums, 1), at(sums, 2) + damping, at(sums, 3), at(sums, 4)];
    const det = aa * bb - ab * ab;
    if (!(Math.abs(det) > 0)) break;
    const da = clamp((ra * bb - ab * rb) / det);
    const db = clamp((aa * rb - ra * ab) / det);
    a = Math.max(a + da, 0.01 * length);
    b = Math.max(b + db, 0.01 * length);
    if (Math.abs(da) + Math.abs(db) < 1e-9 * length) break;
  }
  return best;
}
