/**
 * One cubic through given ends and end directions, nearest to given points: Gauss-Newton on the two handle lengths
 * with orthogonal residuals, foot points refined each round (after P. J. Schneider, An Algorithm for Automatically
 * Fitting Digitized Curves, Graphics Gems, 1990, with the lengths solved by least distance instead of by parameter).
 * Units mm. Cost: rounds × points. Not handled: loops, points that run backwards.
 */
import type { Span } from '../../types/index.ts';
import { at, derivative, evaluate } from '../span.ts';

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

/** Parameter of the foot of (x, y), two Newton steps from a guess. */
function foot(span: Span, guess: number, x: number, y: number): number {
  let t = guess;
  for (let k = 0; k < 2; k++) {
    const dx = derivative(span, t, 0);
    const dy = derivative(span, t, 1);
    const speed2 = dx * dx + dy * dy;
    if (speed2 === 0) break;
    t = Math.min(1, Math.max(0, t - ((evaluate(span, t, 0) - x) * dx + (evaluate(span, t, 1) - y) * dy) / speed2));
  }
  return t;
}

/**
 * @param xy points [x0,y0,…], the first and last are the span's ends
 * @param t0 unit direction at the start
 * @param t1 unit direction at the end
 */
export function fitG1(xy: ArrayLike<number>, t0: readonly [number, number], t1: readonly [number, number]): Fit {
  const n = xy.length / 2;
  const along = [0];
  for (let i = 1; i < n; i++)
    along.push(at(along, i - 1) + Math.hypot(at(xy, 2 * i) - at(xy, 2 * i - 2), at(xy, 2 * i + 1) - at(xy, 2 * i - 1)));
  const length = at(along, n - 1);
  const params = along.map((s) => (length > 0 ? s / length : 0));
  let [a, b] = [length / 3, length / 3];
  let best: Fit = { span: withHandles(xy, t0, t1, a, b), error: Infinity };
  for (let round = 0; round <= ROUNDS; round++) {
    const span = withHandles(xy, t0, t1, a, b);
    let [error, aa, ab, bb, ra, rb] = [0, 0, 0, 0, 0, 0];
    for (let i = 1; i < n - 1; i++) {
      const t = (params[i] = foot(span, at(params, i), at(xy, 2 * i), at(xy, 2 * i + 1)));
      const ex = at(xy, 2 * i) - evaluate(span, t, 0);
      const ey = at(xy, 2 * i + 1) - evaluate(span, t, 1);
      error = Math.max(error, Math.hypot(ex, ey));
      const dx = derivative(span, t, 0);
      const dy = derivative(span, t, 1);
      const speed = Math.hypot(dx, dy) || 1;
      const [nx, ny] = [-dy / speed, dx / speed];
      const ja = 3 * (1 - t) * (1 - t) * t * (t0[0] * nx + t0[1] * ny);
      const jb = -3 * (1 - t) * t * t * (t1[0] * nx + t1[1] * ny);
      const residual = ex * nx + ey * ny;
      aa += ja * ja;
      ab += ja * jb;
      bb += jb * jb;
      ra += ja * residual;
      rb += jb * residual;
    }
    if (error < best.error) best = { span, error };
    const damping = 1e-9 * (aa + bb) + 1e-300;
    const det = (aa + damping) * (bb + damping) - ab * ab;
    if (!(Math.abs(det) > 0)) break;
    const limit = length / 2;
    const clamp = (v: number): number => Math.max(-limit, Math.min(limit, v));
    const da = clamp((ra * (bb + damping) - ab * rb) / det);
    const db = clamp(((aa + damping) * rb - ra * ab) / det);
    a = Math.max(a + da, 0.01 * length);
    b = Math.max(b + db, 0.01 * length);
    if (Math.abs(da) + Math.abs(db) < 1e-9 * length) break;
  }
  return best;
}
