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

/**
 * @param xy points [x0,y0,…], the first and last are the span's ends
 * @param t0 unit direction at the start
 * @param t1 unit direction at the end
 * @param enough an error that is good enough to stop at, mm; 0 goes on to the best
 */
export function fitG1(xy: ArrayLike<number>, t0: readonly [number, number], t1: readonly [number, number], enough = 0): Fit {
  const n = xy.length / 2;
  const params = new Float64Array(n);
  for (let i = 1; i < n; i++)
    params[i] = at(params, i - 1) + Math.hypot(at(xy, 2 * i) - at(xy, 2 * i - 2), at(xy, 2 * i + 1) - at(xy, 2 * i - 1));
  const length = at(params, n - 1);
  for (let i = 1; i < n; i++) params[i] = length > 0 ? at(params, i) / length : 0;
  const [x0, y0, x3, y3] = [at(xy, 0), at(xy, 1), at(xy, 2 * n - 2), at(xy, 2 * n - 1)];
  const [t0x, t0y] = t0;
  const [t1x, t1y] = t1;
  let [a, b] = [length / 3, length / 3];
  let best: Fit = { span: withHandles(xy, t0, t1, a, b), error: Infinity };
  for (let round = 0; round <= ROUNDS; round++) {
    // the curve as polynomials in t, so that a point costs a few multiplications
    const [x1, y1, x2, y2] = [x0 + a * t0x, y0 + a * t0y, x3 - b * t1x, y3 - b * t1y];
    const [cx, cy] = [3 * (x1 - x0), 3 * (y1 - y0)];
    const [bx, by] = [3 * (x2 - 2 * x1 + x0), 3 * (y2 - 2 * y1 + y0)];
    const [ax, ay] = [x3 - x0 - cx - bx, y3 - y0 - cy - by];
    let error = 0;
    let aa = 0;
    let ab = 0;
    let bb = 0;
    let ra = 0;
    let rb = 0;
    for (let i = 1; i < n - 1; i++) {
      const px = at(xy, 2 * i);
      const py = at(xy, 2 * i + 1);
      let t = at(params, i);
      let dx = 0;
      let dy = 0;
      for (let k = 0; k < 2; k++) {
        dx = (3 * ax * t + 2 * bx) * t + cx;
        dy = (3 * ay * t + 2 * by) * t + cy;
        const speed2 = dx * dx + dy * dy;
        if (speed2 === 0) break;
        t -= ((((ax * t + bx) * t + cx) * t + x0 - px) * dx + (((ay * t + by) * t + cy) * t + y0 - py) * dy) / speed2;
        t = t < 0 ? 0 : t > 1 ? 1 : t;
      }
      params[i] = t;
      const ex = px - (((ax * t + bx) * t + cx) * t + x0);
      const ey = py - (((ay * t + by) * t + cy) * t + y0);
      const far = ex * ex + ey * ey;
      if (far > error) error = far;
      dx = (3 * ax * t + 2 * bx) * t + cx;
      dy = (3 * ay * t + 2 * by) * t + cy;
      const speed = Math.sqrt(dx * dx + dy * dy) || 1;
      const nx = -dy / speed;
      const ny = dx / speed;
      const u = 1 - t;
      const ja = 3 * u * u * t * (t0x * nx + t0y * ny);
      const jb = -3 * u * t * t * (t1x * nx + t1y * ny);
      const residual = ex * nx + ey * ny;
      aa += ja * ja;
      ab += ja * jb;
      bb += jb * jb;
      ra += ja * residual;
      rb += jb * residual;
    }
    error = Math.sqrt(error);
    if (error < best.error) best = { span: withHandles(xy, t0, t1, a, b), error };
    if (error <= enough) break;
    const damping = 1e-9 * (aa + bb) + 1e-300;
    const det = (aa + damping) * (bb + damping) - ab * ab;
    if (!(Math.abs(det) > 0)) break;
    const limit = length / 2;
    const da = Math.max(-limit, Math.min(limit, (ra * (bb + damping) - ab * rb) / det));
    const db = Math.max(-limit, Math.min(limit, ((aa + damping) * rb - ra * ab) / det));
    a = Math.max(a + da, 0.01 * length);
    b = Math.max(b + db, 0.01 * length);
    if (Math.abs(da) + Math.abs(db) < 1e-9 * length) break;
  }
  return best;
}
